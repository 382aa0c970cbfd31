"""What all sheets share: a page with the application's font, pictures, and text of any language."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
from fpdf import FPDF
from fpdf.enums import XPos, YPos
from numpy.typing import NDArray
from PIL import Image

FONT = Path(__file__).parent / "fonts" / "DejaVuSans.ttf"
# A4 (ISO 216) with margins, in mm.
WIDTH, HEIGHT, MARGIN = 210.0, 297.0, 16.0
_QUALITY = 88
# Pictures side by side: their width on paper, and pixels of the longer side.
_BESIDE_MM, _BESIDE_PX = 58.0, 700
_INK, _QUIET = (46, 42, 38), (118, 110, 102)


class Page(FPDF):
    """A document of A4 pages in the sheets' own type."""

    def __init__(self, title: str) -> None:
        super().__init__(format="A4")
        self.set_margin(MARGIN)
        self.set_auto_page_break(True, MARGIN)
        self.add_font("Sheet", "", FONT)
        self.set_title(title)
        self.set_creator("Mellow Glass")
        self.add_page()

    def words(self, text: str, size: float = 10.0, quiet: bool = False, gap: float = 1.5) -> None:
        """A paragraph over the width of the page."""
        self.set_font("Sheet", size=size)
        self.set_text_color(*(_QUIET if quiet else _INK))
        self.multi_cell(0, size * 0.5, shown(text), align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
        self.ln(gap)

    def caption(self, text: str, x: float, y: float, width: float, size: float = 8.0) -> None:
        """One line below something, cut off where it is too long."""
        self.set_font("Sheet", size=size)
        self.set_text_color(*_QUIET)
        text = shown(text)
        while text and self.get_string_width(text) > width:
            text = text[:-2].rstrip() + "…" if len(text) > 2 else ""
        self.set_xy(x, y)
        self.cell(width, size * 0.5, text, align="C")

    def picture(self, pixels: NDArray[np.uint8], x: float, y: float, width: float) -> None:
        """A picture (h, w, 3), 8 bits in sRGB, so wide in mm."""
        out = io.BytesIO()
        Image.fromarray(np.ascontiguousarray(pixels)).save(out, "JPEG", quality=_QUALITY)
        out.seek(0)
        self.image(out, x, y, width)

    def beside(
        self, before: NDArray[np.uint8], after: NDArray[np.uint8], words: tuple[str, str]
    ) -> None:
        """Two pictures (h, w, 3), 8 bits in sRGB, side by side with a line each; what follows stands below."""
        top = low = self.get_y()
        for n, (pixels, text) in enumerate(zip((before, after), words, strict=True)):
            small = fitted(pixels, _BESIDE_PX)
            x = MARGIN + n * (_BESIDE_MM + 6)
            high = _BESIDE_MM * small.shape[0] / small.shape[1]
            self.picture(small, x, top, _BESIDE_MM)
            self.caption(text, x, top + high + 1, _BESIDE_MM)
            low = max(low, top + high + 8)
        self.set_xy(MARGIN, low)

    def bytes(self) -> bytes:
        """The file."""
        return bytes(self.output())


def shown(text: str) -> str:
    """Text that the font can show: what it lacks (emoji) becomes a small square."""
    return "".join(c if ord(c) < 0x10000 else "▫" for c in text if c == "\n" or c >= " ")


def fitted(pixels: NDArray[Any], long_side: int) -> NDArray[np.uint8]:
    """A picture made smaller, 8 bits."""
    image = Image.fromarray(np.ascontiguousarray(pixels))
    image.thumbnail((long_side, long_side), Image.Resampling.LANCZOS)
    return np.asarray(image, np.uint8)
