"""A contact sheet: many portraits with their names."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from retouch.papers.page import HEIGHT, MARGIN, WIDTH, Page, fitted

_COLUMNS, _GAP_MM, _NAME_MM = 4, 5.0, 7.0
_LONG_PX = 500


def contact_sheet(title: str, portraits: Iterable[tuple[str, NDArray[np.uint8]]]) -> bytes:
    """The bytes of a PDF: names and pictures (h, w, 3), 8 bits in sRGB, four in a row, as many pages as
    they need. All cells are squares, pictures as large as they fit.
    """
    page = Page(title)
    page.set_auto_page_break(False)
    page.words(title, 16)
    cell = (WIDTH - 2 * MARGIN - (_COLUMNS - 1) * _GAP_MM) / _COLUMNS
    y, column = page.get_y(), 0
    for name, pixels in portraits:
        if column == _COLUMNS:
            column, y = 0, y + cell + _NAME_MM + _GAP_MM
        if column == 0 and y + cell + _NAME_MM > HEIGHT - MARGIN:
            page.add_page()
            y = MARGIN
        small = fitted(pixels, _LONG_PX)
        tall = small.shape[0] / small.shape[1]
        width = cell if tall <= 1 else cell / tall
        x = MARGIN + column * (cell + _GAP_MM)
        page.picture(small, x + (cell - width) / 2, y + (cell - width * tall) / 2, width)
        page.caption(name, x, y + cell + 1, cell)
        column += 1
    return page.bytes()
