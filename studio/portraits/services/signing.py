"""Content credentials of deliveries: who signs, and what is said."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from django.conf import settings

from retouch.edit import Edit
from retouch.picture import Output, Picture
from retouch.picture.credentials import Credentials, of_files, signed, test_credentials
from retouch.picture.write import Format, encode
from studio.portraits.models import Portrait
from studio.portraits.services import papers

# Originals that can be named by what they hold, by their ending.
_ORIGINALS = {
    ".jpg": "image/jpeg", ".jpeg": "image/jpeg", ".png": "image/png", ".tif": "image/tiff",
    ".tiff": "image/tiff", ".webp": "image/webp", ".avif": "image/avif",
}  # fmt: skip
# Credentials of a larger file may be so much larger.
_MORE_BYTES = 4096


def own() -> Credentials:
    """The studio's own certificate, or one for trying; `PictureError` in words where it can't be used."""
    if settings.CERTIFICATE and settings.CERTIFICATE_KEY:
        return of_files(Path(settings.CERTIFICATE), Path(settings.CERTIFICATE_KEY))
    return test_credentials(Path(settings.DATA_DIR) / "credentials")


def signer_of(portrait: Portrait, edit: Edit, form: Format, title: str) -> Callable[[bytes], bytes]:
    """What puts the credentials of a portrait's delivery into a file."""
    acting = any(p.acts for p in edit.passes)
    lines = papers.of_edit(portrait, edit).lines if acting else []
    done = [(line.group, line.said) for line in lines]
    media = _ORIGINALS.get(portrait.original.suffix.lower())
    original = None if media is None else (portrait.original.read_bytes(), media)
    source, who = papers.source_of(edit), own()
    return lambda data: signed(data, form, title, done, who, source, original)


def room(sign: Callable[[bytes], bytes], output: Output) -> int:
    """Bytes that credentials take, found by signing next to nothing."""
    least = encode(Picture(np.zeros((16, 16, 3), np.uint8)), output)
    return len(sign(least)) - len(least) + _MORE_BYTES
