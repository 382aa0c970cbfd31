"""A vignette: light that falls off, or grows, towards the corners of the framed picture."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.linear import decoded, encoded
from retouch.features.toning import step

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
    dx, dy = xs[None] - one.x * width, ys[:, None] - one.y * height
    across = np.hypot(dx / (0.5 * width), dy / (0.5 * height)) / np.sqrt(2)
    round_ = np.hypot(dx, dy) / (0.5 * np.hypot(width, height))
    r = (1 - one.form) * round_ + one.form * across
    full = one.size + max(one.soft, 0.01) * max(1.15 - one.size, 0.05)
    return step(np.asarray(r, np.float32), one.size, full)


def laid(image: Working, one: Vignette, share: Array) -> Working:
    """Working values (h, w, 3) with it; ``share`` (h, w) as `weight` gives it. In linear light."""
    if not one.amount:
        return image
    inside = np.clip(image, 0, 1).astype(np.float32)
    light = decoded(inside)
    if one.spare:
        bright = step(image.max(-1), _BRIGHT, _BRIGHTEST)
        share = share * (1 - np.float32(one.spare) * bright)
    gain = np.exp2(np.float32(_MOST_STOPS * one.amount) * share)[..., None]
    # Lighter comes nearer to white without reaching it.
    out = light * gain if one.amount < 0 else light * gain / (1 + light * (gain - 1))
    change = encoded(np.ascontiguousarray(out, np.float32)) - inside
    return np.asarray(np.where(share[..., None] > 0, image + change, image), np.float32)
