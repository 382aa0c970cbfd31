"""The visible rim of the iris, found exactly: the scale of the whole face rests on it."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float32]

# The rim is looked for at these radii and shifts, in radii of the mesh's own guess.
_RADII = np.linspace(0.76, 1.16, 41)
_SHIFTS = np.linspace(-0.2, 0.2, 17)
# Lids cover the iris above and below: only arcs this near to the horizontal are looked at.
_ARC = np.radians(38)
_RAYS = 25
# Eyes are judged at this radius in pixels: enough to tell a hundredth of it.
_WORKING_RADIUS = 32.0
# A rim whose step in brightness is below this (encoded values) can't be told from skin texture.
_LEAST_STEP = 0.012


@dataclass(frozen=True)
class Iris:
    """Centre and radius in pixels; ``found`` tells whether the rim was seen or only guessed."""

    x: float
    y: float
    radius: float
    found: bool


def refine(red: Array, x: float, y: float, radius: float, tilt: float = 0.0) -> Iris:
    """Fit the rim of an iris: the circle over which the brightness of its arcs rises most.

    The integro-differential operator of J. Daugman, *High Confidence Visual Recognition of
    Persons by a Test of Statistical Independence*, IEEE PAMI 15 (1993), on the two side arcs.

    Parameters
    ----------
    red : ndarray (h, w) float32
        Red channel 0..1, in which iris and white differ most for eyes of every colour.
    x, y, radius
        A first guess in pixels, pixel centres at +0.5.
    tilt : float
        Roll of the head in radians.
    """
    scale = min(1.0, _WORKING_RADIUS / radius) if radius > 0 else 1.0
    half = 1.8 * radius
    size = max(8, round(2 * half * scale))
    step = 2 * half / size
    # Moves the guess to the middle and turns the head upright.
    c, s = np.cos(tilt) * step, np.sin(tilt) * step
    m = (size - 1) / 2
    matrix = np.array([[c, -s, x - 0.5 - c * m + s * m], [s, c, y - 0.5 - s * m - c * m]])
    source = cv2.GaussianBlur(red, (0, 0), 0.5 / scale) if scale < 0.7 else red
    patch = cv2.warpAffine(
        source, matrix, (size, size), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )  # fmt: skip
    unit = radius / step
    angles = np.concatenate(
        [np.linspace(-_ARC, _ARC, _RAYS), np.pi + np.linspace(-_ARC, _ARC, _RAYS)]
    )
    dy, dx, r, a = np.meshgrid(_SHIFTS * 0.6, _SHIFTS, _RADII, angles, indexing="ij")
    px = m + (dx + r * np.cos(a)) * unit
    py = m + (dy + r * np.sin(a)) * unit
    flat = (px.shape[0] * px.shape[1], px.shape[2] * px.shape[3])
    samples = cv2.remap(
        patch,
        px.reshape(flat).astype(np.float32),
        py.reshape(flat).astype(np.float32),
        cv2.INTER_LINEAR,
    ).reshape(px.shape)
    # Each side's mean, so that a bright corner on one side can't stand for both.
    sides = samples.reshape(*px.shape[:3], 2, _RAYS)
    middle = np.median(sides, axis=4)
    rise = (middle[:, :, 3:] - middle[:, :, :-3]).min(3)
    rise = (rise[:, :, :-1] + rise[:, :, 1:]) / 2
    i, j, k = np.unravel_index(int(rise.argmax()), rise.shape)
    best = float(rise[i, j, k])
    if best < _LEAST_STEP:
        return Iris(x, y, radius, found=False)
    # The step between two radii is centred half-way, between samples k + 0 … k + 4.
    fitted = float(_RADII[k] + _RADII[k + 4]) / 2 * radius
    ox, oy = float(_SHIFTS[j]) * radius, float(_SHIFTS[i]) * 0.6 * radius
    ct, st = np.cos(tilt), np.sin(tilt)
    return Iris(float(x + ct * ox - st * oy), float(y + st * ox + ct * oy), fitted, found=True)
