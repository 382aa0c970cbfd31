"""A colour for lights and one for shadows; the picture without its colours, toned."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.lab import shifted, to_lab
from retouch.features.toning import parts_of
from retouch.steps import step_between

Array = NDArray[np.float32]

# Chroma at full amount (CIELAB).
_MOST_CHROMA = 40.0
# Lights and shadows pass into each other over so much to both sides of their middle (L*), which balance
# moves by so much.
_FADE, _SHIFT = 35.0, 30.0
# Towards black and white there is no room for colour: it fades over so much (L*).
_BLACK, _WHITE = 10.0, 7.0
# Hues (CIELAB, degrees) of the colours that mono makes lighter or darker, and by how much at most (L*).
HUES = {
    "reds": 25.0,
    "oranges": 58.0,
    "yellows": 92.0,
    "greens": 140.0,
    "blues": 275.0,
    "purples": 325.0,
}
_MOST_LIGHTER = 30.0
# A colour counts in full from this chroma on.
_COLOURFUL = 45.0


@dataclass(frozen=True)
class Tint:
    """A hue (degrees, CIELAB) and how much of it, 0..1."""

    hue: float
    amount: float

    @property
    def ab(self) -> tuple[np.float32, np.float32]:
        """a* and b* at its amount."""
        angle, chroma = np.radians(self.hue), _MOST_CHROMA * self.amount
        return np.float32(chroma * np.cos(angle)), np.float32(chroma * np.sin(angle))


def _room(light: Array) -> Array:
    return np.asarray(
        np.clip(light / _BLACK, 0, 1) * np.clip((100 - light) / _WHITE, 0, 1), np.float32
    )


def split_toned(image: Working, lights: Tint, shadows: Tint, balance: float) -> Working:
    """Working values (h, w, 3) with a colour added to lights and one to shadows; L* stays.

    ``balance`` -1..1: above 0 the lights' colour reaches further into the shadows.
    """
    before = to_lab(image)
    light, a, b = parts_of(before)
    middle = 50.0 - _SHIFT * balance
    upper = step_between(light, middle - _FADE, middle + _FADE)
    room = _room(light)
    (la, lb), (sa, sb) = lights.ab, shadows.ab
    a = a + room * (upper * la + (1 - upper) * sa)
    b = b + room * (upper * lb + (1 - upper) * sb)
    return shifted(image, before, np.dstack([light, a, b]))


def mono(
    image: Working, weights: tuple[float, float, float], by_hue: dict[str, float], tint: Tint
) -> Working:
    """Working values (h, w, 3) without colour.

    Parameters
    ----------
    weights : (red, green, blue)
        Parts of the encoded channels, brought to a sum of 1 where that is above 0. With 0.30, 0.59, 0.11 the
        result is the luminosity of W3C *Compositing and Blending Level 1*, 10.1.
    by_hue : mapping
        By names of `HUES`, -1..1: these colours come out lighter or darker.
    tint : Tint
        A colour laid over all of it.
    """
    share = np.asarray(weights, np.float32)
    total = float(share.sum())
    grey = image @ (share / np.float32(total) if total > 1e-6 else np.full(3, 1 / 3, np.float32))
    out = np.repeat(grey[..., None], 3, axis=2)
    changed = {n: v for n, v in by_hue.items() if v}
    if not changed and not tint.amount:
        return np.asarray(out, np.float32)
    before = to_lab(out)
    light, a, b = parts_of(before)
    if changed:
        _, own_a, own_b = parts_of(to_lab(image))
        hue = np.degrees(np.arctan2(own_b, own_a)) % 360
        rich = np.clip(np.hypot(own_a, own_b) / _COLOURFUL, 0, 1)
        for name, value in changed.items():
            lift = np.float32(value * _MOST_LIGHTER) * rich * _nearness(hue, name)
            light = np.clip(light + lift * np.clip(light / 20, 0, 1), 0, 100)
    if tint.amount:
        ta, tb = tint.ab
        room = _room(light)
        a, b = a + room * ta, b + room * tb
    return shifted(np.asarray(out, np.float32), before, np.dstack([light, a, b]))


def _nearness(hue: Array, name: str) -> Array:
    """1 at a colour's own hue, 0 at those of its neighbours; all of them together are 1 everywhere."""
    names = list(HUES)
    n = names.index(name)
    low, own, high = (HUES[names[(n + k) % len(names)]] for k in (-1, 0, 1))
    off = (hue - own + 180) % 360 - 180
    left, right = (own - low) % 360, (high - own) % 360
    return np.asarray(np.clip(np.where(off < 0, 1 + off / left, 1 - off / right), 0, 1), np.float32)
