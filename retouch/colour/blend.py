"""Blend modes of the W3C recommendation *Compositing and Blending Level 1*, sections 10.1, 10.2.

``below`` is the backdrop Cb, ``above`` the source Cs of that text; both (..., 3) float32, 0..1.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float32]
Blend = Callable[[Array, Array], Array]

_LUM = np.array([0.3, 0.59, 0.11], np.float32)


def _soft_light(below: Array, above: Array) -> Array:
    root = np.where(
        below <= 0.25, ((16 * below - 12) * below + 4) * below, np.sqrt(np.maximum(below, 0))
    )
    return np.asarray(
        np.where(
            above <= 0.5,
            below - (1 - 2 * above) * below * (1 - below),
            below + (2 * above - 1) * (root - below),
        ),
        np.float32,
    )


def _lum(c: Array) -> Array:
    return np.asarray(c @ _LUM, np.float32)[..., None]


def _clip_colour(c: Array) -> Array:
    lum, low, high = _lum(c), c.min(-1, keepdims=True), c.max(-1, keepdims=True)
    with np.errstate(divide="ignore", invalid="ignore"):
        c = np.where(low < 0, lum + (c - lum) * lum / (lum - low), c)
        c = np.where(high > 1, lum + (c - lum) * (1 - lum) / (high - lum), c)
    return np.asarray(np.nan_to_num(c), np.float32)


def _set_lum(c: Array, lum: Array) -> Array:
    return _clip_colour(c + (lum - _lum(c)))


def _sat(c: Array) -> Array:
    return np.asarray(c.max(-1, keepdims=True) - c.min(-1, keepdims=True))


def _set_sat(c: Array, sat: Array) -> Array:
    low, spread = c.min(-1, keepdims=True), _sat(c)
    safe = np.where(spread > 0, spread, 1)
    return np.asarray(np.where(spread > 0, (c - low) * sat / safe, 0), np.float32)


MODES: dict[str, Blend] = {
    "normal": lambda b, s: s,
    "multiply": lambda b, s: b * s,
    "screen": lambda b, s: b + s - b * s,
    "darken": np.minimum,
    "lighten": np.maximum,
    "soft-light": _soft_light,
    "hue": lambda b, s: _set_lum(_set_sat(s, _sat(b)), _lum(b)),
    "saturation": lambda b, s: _set_lum(_set_sat(b, _sat(s)), _lum(b)),
    "colour": lambda b, s: _set_lum(s, _lum(b)),
    "luminosity": lambda b, s: _set_lum(b, _lum(s)),
}


def _hard_light(below: Array, above: Array) -> Array:
    return np.asarray(
        np.where(above <= 0.5, 2 * below * above, 1 - 2 * (1 - below) * (1 - above)), np.float32
    )


def _colour_dodge(below: Array, above: Array) -> Array:
    share = below / np.maximum(1 - above, np.float32(1e-9))
    return np.asarray(np.where(below <= 0, 0, np.minimum(share, 1)), np.float32)


def _colour_burn(below: Array, above: Array) -> Array:
    share = (1 - below) / np.maximum(above, np.float32(1e-9))
    return np.asarray(np.where(below >= 1, 1, 1 - np.minimum(share, 1)), np.float32)


# What layers in files have besides; passes do without.
IN_FILES: dict[str, Blend] = {
    "overlay": lambda b, s: _hard_light(s, b),
    "hard-light": _hard_light,
    "colour-dodge": _colour_dodge,
    "colour-burn": _colour_burn,
    "difference": lambda b, s: np.abs(b - s),
    "exclusion": lambda b, s: b + s - 2 * b * s,
}


def blend(mode: str, below: Array, above: Array) -> Array:
    """The blended colour B(Cb, Cs) of a mode's name (a key of MODES or IN_FILES)."""
    return (MODES.get(mode) or IN_FILES[mode])(below, above)
