"""The visible rim of the iris, found exactly: the scale of the whole face rests on it."""

from __future__ import annotations

import warnings
from dataclasses import dataclass, replace

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
# An arc that is hidden by more than this isn't told by; one side alone counts this much.
_HIDDEN, _ONE_SIDE = 0.6, 0.7
# Irises of one person are alike; turned by 30°, one is nearer to the camera by a twentieth.
_ALIKE = 0.05
# Pupils lie so many radii of an iris apart, and by this part of it people differ: 63.36 mm (SD 3.83; N. Dodgson,
# *Variation and extrema of human interpupillary distance*, SPIE 5291, 2004) by half of 11.71 mm (SD 0.42;
# F. Rüfer and others, *White-to-white corneal diameter*, Cornea 24, 2005; both from memory).
_APART, _APART_VARIES = 63.36 / (11.71 / 2), 0.07


@dataclass(frozen=True)
class Iris:
    """Centre and radius in pixels; ``found`` tells whether the rim was seen or only guessed."""

    x: float
    y: float
    radius: float
    found: bool


def refine_both(
    right: tuple[Array, Iris],
    left: tuple[Array, Iris],
    tilt: float = 0.0,
    between: tuple[float, float] | None = None,
    yaw: float = 0.0,
) -> tuple[Iris, Iris]:
    """Fit the rims of both irises of a person, which are of one size: circles over which the brightness of
    their arcs rises most.

    The integro-differential operator of J. Daugman, *High Confidence Visual Recognition of
    Persons by a Test of Statistical Independence*, IEEE PAMI 15 (1993), on the two side arcs.
    A lid, a lens' rim or a reflection beside one eye can look like a rim, but hardly of the
    size that suits the other eye, too. Where something is hidden, one arc alone doesn't tell a circle: then
    how far apart eyes are for their size does.

    Parameters
    ----------
    right, left : (ndarray (h, w) float32, Iris)
        The red channel around an eye, 0..1, in which iris and white differ most for eyes of every colour, NaN
        where a reflection on glasses hides it; and the first guess in it.
    tilt : float
        Roll of the head in radians.
    between : (float, float), optional
        Where the left one's first pixel lies, from the right one's.
    yaw : float
        How far the head is turned aside, in radians.
    """
    a, b = _search(*right, tilt), _search(*left, tilt)
    if not (a.seen and b.seen):
        return a.at(int(a.rises.argmax())), b.at(int(b.rises.argmax()))
    apart = np.abs(np.log(a.radii[:, None] / b.radii[None]))
    # Each eye has one voice, in however much light it lies.
    both = a.rises[:, None] / a.rises.max() + b.rises[None] / b.rises.max()
    both[apart > _ALIKE] = -np.inf
    if between is not None and any(np.isnan(red).any() for red, _ in (right, left)):
        away = np.linalg.norm(b.centres[None] + between - a.centres[:, None], axis=2)
        size = (a.radii[:, None] + b.radii[None]) / 2
        unusual = (away / (_APART * np.cos(yaw) * size) - 1) / _APART_VARIES
        both *= np.exp(-0.5 * unusual**2)
    i, j = np.unravel_index(int(both.argmax()), both.shape)
    return a.at(int(i)), b.at(int(j))


@dataclass(frozen=True, eq=False)
class _Search:
    """For each radius in pixels the steepest rise over its arcs, and where its centre is then."""

    guess: Iris
    radii: NDArray[np.float64]
    rises: NDArray[np.float32]
    centres: NDArray[np.float64]

    @property
    def seen(self) -> bool:
        return float(self.rises.max()) >= _LEAST_STEP

    def at(self, index: int) -> Iris:
        if not self.seen:
            return replace(self.guess, found=False)
        x, y = self.centres[index]
        return Iris(float(x), float(y), float(self.radii[index]), found=True)


def _search(red: Array, guess: Iris, tilt: float) -> _Search:
    x, y, radius = guess.x, guess.y, guess.radius
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
    found = _rises(sides)
    rise = (found[:, :, :-1] + found[:, :, 1:]) / 2
    # The step between two radii is centred half-way, between samples k + 0 … k + 4.
    radii = (_RADII[:-4] + _RADII[4:]) / 2 * radius
    places = rise.reshape(-1, len(radii))
    i, j = np.unravel_index(places.argmax(0), rise.shape[:2])
    ox, oy = _SHIFTS[j] * radius, _SHIFTS[i] * 0.6 * radius
    ct, st = np.cos(tilt), np.sin(tilt)
    centres = np.stack([x + ct * ox - st * oy, y + st * ox + ct * oy], axis=1)
    return _Search(guess, radii, places.max(0), centres)


def _rises(sides: Array) -> Array:
    """The lesser rise of both side arcs (..., 2, rays). A side of which too little is seen leaves it to the
    other, which counts less then."""
    hidden = np.isnan(sides)
    if not hidden.any():
        plain = np.median(sides, axis=4)
        return np.asarray((plain[:, :, 3:] - plain[:, :, :-3]).min(3), np.float32)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)
        middle = np.nanmedian(sides, axis=4)
    middle[hidden.mean(4) > _HIDDEN] = np.nan
    each = middle[:, :, 3:] - middle[:, :, :-3]
    told = ~np.isnan(each)
    least = np.where(told, each, np.inf).min(3)
    least = np.where(told.any(3), least, 0)
    return np.asarray(np.where(told.all(3), least, _ONE_SIDE * least), np.float32)
