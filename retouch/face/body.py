"""A person in large: background, skin, hair, beard, clothing and things worn, at every size."""

from __future__ import annotations

from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.depth import to_float
from retouch.face import landmarks as lm
from retouch.face import skin as skins
from retouch.face.canvas import PERSON, SIDE, UNIT, Canvas, lay, placed
from retouch.face.find import Face
from retouch.face.frame import Frame, distance, fill, ramp
from retouch.face.guided import applied, coefficients
from retouch.face.models import MODELS, Models
from retouch.face.nearby import colours, decided
from retouch.face.parser import CLASSES, CLOTHING, SKIN, parse
from retouch.face.sense import sensible, without_specks
from retouch.processors import at_once

Array = NDArray[np.float32]
Pixels = NDArray[np.uint8]

# A second look shows the person as large as the canvas allows, the face this high at least.
_LEAST_UNIT = 26.0
# Where it shows the face smaller than this part of the first look's, there is one between them.
_FAR = 0.5
# Windows in which a mask is explained by the picture: radius in pixels of the finer canvas, and
# the variance of colour that counts as an edge.
_WINDOW, _EDGE = 4, 6e-4
# Frames are worked through in strips of so many rows: all classes' colours at once would take much room.
_STRIP = 256
# From the canvas' border inwards the first look hands over to the second, in pixels.
_HAND_OVER = 24.0
# A class must be ahead by this much, smoothed over this part of the face's height, to be sure.
_AHEAD, _OVER = 0.45, 0.03
# What has this part of cloth to skin may be cloth as well.
_RATHER = 0.2


@dataclass(frozen=True, eq=False)
class _Look:
    """One canvas: what is in doubt, the coefficients of the chances, the colours nearby."""

    canvas: Canvas
    doubt: Array
    explained: Array
    colours: Array


@dataclass(frozen=True, eq=False)
class Body:
    """What the parser sees of one person, ready to be laid over any part of the picture."""

    face: Face
    skin: skins.SkinModel
    looks: tuple[_Look, ...] = field(repr=False)

    def over(self, frame: Frame) -> Array:
        """The chance of each class over a frame, (CLASSES, h, w) float32, summing to 1."""
        out = np.zeros((CLASSES, *frame.shape), np.float32)
        rows = range(0, frame.shape[0], _STRIP)

        def strip(y0: int) -> None:
            here = out[:, y0 : y0 + _STRIP]
            pixels = frame.pixels[y0 : y0 + _STRIP]
            for look in reversed(self.looks):
                matrix = _to_canvas(frame, look.canvas)
                matrix[:, 2] += matrix[:, 1] * y0
                share = self._share(look, here.shape[1:], matrix)
                if not share.any():
                    continue
                found = applied(look.explained, pixels, matrix * look.canvas.finer)
                found /= found.sum(0) + 1e-6
                found = decided(found, look.colours, pixels, matrix)
                here += share * (found - here)
            np.maximum(here, 0, out=here)
            here /= here.sum(0) + 1e-6

        at_once(strip, rows)
        without_specks(out, self.face.scale.px_per_mm * frame.scale)
        return out

    def _share(self, look: _Look, shape: tuple[int, int], matrix: NDArray[np.float64]) -> Array:
        """How much a look counts: all where it is the last, less towards its border before."""
        if look is self.looks[-1]:
            return np.ones(shape, np.float32)
        return _share(shape, matrix)

    def unsure(self, frame: Frame) -> Array:
        """Where no class is clearly ahead over more than an edge, (h, w) float32 0..1."""
        out = np.zeros(frame.shape, np.float32)
        for look in reversed(self.looks):
            matrix = _to_canvas(frame, look.canvas)
            share = self._share(look, frame.shape, matrix)
            doubt = _laid(look.doubt, matrix, frame.shape)
            out += share * (doubt - out)
        return out


def look_at(picture: Pixels, face: Face, models: Models = MODELS) -> Body:
    """Look at a person: around the face first, then, where there is more, at the whole."""
    near = _look(picture, face, UNIT, models)
    looks = [near]
    whole = _whole_unit(picture, face)
    if whole < _FAR * UNIT:
        # So far off a body is hard to tell; one step between shows most of it.
        looks.append(_look(picture, face, (UNIT * whole) ** 0.5, models))
    if whole < 0.97 * UNIT:
        looks.append(_look(picture, face, whole, models))
    return Body(face, near.canvas.skin, tuple(looks))


