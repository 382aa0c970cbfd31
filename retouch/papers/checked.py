"""The natural check as a page: every reading with its limit, what is beyond first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict

import numpy as np
from numpy.typing import NDArray

from retouch.natural.finding import Finding
from retouch.papers.page import Page
from retouch.papers.told import tell
from retouch.work.disclosure import Disclosure


def checked_sheet(
    name: str,
    when: str,
    found: Sequence[Finding],
    before: NDArray[np.uint8],
    after: NDArray[np.uint8],
    told: Disclosure | None = None,
) -> bytes:
    """The bytes of a PDF; the pictures (h, w, 3) are 8 bits in sRGB, of any size. ``told``: what was done, on a
    page of its own.
    """
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
    if told is not None:
        page.add_page()
        page.words("What was done to this photograph", 14, gap=2)
        tell(page, told)
    return page.bytes()


def as_data(found: Sequence[Finding], told: Disclosure | None = None) -> dict[str, object]:
    """The same as plain data: ``readings``, and ``done`` where it is known."""
    readings = [
        {**asdict(f), "amber": f.amber, "place": f.place and f.place.as_tuple()} for f in found
    ]
    return {"readings": readings, **({"done": told.data()} if told is not None else {})}


def in_words(one: Finding) -> str:
    """A reading in a line."""
    words = f", {one.words}" if one.words else ""
    face = f" (face {one.face + 1})" if one.face else ""
    sign = "at most" if one.side == "most" else "at least"
    limit = "" if one.limit < 0 or one.side == "told" else f"; {sign} {one.limit:g}"
    # Without a unit it is a count.
    number = f"{one.value:.1f} {one.unit}" if one.unit else f"{one.value:.0f}"
    return f"{one.title}{words}{face}: {number}{limit}"
