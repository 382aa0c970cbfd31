"""Where the texture comes from: the best of all places near a touch."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect
from retouch.heal import texture, tone
from retouch.heal.coarse import Grid, blur
from retouch.heal.footprint import Footprint
from retouch.heal.study import Study

Array = NDArray[np.float32]

# Distances between target and source, in brush radii.
NEAREST = 2.1
FARTHEST = 5.0
# A source keeps this distance (radii) from the picture's border.
_MARGIN = 1.15
# Weights of the terms of a candidate's cost: texture unlike the ring's, tone unlike the ring's,
# edges and marks inside, and distance.
_TEXTURE, _TONE, _MARKS, _DISTANCE = 1.5, 8.0, 16.0, 0.03
# Brushes above twice this radius are judged on a picture reduced accordingly.
_LARGE_BRUSH = 8.0
# … but never reduced below this many pixels across: a brush may be larger than its picture.
_LEAST_AREA = 16
# Cells per radius of the grid of candidates: coarser than that of the tone.
_CELLS_PER_RADIUS = 4.5
# Coherence that plain texture reaches by chance, and the weight of what is above it.
_STREAKED = 0.3
_LINES = 1.0
_IMPOSSIBLE = 1e9
_SAMPLED_NODES = 8
# A source may touch what is to be avoided with this part of its area: a mask's soft rim.
_AVOIDED = 0.02
# A ring this far from smooth (median residual, encoded values) has an edge in it.
EDGE_SCALE = 0.02
# An edge's source has to explain the ring this much better than a smooth surface does.
EDGE_GAIN = 0.6
_EDGE_LIVELY = 1.5


@dataclass(frozen=True)
class Candidate:
    """A possible source: offset in whole pixels from target to source, and its cost."""

    dx: int
    dy: int
    cost: float


def search_rect(footprint: Footprint, bounds: Rect) -> Rect:
    """The pixels that a search for sources reads."""
    return footprint.bounds.grow(int(np.ceil((FARTHEST + 0.4) * footprint.radius))).clip(bounds)


def candidates(
    area: Array, rect: Rect, view: Study, most: int, avoid: NDArray[np.uint8] | None = None
) -> list[Candidate]:
    """Propose sources, best first.

    Parameters
    ----------
    area : ndarray (h, w, 3) float32
        Encoded values 0..1 of ``rect`` (see `search_rect`), as they look below the touch.
    most : int
        How many proposals at most; they lie at least a brush radius apart.
    avoid : ndarray (h, w) uint8, optional
        Places that no source may take from (other than 0).
    """
    footprint, around, field = view.around.footprint, view.around, view.field
    room = min(view.area.shape[:2]) // _LEAST_AREA
    factor = max(1, min(int(footprint.radius // _LARGE_BRUSH), room))
    small = _less(area, factor)
    grid = Grid.over(rect, footprint.radius, _CELLS_PER_RADIUS)
    colour = grid.reduce(small)
    energy, wanted = _energies(small, factor, grid, view)
    radius = footprint.radius / grid.step_x
    size = max(1, 2 * round(0.886 * radius) + 1)  # the square of the brush's area

    def mean(a: Array) -> Array:
        return cv2.boxFilter(a, -1, (size, size), borderType=cv2.BORDER_REFLECT)

    unlike = np.zeros(colour.shape[:2], np.float32)
    for want, have in zip(wanted, energy, strict=True):
        unlike += np.abs(cv2.log((mean(have) + 1e-9) * (1 / (want + 1e-9))))
    unlike *= 0.5
    relief = blur(colour - blur(colour, 0.6 * radius), 0.8)
    marks = np.sqrt(
        cv2.dilate(
            np.einsum("ijk,ijk->ij", relief, relief),
            cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * int(np.ceil(radius)) + 1,) * 2),
        )
    )
    smooth = mean(colour)
    distance = footprint.distance(grid.x, grid.y)
    ring = (distance > footprint.radius) & (distance < tone.RING * footprint.radius)
    lines = _lines(small, grid, mean, ring)
    own: Array = _TEXTURE / 3 * unlike + _MARKS * marks + _LINES * lines
    if avoid is not None:
        share = mean(grid.reduce((avoid != 0).astype(np.float32)))
        own = own + np.where(share > _AVOIDED, _IMPOSSIBLE, 0)
    # Sum over the nodes of the stroke, for every offset at once: the maps, shifted by the nodes.
    nodes = footprint.nodes(footprint.radius, _SAMPLED_NODES)
    extent = np.abs(nodes - nodes[0]).max() / grid.step_x
    span = int(np.ceil(FARTHEST * radius + extent))
    margin = int(np.ceil(_MARGIN * radius))
    own = _fence(own, margin)
    offsets = np.arange(-span, span + 1)
    cost = np.zeros((len(offsets), len(offsets)), np.float32)
    apart = np.full_like(cost, np.inf)
    for x, y in nodes:
        row, col = grid.cell(x, y)
        cut = _window(own, row, col, span, _IMPOSSIBLE)
        want = field.values[
            min(max(around.grid.cell(x, y)[0], 0), around.grid.rows - 1),
            min(max(around.grid.cell(x, y)[1], 0), around.grid.cols - 1),
        ]
        difference = smooth - want
        cost += cut + _TONE * _window(
            np.sqrt(np.einsum("ijk,ijk->ij", difference, difference)), row, col, span, 0
        )
        apart = np.minimum(apart, _window(distance, row, col, span, 0))
    cost /= len(nodes)
    oy = (offsets * grid.step_y)[:, None]
    ox = (offsets * grid.step_x)[None, :]
    cost += _DISTANCE * np.hypot(ox, oy) / footprint.radius
    cost[apart < NEAREST * footprint.radius] = _IMPOSSIBLE

    found: list[Candidate] = []
    edge = _along_edge(area, rect, view)
    if edge is not None and not _lies_in(avoid, rect, view, edge):
        found.append(edge)
    cost = cost.copy()
    while len(found) < most:
        i, j = np.unravel_index(int(cost.argmin()), cost.shape)
        best = float(cost[i, j])
        if best >= _IMPOSSIBLE / 16:
            break
        found.append(Candidate(round(float(ox[0, j])), round(float(oy[i, 0])), best))
        near = np.hypot(ox - ox[0, j], oy - oy[i, 0]) < footprint.radius
        cost[near] = _IMPOSSIBLE
    return found


def _lies_in(
    avoid: NDArray[np.uint8] | None, rect: Rect, view: Study, candidate: Candidate
) -> bool:
    if avoid is None:
        return False
    place = view.around.footprint.bounds.shift(candidate.dx, candidate.dy).clip(rect)
    part = avoid[place.y0 - rect.y0 : place.y1 - rect.y0, place.x0 - rect.x0 : place.x1 - rect.x0]
    return bool(part.size and (part != 0).mean() > _AVOIDED)


def _lines(
    small: Array, grid: Grid, mean: Callable[[Array], Array], ring: NDArray[np.bool_]
) -> Array:
    """How much more each place is streaked in one direction than the ring is, 0..1.

    The coherence of the structure tensor (J. Bigun, G. H. Granlund, *Optimal Orientation
    Detection of Linear Symmetry*, ICCV 1987) of the picture without its broad shading: a faint
    crease has no more energy than pores, but all of it runs one way, and a copied one shows.
    """
    grey = texture.grey(small)
    fine = blur(grey, 1.0) - blur(grey, 4.0)
    gx, gy = cv2.Scharr(fine, -1, 1, 0), cv2.Scharr(fine, -1, 0, 1)
    cells = grid.reduce(cv2.merge([gx * gx, gy * gy, gx * gy]))
    own = _coherence(cells[ring].mean(0)) if ring.any() else 0.0
    return np.maximum(_coherence(mean(cells)) - max(float(own), _STREAKED), 0)


def _coherence(tensor: Array) -> Array:
    xx, yy, xy = tensor[..., 0], tensor[..., 1], tensor[..., 2]
    return np.sqrt((xx - yy) ** 2 + 4 * xy * xy) / (xx + yy + np.float32(1e-12))


def _less(area: Array, factor: int) -> Array:
    """The area reduced by a whole factor."""
    if factor == 1:
        return area
    size = (max(1, area.shape[1] // factor), max(1, area.shape[0] // factor))
    return cv2.resize(area, size, interpolation=cv2.INTER_AREA)


def _energies(small: Array, factor: int, grid: Grid, view: Study) -> tuple[Array, Array]:
    """Band energies over the reduced search area, and what the touch wants of them.

    For a large brush both are measured on a reduced picture: the grain of a candidate then
    counts less than its pores and bumps (its strength is adjusted anyway), and the search stays
    fast.
    """
    if factor == 1:
        return texture.energies(small, grid), view.wanted.mean(1)
    ring = texture.energies(_less(view.area, factor), view.around.grid)
    wanted = texture.wanted(view.around, ring, view.field.weights, view.kept)
    return texture.energies(small, grid), wanted.mean(1)


def _fence(cost: Array, margin: int) -> Array:
    """Make a border of ``margin`` cells impossible."""
    out = np.full_like(cost, _IMPOSSIBLE)
    if 2 * margin < min(cost.shape):
        inner = np.s_[margin : cost.shape[0] - margin, margin : cost.shape[1] - margin]
        out[inner] = cost[inner]
    return out


def _window(a: Array, row: int, col: int, span: int, outside: float) -> Array:
    """The square of ``2 span + 1`` cells around a cell; cells outside hold ``outside``."""
    out = np.full((2 * span + 1, 2 * span + 1), outside, np.float32)
    r0, c0 = row - span, col - span
    r1, c1 = min(row + span + 1, a.shape[0]), min(col + span + 1, a.shape[1])
    top, left = max(r0, 0), max(c0, 0)
    if top < r1 and left < c1:
        out[top - r0 : r1 - r0, left - c0 : c1 - c0] = a[top:r1, left:c1]
    return out


def _along_edge(area: Array, rect: Rect, view: Study) -> Candidate | None:
    """A place where the same edge runs through the same part of the ring, if there is one.

    Only for dabs whose ring is far from smooth. Found by matching the ring against all places
    (sum of squared differences of the picture without its broad tone).
    """
    footprint, around, field = view.around.footprint, view.around, view.field
    if len(around.nodes) > 2 or field.scale <= EDGE_SCALE:
        return None
    grid = Grid.over(rect, footprint.radius)
    radius = footprint.radius / grid.step_x
    distance = footprint.distance(grid.x, grid.y)
    row, col = grid.cell(*around.nodes.mean(0))
    reach = int(np.ceil(1.8 * radius))
    if min(row, col) < reach or row + reach >= grid.rows or col + reach >= grid.cols:
        return None
    colour = grid.reduce(area)
    filled = colour.copy()
    hole = distance <= footprint.radius + 0.5 * grid.step_x
    joined = tone.join(around, around.colour, field, view.kept)
    spread = cv2.resize(
        around.grid.spread(joined, rect), (grid.cols, grid.rows), interpolation=cv2.INTER_AREA
    )
    filled[hole] = spread[hole]
    broad = blur(filled, 1.2 * radius)
    square = np.s_[row - reach : row + reach + 1, col - reach : col + reach + 1]
    d = distance[square] / footprint.radius
    weight = np.where((d > 1.05) & (d < 1.8), np.exp(1 - d), 0).astype(np.float32)
    template = (blur(filled, 0.8) - broad)[square]
    score = cv2.matchTemplate(
        blur(colour, 0.8) - broad,
        np.ascontiguousarray(template),
        cv2.TM_SQDIFF,
        mask=np.repeat(weight[..., None], 3, 2),
    )
    cost = np.full(distance.shape, _IMPOSSIBLE, np.float32)
    cost[reach : reach + score.shape[0], reach : reach + score.shape[1]] = np.sqrt(
        np.maximum(score, 0) / weight.sum()
    )
    cost += 0.0015 * distance / footprint.radius
    cost[(distance < NEAREST * footprint.radius) | (distance > FARTHEST * footprint.radius)] = (
        _IMPOSSIBLE
    )
    i, j = np.unravel_index(int(cost.argmin()), cost.shape)
    if cost[i, j] >= _IMPOSSIBLE:
        return None
    dx, dy = round((j - col) * grid.step_x), round((i - row) * grid.step_y)
    source = around.grid.rect.shift(dx, dy)
    if source.clip(rect) != source:
        return None
    pixels = area[
        source.y0 - rect.y0 : source.y1 - rect.y0, source.x0 - rect.x0 : source.x1 - rect.x0
    ]
    if edge_difference(around, field, pixels) is None:
        return None
    return Candidate(dx, dy, float(cost[i, j]))


def edge_difference(around: tone.Surround, field: tone.Field, source: Array) -> tone.Field | None:
    """The smooth difference between target and source rings, if the source has the same edge.

    ``source`` holds the pixels of the target's ring rectangle, shifted to the source. None when
    the ring is smooth anyway or the source explains it no better than a smooth surface does.
    """
    if field.scale <= EDGE_SCALE:
        return None
    other = blur(around.grid.reduce(source), 0.8)
    difference = tone.smooth_field(around, around.colour - other, 1)
    if difference.scale >= EDGE_GAIN * field.scale:
        return None
    # What comes in may be as lively as the ring is, not more: no ear in place of a brow.
    radius = around.footprint.radius / around.grid.step_x
    ring = around.trust > 0
    lively = np.abs(other - blur(other, 0.6 * radius)).mean(2)
    own = np.abs(around.colour - blur(around.colour, 0.6 * radius)).mean(2)
    if lively[around.hole].mean() > _EDGE_LIVELY * own[ring].mean():
        return None
    return difference
