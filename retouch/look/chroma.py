"""Saturation, and one colour shifted: in OKLab, where hue stays while the rest changes.

References
----------
B. Ottosson, "A perceptual color space for image processing", 2020 (OKLab and its matrices).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.linear import BY_ROOT, DECODED, decode, encode
from retouch.compiled import compiled

Array = NDArray[np.float32]

_TO_LMS = np.array(
    [[0.4122214708, 0.5363325363, 0.0514459929], [0.2119034982, 0.6806995451, 0.1073969566],
     [0.0883024619, 0.2817188376, 0.6299787005]], np.float32,
)  # fmt: skip
_TO_LAB = np.array(
    [[0.2104542553, 0.7936177850, -0.0040720468], [1.9779984951, -2.4285922050, 0.4505937099],
     [0.0259040371, 0.7827717662, -0.8086757660]], np.float32,
)  # fmt: skip
_FROM_LAB = np.linalg.inv(_TO_LAB.astype(np.float64)).astype(np.float32)
_FROM_LMS = np.linalg.inv(_TO_LMS.astype(np.float64)).astype(np.float32)
# Colours as rich as this are spared by the gentle saturation; skin of all tones has hues about the
# middle one (radians), as wide (from memory of the CIELAB hues of skin, 35 to 70 degrees).
_RICH = 0.22
_SKIN_HUE, _SKIN_WIDTH = np.float32(np.radians(52)), np.float32(np.radians(34))
# Greys have no hue: a shift fades in up to this chroma.
_GREY = 0.02


def oklab(linear: NDArray[np.floating]) -> NDArray[np.float64]:  # type: ignore[type-arg]
    """OKLab of linear light of sRGB's primaries, (..., 3)."""
    lms = np.cbrt(np.asarray(linear, np.float64) @ _TO_LMS.T)
    return np.asarray(lms @ _TO_LAB.T, np.float64)


def saturated(image: Working, amount: float, gentle: float) -> Working:
    """Colours richer or poorer, their hue and OKLab lightness kept.

    Parameters
    ----------
    amount : float
        -1 (grey) .. 1 (twice as rich), for all colours.
    gentle : float
        The same, less for skin and for what is rich already.
    """
    out = np.array(image, np.float32)
    flat = out.reshape(-1, 3)
    _saturate(
        flat, np.float32(amount), np.float32(gentle), _TO_LMS, _TO_LAB, _FROM_LAB, _FROM_LMS,
        DECODED, BY_ROOT,
    )  # fmt: skip
    return out


def shifted(
    image: Working, hue: float, width: float, light: tuple[float, float], softness: float,
    turn: float, richer: float, lighter: float,
) -> Working:  # fmt: skip
    """Colours around a hue shifted.

    Parameters
    ----------
    hue, width : float
        OKLab hue of the middle and how far to both sides it goes, degrees.
    light : (low, high)
        OKLab lightnesses 0..1 that count.
    softness : float
        Part of the width over which it fades, 0..1.
    turn : float
        Degrees of hue.
    richer, lighter : float
        -1..1: of chroma, and of lightness (a third of the way to white or black).
    """
    out = np.array(image, np.float32)
    numbers = (
        np.radians(hue),
        np.radians(width),
        *light,
        softness,
        np.radians(turn),
        richer,
        lighter,
    )
    given = np.array(numbers, np.float32)
    _shift(out.reshape(-1, 3), given, _TO_LMS, _TO_LAB, _FROM_LAB, _FROM_LMS, DECODED, BY_ROOT)
    return out


@compiled
def _times(m: Array, a: np.float32, b: np.float32, c: np.float32, k: int) -> np.float32:
    return m[k, 0] * a + m[k, 1] * b + m[k, 2] * c


@compiled
def _into(p: Array, to_lms: Array, to_lab: Array, decoding: Array, lab: Array) -> None:
    r, g, b = decode(p[0], decoding), decode(p[1], decoding), decode(p[2], decoding)
    x = np.cbrt(_times(to_lms, r, g, b, 0))
    y = np.cbrt(_times(to_lms, r, g, b, 1))
    z = np.cbrt(_times(to_lms, r, g, b, 2))
    for k in range(3):
        lab[k] = _times(to_lab, x, y, z, k)


@compiled
def _back(lab: Array, from_lab: Array, from_lms: Array, encoding: Array, p: Array) -> None:
    x = _times(from_lab, lab[0], lab[1], lab[2], 0)
    y = _times(from_lab, lab[0], lab[1], lab[2], 1)
    z = _times(from_lab, lab[0], lab[1], lab[2], 2)
    x, y, z = x * x * x, y * y * y, z * z * z
    for k in range(3):
        p[k] = encode(_times(from_lms, x, y, z, k), encoding)


@compiled
def _window(away: np.float32, width: np.float32, softness: np.float32) -> np.float32:
    """1 within a width, fading to 0 at its end over a part of it."""
    if away >= width:
        return np.float32(0)
    start = width * (np.float32(1) - softness)
    if away <= start:
        return np.float32(1)
    t = (width - away) / (width - start)
    return t * t * (np.float32(3) - np.float32(2) * t)


@compiled
def _saturate(
    pixels: Array, amount: np.float32, gentle: np.float32, to_lms: Array, to_lab: Array,
    from_lab: Array, from_lms: Array, decoding: Array, encoding: Array,
) -> None:  # fmt: skip
    lab = np.empty(3, np.float32)
    for i in range(len(pixels)):
        p = pixels[i]
        _into(p, to_lms, to_lab, decoding, lab)
        factor = np.float32(1) + amount
        if gentle != 0:
            chroma = np.sqrt(lab[1] * lab[1] + lab[2] * lab[2])
            poor = max(np.float32(1) - chroma / np.float32(_RICH), np.float32(0))
            away = abs(np.arctan2(lab[2], lab[1]) - _SKIN_HUE)
            skin = _window(away, _SKIN_WIDTH, np.float32(0.5))
            factor *= np.float32(1) + gentle * poor * (np.float32(1) - np.float32(0.85) * skin)
        lab[1] *= factor
        lab[2] *= factor
        _back(lab, from_lab, from_lms, encoding, p)


@compiled
def _shift(
    pixels: Array, given: Array, to_lms: Array, to_lab: Array, from_lab: Array, from_lms: Array,
    decoding: Array, encoding: Array,
) -> None:  # fmt: skip
    lab = np.empty(3, np.float32)
    hue, width, low, high = given[0], given[1], given[2], given[3]
    softness, turn, richer, lighter = given[4], given[5], given[6], given[7]
    whole = np.float32(2 * np.pi)
    half = (high - low) / np.float32(2)
    for i in range(len(pixels)):
        p = pixels[i]
        _into(p, to_lms, to_lab, decoding, lab)
        chroma = np.sqrt(lab[1] * lab[1] + lab[2] * lab[2])
        own = np.arctan2(lab[2], lab[1])
        away = abs(own - hue)
        away = min(away, whole - away)
        part = _window(away, width, softness)
        if part <= 0:
            continue
        part *= _window(abs(lab[0] - low - half), half + np.float32(0.03), np.float32(0.1))
        part *= min(chroma / np.float32(_GREY), np.float32(1))
        if part <= 0:
            continue
        chroma *= np.float32(1) + richer * part
        own += turn * part
        lab[1], lab[2] = chroma * np.cos(own), chroma * np.sin(own)
        end = np.float32(1) if lighter > 0 else np.float32(0)
        lab[0] += (end - lab[0]) * abs(lighter) * part / np.float32(3)
        _back(lab, from_lab, from_lms, encoding, p)
