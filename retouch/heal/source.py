"""Where the texture comes from: the best of all places near a touch."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.heal import texture, tone
from retouch.heal.coarse import Grid, blur, doubled
from retouch.heal.footprint import Footprint
from retouch.heal.study import Study
from retouch.heal.windows import box_mean, disc_max

Array = NDArray[np.float32]

# Distances between target and source, in brush radii.
NEAREST = 2.1
FARTHEST = 4.0
# A source keeps this distance (radii) from the picture's border.
_MARGIN = 1.15
# Weights of the terms of a candidate's cost: texture unlike the ring's, tone unlike the ring's,
# edges and marks inside, and distance.
_TEXTURE, _TONE, _MARKS, _DISTANCE = 1.5, 8.0, 16.0, 0.03
# Cells per radius of the grid of candidates: coarser than that of the tone.
_CELLS_PER_RADIUS = 4.4
# Coherence that plain texture reaches by chance, and the weight of what is above it.
_STREAKED = 0.3
_LINES = 1.0
_IMPOSSIBLE = 1e9
_MANY_ROWS = 4
# Weights of Scharr's gradient.
_CORNER, _SIDE = np.float32(3), np.float32(10)
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
    grid = _grid(rect, footprint.radius)
    planes = _planes(grid.reduce(_sampled(area, grid)))
    radius = footprint.radius / grid.step_x
    size = max(1, 2 * round(0.886 * radius) + 1)  # the square of the brush's area
    mean = box_mean(planes, size)
    smooth, relief = _relief(planes, mean)
    marks = disc_max(_square(blur(relief, 0.8)), radius + 0.5)
    distance = footprint.distance(grid.x, grid.y)
    wanted, streaks = _ring(planes, distance, footprint.radius, grid, view)
    margin = int(np.ceil(_MARGIN * radius))
    own = _own_cost(mean, wanted, marks, max(streaks, _STREAKED), margin)
    if avoid is not None and avoid.any():
        refused = box_mean(grid.reduce((avoid != 0).astype(np.float32))[..., None], size)
        own[refused[..., 0] > _AVOIDED] = _IMPOSSIBLE
    # Sum over the nodes of the stroke, for every offset at once: the maps, shifted by the nodes.
    nodes = footprint.nodes(footprint.radius, _SAMPLED_NODES)
    extent = float(np.ptp(nodes, 0).max()) if len(nodes) > 1 else 0.0
    cost = _offset_costs(
        own,
        smooth,
        distance,
        nodes,
        field.values,
        _placed(grid),
        _placed(around.grid),
        int(np.ceil(FARTHEST * radius + extent / grid.step_x)),
        footprint.radius,
    )

    found: list[Candidate] = []
    edge = _along_edge(area, rect, view)
    if edge is not None and not _lies_in(avoid, rect, view, edge):
        found.append(edge)
    span = len(cost) // 2
    for i, j, value in _best(cost, most - len(found), footprint.radius, grid.step_x, grid.step_y):
        dx, dy = round((int(j) - span) * grid.step_x), round((int(i) - span) * grid.step_y)
        found.append(Candidate(dx, dy, float(value)))
    return found


def _lies_in(
    avoid: NDArray[np.uint8] | None, rect: Rect, view: Study, candidate: Candidate
) -> bool:
    if avoid is None:
        return False
    place = view.around.footprint.bounds.shift(candidate.dx, candidate.dy).clip(rect)
    part = avoid[place.y0 - rect.y0 : place.y1 - rect.y0, place.x0 - rect.x0 : place.x1 - rect.x0]
    return bool(part.size and (part != 0).mean() > _AVOIDED)


def _grid(rect: Rect, radius: float) -> Grid:
    """The reduced picture on which candidates are judged: the brush is a few cells in radius."""
    factor = max(1, round(radius / _CELLS_PER_RADIUS))
    return Grid(
        rect,
        max(min(rect.height, 2), rect.height // factor),
        max(min(rect.width, 2), rect.width // factor),
    )


def _sampled(area: Array, grid: Grid) -> Array:
    """Every second row where a cell is many rows high: its mean changes little, and half is read."""
    return area[::2] if grid.step_y >= _MANY_ROWS else area


def _planes(colour: Array) -> Array:
    """What is judged in each cell, (rows, cols, 9): band energies, colour, structure tensor.

    The coherence of the tensor (xx, yy, xy; J. Bigun, G. H. Granlund, *Optimal Orientation
    Detection of Linear Symmetry*, ICCV 1987), taken without broad shading, tells how much a
    place is streaked in one direction: a faint crease has no more energy than pores, but all of
    it runs one way, and a copied one shows.
    """
    seen = texture.layers(texture.grey(colour))
    return _judged(colour, seen.own, seen.fine, seen.medium, seen.soft)


@compiled
def _judged(colour: Array, own: Array, fine: Array, half_medium: Array, half_soft: Array) -> Array:
    rows, cols = own.shape
    out = np.empty((rows, cols, 9), np.float32)
    medium, soft = doubled(half_medium, rows, cols), doubled(half_soft, rows, cols)
    for i in range(rows):
        above, below = max(i - 1, 0), min(i + 1, rows - 1)
        for j in range(cols):
            left, right = max(j - 1, 0), min(j + 1, cols - 1)
            out[i, j, 0] = (own[i, j] - fine[i, j]) ** 2
            out[i, j, 1] = (fine[i, j] - medium[i, j]) ** 2
            out[i, j, 2] = (medium[i, j] - soft[i, j]) ** 2
            for k in range(3):
                out[i, j, 3 + k] = colour[i, j, k]
            # Scharr's gradient of the picture between its finest grain and its broad shading.
            nw, ne = fine[above, left] - soft[above, left], fine[above, right] - soft[above, right]
            sw, se = fine[below, left] - soft[below, left], fine[below, right] - soft[below, right]
            north, south = fine[above, j] - soft[above, j], fine[below, j] - soft[below, j]
            west, east = fine[i, left] - soft[i, left], fine[i, right] - soft[i, right]
            gx = _CORNER * (ne - nw + se - sw) + _SIDE * (east - west)
            gy = _CORNER * (sw - nw + se - ne) + _SIDE * (south - north)
            out[i, j, 6], out[i, j, 7], out[i, j, 8] = gx * gx, gy * gy, gx * gy
    return out


@compiled
def _coherence(tensor: Array) -> float:
    """Coherence of a structure tensor (xx, yy, xy), 0..1."""
    xx, yy, xy = tensor[0], tensor[1], tensor[2]
    return float(np.sqrt((xx - yy) ** 2 + 4 * xy * xy) / (xx + yy + np.float32(1e-12)))


@compiled
def _relief(planes: Array, mean: Array) -> tuple[Array, Array]:
    """The colour averaged over the brush, and how each cell differs from it."""
    rows, cols, _ = planes.shape
    smooth = np.empty((rows, cols, 3), np.float32)
    relief = np.empty((rows, cols, 3), np.float32)
    for i in range(rows):
        for j in range(cols):
            for k in range(3):
                smooth[i, j, k] = mean[i, j, 3 + k]
                relief[i, j, k] = planes[i, j, 3 + k] - mean[i, j, 3 + k]
    return smooth, relief


@compiled
def _square(values: Array) -> Array:
    """Squared length of each cell's colour."""
    rows, cols, depth = values.shape
    out = np.zeros((rows, cols), np.float32)
    for i in range(rows):
        for j in range(cols):
            for k in range(depth):
                out[i, j] += values[i, j, k] ** 2
    return out


