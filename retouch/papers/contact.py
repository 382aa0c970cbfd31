"""A contact sheet: many portraits with their names."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from retouch.papers.page import HEIGHT, MARGIN, WIDTH, Page, fitted

_MOST_COLUMNS, _GAP_MM, _NAME_MM = 4, 5.0, 7.0
# Pictures in a cell have so many pixels to its millimetre (300 to the inch).
_PX_PER_MM = 12


def columns_of(count: int) -> int:
    """So many portraits lie in a row of a sheet of ``count``."""
    return min(_MOST_COLUMNS, max(1, math.ceil(math.sqrt(count))))


def long_side_of(count: int) -> int:
    """Pixels of the longer side of each picture on a sheet of ``count``."""
    return round(_PX_PER_MM * _cell(columns_of(count)))


def _cell(columns: int) -> float:
    """The side of a cell, mm."""
    return (WIDTH - 2 * MARGIN - (columns - 1) * _GAP_MM) / columns


def contact_sheet(
    title: str, portraits: Iterable[tuple[str, NDArray[np.uint8]]], count: int
) -> bytes:
    """The bytes of a PDF: names and pictures (h, w, 3), 8 bits in sRGB, up to four in a row, as many
    pages as they need; few (of the ``count``) are laid larger. All cells are squares, pictures as large as they fit.
    """
    columns = columns_of(count)
    page = Page(title)
    page.set_auto_page_break(False)
    page.words(title, 16)
    cell, long_side = _cell(columns), long_side_of(count)
    y, column = page.get_y(), 0
    for name, pixels in portraits:
        if column == columns:
            column, y = 0, y + cell + _NAME_MM + _GAP_MM
        if column == 0 and y + cell + _NAME_MM > HEIGHT - MARGIN:
            page.add_page()
            y = MARGIN
        small = fitted(pixels, long_side)
        tall = small.shape[0] / small.shape[1]
        width = cell if tall <= 1 else cell / tall
        x = MARGIN + column * (cell + _GAP_MM)
        page.picture(small, x + (cell - width) / 2, y + (cell - width * tall) / 2, width)
        page.caption(name, x, y + cell + 1, cell)
        column += 1
    return page.bytes()
