"""What the parser sees of a person: the picture around a face, upright, at one size, with clues.

The clues say what the face itself tells about the rest of the person: how alike each colour is to
this person's skin under this light, where a place lies measured from the eyes, where the mesh and
the outline of the person are. So the parser has to learn much less from people, and what it learns
holds for every skin tone and every light.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.depth import to_float
from retouch.colour.lab import lab_of_pixels
from retouch.face import landmarks as lm
from retouch.face import skin as skins
from retouch.face.find import Face
from retouch.face.frame import distance, fill
from retouch.face.models import MODELS, Models

Array = NDArray[np.float32]
Pixels = NDArray[np.uint8]

# Side of the canvas in pixels, the face's height on it, and where the eyes are (part of the side).
SIDE = 320
UNIT = 108.0
_EYES = (0.5, 0.36)
# Roughness is looked at in a picture of so many times the size.
_FINER = 2
CHANNELS = 12
# The channels that hold lightness beside the person's skin, likeness to it, streaks, the person's outline.
LIGHT, ALIKE, ROUGH, PERSON = 3, 4, 5, 6


@dataclass(frozen=True, eq=False)
class Canvas:
    """``pixels`` (SIDE, SIDE, 3) uint8 sRGB; ``matrix`` (2, 3) leads from the original to it.

    ``fine`` is the same at ``finer`` times the size; ``points`` (478, 2) is the mesh on it,
    ``unit`` the face's height on it, ``clues`` (CHANNELS, SIDE, SIDE) float32, about -1..1.
    """

    pixels: Pixels
    fine: Pixels
    matrix: NDArray[np.float64]
    points: Array
    unit: float
    clues: Array
    skin: skins.SkinModel
    finer: int = _FINER


def placed(face: Face, unit: float = UNIT) -> NDArray[np.float64]:
    """The matrix (2, 3) that lays a face upright on the canvas, ``unit`` pixels high."""
    middle = face.points[list(lm.CORNERS), :2].mean(0)
    k = unit / max(face.height, 1e-6)
    roll = np.radians(face.pose.roll)
    c, s = k * np.cos(roll), k * np.sin(roll)
    turn = np.array([[c, s], [-s, c]])
    at = np.array(_EYES) * SIDE - turn @ middle
    return np.hstack([turn, at[:, None]])


def lay(
    picture: Pixels, face: Face, matrix: NDArray[np.float64], models: Models = MODELS
) -> Canvas:
    """The canvas of a face.

    Parameters
    ----------
    picture : ndarray (h, w, 3) uint8
        sRGB at full size.
    matrix : ndarray (2, 3)
        From pixels of the original to the canvas (`placed`).
    """
    fine, inside = _warped(picture, matrix)
    pixels = cv2.resize(fine, (SIDE, SIDE), interpolation=cv2.INTER_AREA)
    points = (face.points[:, :2] @ matrix[:, :2].T + matrix[:, 2]).astype(np.float32)
    skin = sample_skin(pixels, points)
    clues = np.empty((CHANNELS, SIDE, SIDE), np.float32)
    values = lab_of_pixels(pixels)
    clues[0] = values[..., 0] / 50 - 1
    clues[1] = values[..., 1] / 40
    clues[2] = values[..., 2] / 40
    encoded = to_float(pixels)
    clues[LIGHT] = np.clip((skins.chroma(encoded)[1] - skin.light) / 2, -1.5, 1.5)
    clues[ALIKE] = skin.likelihood(encoded)
    clues[ROUGH] = _roughness(fine)
    clues[PERSON] = _person(pixels, inside, models)
    oval = distance(fill((SIDE, SIDE), points[list(lm.OVAL)]))
    unit = max(float(np.linalg.norm(points[lm.CHIN] - points[lm.TOP])), 1.0)
    clues[7] = np.clip(oval / (0.5 * unit), -1, 1)
    middle = points[list(lm.CORNERS)].mean(0)
    ys, xs = np.mgrid[:SIDE, :SIDE].astype(np.float32) + np.float32(0.5)
    clues[8] = np.clip((xs - middle[0]) / (2 * unit), -2, 2)
    clues[9] = np.clip((ys - middle[1]) / (2 * unit), -2, 2)
    clues[10] = np.maximum.reduce([fill((SIDE, SIDE), points[list(p)]) for p in _FEATURES])
    clues[11] = inside
    return Canvas(pixels, fine, matrix, points, unit, clues, skin)


_FEATURES = (lm.EYE_R, lm.EYE_L, lm.LIPS_OUT)


def _warped(picture: Pixels, matrix: NDArray[np.float64]) -> tuple[Pixels, Array]:
    """The picture on the finer canvas, and which of the canvas lies inside the picture."""
    side = SIDE * _FINER
    finer = matrix * _FINER
    back = cv2.invertAffineTransform(finer)
    corners = np.array([[0, 0], [side, 0], [0, side], [side, side]]) @ back[:, :2].T + back[:, 2]
    h, w = picture.shape[:2]
    x0, y0 = np.clip(np.floor(corners.min(0)).astype(int) - 2, 0, [w - 1, h - 1])
    x1, y1 = np.clip(np.ceil(corners.max(0)).astype(int) + 2, [x0 + 1, y0 + 1], [w, h])
    part = picture[y0:y1, x0:x1]
    k = float(np.hypot(*finer[:, 0]))
    size = (max(1, round((x1 - x0) * k)), max(1, round((y1 - y0) * k)))
    if k < 1:
        part = cv2.resize(part, size, interpolation=cv2.INTER_AREA)
    kx, ky = part.shape[1] / (x1 - x0), part.shape[0] / (y1 - y0)
    # Pixel centres lie at +0.5, and the warp counts them from 0.
    to_part = np.array([[kx, 0, -x0 * kx], [0, ky, -y0 * ky], [0, 0, 1]])
    whole = np.vstack([finer, [0, 0, 1]]) @ np.linalg.inv(to_part)
    whole[:2, 2] += 0.5 * whole[:2, 0] + 0.5 * whole[:2, 1] - 0.5
    out = cv2.warpAffine(
        part, whole[:2], (side, side), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    ys, xs = np.mgrid[:SIDE, :SIDE] + 0.5
    at = cv2.invertAffineTransform(matrix)
    ox, oy = (at[i, 0] * xs + at[i, 1] * ys + at[i, 2] for i in (0, 1))
    inside = (ox >= 0) & (ox <= w) & (oy >= 0) & (oy <= h)
    return np.asarray(out, np.uint8), inside.astype(np.float32)


def _person(pixels: Pixels, inside: Array, models: Models) -> Array:
    """How surely each place is a person; only what lies inside the picture is looked at."""
    out = np.zeros((SIDE, SIDE), np.float32)
    x, y, w, h = cv2.boundingRect((inside > 0.5).astype(np.uint8))
    if w > 1 and h > 1:
        part = np.ascontiguousarray(pixels[y : y + h, x : x + w])
        out[y : y + h, x : x + w] = models.person(part)
    return out


def _roughness(fine: Pixels) -> Array:
    """How streaky each place is, 0..1: hair and knitted cloth are, skin is smooth."""
    light = cv2.cvtColor(fine, cv2.COLOR_RGB2GRAY).astype(np.float32)
    away = np.abs(light - cv2.GaussianBlur(light, (0, 0), 1.5))
    small = cv2.resize(away, (SIDE, SIDE), interpolation=cv2.INTER_AREA)
    return np.asarray(np.clip(np.log1p(small) / 3, 0, 1.5), np.float32)


def sample_skin(pixels: Pixels, points: Array) -> skins.SkinModel:
    """The colour of a person's skin: cheeks, nose and forehead, where no beard grows."""
    shape = (pixels.shape[0], pixels.shape[1])
    unit = max(float(np.linalg.norm(points[lm.CHIN] - points[lm.TOP])), 1.0)
    oval = distance(fill(shape, points[list(lm.OVAL)])) > 0.08 * unit
    for part in (lm.EYE_R, lm.EYE_L, lm.BROW_R, lm.BROW_L, lm.LIPS_OUT):
        oval &= distance(fill(shape, points[list(part)])) < -0.03 * unit
    # Above the line from one wing of the nose to the other, as the head is tilted.
    across = points[lm.CORNER_L] - points[lm.CORNER_R]
    across = across / max(float(np.linalg.norm(across)), 1e-6)
    base = points[lm.NOSE_BASE]
    ys, xs = np.mgrid[: shape[0], : shape[1]].astype(np.float32) + np.float32(0.5)
    above = (ys - base[1]) * across[0] - (xs - base[0]) * across[1] < 0
    chosen = pixels[oval & above]
    if len(chosen) < 50:
        chosen = pixels[oval] if oval.any() else pixels.reshape(-1, 3)
    return skins.fit(to_float(chosen[:: max(1, len(chosen) // 20000)]))
