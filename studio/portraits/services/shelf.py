"""Changes that took seconds to compute, kept on disk; they can be made again at any time."""

from __future__ import annotations

import io
import os
from pathlib import Path

import numpy as np
from django.conf import settings
from numpy.typing import NDArray

from retouch.sources import fingerprint
from studio.portraits.services import diskcache


class Shelf:
    """What a renderer keeps beyond its memory, filed under the fingerprint of all that went in, and of what made it.

    After an upgrade it is made anew: elsewhere, where nothing is kept, the same edit would give other pixels.
    """

    def _path(self, key: str) -> Path:
        return Path(settings.CACHE_DIR) / "changes" / f"{key}-{fingerprint()}.npy"

    def get(self, key: str) -> NDArray[np.float32] | None:
        """The change filed under a key; None where there is none, or its file is damaged."""
        path = self._path(key)
        try:
            change = np.load(path, allow_pickle=False)
            os.utime(path)
        except (OSError, ValueError, EOFError):
            return None
        return change if change.dtype == np.float32 and change.ndim == 3 else None

    def put(self, key: str, change: NDArray[np.float32]) -> None:
        """File a change (h, w, 3)."""
        data = io.BytesIO()
        np.save(data, change)
        diskcache.put(self._path(key), data.getvalue())
