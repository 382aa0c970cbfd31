"""The natural check as a page: every reading with its limit, what is beyond first."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from retouch.natural.check import Finding
from retouch.papers.page import Page


def checked_sheet(
    name: str,
    when: str,
    found: Sequence[Finding],
    before: NDArray[np.uint8],
    after: NDArray[np.uint8],
) -> bytes:
    """The bytes of a PDF; the pictures (h, w, 3) are 8 bits in sRGB, of any size."""
    page = Page(f"{name}: natural check")
    page.words(name, 18, gap=0)
    page.words(
        f"How natural it still is, read against the original · {when}", 10, quiet=True, gap=3
    )
    page.beside(before, after, ("As photographed", "As it stands"))
    beyond = [f for f in found if f.amber]
    page.words("Beyond a limit" if beyond else "All readings lie within their limits", 12, gap=0.5)
    for f in beyond:
        page.words(f"–  {in_words(f)}", 10, gap=0)
        page.words(f"    {f.meaning}", 8, quiet=True, gap=0.5)
    page.ln(2)
    page.words("Within", 12, gap=0.5)
    for f in found:
        if not f.amber:
            page.words(f"–  {in_words(f)}", 9, gap=0)
    return page.bytes()


def in_words(one: Finding) -> str:
    """A reading in a line."""
    words = f", {one.words}" if one.words else ""
    face = f" (face {one.face + 1})" if one.face else ""
    sign = "at most" if one.side == "most" else "at least"
    limit = "" if one.limit < 0 else f"; {sign} {one.limit:g}"
    return f"{one.title}{words}{face}: {one.value:.1f} {one.unit}{limit}"
