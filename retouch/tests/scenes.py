"""Synthetic skin for tests: known tone, known texture, known edges."""

from __future__ import annotations

import numpy as np

from retouch.geometry import Rect
from retouch.heal import Footprint, heal, propose, write_rect


def skin(height=240, width=320, base=(0.78, 0.60, 0.52), grain=0.02, slope=0.0, seed=1):
    """Skin-coloured noise with texture of about 2 px, optionally darkening to the right."""
    rng = np.random.default_rng(seed)
    noise = rng.normal(0, 1, (height, width)).astype(np.float32)
    soft = (
        noise + np.roll(noise, 1, 0) + np.roll(noise, 1, 1) + np.roll(noise, (1, 1), (0, 1))
    ) / 2
    shade = 1 - slope * np.linspace(0, 1, width, dtype=np.float32)[None, :, None]
    image = np.asarray(base, np.float32) * shade + grain * soft[..., None]
    return np.clip(image, 0, 1).astype(np.float32)


def spot(image, x, y, radius, colour=(0.55, 0.15, 0.12)):
    """Paint a soft red spot in place."""
    ys, xs = np.mgrid[: image.shape[0], : image.shape[1]] + 0.5
    cover = np.clip(1.5 - np.hypot(xs - x, ys - y) / radius, 0, 1)[..., None].astype(np.float32)
    image[...] = image * (1 - cover) + np.asarray(colour, np.float32) * cover
    return image


def healed(image, path, radius, softness=0.2, offset=None, **options):
    """A healed copy, its write rectangle and the offset used."""
    bounds = Rect(0, 0, image.shape[1], image.shape[0])

    def read(rect):
        assert rect.clip(bounds) == rect, "the heal read outside of the picture"
        return image[rect.y0 : rect.y1, rect.x0 : rect.x1]

    brush = Footprint(tuple(path), radius)
    if offset is None:
        best = propose(read, brush, bounds, 1)[0]
        offset = (best.dx, best.dy)
    change = heal(read, brush, offset, bounds, softness, **options)
    rect = write_rect(brush, bounds)
    out = image.copy()
    out[rect.y0 : rect.y1, rect.x0 : rect.x1] += change
    return out, rect, offset
