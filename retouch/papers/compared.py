"""Before and after on one sheet: side by side, in halves, and places at 1:1."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from retouch.geometry import Rect
from retouch.papers.page import HEIGHT, MARGIN, WIDTH, Page, fitted

Pixels = NDArray[np.uint8]
Form = Literal["beside", "halves"]

_GAP = 24
_PAPER = 250
_LONG_PX = 1800
_PDF_QUALITY = 90


def sheet(before: Pixels, after: Pixels, form: Form, details: Sequence[Rect] = ()) -> Pixels:
    """Both pictures on one, (h, w, 3) uint8.

    ``beside``: next to each other; ``halves``: one picture, its left half as photographed. Below them each
    place of ``details`` at 1:1, before and after. Both pictures have one size; 8 bits, sRGB.
    """
    small = [fitted(p, _LONG_PX) for p in (before, after)]
    if form == "beside":
        top = _row(small)
    else:
        half = small[0].shape[1] // 2
        top = small[1].copy()
        top[:, :half] = small[0][:, :half]
        top[:, half : half + 2] = _PAPER
    rows = [top]
    bounds = Rect(0, 0, before.shape[1], before.shape[0])
    for rect in details:
        part = rect.clip(bounds)
        if not part.empty:
            rows.append(_row([p[part.y0 : part.y1, part.x0 : part.x1] for p in (before, after)]))
    width = max(r.shape[1] for r in rows)
    padded = [_centred(r, width) for r in rows]
    gap = np.full((_GAP, width, 3), _PAPER, np.uint8)
    stacked = [padded[0]]
    for one in padded[1:]:
        stacked += [gap, one]
    return np.concatenate(stacked, axis=0)


def _row(both: Sequence[Pixels]) -> Pixels:
    gap = np.full((both[0].shape[0], _GAP, 3), _PAPER, np.uint8)
    return np.concatenate([both[0], gap, both[1]], axis=1)


def _centred(pixels: Pixels, width: int) -> Pixels:
    left = (width - pixels.shape[1]) // 2
    sides = ((0, 0), (left, width - pixels.shape[1] - left), (0, 0))
    return np.pad(pixels, sides, constant_values=_PAPER)


def as_jpeg(pixels: Pixels) -> bytes:
    """A sheet as a JPEG file in sRGB."""
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG", quality=_PDF_QUALITY, subsampling="4:4:4")
    return out.getvalue()


def as_pdf(name: str, pixels: Pixels) -> bytes:
    """A sheet as a page of a PDF, as large as it fits below its name."""
    page = Page(f"{name}, before and after")
    page.words(name, 16, gap=0)
    page.words("Before and after", 10, quiet=True)
    top = page.get_y()
    room, high = WIDTH - 2 * MARGIN, HEIGHT - MARGIN - top - 2
    width = min(room, high * pixels.shape[1] / pixels.shape[0])
    page.set_auto_page_break(False)
    page.picture(pixels, MARGIN + (room - width) / 2, top, width)
    return page.bytes()
