"""What lies behind the person: out of focus, of another colour, another picture."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import from_lab, to_lab
from retouch.colour.linear import BY_ROOT, DECODED, decode, encode
from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.heal.coarse import Grid
from retouch.picture import Pyramid
from retouch.processors import PARTS, at_once, edges

Array = NDArray[np.float32]

# A disc is drawn with so many cells to its radius; on larger ones the picture is reduced first.
_FINE = 12.0
# Lights out of focus keep their light: what is brighter counts more by this power of linear light.
_GLEAM = 1.6
_GLEAM_FROM = 0.6
# Discs smaller than this change nothing that is seen, pixels of radius.
LEAST = 0.5
# From this part of the picture's height down things come nearer, in so many steps.
_FROM, _DEPTHS = 0.3, (0.0, 0.5, 1.0)


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


@dataclass(frozen=True)
class Blurred:
    """A background out of focus, on cells: light by how much of it there is, and how much."""

    grid: Grid
    cells: Array

    def over(self, own: Array, part: Rect) -> Array:
        """The background of ``part``, encoded; ``own`` (h, w, 3) is what is there, encoded 0..1.

        Far inside of the person nothing behind is near; there it isn't seen either, and ``own`` stays.
        """
        spread = self.grid.spread(self.cells, part)
        return _shown(spread, np.ascontiguousarray(own, np.float32), DECODED, BY_ROOT)


def blurred(image: Array, behind: Array, rect: Rect, radius: float) -> Blurred:
    """The background as a lens out of focus shows it; nothing of the person runs into it.

    A convolution of what is behind alone, by a disc, divided by how much of that there is (normalised
    convolution: H. Knutsson, C.-F. Westin, CVPR 1993), in linear light, where lights become discs.

    Parameters
    ----------
    image : ndarray (h, w, 3)
        Over ``rect``, encoded 0..1; it is as in a larger picture `reach` inside of its edges.
    behind : ndarray (h, w)
        How much of each pixel lies behind the person, 0..1.
    radius : float
        Of the disc, pixels of ``rect``; at least 0.5.
    """
    factor = _cells(radius)
    wide = rect.align(factor)
    grid = Grid(wide, wide.height // factor, wide.width // factor)
    cells = np.zeros((grid.rows, grid.cols, 4), np.float32)
    image = np.ascontiguousarray(image, np.float32)
    behind = np.ascontiguousarray(behind, np.float32)

    def gather(rows: tuple[int, int]) -> None:
        _gather(
            image, behind, cells, rows[0], rows[1], factor, rect.y0 - wide.y0, rect.x0 - wide.x0, DECODED
        )  # fmt: skip

    at_once(gather, edges(0, grid.rows, min(grid.rows, 4 * PARTS)))
    kernel = disc(radius / factor)
    return Blurred(grid, cv2.filter2D(cells, -1, kernel, borderType=cv2.BORDER_REPLICATE))


@dataclass(frozen=True)
class Lens:
    """Backgrounds of one lens, the far one and nearer ones, by how far down a picture so ``tall`` they are."""

    layers: tuple[tuple[float, Blurred | None], ...]
    tall: float

    def over(self, own: Array, part: Rect) -> Array:
        """As `Blurred.over`; between two distances both are mixed."""
        if len(self.layers) == 1:
            one = self.layers[0][1]
            return own if one is None else one.over(own, part)
        y = (np.arange(part.height, dtype=np.float32) + np.float32(part.y0 + 0.5)) / np.float32(
            self.tall
        )
        out = np.zeros_like(own)
        places = np.array([at for at, _ in self.layers])
        for n, (_, one) in enumerate(self.layers):
            share = np.interp(y, places, np.eye(len(places))[n]).astype(np.float32)[:, None, None]
            if share.any():
                out += share * (own if one is None else one.over(own, part))
        return out


def lens(
    image: Array, behind: Array, rect: Rect, radius: float, nearer: float, tall: float
) -> Lens:
    """A background out of focus; towards the bottom of the picture less, by the part ``nearer`` (0..1).

    Parameters as of `blurred`; ``tall`` is the picture's height in pixels of ``rect``.
    """
    if nearer <= 0:
        return Lens(((0.0, blurred(image, behind, rect, radius)),), tall)
    layers = []
    for at in _DEPTHS:
        own = radius * (1 - nearer * at)
        layers.append(
            (_FROM + (1 - _FROM) * at, blurred(image, behind, rect, own) if own >= LEAST else None)
        )
    return Lens(tuple(layers), tall)


def covering(other: Pyramid, size: tuple[float, float], part: Rect, scale: float) -> Array:
    """A part of another picture laid over one of ``size`` (width, height) so that it covers all of it.

    Parameters
    ----------
    part : Rect
        In pixels of the covered picture at ``scale``.

    Returns
    -------
    ndarray (h, w, 3)
        Working values 0..1.
    """
    theirs = other.picture
    times = max(size[0] / theirs.width, size[1] / theirs.height)
    # Pixels of the other to one of the part; a level of it is taken that has less than two.
    step = 1 / (times * scale)
    level = min(max(0, int(np.log2(max(step, 1.0)) + 1e-9)), other.highest)
    small = 1 << level
    left = theirs.width / 2 - size[0] / 2 / times + (part.x0 + 0.5) * step
    top = theirs.height / 2 - size[1] / 2 / times + (part.y0 + 0.5) * step
    bounds = theirs.bounds.reduced(level)
    need = Rect(
        int(left / small) - 3, int(top / small) - 3,
        int((left + part.width * step) / small) + 4, int((top + part.height * step) / small) + 4,
    ).clip(bounds)  # fmt: skip
    matrix = np.array(
        [
            [step / small, 0, left / small - 0.5 - need.x0],
            [0, step / small, top / small - 0.5 - need.y0],
        ]
    )
    made = cv2.warpAffine(
        np.ascontiguousarray(other.crop(need, level), np.float32), matrix, (part.width, part.height),
        flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE,
    )  # fmt: skip
    return np.clip(np.asarray(made, np.float32), 0, 1)


@compiled
def _shown(spread: Array, own: Array, decoding: Array, encoding: Array) -> Array:
    """Encoded means of light (h, w, 4: three sums and how much they are of); as far as none is known, what is there."""
    h, w, _ = own.shape
    out = np.empty((h, w, 3), np.float32)
    zero, one = np.float32(0), np.float32(1)
    for y in range(h):
        for x in range(w):
            total = spread[y, x, 3]
            known = min(total / np.float32(2e-3), one)
            for k in range(3):
                light = spread[y, x, k] / max(total, np.float32(1e-5))
                if known < one:
                    there = decode(min(max(own[y, x, k], zero), one), decoding)
                    light = known * light + (one - known) * there
                out[y, x, k] = encode(light, encoding)
    return out


@compiled
def _gather(
    image: Array, behind: Array, cells: Array, first: int, last: int, factor: int, y0: int, x0: int,
    table: Array,
) -> None:  # fmt: skip
    """Means over rows of cells: linear light by its weight, and the weight."""
    h, w = behind.shape
    for row in range(first, last):
        top, end = max(row * factor - y0, 0), min((row + 1) * factor - y0, h)
        for y in range(top, end):
            for x in range(w):
                weight = behind[y, x]
                if weight <= 0:
                    continue
                cell = cells[row, (x + x0) // factor]
                r = decode(min(max(image[y, x, 0], np.float32(0)), np.float32(1)), table)
                g = decode(min(max(image[y, x, 1], np.float32(0)), np.float32(1)), table)
                b = decode(min(max(image[y, x, 2], np.float32(0)), np.float32(1)), table)
                most = max(r, g, b)
                if most > _GLEAM_FROM:
                    weight *= np.float32((most / _GLEAM_FROM) ** (_GLEAM - 1))
                cell[0] += r * weight
                cell[1] += g * weight
                cell[2] += b * weight
                cell[3] += weight
        for col in range(cells.shape[1]):
            wide = min((col + 1) * factor - x0, w) - max(col * factor - x0, 0)
            part = np.float32(1) / np.float32(max(wide * (end - top), 1))
            for k in range(4):
                cells[row, col, k] *= part


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
