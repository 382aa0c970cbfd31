"""Patterns of cloth and backgrounds, drawn or taken from pictures that ship in scikit-image."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import cv2
import numpy as np
import skimage.data
from numpy.typing import NDArray

Array = NDArray[Any]

# Pictures without people (each under a free licence, stated in its docstring).
_PICTURES = ("coffee", "cat", "rocket", "brick", "grass", "gravel", "coins", "hubble_deep_field")


def noise(shape: tuple[int, int], octaves: int, coarse: float, rng: np.random.Generator) -> Array:
    """Smooth noise, about -1..1: octaves from ``coarse`` pixels down."""
    out = np.zeros(shape, np.float32)
    for k in range(octaves):
        step = max(coarse / 2**k, 1.0)
        size = (max(2, int(shape[1] / step) + 2), max(2, int(shape[0] / step) + 2))
        small = rng.normal(0, 1, (size[1], size[0])).astype(np.float32)
        out += cv2.resize(small, (shape[1], shape[0]), interpolation=cv2.INTER_CUBIC) / 2**k
    return out


def pattern(shape: tuple[int, int], colour: NDArray[np.float64], rng: np.random.Generator) -> Array:
    """Cloth of a colour: plain, striped, checked, dotted or printed; (h, w, 3) 0..1."""
    ys, xs = np.mgrid[: shape[0], : shape[1]].astype(np.float32)
    angle = rng.uniform(0, np.pi)
    along = xs * np.cos(angle) + ys * np.sin(angle)
    across = ys * np.cos(angle) - xs * np.sin(angle)
    period = rng.uniform(3, 40)
    kind = rng.integers(5)
    if kind == 0:
        share = np.zeros(shape, np.float32)
    elif kind == 1:
        share = (np.sin(2 * np.pi * along / period) > rng.uniform(-0.6, 0.6)).astype(np.float32)
    elif kind == 2:
        share = 0.5 * (np.sin(2 * np.pi * along / period) > 0.2)
        share = share + 0.5 * (np.sin(2 * np.pi * across / period) > 0.2)
    elif kind == 3:
        dots = np.sin(2 * np.pi * along / period) * np.sin(2 * np.pi * across / period)
        share = (dots > 0.4).astype(np.float32)
    else:
        share = (noise(shape, 3, rng.uniform(8, 50), rng) > 0.3).astype(np.float32)
    other = np.clip(colour + rng.normal(0, 0.3, 3), 0, 1)
    mixed = colour * (1 - share[..., None]) + other * share[..., None]
    grain = 1 + rng.uniform(0, 0.12) * noise(shape, 2, 3, rng)
    return np.asarray(np.clip(mixed * grain[..., None], 0, 1), np.float32)


@lru_cache(maxsize=1)
def _pictures() -> list[Array]:
    out = []
    for name in _PICTURES:
        try:
            found = getattr(skimage.data, name)()
        except Exception:  # pictures that don't ship in the wheel would have to be fetched
            continue
        if found.ndim == 2:
            found = np.repeat(found[..., None], 3, 2)
        out.append(found[..., :3].astype(np.float32) / 255)
    return out


def wallpaper(shape: tuple[int, ...], rng: np.random.Generator) -> Array:
    """Something behind a person, (h, w, 3) 0..1: plain, graded, drawn, or of a picture."""
    h, w = shape[0], shape[1]
    kind = rng.random()
    out: Array
    if kind < 0.25:
        out = np.broadcast_to(rng.uniform(0, 1, 3), (h, w, 3)).astype(np.float32)
        slope = np.linspace(rng.uniform(0.5, 1), rng.uniform(0.5, 1), h, dtype=np.float32)
        out = out * slope[:, None, None]
    elif kind < 0.4:
        # Wood, sand and walls are near the colour of skin.
        tone = np.array([0.8, 0.6, 0.47]) * rng.uniform(0.3, 1.2) + rng.normal(0, 0.04, 3)
        out = tone * (1 + 0.15 * noise((h, w), 3, rng.uniform(10, 100), rng))[..., None]
    elif kind < 0.65:
        out = np.stack([noise((h, w), 4, rng.uniform(20, 200), rng) for _ in range(3)], -1)
        out = 0.5 + 0.25 * out * rng.uniform(0.3, 1) + rng.normal(0, 0.2, 3)
        if rng.random() < 0.5:
            for _ in range(int(rng.integers(2, 14))):
                a, b = rng.integers(0, [w, h]), rng.integers(0, [w, h])
                out = np.ascontiguousarray(out, np.float32)
                cv2.rectangle(out, a.tolist(), b.tolist(), rng.uniform(0, 1, 3).tolist(), -1)
    else:
        pictures = _pictures()
        out = pictures[rng.integers(len(pictures))]
        side = rng.uniform(0.4, 1)
        ch, cw = max(8, int(out.shape[0] * side)), max(8, int(out.shape[1] * side))
        y, x = rng.integers(0, out.shape[0] - ch + 1), rng.integers(0, out.shape[1] - cw + 1)
        out = cv2.resize(out[y : y + ch, x : x + cw], (w, h), interpolation=cv2.INTER_LINEAR)
        out = out[..., rng.permutation(3)] if rng.random() < 0.3 else out
    if rng.random() < 0.6:
        out = cv2.GaussianBlur(np.ascontiguousarray(out, np.float32), (0, 0), rng.uniform(1, 12))
    return np.asarray(np.clip(out, 0, 1), np.float32)