@compiled
def _own_cost(mean: Array, wanted: Array, marks: Array, streaked: float, margin: int) -> Array:
    """What speaks against each cell as the middle of a source, whatever the target.

    ``mean`` holds, averaged over the brush, three band energies, colour and tensor. How
    unlike the wanted energies are counts as twice their difference over their sum: the logarithm
    of their ratio where they are near, and never more than 2.
    """
    rows, cols = marks.shape
    out = np.full((rows, cols), np.float32(_IMPOSSIBLE))
    tiny = np.float32(1e-12)
    for i in range(margin, rows - margin):
        for j in range(margin, cols - margin):
            unlike = np.float32(0)
            for b in range(3):
                unlike += abs(mean[i, j, b] - wanted[b]) / (mean[i, j, b] + wanted[b] + tiny)
            lines = max(_coherence(mean[i, j, 6:9]) - streaked, 0.0)
            out[i, j] = _TEXTURE / 3 * unlike + _MARKS * np.sqrt(marks[i, j]) + _LINES * lines
    return out


def _placed(grid: Grid) -> tuple[float, float, float, float]:
    """Corner and step of a grid: x0, y0, step_x, step_y."""
    return float(grid.rect.x0), float(grid.rect.y0), grid.step_x, grid.step_y


@compiled
def _offset_costs(
    own: Array,
    smooth: Array,
    distance: Array,
    nodes: NDArray[np.float64],
    field: Array,
    placed: tuple[float, float, float, float],
    field_placed: tuple[float, float, float, float],
    span: int,
    radius: float,
) -> Array:
    """Cost of every offset up to ``span`` cells, the mean over the nodes of the touch.

    ``field`` is the wanted tone on its own grid.
    """
    rows, cols = own.shape
    x0, y0, step_x, step_y = placed
    fx0, fy0, fstep_x, fstep_y = field_placed
    count = len(nodes)
    at = np.empty((count, 2), np.int64)
    wanted = np.empty((count, 3), np.float32)
    for n in range(count):
        at[n, 0] = int(np.floor((nodes[n, 1] - y0) / step_y))
        at[n, 1] = int(np.floor((nodes[n, 0] - x0) / step_x))
        i = min(max(int((nodes[n, 1] - fy0) / fstep_y), 0), field.shape[0] - 1)
        j = min(max(int((nodes[n, 0] - fx0) / fstep_x), 0), field.shape[1] - 1)
        wanted[n] = field[i, j]
    size = 2 * span + 1
    cost = np.zeros((size, size), np.float32)
    for i in range(size):
        for j in range(size):
            total, apart = 0.0, np.inf
            for n in range(count):
                row, col = at[n, 0] + i - span, at[n, 1] + j - span
                if row < 0 or col < 0 or row >= rows or col >= cols:
                    total = _IMPOSSIBLE * count
                    break
                square = np.float32(0)
                for k in range(3):
                    square += (smooth[row, col, k] - wanted[n, k]) ** 2
                total += own[row, col] + _TONE * np.sqrt(square)
                apart = min(apart, distance[row, col])
            if apart < NEAREST * radius:
                cost[i, j] = _IMPOSSIBLE
            else:
                far = np.sqrt(((i - span) * step_y) ** 2 + ((j - span) * step_x) ** 2) / radius
                cost[i, j] = total / count + _DISTANCE * far
    return cost


