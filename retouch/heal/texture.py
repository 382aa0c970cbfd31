"""Texture: fine detail by bands, and how strong each band is in a place."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.heal.coarse import Grid, area_means, blur, doubled, halved, interpolated
from retouch.heal.tone import RING, Surround

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Band limits as Gaussian sigmas in pixels: grain, pores, small relief.
SIGMAS = (1.0, 2.0, 4.0)
# Variance that averaging two pixels adds, in pixels.
_HALVED = 0.25
# Rarely is skin in reach rougher or smoother than this against its neighbour; beyond it the
# source is wrong and forcing it would show.
_GAIN_LIMITS = (0.6, 1.7)
# Cells count in which the tone's fit believes at least this much of what it could.
TRUSTED = 0.2
# Energies far above the median come from hairs and other marks; they count up to this multiple.
ENERGY_CLIP = 15.0
# Weights of the channels in a grey value (ITU-R BT.601), as OpenCV's conversion has them.
_RED, _GREEN, _BLUE = np.float32(0.299), np.float32(0.587), np.float32(0.114)
# From this part of the radius outwards a brush a little larger than its spot covers clean skin.
CLEAN_FROM = 0.6


def grey(area: Array) -> Array:
    """The grey picture (h, w) of a colour one (h, w, 3), encoded values as they are (BT.601)."""
    return cv2.cvtColor(area, cv2.COLOR_RGB2GRAY)


@dataclass(frozen=True)
class Layers:
    """A picture ever softer: ``own``, ``fine`` at its size, ``medium`` and ``soft`` at half size.

    They are blurred by SIGMAS (pixels of the picture); what is blurred by two pixels loses
    nothing at half size.
    """

    own: Array
    fine: Array
    medium: Array
    soft: Array


def layers(image: Array) -> Layers:
    """The layers of a picture of one or three channels, (h, w) or (h, w, c) float32."""
    return Layers(image, blur(image, SIGMAS[0]), *broad_layers(image))


def broad_layers(image: Array) -> tuple[Array, Array]:
    """The second and third layer of a picture, at half size."""
    _, second, third = SIGMAS
    medium = blur(halved(image), float(np.sqrt(second**2 - _HALVED)) / 2)
    return medium, blur(medium, float(np.sqrt(third**2 - second**2)) / 2)


def fine_layer(image: Array, top: int, left: int, h: int, w: int) -> Array:
    """The first layer of a part of a picture."""
    pad = int(np.ceil(3 * SIGMAS[0]))
    up, before = min(top, pad), min(left, pad)
    part = image[top - up : top + h + pad, left - before : left + w + pad]
    # In line, as a loop for each layout would have to be compiled.
    return np.ascontiguousarray(blur(part, SIGMAS[0])[up : up + h, before : before + w])


def energies(seen: Layers, grid: Grid) -> Array:
    """Mean square of each band (grain, pores, small relief) in each cell, (bands, rows, cols).

    ``seen`` are the layers of a grey picture.
    """
    own = np.ascontiguousarray(seen.own)
    return _energies(own, seen.fine, seen.medium, seen.soft, grid.rows, grid.cols)


@compiled
def _energies(own: Array, fine: Array, medium: Array, soft: Array, rows: int, cols: int) -> Array:
    out = np.empty((3, rows, cols), np.float32)
    h, w = own.shape
    half_h, half_w = medium.shape
    squares = np.empty((h, w), np.float32)
    for i in range(h):
        line, below, row = own[i], fine[i], squares[i]
        for j in range(w):
            row[j] = (line[j] - below[j]) * (line[j] - below[j])
    out[0] = area_means(squares, 1, rows, cols)[..., 0]
    broad = doubled(medium, h, w)
    for i in range(h):
        line, below, row = fine[i], broad[i], squares[i]
        for j in range(w):
            row[j] = (line[j] - below[j]) * (line[j] - below[j])
    out[1] = area_means(squares, 1, rows, cols)[..., 0]
    halves = np.empty((half_h, half_w), np.float32)
    for i in range(half_h):
        line, below, row = medium[i], soft[i], halves[i]
        for j in range(half_w):
            row[j] = (line[j] - below[j]) * (line[j] - below[j])
    out[2] = area_means(halves, 1, rows, cols)[..., 0]
    return out


def wanted(around: Surround, energy: Array, weights: Array, kept: Mask) -> Array:
    """Energy that each band should have at each node of the touch, shape (bands, nodes).

    Taken from the ring where the tone fit trusts it, and from the outer part of the brush
    itself, nearer places counting more.
    """
    radius = around.footprint.radius
    return _wanted(
        energy,
        around.trust,
        weights,
        around.distance,
        around.hole,
        kept,
        around.grid.x[0],
        around.grid.y[:, 0],
        around.nodes,
        radius,
        RING * radius if len(around.nodes) > 1 else np.inf,
    )


@compiled
def _wanted(
    energy: Array,
    trust: Array,
    weights: Array,
    distance: Array,
    hole: Mask,
    kept: Mask,
    x: Array,
    y: Array,
    nodes: NDArray[np.float64],
    radius: float,
    reach: float,
) -> Array:
    count, rows, cols = energy.shape
    ring = np.empty((rows, cols), np.bool_)
    trusted = 0
    for i in range(rows):
        for j in range(cols):
            t = trust[i, j]
            ring[i, j] = t > 0 and weights[i, j] > TRUSTED * t and distance[i, j] > 1.15 * radius
            trusted += ring[i, j]
    if trusted < 10:
        ring = trust > 0
    out = np.empty((count, len(nodes)), np.float32)
    share = np.empty(rows * cols, np.float32)
    sample = np.empty((count, rows * cols), np.float32)
    core = np.float32(0.3 * radius)
    for n in range(len(nodes)):
        for wide in (False, True):
            # A node deep inside a large painted area has no ring near it; then all of it counts.
            used, in_ring = 0, 0
            for i in range(rows):
                dy = y[i] - np.float32(nodes[n, 1])
                for j in range(cols):
                    rim = hole[i, j] and distance[i, j] > CLEAN_FROM * radius and not kept[i, j]
                    if not ring[i, j] and not rim:
                        continue
                    dx = x[j] - np.float32(nodes[n, 0])
                    away = np.sqrt(dx * dx + dy * dy)
                    if away >= reach and (rim or not wide):
                        continue
                    if rim:
                        share[used] = 2
                    else:
                        share[used] = (radius / max(away, core)) ** 2
                        in_ring += 1
                    for b in range(count):
                        sample[b, used] = energy[b, i, j]
                    used += 1
            if in_ring > 0 or reach == np.inf:
                break
        for b in range(count):
            if used == 0:
                out[b, n] = energy[b].mean()
                continue
            values = sample[b, :used]
            most = ENERGY_CLIP * np.partition(values, used // 2)[used // 2]
            total, weight = np.float32(0), np.float32(0)
            for i in range(used):
                total += share[i] * min(values[i], most)
                weight += share[i]
            out[b, n] = total / weight
    return out


@compiled
def split(
    pixels: Array,
    fine: Array,
    medium: Array,
    soft: Array,
    floor: Array,
    top: int,
    left: int,
    h: int,
    w: int,
) -> tuple[Array, Array]:
    """The bands of a part of a picture, and what is left above the broadest layer.

    Parameters
    ----------
    pixels : ndarray (H, W, 3)
        The picture.
    fine : ndarray (h, w, 3)
        The part, blurred by the first of SIGMAS.
    medium, soft, floor : ndarray (H/2, W/2, 3)
        At half size: blurred by the second and third of SIGMAS, and by the broadest.
    top, left, h, w : int
        The part.

    Returns
    -------
    bands (3, h, w, 3) and rest (h, w, 3), the third layer less the broadest.
    """
    halves = np.empty((len(medium), medium.shape[1], 9), np.float32)
    for i in range(len(medium)):
        for j in range(medium.shape[1]):
            for k in range(3):
                halves[i, j, k] = medium[i, j, k]
                halves[i, j, 3 + k] = soft[i, j, k]
                halves[i, j, 6 + k] = floor[i, j, k]
    broad = interpolated(halves, h, w, top / 2 - 0.25, left / 2 - 0.25, 0.5, 0.5)
    bands = np.empty((3, h, w, 3), np.float32)
    rest = np.empty((h, w, 3), np.float32)
    for i in range(h):
        for j in range(w):
            for k in range(3):
                value, soft = pixels[top + i, left + j, k], fine[i, j, k]
                bands[0, i, j, k] = value - soft
                bands[1, i, j, k] = soft - broad[i, j, k]
                bands[2, i, j, k] = broad[i, j, k] - broad[i, j, 3 + k]
                rest[i, j, k] = broad[i, j, 3 + k] - broad[i, j, 6 + k]
    return bands, rest


@compiled
def powers(bands: Array, x0: float, y0: float, nodes: NDArray[np.float64], radius: float) -> Array:
    """Mean square of the grey value of each band within a radius of each node.

    ``bands`` is (bands, h, w, 3), its first pixel's middle at ``x0``, ``y0``; returns
    (bands, nodes).
    """
    count, h, w, _ = bands.shape
    out = np.zeros((count, len(nodes)), np.float32)
    square = np.empty((count, h, w), np.float32)
    for b in range(count):
        for i in range(h):
            line, own = bands[b, i], square[b, i]
            for j in range(w):
                value = _RED * line[j, 0] + _GREEN * line[j, 1] + _BLUE * line[j, 2]
                own[j] = value * value
    for n in range(len(nodes)):
        inside = 0
        for i in range(h):
            half = radius * radius - (y0 + i - nodes[n, 1]) ** 2
            if half < 0:
                continue
            half = np.sqrt(half)
            start = max(int(np.ceil(nodes[n, 0] - half - x0)), 0)
            end = min(int(np.floor(nodes[n, 0] + half - x0)) + 1, w)
            if end <= start:
                continue
            inside += end - start
            for b in range(count):
                line, total = square[b, i], np.float32(0)
                for j in range(start, end):
                    total += line[j]
                out[b, n] += total
        if inside:
            out[:, n] /= inside
    return out


@compiled
def gains(target: Array, source: Array) -> Array:
    """Factors that bring the source's band energies to the target's, within safe limits."""
    low, high = _GAIN_LIMITS
    out = np.empty(target.shape, np.float32)
    for b in range(len(target)):
        for n in range(target.shape[1]):
            factor = np.sqrt((target[b, n] + 1e-12) / (source[b, n] + 1e-12))
            out[b, n] = min(max(factor, low), high)
    return out