def _whole_unit(picture: Pixels, face: Face) -> float:
    """The height of the face on a canvas that just holds the picture around it."""
    matrix = placed(face, UNIT)
    h, w = picture.shape[:2]
    corners = np.array([[0, 0], [w, 0], [0, h], [w, h]]) @ matrix[:, :2].T + matrix[:, 2]
    eyes = np.array([0.5, 0.36]) * SIDE
    reach = np.maximum(np.abs(corners - eyes), 1).max(0) / np.array([0.5, 0.64]) / SIDE
    return float(max(UNIT / max(float(reach.max()), 1e-6), _LEAST_UNIT))


def _look(picture: Pixels, face: Face, unit: float, models: Models) -> _Look:
    canvas = lay(picture, face, placed(face, unit), models)
    outline = canvas.clues[PERSON]
    chances = sensible(parse(canvas.clues), canvas, outline)
    doubt = _doubt(chances, unit)
    chances = _rather_cloth(chances, doubt, canvas)
    side = SIDE * canvas.finer
    fine = np.stack([cv2.resize(c, (side, side), interpolation=cv2.INTER_LINEAR) for c in chances])
    explained = coefficients(to_float(canvas.fine), fine, _WINDOW, _EDGE)
    known = colours(canvas.pixels, chances, unit)
    return _Look(canvas, doubt, explained, known)


def _doubt(chances: Array, unit: float) -> Array:
    """1 where the two likeliest classes are about alike, on the canvas."""
    sigma = max(_OVER * unit, 0.8)
    smooth = np.stack([cv2.GaussianBlur(c, (0, 0), sigma) for c in chances])
    ordered = np.sort(smooth, axis=0)
    ahead = ordered[-1] - ordered[-2]
    # Two sure classes meet in an edge, which is no doubt: there one of them is sure beside it.
    best = np.sort(chances, axis=0)
    certain = cv2.dilate(best[-1] - best[-2], np.ones((3, 3), np.uint8))
    return np.asarray(ramp(_AHEAD - ahead, 0.12) * ramp(0.75 - certain, 0.15), np.float32)


def _rather_cloth(chances: Array, doubt: Array, canvas: Canvas) -> Array:
    """Away from the face, what may be cloth as well as skin is taken for cloth.

    Cloth turned pink is worse than skin left alone.
    """
    oval = distance(fill((SIDE, SIDE), canvas.points[list(lm.OVAL)])) / canvas.unit
    cloth = chances[CLOTHING] / (chances[CLOTHING] + chances[SKIN] + 1e-6)
    moved = chances[SKIN] * ramp(-oval - 0.3, 0.1) * doubt * ramp(cloth - _RATHER, 0.1)
    out = chances.copy()
    out[SKIN] -= moved
    out[CLOTHING] += moved
    return out


def _to_canvas(frame: Frame, canvas: Canvas) -> NDArray[np.float64]:
    """The matrix from pixels of a frame to those of a canvas."""
    kx = frame.rect.width / frame.shape[1]
    ky = frame.rect.height / frame.shape[0]
    to_original = np.array([[kx, 0, frame.rect.x0], [0, ky, frame.rect.y0], [0, 0, 1]])
    return np.asarray(canvas.matrix @ to_original)


def _share(shape: tuple[int, int], matrix: NDArray[np.float64]) -> Array:
    """How much a look counts at each place of a frame: less towards the border of its canvas."""
    ys, xs = np.mgrid[: shape[0] : 4, : shape[1] : 4].astype(np.float32) + np.float32(0.5)
    x = matrix[0, 0] * xs + matrix[0, 1] * ys + matrix[0, 2]
    y = matrix[1, 0] * xs + matrix[1, 1] * ys + matrix[1, 2]
    inner = np.minimum.reduce([x, y, SIDE - x, SIDE - y])
    share = ramp(inner - _HAND_OVER / 2, _HAND_OVER / 2)
    return cv2.resize(share, (shape[1], shape[0]), interpolation=cv2.INTER_LINEAR)


def _laid(mask: Array, matrix: NDArray[np.float64], shape: tuple[int, int]) -> Array:
    warp = matrix.copy()
    warp[:, 2] += 0.5 * (warp[:, 0] + warp[:, 1]) - 0.5
    return cv2.warpAffine(
        mask, warp, (shape[1], shape[0]),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE,
    )  # fmt: skip