@compiled
def _best(
    cost: Array, most: int, radius: float, step_x: float, step_y: float
) -> NDArray[np.float64]:
    """The cheapest offsets at least a brush radius apart: rows of (i, j, cost)."""
    left = cost.copy()
    flat = left.ravel()
    out = np.empty((max(most, 0), 3))
    found = 0
    reach_y, reach_x = int(radius / step_y) + 1, int(radius / step_x) + 1
    rows, cols = cost.shape
    while found < most:
        at = np.argmin(flat)
        i, j = at // cols, at % cols
        if flat[at] >= _IMPOSSIBLE / 16:
            break
        out[found, 0], out[found, 1], out[found, 2] = i, j, flat[at]
        found += 1
        for y in range(max(i - reach_y, 0), min(i + reach_y + 1, rows)):
            for x in range(max(j - reach_x, 0), min(j + reach_x + 1, cols)):
                if ((x - j) * step_x) ** 2 + ((y - i) * step_y) ** 2 < radius * radius:
                    left[y, x] = _IMPOSSIBLE
    return out[:found]


def _ring(
    planes: Array, distance: Array, radius: float, grid: Grid, view: Study
) -> tuple[Array, float]:
    """Band energies (bands,) and streaks (0..1) of the ring, as a source should have them.

    They are measured on the reduced picture, as the candidates are: under a large brush grain
    counts less than pores and bumps (its strength is adjusted anyway). Cells that the tone's
    fit doesn't trust are left out.
    """
    own = view.around.grid
    wanted, mean = _ring_means(
        planes,
        distance,
        radius,
        grid.x[0] - np.float32(own.rect.x0),
        grid.y[:, 0] - np.float32(own.rect.y0),
        own.step_x,
        own.step_y,
        view.field.weights,
        view.around.trust,
        view.kept,
    )
    return wanted, _coherence(mean)


@compiled
def _ring_means(
    planes: Array,
    distance: Array,
    radius: float,
    x: Array,
    y: Array,
    step_x: float,
    step_y: float,
    weights: Array,
    trust: Array,
    kept: NDArray[np.bool_],
) -> tuple[Array, Array]:
    rows, cols = distance.shape
    share = np.empty(rows * cols, np.float32)
    sample = np.empty((3, rows * cols), np.float32)
    streaks = np.zeros(3, np.float32)
    ring, used = 0, 0
    scale = np.float32(1 / radius)
    for strict in (True, False):
        if used >= 10:
            break
        ring, used = 0, 0
        streaks[:] = 0
        for i in range(rows):
            a = min(max(int(y[i] / step_y), 0), len(trust) - 1)
            for j in range(cols):
                d = distance[i, j] * scale
                if d <= texture.CLEAN_FROM or d >= tone.RING:
                    continue
                b = min(max(int(x[j] / step_x), 0), trust.shape[1] - 1)
                part = np.float32(0)
                if d > 1:
                    ring += 1
                    for k in range(3):
                        streaks[k] += planes[i, j, 6 + k]
                    trusted = weights[a, b] > texture.TRUSTED * trust[a, b] or not strict
                    if d > 1.15 and trusted:
                        part = np.float32(1) / (d * d)
                elif not kept[a, b]:
                    part = np.float32(2)
                if part > 0:
                    share[used] = part
                    for k in range(3):
                        sample[k, used] = planes[i, j, k]
                    used += 1
    wanted = np.empty(3, np.float32)
    for k in range(3):
        if used == 0:
            wanted[k] = planes[..., k].mean()
            continue
        values = sample[k, :used]
        most = texture.ENERGY_CLIP * np.partition(values, used // 2)[used // 2]
        total, weight = np.float32(0), np.float32(0)
        for i in range(used):
            total += share[i] * min(values[i], most)
            weight += share[i]
        wanted[k] = total / weight
    if ring:
        streaks /= ring
    return wanted, streaks


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
    the ring is smooth anyway or the source explains it no better than a smooth surface does. Where
    parts of the ring are spared, a source with the like beside it is taken as it is, too: its
    broad tone would be mixed with that of the parts beside it.
    """
    spared = bool(around.spared.any())
    if field.scale <= EDGE_SCALE and not spared:
        return None
    other = blur(around.grid.reduce(source), 0.8)
    difference = tone.smooth_field(around, around.colour - other, 1)
    if spared and difference.scale <= EDGE_SCALE:
        return difference
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
