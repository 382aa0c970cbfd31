"""Bars of glasses beside their rims: the bridge between them, and the arms towards the ears."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.face.ridges import edges, path, ridges, width

Array = NDArray[np.float32]

# The strips in which bridge and arms are looked for: up and down from the middles of the lenses,
# and outwards from the rims, in heights of the face.
_UP, _DOWN, _OUT = 0.16, 0.12, 0.75
# An edge of a bar is no farther from its path than so many times the half width of its line.
_WIDER = 1.5
# An arm has so much of the rim's colour.
_ARM_ALIKE = 0.3
# In the shade beside a face it has this part of the rim's colour, in the light that.
_ARM_LIGHT = 0.5, 1.2
# What a path beside a lens costs where the bridge is looked for.
_BESIDE = 1.0
# So much of a bridge is seen; an arm goes on while so much of this long a part is.
_BRIDGE_SEEN, _ARM_SEEN, _ARM_PART, _SHORTEST_ARM = 0.6, 0.7, 0.03, 0.04
# Half the widths of lines looked for, in heights of the face; the thickest half rim.
HALVES = (0.005, 0.008, 0.012, 0.017, 0.023)
THICKEST = 0.035
# A line as clear as this (CIE76) counts fully; as clear as this, it is seen.
CLEAR, SEEN = 18.0, 6.0
# Half as thick a rim is a wire (heights of the face).
WIRE = 0.006
# How many columns a path may jump from one row to the next, and what each costs.
JUMP, BEND = 2, 0.1


@dataclass(frozen=True)
class Bar:
    """``outline`` (m, 2), ``middle`` (n, 2), ``half``: its usual half width, ``clear`` (n,): where
    it is clearly seen."""

    outline: Array
    middle: Array
    half: float
    clear: NDArray[np.bool_]


@dataclass(frozen=True)
class Rim:
    """``inner``, ``middle``, ``outer`` (n, 2): its edges and between; ``half``: its usual half width;
    ``clear`` (n,): where it is clearly seen; ``seen``: which part of it is where it could be; ``colour``:
    CIELAB."""

    inner: Array
    middle: Array
    outer: Array
    half: float
    clear: NDArray[np.bool_]
    seen: float
    colour: Array
    varies: float


def steps_of(unit: float) -> tuple[int, ...]:
    """Half the widths of lines looked for in pixels, where a face is ``unit`` pixels high."""
    return tuple(sorted({max(2, round(k * unit)) for k in HALVES}))


def sampled(image: Array, x: Array, y: Array) -> Array:
    """An image (h, w) or (h, w, 3) at places (n, m), between its pixels."""
    return np.asarray(
        cv2.remap(image, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), np.float32
    )


def squared(lab: Array, colour: Array, varies: float) -> Array:
    """Squared distance (CIE76) of colours (..., 3) from one, in units of how much that varies."""
    return np.asarray(((lab - colour) ** 2).sum(-1) / np.float32(varies**2), np.float32)


def _strip(lab: Array, start: Array, along: Array, length: float, unit: float) -> tuple[Array, ...]:
    """Part of the picture along a line, one row a pixel of it; with the places of its pixels."""
    across = np.array([-along[1], along[0]])
    if across[1] < 0:
        across = -across
    t = np.arange(max(int(length), 2))[:, None]
    v = np.arange(-int(_UP * unit), int(_DOWN * unit))[None]
    x = (start[0] + along[0] * t + across[0] * v).astype(np.float32)
    y = (start[1] + along[1] * t + across[1] * v).astype(np.float32)
    return sampled(lab, x, y), x, y


def _bar(
    strip: Array, clear: Array, x: Array, y: Array, at: NDArray[np.int64], keep: slice, unit: float
) -> Bar:
    """A bar along its path."""
    rows = np.arange(len(at))[keep]
    wide = width(strip, at, steps_of(unit))[keep]
    most = min(round(_WIDER * float(np.median(wide))) + 1, round(THICKEST * unit))
    # Elsewhere the path lies on what is no bar, and would say how wide one usually is.
    low, high = edges(strip[keep], at[keep], most)

    def places(columns: Array) -> Array:
        low = np.clip(np.floor(columns).astype(int), 0, x.shape[1] - 2)
        part = (columns - low)[:, None]
        here = np.stack([x[rows, low], y[rows, low]], 1)
        there = np.stack([x[rows, low + 1], y[rows, low + 1]], 1)
        return np.asarray(here + part * (there - here), np.float32)

    middle = at[keep].astype(np.float32)
    sides = places(middle - low), places(middle + high)[::-1]
    half = float(np.median(low + high)) / 2
    centre = places(np.asarray(middle + (high - low) / 2, np.float32))
    return Bar(np.concatenate(sides), centre, half, clear[rows, at[keep]] > SEEN)


def _scores(strip: Array, clear: Array, rim: Rim) -> Array:
    likely = np.exp(-0.5 * squared(strip, rim.colour, 1.5 * rim.varies))
    return np.ascontiguousarray(
        np.minimum(clear, np.float32(CLEAR)) / np.float32(CLEAR) * (0.4 + 0.6 * likely),
        np.float32,
    )


def bridge(lab: Array, unit: float, rims: list[Rim], whole: Array) -> Bar | None:
    """The clearest bar from one rim to the other."""
    a, b = (r.outer.mean(0) for r in rims)
    length = float(np.linalg.norm(b - a))
    strip, x, y = _strip(lab, a, (b - a) / max(length, 1e-6), length, unit)
    clear = ridges(strip, steps_of(unit))
    own = sampled(whole, x, y) > 0.5
    scores = _scores(strip, clear, rims[0])
    # On the lenses and rims a path may lie anywhere; beside them it would follow a brow.
    scores[own.any(1)] -= _BESIDE
    scores[own] = 0.5
    at = path(scores, JUMP, BEND)
    rows = np.arange(len(at))
    between = _run(~own[rows, at], len(at) // 2)
    if not len(between) or (clear[rows, at][between] > SEEN).mean() < _BRIDGE_SEEN:
        return None
    ends = slice(max(int(between[0]) - 2, 0), int(between[-1]) + 3)
    return _bar(strip, clear, x, y, at, ends, unit)


def _run(free: NDArray[np.bool_], middle: int) -> NDArray[np.int64]:
    """The unbroken run of free rows that is nearest to the middle."""
    rows = np.flatnonzero(free)
    if not len(rows):
        return rows
    runs = np.split(rows, np.flatnonzero(np.diff(rows) > 1) + 1)
    return min(runs, key=lambda run: float(np.abs(run - middle).min()))


def arm(lab: Array, unit: float, rim: Rim, other: Rim, whole: Array) -> Bar | None:
    """The arm from a rim towards the ear, as far as it is seen."""
    a, b = rim.outer.mean(0), other.outer.mean(0)
    out = (a - b) / max(float(np.linalg.norm(a - b)), 1e-6)
    strip, x, y = _strip(lab, a, out, _OUT * unit, unit)
    clear = ridges(strip, steps_of(unit))
    own = sampled(whole, x, y) > 0.5
    inside = (x >= 0) & (y >= 0) & (x < lab.shape[1]) & (y < lab.shape[0])
    scores = _scores(strip, clear, rim) - np.float32(0.25)
    scores[own], scores[~inside] = 0.3, -0.5
    rows = np.arange(len(scores))
    at = path(scores, JUMP, BEND)
    free = ~own[rows, at]
    if not free.any():
        return None
    start = int(np.flatnonzero(~free)[-1]) + 1 if not free.all() else 0
    seen = (clear[rows, at] > SEEN) & inside[rows, at]
    part = max(3, int(_ARM_PART * unit))
    end = start
    while end + part <= len(rows) and seen[end : end + part].mean() >= _ARM_SEEN:
        end += part // 2
    colours = strip[rows, at][start:end]
    # The same thing in less light, or in more: towards black, or away from it.
    light = np.clip(colours @ rim.colour / max(float(rim.colour @ rim.colour), 1.0), *_ARM_LIGHT)
    alike = np.exp(-0.5 * squared(colours, light[:, None] * rim.colour, 1.5 * rim.varies))
    if end - start < _SHORTEST_ARM * unit or float(alike.mean()) < _ARM_ALIKE:
        return None
    return _bar(strip, clear, x, y, at, slice(max(start - 2, 0), end), unit)
