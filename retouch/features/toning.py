"""What all passes on features share: lifting under a ceiling, and laying a change of colour."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab
from retouch.steps import step_between

Array = NDArray[np.float32]

# The most that lightness is lifted (L*), and over how much below the ceiling a lift fades out as a rule.
# Their ratio is the most of local contrast that a lift takes: 0.4.
MOST_LIFT, FADE = 16.0, 40.0
# Darker than the first of these (L*) nothing is lifted, from the second on all: lashes, the shade of a
# lid and the dark of the mouth stay.
_DARK, _LIT = 12.0, 34.0
# So much of the room below a ceiling is free; what goes further gets less the nearer it comes.
_FREE = 0.5
# What is lighter than a neutral has so much more of the light's tint at most.
_MOST_TINT = 1.2


def lifted(light: Array, amount: float, ceiling: float, fade: float = FADE) -> Array:
    """Lightness (L*, any shape) lifted by at most ``amount`` (0..1) of `MOST_LIFT`.

    Nothing is lifted above ``ceiling``, and what lies above it already stays. The lift fades out over
    the last ``fade`` below it, which takes ``amount * MOST_LIFT / fade`` of local contrast.
    """
    room = np.clip((np.float32(ceiling) - light) / np.float32(fade), 0, 1)
    return np.asarray(
        light + np.float32(amount * MOST_LIFT) * room * step_between(light, _DARK, _LIT), np.float32
    )


def within(gain: Array, room: Array | np.float32) -> Array:
    """Gains (0 and more) that stay below ``room`` (0 and more), both of any shape that fits.

    Up to half of the room they are whole, the rest is neared and never reached: no edge where it ends.
    """
    free = np.float32(_FREE) * room
    soft = room - free
    over = np.maximum(gain - free, 0)
    return np.asarray(
        np.minimum(gain, free) + soft * (1 - np.exp(-over / np.maximum(soft, np.float32(1e-6)))),
        np.float32,
    )


def tint_of(light: Array, neutral: tuple[float, float, float]) -> tuple[Array, Array]:
    """a* and b* that something grey of these L* has in a light that makes a neutral ``neutral`` (CIELAB).

    In proportion to its lightness, as in a picture of even light.
    """
    share = np.clip(light / np.float32(max(neutral[0], 1.0)), 0, _MOST_TINT)
    return share * np.float32(neutral[1]), share * np.float32(neutral[2])


def beside(own: tuple[float, float, float], neutral: tuple[float, float, float]) -> float:
    """The chroma of a colour (CIELAB) beside what is grey in its light."""
    a, b = tint_of(np.array([own[0]], np.float32), neutral)
    return float(np.hypot(own[1] - a[0], own[2] - b[0]))


def calmed(a: Array, b: Array, was: Array, most: Array | float) -> tuple[Array, Array]:
    """a* and b* whose chroma gains on ``was`` (the chroma before) no more than up to ``most`` (C*).

    Their hue stays, and so does what lost chroma or lay beyond it already.
    """
    size = np.hypot(a, b)
    gain = np.maximum(size - was, 0)
    held = within(gain, np.maximum(np.asarray(most, np.float32) - was, 0))
    keep = np.where(gain > 0, (was + held) / np.maximum(size, 1e-6), 1).astype(np.float32)
    return a * keep, b * keep


def taken_back(values: Array, to: float, part: float) -> Array:
    """Values above ``to`` brought so far (0..1) back to it; others stay."""
    return np.asarray(values - np.float32(part) * np.maximum(values - np.float32(to), 0))


def parts_of(lab: Lab) -> tuple[Array, Array, Array]:
    """L*, a* and b* of an image (h, w, 3), each in one piece."""
    light, a, b = (np.ascontiguousarray(lab[..., k], np.float32) for k in range(3))
    return light, a, b


def blurred(values: Array, sigma: float) -> Array:
    """A Gaussian blur; below a fifth of a pixel nothing happens."""
    if sigma < 0.2:
        return values
    return np.asarray(
        cv2.GaussianBlur(values, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE), np.float32
    ).reshape(values.shape)


def blur_reach(sigma: float) -> int:
    """Pixels around a place that `blurred` looks at."""
    return int(np.ceil(4 * sigma)) + 1
