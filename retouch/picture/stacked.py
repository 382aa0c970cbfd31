"""The picture of a file with layers as it stood with each of them.

Layers are laid over each other as the W3C recommendation *Compositing and Blending Level 1* has it (sections 5,
9 and 10), groups within themselves first, as OpenRaster 0.0.6 says.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.colour.blend import blend
from retouch.errors import PictureError
from retouch.picture.layers import MODES, Group, Leaf, leaves_of, opened
from retouch.picture.model import Picture
from retouch.picture.read import read_bytes
from retouch.processors import PARTS, at_once, edges

Array = NDArray[np.float32]

# Where nothing lies a picture is as white as paper (common practice).
_PAPER = np.float32(1.0)


def with_layer(data: bytes, number: int) -> Picture:
    """The picture of a file with its layers up to one, that one included even where it is hidden.

    Parameters
    ----------
    number : int
        Counted from 0, the lowest.

    Returns
    -------
    Picture
        8 or 16 bit as the layers are, with the profile of the file's merged picture; where no layer lies, white.

    Raises
    ------
    PictureError
        Where there is no such layer, or one is laid in a way that can't be computed.
    """
    merged = read_bytes(data)
    with opened(data) as (root, size):
        leaves = list(leaves_of(root))
        if not 0 <= number < len(leaves):
            raise PictureError("This file has no such layer.")
        width, height = size
        laid = np.zeros((height, width, 4), np.float32)
        bits = _lay(root, laid, leaves[number], set(map(id, leaves[: number + 1])))
    top = np.float32(255 if bits == 8 else 65535)
    pixels = np.empty((height, width, 3), np.uint8 if bits == 8 else np.uint16)

    def finish(strip: tuple[int, int]) -> None:
        rows = np.s_[strip[0] : strip[1]]
        colour = laid[rows, :, :3] + (1 - laid[rows, :, 3:]) * _PAPER
        pixels[rows] = np.round(np.clip(colour, 0, 1) * top)

    at_once(finish, edges(0, height, 2 * PARTS))
    return Picture(pixels, icc=merged.icc, exif=merged.exif, format="png")


def _lay(group: Group, canvas: Array, last: Leaf, wanted: set[int]) -> int:
    """Lay a group's layers over a canvas (h, w, 4), premultiplied, in place; the most bits of one."""
    bits = 8
    for part in group.parts:
        inside = list(leaves_of(part)) if isinstance(part, Group) else [part]
        if not any(id(leaf) in wanted for leaf in inside):
            continue
        holds_last = any(leaf is last for leaf in inside)
        if not (part.shown or holds_last):
            continue
        if part.mode not in MODES.values():
            name = inside[0].name
            raise PictureError(
                f"The layer {name!r} is laid in a way that can't be computed here ({part.mode})."
            )
        if isinstance(part, Group):
            plainly = part.opacity == 1 and part.mode == "normal" and not part.apart
            own = canvas if plainly else np.zeros_like(canvas)
            bits = max(bits, _lay(part, own, last, wanted))
            if not plainly:
                _over(canvas, own, (0, 0), part.opacity, part.mode)
            continue
        pixels = part.open()
        bits = max(bits, 8 * pixels.dtype.itemsize)
        colours = np.asarray(pixels / np.float32(np.iinfo(pixels.dtype).max), np.float32)
        colours[..., :3] *= colours[..., 3:]
        _over(canvas, colours, part.at, part.opacity, part.mode)
    return bits


def _over(canvas: Array, layer: Array, at: tuple[int, int], opacity: float, mode: str) -> None:
    """Lay a layer, premultiplied, over a canvas in place, its corner at ``at`` (x, y)."""
    h, w = canvas.shape[:2]
    x0, y0 = max(at[0], 0), max(at[1], 0)
    x1, y1 = min(at[0] + layer.shape[1], w), min(at[1] + layer.shape[0], h)
    if x1 <= x0 or y1 <= y0:
        return

    def lay(strip: tuple[int, int]) -> None:
        below = canvas[strip[0] : strip[1], x0:x1]
        own = layer[strip[0] - at[1] : strip[1] - at[1], x0 - at[0] : x1 - at[0]]
        above = np.asarray(own * np.float32(opacity), np.float32)
        there, new = below[..., 3:], above[..., 3:]
        if mode == "normal":
            below[:] = above + (1 - new) * below
            return
        colours = (
            np.minimum(one[..., :3] / np.maximum(one[..., 3:], np.float32(1e-9)), 1)
            for one in (below, above)
        )
        mixed = blend(mode, *colours)
        colour = (1 - there) * above[..., :3] + there * new * mixed + (1 - new) * below[..., :3]
        below[..., 3:] = new + (1 - new) * there
        below[..., :3] = colour

    at_once(lay, edges(y0, y1, 2 * PARTS))
