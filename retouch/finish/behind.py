"""What lies behind the person: out of focus, darker, of another colour."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import from_lab, to_lab
from retouch.colour.linear import decoded, encoded
from retouch.geometry import Rect
from retouch.heal.coarse import Grid

Array = NDArray[np.float32]

# A disc is drawn with so many cells to its radius; on larger ones the picture is reduced first.
_FINE = 12.0
# Lights out of focus keep their light: what is brighter counts more by this power of linear light.
_GLEAM = 1.6
_GLEAM_FROM = 0.6


def disc(radius: float) -> Array:
    """The kernel of a disc, softened at its rim over a pixel; its sum is 1."""
    half = int(np.ceil(radius)) + 1
    y, x = np.mgrid[-half : half + 1, -half : half + 1]
    out = np.clip(radius + 0.5 - np.hypot(x, y), 0, 1).astype(np.float32)
    return np.asarray(out / out.sum(), np.float32)


def _cells(radius: float) -> int:
    return 1 if radius <= _FINE else int(2 ** np.ceil(np.log2(radius / _FINE)))


def reach(radius: float) -> int:
    """Pixels around a place that a lens blur of a disc of ``radius`` looks at."""
    return int(np.ceil(radius)) + 2 + 2 * _cells(radius)


def blurred(image: Array, behind: Array, rect: Rect, inner: Rect, radius: float) -> Array:
    """The background of ``inner`` as a lens out of focus shows it; nothing of the person runs into it.

    A convolution of what is behind alone, by a disc, divided by how much of that there is (normalised
    convolution: H. Knutsson, C.-F. Westin, CVPR 1993), in linear light, where lights become discs.

    Parameters
    ----------
    image : ndarray (h, w, 3)
        Over ``rect``, encoded 0..1, which reaches `reach` beyond ``inner``.
    behind : ndarray (h, w)
        How much of each pixel lies behind the person, 0..1.
    radius : float
        Of the disc, pixels of ``rect``.
    """
    if radius < 0.5:
        return np.asarray(image[inner.within(rect)], np.float32)
    light = decoded(np.clip(image, 0, 1).astype(np.float32))
    bright = np.maximum(light.max(-1, keepdims=True) / np.float32(_GLEAM_FROM), 1) ** np.float32(
        _GLEAM - 1
    )
    weight = behind[..., None] * bright
    both = np.concatenate([light * weight, weight], -1).astype(np.float32)
    factor = _cells(radius)
    if factor == 1:
        spread = cv2.filter2D(both, -1, disc(radius), borderType=cv2.BORDER_REPLICATE)
        spread = spread[inner.within(rect)]
    else:
        wide = rect.align(factor)
        pad = (
            (rect.y0 - wide.y0, wide.y1 - rect.y1),
            (rect.x0 - wide.x0, wide.x1 - rect.x1),
            (0, 0),
        )
        grid = Grid(wide, wide.height // factor, wide.width // factor)
        cells = grid.reduce(np.pad(both, pad, mode="edge"))
        cells = cv2.filter2D(cells, -1, disc(radius / factor), borderType=cv2.BORDER_REPLICATE)
        spread = grid.spread(cells, inner)
    total = spread[..., 3:]
    mean = spread[..., :3] / np.maximum(total, 1e-5)
    # Far inside of the person nothing behind is near; there it isn't seen either.
    own = light[inner.within(rect)]
    share = np.clip(total / 2e-3, 0, 1)
    return encoded(np.ascontiguousarray(share * mean + (1 - share) * own, np.float32))


def recoloured(
    image: Array, light: float, hue: float, chroma: float, from_lab_: tuple[float, float, float]
) -> Array:
    """A wall in another colour: its own colour (CIELAB) is moved to the wanted one, shading and grain stay."""
    lab = to_lab(image)
    own = np.asarray(from_lab_, np.float32)
    angle = np.radians(hue)
    goal = np.array([light, chroma * np.cos(angle), chroma * np.sin(angle)], np.float32)
    out = lab + (goal - own)
    # Shading keeps its proportion: a darker wall has fainter shadows.
    out[..., 0] = goal[0] + (lab[..., 0] - own[0]) * np.float32(
        np.clip(goal[0] / max(own[0], 5.0), 0.3, 1.6)
    )
    out[..., 0] = np.clip(out[..., 0], 0, 100)
    return from_lab(np.asarray(out, np.float32))
