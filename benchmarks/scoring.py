"""How well a heal comes out, measured against the known truth of the demo portraits.

Inside a circle of 1.3 r around each blemish:

* tone: mean CIEDE2000 against the truth after both are blurred by a Gaussian of 3 px;
* texture: mean |ln(energy / energy of the truth)| over the bands 0-1, 1-2 and 2-4 px
  (differences of Gaussians of the grey picture, RMS inside the circle).

A plain difference of pixels would reward blur. Colour difference comes from scikit-image, so that
the score doesn't rest on our own formula.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from skimage.color import deltaE_ciede2000, rgb2lab

from retouch.colour.depth import to_float
from retouch.geometry import Rect
from retouch.picture import read

Array = NDArray[np.float32]

# Heals a spot of an image, in place.
Healer = Callable[[Array, "Spot"], None]

DEMO = Path(__file__).resolve().parent.parent / "demo"
PEOPLE = ("ana", "bela", "chi", "dan", "eli")
# With long hair, bare shoulders, a beard, collars, light from a side and of another colour.
EVERYONE = (*PEOPLE, "hana", "ivo", "kofi", "lia")
CIRCLE = 1.3
_BANDS = ((0, 1), (1, 2), (2, 4))


@dataclass(frozen=True)
class Spot:
    """A blemish: centre and radius with halo, pixels of the portrait."""

    x: float
    y: float
    r: float
    kind: str


@dataclass(frozen=True)
class Person:
    """A portrait as photographed and its truth, float32 0..1, with the scored blemishes."""

    name: str
    raw: Array
    keep: Array
    spots: list[Spot]


def _blur(a: Array, sigma: float) -> Array:
    return cv2.GaussianBlur(a, (0, 0), sigma) if sigma else a


def _window(x: float, y: float, half: int, shape: tuple[int, ...]) -> Rect:
    whole = Rect(0, 0, shape[1], shape[0])
    return Rect(int(x) - half, int(y) - half, int(x) + half, int(y) + half).clip(whole)


def _distance(rect: Rect, x: float, y: float) -> Array:
    xs = np.arange(rect.x0, rect.x1) + 0.5 - x
    ys = np.arange(rect.y0, rect.y1) + 0.5 - y
    return np.hypot(xs[None, :], ys[:, None])


def load(name: str) -> Person:
    """A demo person with the blemishes whose surroundings are healthy.

    Pimples and spots count whose ring (1.3 to 1.6 r) differs from the truth by a mean CIEDE2000
    below 2.5; in the others the surroundings themselves are blemished.
    """
    raw = to_float(read(DEMO / "portraits" / f"{name}.jpg").pixels)
    keep = to_float(read(DEMO / "truth" / f"{name}_keep.jpg").pixels)
    listed = json.loads((DEMO / "truth" / f"{name}.json").read_text())["blemishes"]
    spots = []
    for b in listed:
        if b["kind"] not in ("pimple", "spot"):
            continue
        spot = Spot(b["x"], b["y"], b["r"], b["kind"])
        rect = _window(spot.x, spot.y, int(2 * CIRCLE * spot.r + 12), raw.shape)
        cut = np.s_[rect.y0 : rect.y1, rect.x0 : rect.x1]
        d = _distance(rect, spot.x, spot.y)
        ring = (d > CIRCLE * spot.r) & (d < 1.6 * spot.r)
        if deltaE_ciede2000(rgb2lab(raw[cut][ring]), rgb2lab(keep[cut][ring])).mean() < 2.5:
            spots.append(spot)
    return Person(name, raw, keep, spots)


def score(result: Array, keep: Array, spot: Spot) -> tuple[float, float]:
    """Tone and texture error of one healed blemish; 0 is perfect."""
    rect = _window(spot.x, spot.y, int(CIRCLE * spot.r + 30), result.shape)
    cut = np.s_[rect.y0 : rect.y1, rect.x0 : rect.x1]
    have, want = np.ascontiguousarray(result[cut]), np.ascontiguousarray(keep[cut])
    inside = _distance(rect, spot.x, spot.y) <= CIRCLE * spot.r
    tone = deltaE_ciede2000(rgb2lab(_blur(have, 3)), rgb2lab(_blur(want, 3)))[inside].mean()
    grey_have, grey_want = (cv2.cvtColor(a, cv2.COLOR_RGB2GRAY) for a in (have, want))
    ratios = []
    for low, high in _BANDS:
        a = (_blur(grey_have, low) - _blur(grey_have, high))[inside]
        b = (_blur(grey_want, low) - _blur(grey_want, high))[inside]
        ratios.append(0.5 * np.log(np.square(a).mean() / np.square(b).mean()))
    return float(tone), float(np.abs(ratios).mean())


def small_of(person: Person, below: float) -> Person:
    """The person with the blemishes alone whose radius is less than so many pixels."""
    return replace(person, spots=[s for s in person.spots if s.r < below])


def score_all(person: Person, heal: Healer) -> tuple[float, float]:
    """Mean tone and texture error after healing every blemish in place, one after the other."""
    result = person.raw.copy()
    for spot in person.spots:
        heal(result, spot)
    scores = [score(result, person.keep, spot) for spot in person.spots]
    tone, texture = np.mean(scores, 0)
    return float(tone), float(texture)
