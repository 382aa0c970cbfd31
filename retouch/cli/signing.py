"""What ``--credentials`` does: a signed list of what was done, in the file."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path

from retouch.edit import Edit
from retouch.errors import EditError
from retouch.picture.read import file_bytes
from retouch.picture.write import EXTENSIONS, Format
from retouch.work import Bench
from retouch.work.disclosure import disclosure

Sign = Callable[[bytes, Edit, Bench], bytes]


def signer_of(options: argparse.Namespace, form: Format) -> Sign | None:
    """What signs a file of a format; None: nothing is asked for. Refuses before anything is computed."""
    if options.credentials is None:
        return None
    # Loading what signs takes a while.
    from retouch.picture.credentials import MEDIA, of_files, signed

    if form not in MEDIA:
        raise EditError("--credentials go into JPEG, PNG, TIFF, WebP and AVIF.")
    own = of_files(*(Path(path) for path in options.credentials))
    media = MEDIA.get(EXTENSIONS.get(Path(options.photo).suffix.lower(), "jxl"))

    def sign(data: bytes, edit: Edit, bench: Bench) -> bytes:
        acting = any(p.acts for p in edit.passes)
        found = disclosure(bench.renderer, edit, bench.analysis).lines if acting else []
        done = [(line.group, line.said) for line in found]
        original = None if media is None else (file_bytes(Path(options.photo)), media)
        source = "edited" if acting else "capture"
        return signed(data, form, Path(options.out).name, done, own, source, original)

    return sign
