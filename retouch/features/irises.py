"""Irises: lighter, richer, deeper, crisper, another colour; rim, pupil and catchlight by themselves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab, Working
from retouch.colour.lab import shifted, to_lab
from retouch.features.toning import blur_reach, blurred, calmed, lifted, parts_of
from retouch.geometry import Rect
from retouch.steps import step_between

Array = NDArray[np.float32]

# An iris stays darker than so much of the lightness of the whites (L*): beyond it eyes look lit from
# within (common practice).
CEILING_OF_WHITES = 0.8
# Up to so much more colourful than it is an iris still looks its own (common practice); the greyest of
# them have room for so much at least (C*).
MOST_NATURAL, _LEAST_ROOM = 1.6, 3.0
# A lift fades out over so much below it (L*).
_FADE = 22.0
# The dark ring at the rim, in radii of the iris, and how much darker it gets at most (L*).
_RIM, _MOST_RIM = (0.74, 0.9), 12.0
# How far the iris is worked on, in radii: its rim is soft.
_END = (1.0, 1.1)
# A catchlight is lighter than the iris by the second of these (L*); from the first on it may be one.
_GLINT = (22.0, 40.0)
# Scales of an iris' pattern in radii: fine fibres, their bundles, and the whole.
_FIBRE, _BUNDLE, _WHOLE = 0.03, 0.11, 0.4
# Full amounts: of chroma, of contrast at the scale of bundles, of bundles and fibres when crisper.
_MOST_RICHER, _MOST_DEPTH, _MOST_CRISP, _FINE_CRISP = 0.9, 1.1, 0.9, 0.35
# A pupil at full amount keeps so little of its light.
_PUPIL_LEFT = 0.35
_PUPIL_SOFT = 0.06
# A pupil is looked for in an iris of so many pixels, so far from where the iris was found (in radii), in
# these sizes, against a ring so wide; it has to stand out by so much (L*).
_PUPIL_SIZE, _ASIDE, _ABOVE, _BELOW = 24.0, 0.16, 0.45, 0.25
_PUPILS, _RING, _LEAST_RISE = (0.24, 0.28, 0.32, 0.36, 0.4, 0.45, 0.5, 0.56), 0.14, 2.5


@dataclass(frozen=True)
class IrisPlace:
    """One iris: its middle and radius in pixels of the original, the pupil's part of the radius, and
    the CIELAB of its pattern.
    """

    x: float
    y: float
    radius: float
    pupil: float
    lab: tuple[float, float, float]


@dataclass(frozen=True)
class IrisLook:
    """How much of each, 0..1 (``rim`` and ``depth`` either way); ``ceiling`` in L*,
    which ``beyond`` lets go of, as it does of the limit to chroma.

    ``hue`` in degrees is where ``recolour`` turns the pattern's hue to; ``even`` brings both irises to
    each other.
    """

    lighter: float
    richer: float
    depth: float
    crisp: float
    rim: float
    pupil: float
    catchlight: float
    even: float
    recolour: float
    hue: float
    ceiling: float
    beyond: bool = False


def most_chroma(place: IrisPlace) -> float:
    """The chroma that a pattern stays below unless it may go beyond, C*."""
    own = float(np.hypot(*place.lab[1:]))
    return max(MOST_NATURAL * own, own + _LEAST_ROOM)


def reach(radius: float) -> int:
    """Pixels around a place that `changed` looks at."""
    return blur_reach(_WHOLE * radius)


def changed(
    image: Working, rect: Rect, scale: float, look: IrisLook, places: Sequence[IrisPlace]
) -> Working:
    """Working values of an image over ``rect`` (pixels of a level) with its irises changed.

    ``scale``: pixels of the level per pixel of the original.
    """
    out = image.copy()
    for place in places:
        x, y, radius = place.x * scale, place.y * scale, place.radius * scale
        if radius < 1:
            continue
        half = int(np.ceil(_END[1] * radius)) + 1
        # Blurs look around it.
        own = Rect(int(x) - half, int(y) - half, int(x) + half + 2, int(y) + half + 2)
        wide = own.grow(reach(radius)).clip(rect)
        own = own.clip(rect)
        if own.empty:
            continue
        part = np.ascontiguousarray(image[wide.within(rect)])
        done = _one(part, (x - wide.x0, y - wide.y0, radius), look, place, places)
        out[own.within(rect)] = done[own.within(wide)]
    return out


def _one(
    image: Working,
    at: tuple[float, float, float],
    look: IrisLook,
    place: IrisPlace,
    places: Sequence[IrisPlace],
) -> Working:
    x, y, radius = at
    before = to_lab(image)
    ys, xs = np.ogrid[: image.shape[0], : image.shape[1]]
    away = np.asarray(np.hypot(xs + (0.5 - x), ys + (0.5 - y)) / radius, np.float32)
    whole = 1 - step_between(away, *_END)
    glint = step_between(before[..., 0] - np.float32(place.lab[0]), *_GLINT)
    pupil = 1 - step_between(away, place.pupil - _PUPIL_SOFT, place.pupil + _PUPIL_SOFT)
    rim = step_between(away, *_RIM) * whole
    pattern = whole * (1 - pupil) * (1 - glint)
    light, a, b = parts_of(before)
    if look.even and len(places) > 1:
        mean = np.mean([p.lab for p in places], 0)
        part = np.float32(look.even) * pattern
        light, a, b = (
            c + part * np.float32(m - o)
            for c, m, o in zip((light, a, b), mean, place.lab, strict=True)
        )
    if look.depth or look.crisp:
        # The catchlight has no part in what is blurred, or its glow would become contrast.
        calm = light + glint * (np.float32(place.lab[0]) - light)
        fibre = blurred(calm, _FIBRE * radius)
        bundle, broad = blurred(calm, _BUNDLE * radius), blurred(calm, _WHOLE * radius)
        deep = np.float32(look.depth * _MOST_DEPTH) * (bundle - broad)
        crisp = np.float32(look.crisp) * (
            np.float32(_MOST_CRISP) * (fibre - bundle) + np.float32(_FINE_CRISP) * (calm - fibre)
        )
        # A rim and a pupil have their own amounts.
        light = light + pattern * (1 - rim) * (deep + crisp)
    if look.lighter:
        light = light + pattern * (1 - rim) * (
            lifted(light, look.lighter, look.ceiling, _FADE) - light
        )
    if look.richer:
        more = 1 + np.float32(look.richer * _MOST_RICHER) * pattern
        was = np.hypot(a, b)
        a, b = a * more, b * more
        if not look.beyond:
            a, b = calmed(a, b, was, most_chroma(place))
    if look.recolour:
        own = np.arctan2(place.lab[2], place.lab[1])
        turn = (np.radians(look.hue) - own + np.pi) % (2 * np.pi) - np.pi
        c, s = np.float32(np.cos(turn)), np.float32(np.sin(turn))
        part = np.float32(look.recolour) * pattern
        turned = np.asarray(c * a - s * b, np.float32), np.asarray(s * a + c * b, np.float32)
        a, b = a + part * (turned[0] - a), b + part * (turned[1] - b)
    if look.rim:
        dark = rim * (1 - glint) * step_between(light, 4.0, 30.0)
        light = np.asarray(light - np.float32(look.rim * _MOST_RIM) * dark, np.float32)
    if look.pupil:
        part = np.float32(look.pupil * (1 - _PUPIL_LEFT)) * pupil * (1 - glint)
        light, a, b = (np.asarray(c * (1 - part), np.float32) for c in (light, a, b))
    if look.catchlight:
        part = np.float32(look.catchlight) * glint * whole
        light = light + part * np.maximum(np.float32(98.0) - light, 0)
    return shifted(image, before, np.dstack([light, a, b]))


def find_pupil(
    light: Array, x: float, y: float, radius: float
) -> tuple[float, float, float] | None:
    """The pupil of an iris: its middle and radius, in pixels; None where none stands out.

    The disc that is darker than the ring around it by most. Lids hide more of an iris above than
    below, so a circle laid along what is seen of its rim lies too low; a pupil is seen whole as a rule.

    Parameters
    ----------
    light : ndarray (h, w)
        L* around the iris.
    x, y, radius : float
        Of the iris as it was found, in pixels of the array.
    """
    size = _PUPIL_SIZE / max(radius, 1.0)
    small = cv2.resize(light, None, fx=size, fy=size, interpolation=cv2.INTER_AREA)
    h, w = small.shape
    ys, xs = np.mgrid[:h, :w]
    right, down = (xs + 0.5) / size - x, (ys + 0.5) / size - y
    allowed = (
        (np.abs(right) < _ASIDE * radius) & (down > -_ABOVE * radius) & (down < _BELOW * radius)
    )
    if not allowed.any():
        return None
    # Catchlights within a pupil or beside it don't count.
    near = np.hypot(right, down) < radius
    calm = np.minimum(small, np.quantile(small[near], 0.75) if near.any() else 100.0)
    best: tuple[float, float, float, float] | None = None
    for part in _PUPILS:
        inner, outer = part * _PUPIL_SIZE, (part + _RING) * _PUPIL_SIZE
        reach = int(np.ceil(outer))
        ky, kx = np.mgrid[-reach : reach + 1, -reach : reach + 1]
        away = np.hypot(kx, ky)
        inside, ring = (away <= inner - 0.5), (away > inner + 0.5) & (away <= outer)
        kernel = ring / ring.sum() - inside / inside.sum()
        rise = cv2.filter2D(calm.astype(np.float32), -1, kernel, borderType=cv2.BORDER_REPLICATE)
        rise[~allowed] = -np.inf
        at = np.unravel_index(int(rise.argmax()), rise.shape)
        found = float(rise[at])
        if best is None or found > best[0]:
            best = (found, (at[1] + 0.5) / size, (at[0] + 0.5) / size, part * radius)
    assert best is not None
    return best[1:] if best[0] > _LEAST_RISE else None


def pattern_of(lab: Lab, away: Array, pupil: float) -> tuple[float, float, float] | None:
    """The CIELAB of an iris' pattern: the middle of what lies between pupil and rim; None: nothing.

    Parameters
    ----------
    lab : ndarray (h, w, 3)
    away : ndarray (h, w)
        From the iris' middle, in radii; places that aren't seen beyond 1.
    """
    inside = (away > pupil + 0.1) & (away < 0.85)
    if inside.sum() < 4:
        return None
    seen = lab[inside]
    # Glints are the lightest part.
    seen = seen[seen[:, 0] <= np.quantile(seen[:, 0], 0.85)]
    light, a, b = np.median(seen, 0)
    return float(light), float(a), float(b)
