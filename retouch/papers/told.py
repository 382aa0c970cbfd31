"""The disclosure sheet as a page: what was done to the people in a picture."""

from __future__ import annotations

from itertools import groupby

import numpy as np
from numpy.typing import NDArray

from retouch.papers.page import MARGIN, WIDTH, Page
from retouch.work.disclosure import Disclosure


def disclosure_sheet(
    name: str, when: str, told: Disclosure, before: NDArray[np.uint8], after: NDArray[np.uint8]
) -> bytes:
    """The bytes of a PDF; the pictures (h, w, 3) are 8 bits in sRGB, of any size."""
    page = Page(f"{name}: what was done")
    page.words(name, 18, gap=0)
    page.words(f"What was done to this photograph · {when}", 10, quiet=True, gap=3)
    page.beside(before, after, ("As photographed", "As delivered"))
    tell(page, told)
    page.set_draw_color(225, 217, 207)
    page.line(MARGIN, page.get_y(), WIDTH - MARGIN, page.get_y())
    return page.bytes()


def tell(page: Page, told: Disclosure) -> None:
    """What was done, in lines, and what rules ask about it; on a page that is there."""
    for group, lines in groupby(told.lines, lambda line: line.group):
        page.words(group.capitalize(), 12, gap=0.5)
        for line in lines:
            page.words(f"–  {line.said[:1].upper()}{line.said[1:]}", 10, gap=0.3)
        page.ln(2)
    if not told.lines:
        page.words("Nothing was changed.", 11)
    page.words("What rules on retouched pictures ask about", 12, gap=0.5)
    for rule in told.rules:
        asks = "would ask" if rule.asks else "would not ask"
        page.words(f"–  {rule.rule}: {rule.about}. It {asks}: {rule.because}.", 9, gap=0.3)
    page.ln(1)
    if told.caption:
        page.words(f"A caption that says it: “{told.caption}”", 10)
    page.words(f"Rules are as remembered and may have changed. {told.limits}", 8, quiet=True)
