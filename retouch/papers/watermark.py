"""Words written over a picture again and again, so that it is shown and not used."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from retouch.papers.page import FONT, shown

# Height of the letters and the way from line to line, as parts of the longer side; and how dense the words lie.
_LETTERS, _LINES, _OPACITY = 0.022, 0.16, 0.3
_ANGLE = 30.0


def watermarked(pixels: NDArray[np.uint8], words: str) -> NDArray[np.uint8]:
    """A picture with words across it, as light on dark as dark on light.

    Parameters
    ----------
    pixels : (h, w, 3) uint8
    words : str
        Empty: the picture stays as it is. Characters that the sheets' font lacks become squares.

    Returns
    -------
    (h, w, 3) uint8
    """
    text = shown(words.strip())
    if not text:
        return pixels
    height, width = pixels.shape[:2]
    side = max(height, width)
    size = max(11, round(side * _LETTERS))
    font = ImageFont.truetype(str(FONT), size)
    # Drawn level on a square that holds the turned picture, then turned.
    square = math.ceil(math.hypot(height, width)) + 2
    level = Image.new("LA", (square, square), (0, 0))
    draw = ImageDraw.Draw(level)
    step = max(round(side * _LINES), 3 * size)
    long = round(draw.textlength(text, font=font)) + 4 * size
    for row, y in enumerate(range(0, square, step)):
        for x in range(-(row % 2) * long // 2, square, long):
            # A dark rim makes white words seen on white.
            draw.text(
                (x, y),
                text,
                (255, 255),
                font,
                stroke_width=max(1, size // 12),
                stroke_fill=(0, 255),
            )
    turned = np.asarray(level.rotate(_ANGLE, Image.Resampling.BILINEAR), np.float32)
    top, left = (square - height) // 2, (square - width) // 2
    part = turned[top : top + height, left : left + width]
    share = part[..., 1:] / 255 * _OPACITY
    mixed = pixels * (1 - share) + part[..., :1] * share
    return np.asarray(np.clip(mixed + 0.5, 0, 255), np.uint8)
