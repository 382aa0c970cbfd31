"""Redness: found as departure from this person's own skin towards red, and taken back."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab, Working
from retouch.colour.lab import to_lab
from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.skin.colour import (
    LIT,
    SHADE,
    beside_light_skin,
    moved,
    shade,
)
from retouch.skin.own import OwnSkin, own_skin
from retouch.skin.smooth import (
    Cells,
    blurred_cells,
    cells_of,
    factor_of,
    places_near,
    soft,
    soft_reach_of,
    spread_at,
)
from retouch.steps import smooth_step

Array = NDArray[np.float32]

# Over so many units beyond the tolerance redness comes to count fully, on light skin.
_WIDTH = 4.0
# L* that blood takes from skin for each unit of a* it brings: what haemoglobin absorbs most is green
# light, which is most of lightness (fitted to the demo portraits: 0.55 to 0.92).
_BLOOD_DARK = 0.75
# Blood makes skin hardly yellower: what is so much yellower than the skin at its lightness counts as
# less red by what is beyond, so that orange cloth beside the skin isn't taken for flushed skin.
_YELLOWER = 7.0
# Redness is also measured over so much smaller places; it counts as found over the usual ones where
# both agree to 3/4, and as found over the smaller ones where these have less than 1/4 of it.
_CLOSE, _SAME = 0.35, 0.5
# Where light falls off, skin is redder than in light and in shade: light that has wandered through it
# comes out red (subsurface scattering: H. W. Jensen et al., *A Practical Model for Subsurface Light
# Transport*, SIGGRAPH 2001). From so many L* a millimetre on that counts, twice as many are no redness;
# measured over so much (sigma in millimetres) that no spot is a fall-off.
_FALL_OFF, _FALL_MM = 3.0, 2.0
# A form of some size is halved by a blur with this part of the size as its sigma; redness is measured
# over places of so many pixels of it at least.
_SIGMA_OF_SIZE, _LEAST_SIGMA = 0.5, 0.3


def erythema(lab: Lab, skin: Array) -> Array:
    """How much redder than the person's skin each colour is, in units of a*.

    a* as the measure of erythema: the CIE L*a*b* a* of skin rises in proportion to the
    haemoglobin index (N. Kollias, *The physical basis of skin color and its evaluation*, Clinics
    in Dermatology 13, 1995; from memory). Skin in shade is less saturated in a*, so the person's
    own a* is taken in proportion to lightness.
    """
    return np.asarray(lab[..., 1] - skin[..., 1] * shade(lab[..., 0], skin), np.float32)


def less_red(
    image: Working,
    rect: Rect,
    px_per_mm: float,
    skin: Array | OwnSkin,
    amount: float,
    tolerance: float = 7.0,
    floor: float = 0.6,
    size_mm: float = 2.0,
    inner: Rect | None = None,
    lift: float = 0.0,
    around: Cells | None = None,
) -> Array:
    """The image with redness taken back.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded; it covers ``rect``.
    skin : ndarray (3,) or OwnSkin
        CIELAB of the person's clean skin.
    amount : float
        0..1: how much of the departure is taken back.
    tolerance : float
        Units of a* that are the skin's own variety on light skin; on dark skin, where the same
        blood changes colour by less, in proportion to (L* + 16), as CIE 15 has L*.
    floor : float
        Part of the skin's own chroma that is never gone below: grey is worse than red.
    size_mm : float
        Redness is measured over places of about this size, so that pores and fine veins of
        colour keep what makes skin look like skin.
    inner : Rect, optional
        The part of ``rect`` that is given back; otherwise all of it.
    lift : float
        0..1: how much of the dark that blood brings goes with its colour. With 0 lightness stays
        as it was.
    around : Cells, optional
        What is further around it, if that isn't in ``rect``.

    Returns
    -------
    ndarray (h, w, 3) float32
    """
    inner = inner or rect
    out = np.array(image[inner.within(rect)], np.float32)
    sigma = _sigma(px_per_mm, size_mm)
    seen = cells_of(image, rect, factor_of(sigma), around, inner.grow(reach(px_per_mm, size_mm)))
    cells, factor = seen.rect, seen.factor
    own = own_skin(skin)
    there = own.over(cells, factor)
    per = min(beside_light_skin(float(own.base[0])), 1.0)
    small = to_lab(seen.image)
    wide, close = (blurred_cells(small, s, factor) for s in (sigma, _CLOSE * sigma))
    field = _of_blood(wide, close, there, _YELLOWER * per)
    redder = np.maximum(erythema(field, there), 0)
    field[..., 1] -= _by_light(wide, cells, px_per_mm / factor) * redder
    how = amount, tolerance * per, _WIDTH * per, floor, lift
    x0, y0 = inner.x0 - cells.x0 * factor, inner.y0 - cells.y0 * factor
    # Most of a face isn't red: only what can be is looked at pixel by pixel.
    h, w = out.shape[:2]
    places = places_near(_reddish(field, there, how[1]), x0, y0, h, w, factor)
    if not len(places):
        return out
    beside = spread_at(field, cells, inner, factor, places)
    colour = there if there.size == 3 else spread_at(there, cells, inner, factor, places)
    picked = out.reshape(-1, 3)
    own_lab = to_lab(picked[places][None])
    change = _taken_back(own_lab, beside, colour, *how)
    picked[places] = moved(picked[places][None], change, own_lab)[0]
    return out


def _of_blood(wide: Array, close: Array, skin: Array, yellower: float) -> Array:
    """Of two fields over cells what can be blood's colour.

    Where the places close by are far less red than those around, red comes from beside the skin,
    as next to a lip: there the close ones count.
    """
    around = np.maximum(erythema(wide, skin), np.float32(1e-3))
    alike = np.asarray(erythema(close, skin) / around / _SAME - 0.5, np.float32)
    share = smooth_step(alike)[..., None]
    field = close + share * (wide - close)
    beyond = field[..., 2] - skin[..., 2] * shade(field[..., 0], skin) - np.float32(yellower)
    field[..., 1] -= np.maximum(beyond, 0)
    return field


def _by_light(wide: Array, cells: Rect, cells_per_mm: float) -> Array:
    """How much redness is there because light falls off, (h, w) 0..1."""
    light = soft(wide[..., :1], cells, _FALL_MM * cells_per_mm)
    across = cv2.Scharr(light, cv2.CV_32F, 1, 0, scale=cells_per_mm / 32)
    down = cv2.Scharr(light, cv2.CV_32F, 0, 1, scale=cells_per_mm / 32)
    return smooth_step(np.asarray(np.hypot(across, down) / _FALL_OFF - 1, np.float32))


def _reddish(field: Array, skin: Array, tolerance: float) -> NDArray[np.bool_]:
    """Cells that can make a place between them and their neighbours red.

    Between cells a* is at most the higher of theirs, and as much of it is the skin's own as the
    darkest of them has.
    """
    darkest = cv2.erode(np.ascontiguousarray(field[..., 0]), np.ones((3, 3), np.uint8))
    least = np.stack([darkest, field[..., 1]], -1)
    return erythema(least, skin) > tolerance


@compiled
def _taken_back(
    lab: Lab, field: Array, skin: Array, amount: float, tolerance: float, width: float,
    floor: float, lift: float,
) -> Array:  # fmt: skip
    """The change of each pixel in CIELAB: towards the person's hue, and up by what blood took."""
    h, w, _ = lab.shape
    out = np.zeros((h, w, 3), np.float32)
    one = np.float32(1)
    dark = np.float32(lift) * np.float32(_BLOOD_DARK)
    even = skin.shape[0] == 1 and skin.shape[1] == 1
    for i in range(h):
        for j in range(w):
            si, sj = (0, 0) if even else (i, j)
            red, yellow = skin[si, sj, 1], skin[si, sj, 2]
            light = one / max(skin[si, sj, 0], one)
            expected = min(max(field[i, j, 0] * light, np.float32(SHADE)), np.float32(LIT))
            t = (field[i, j, 1] - red * expected - np.float32(tolerance)) / np.float32(width)
            if t <= 0:
                continue
            # Lighter skin has more a* of its own: what goes is less by as much as the lightening
            # gives back.
            part_of = one / (one + dark * red * light)
            own = np.float32(floor) * np.sqrt(red * red + yellow * yellow)
            t = min(t, one)
            share = np.float32(amount) * t * t * (np.float32(3) - np.float32(2) * t)
            a = part_of * (red * expected - field[i, j, 1])
            b = share * (yellow * (expected - dark * a * light) - field[i, j, 2])
            a *= share
            before = np.sqrt(lab[i, j, 1] ** 2 + lab[i, j, 2] ** 2)
            after = np.sqrt((lab[i, j, 1] + a) ** 2 + (lab[i, j, 2] + b) ** 2)
            least = min(own * expected, before)
            if after < least:
                # Only as far as the floor lets it: where the way to the new colour first meets
                # the circle of the least chroma.
                long = a * a + b * b
                along = lab[i, j, 1] * a + lab[i, j, 2] * b
                inside = along * along - long * (before * before - least * least)
                part = (-along - np.sqrt(max(inside, np.float32(0)))) / max(long, np.float32(1e-9))
                part = min(max(part, np.float32(0)), one)
                a *= part
                b *= part
            out[i, j, 0] = dark * max(-a, np.float32(0))
            out[i, j, 1] = a
            out[i, j, 2] = b
    return out


def _sigma(px_per_mm: float, size_mm: float) -> float:
    return max(_SIGMA_OF_SIZE * size_mm * px_per_mm, _LEAST_SIGMA)


def cell(px_per_mm: float, size_mm: float) -> int:
    """Pixels to a side of the cells on which redness is found."""
    return factor_of(_sigma(px_per_mm, size_mm))


def reach(px_per_mm: float, size_mm: float) -> int:
    """Pixels around a place that count."""
    sigma, factor = _sigma(px_per_mm, size_mm), cell(px_per_mm, size_mm)
    return soft_reach_of(sigma) + factor * (soft_reach_of(_FALL_MM * px_per_mm / factor) + 1)
