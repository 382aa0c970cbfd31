"""A vignette: light that falls off, or grows, towards the corners of the framed picture."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.linear import decoded, encoded
from retouch.compiled import compiled
from retouch.steps import step_between

Array = NDArray[np.float32]

# Stops of light at full amount, where it is strongest.
_MOST_STOPS = 3.0
# Lights are spared from the first of these on (encoded), wholly from the second.
_BRIGHT, _BRIGHTEST = 0.7, 0.95


@dataclass(frozen=True)
class Vignette:
    """``amount`` -1..1 (below 0 darker); it begins at ``size`` (0..1: middle to corner) and is full ``soft``
    (0..1) of the rest further out; ``form`` 0: a circle, 1: as the frame; ``x``, ``y`` its middle, 0..1 of
    the frame; ``spare`` 0..1 leaves lights as they are.
    """

    amount: float
    size: float
    soft: float
    form: float
    x: float = 0.5
    y: float = 0.5
    spare: float = 0.0


def weight(one: Vignette, xs: Array, ys: Array, width: int, height: int) -> Array:
    """How strong it is at places (columns, rows) of a framed picture, (rows, columns) 0..1."""
    full = one.size + max(one.soft, 0.01) * max(1.15 - one.size, 0.05)
    across, down = (np.asarray(v, np.float64) for v in (xs - one.x * width, ys - one.y * height))
    r = _distance(across, down, 0.5 * width, 0.5 * height, one.form)
    return step_between(r, one.size, full)


@compiled
def _distance(
    xs: NDArray[np.float64], ys: NDArray[np.float64], half_x: float, half_y: float, form: float
) -> Array:
    """How far places lie from the middle, (rows, columns): 1 in the corners of a frame about it."""
    out = np.empty((len(ys), len(xs)), np.float32)
    corner = np.sqrt(half_x * half_x + half_y * half_y)
    for i in range(len(ys)):
        for j in range(len(xs)):
            x, y = xs[j] / half_x, ys[i] / half_y
            across = np.sqrt((x * x + y * y) / 2)
            round_ = np.sqrt(xs[j] * xs[j] + ys[i] * ys[i]) / corner
            out[i, j] = (1 - form) * round_ + form * across
    return out


def laid(image: Working, one: Vignette, share: Array) -> Working:
    """Working values (h, w, 3) with it; ``share`` (h, w) as `weight` gives it. In linear light."""
    if not one.amount:
        return image
    inside = np.clip(image, 0, 1).astype(np.float32)
    light = decoded(inside)
    share = np.ascontiguousarray(share, np.float32)
    _exposed(light, inside, share, np.float32(_MOST_STOPS * one.amount), np.float32(one.spare))
    change = np.subtract(encoded(light), inside, out=inside)
    # What lies beyond 0..1 is moved with what it is clipped to.
    return np.asarray(image + change * (share > 0)[..., None], np.float32)


@compiled
def _exposed(
    light: Array, inside: Working, share: Array, stops: np.float32, spare: np.float32
) -> None:
    """Linear light (h, w, 3) exposed by so many stops where the share (h, w) is 1, in place."""
    h, w, _ = light.shape
    one, two, three = np.float32(1), np.float32(2), np.float32(3)
    per = one / np.float32(_BRIGHTEST - _BRIGHT)
    for i in range(h):
        for j in range(w):
            part = share[i, j]
            if part <= 0:
                continue
            top = max(inside[i, j, 0], inside[i, j, 1], inside[i, j, 2])
            t = min(max((top - np.float32(_BRIGHT)) * per, np.float32(0)), one)
            gain = np.exp2(stops * part * (one - spare * t * t * (three - two * t)))
            for k in range(3):
                value = light[i, j, k]
                # Lighter comes nearer to white without reaching it.
                rest = one if stops < 0 else one + value * (gain - one)
                light[i, j, k] = value * gain / rest
