"""Readings that are known: what the same pixels said before isn't worked out again."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable, Iterable
from threading import Lock

import cv2
import numpy as np

from retouch.natural.finding import Finding
from retouch.natural.pairs import Pair

_MOST = 600
# Blurs of a reading reach so far beyond the zones that it is about (mm).
_REACH_MM = 6.0


class Known:
    """Readings by what they were read from; safe to use from several threads."""

    def __init__(self) -> None:
        self._kept: OrderedDict[str, tuple[Finding, ...]] = OrderedDict()
        self._lock = Lock()

    def of(
        self,
        pair: Pair,
        name: str,
        zones: Iterable[str],
        make: Callable[[Pair], Iterable[Finding]],
    ) -> tuple[Finding, ...]:
        """What ``make`` reads from a pair: known where the pixels in and around ``zones`` are as they were."""
        key = _key(pair, name, tuple(zones))
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        found = tuple(make(pair))
        with self._lock:
            self._kept[key] = found
            while len(self._kept) > _MOST:
                self._kept.popitem(last=False)
        return found


def _key(pair: Pair, name: str, zones: tuple[str, ...]) -> str:
    seen = pair.after
    if zones:
        reach = 2 * max(1, round(_REACH_MM * pair.px_per_mm)) + 1
        box = np.ones((reach, reach), np.uint8)
        seen = seen[cv2.dilate(pair.inside(*zones).astype(np.uint8), box) > 0]
    digest = hashlib.blake2b(np.ascontiguousarray(seen).tobytes(), digest_size=16)
    digest.update(
        f"{name} {pair.analysis.key} {pair.face} {pair.rect} {pair.before.shape}".encode()
    )
    return digest.hexdigest()
