"""Stubble: where the skin of the lower face is streaked with short dark hairs.

Pores and grain are as frequent on the cheeks below the eyes, where hardly anybody's beard grows: how
much darker what is thin is here than there tells stubble from coarse skin (common practice).
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.discs import disc
from retouch.face import landmarks as lm
from retouch.face.frame import Frame, distance, ramp

Array = NDArray[np.float32]

# Width of what counts as thin, and over what it is averaged, millimetres.
_HAIR_MM, _AROUND_MM = 1.2, 2.5
# From so many times the cheeks' streaks on it is stubble, softly.
_TIMES, _SOFT = 1.2, 0.25
# Below so many pixels per millimetre no hair is seen.
_LEAST_SCALE = 2.0
_CHEEKS = ((50, 101, 36, 205, 187, 123), (280, 330, 266, 425, 411, 352))
_LEAST_LIGHT = 8.0


def stubble(frame: Frame, skin: Array) -> Array:
    """How surely there is stubble at each place.

    Parameters
    ----------
    skin : ndarray (h, w) float32, 0..1
        The skin, without beard.

    Returns
    -------
    ndarray (h, w) float32, 0..1
        0 everywhere where the picture is too small to tell.
    """
    unit = frame.face.scale.px_per_mm * frame.scale
    if unit < _LEAST_SCALE:
        return np.zeros(frame.shape, np.float32)
    light = cv2.cvtColor(frame.pixels, cv2.COLOR_RGB2GRAY).astype(np.float32)
    streaks = cv2.morphologyEx(light, cv2.MORPH_BLACKHAT, disc(_HAIR_MM * unit / 2)) / np.maximum(
        light, _LEAST_LIGHT
    )
    cheeks = np.maximum.reduce([frame.polygon(c) for c in _CHEEKS]) * (skin > 0.9)
    if cheeks.sum() < 100:
        return np.zeros(frame.shape, np.float32)
    usual = float(np.mean(streaks[cheeks > 0.5])) + 1e-4
    on = (skin > 0.5).astype(np.float32)
    sigma = _AROUND_MM * unit
    # Single dark things are marks or folds: they count no more than a few hairs.
    level = cv2.GaussianBlur(np.minimum(streaks, 4 * usual) * on, (0, 0), sigma)
    level /= cv2.GaussianBlur(on, (0, 0), sigma) + 1e-3
    oval = distance(frame.polygon(lm.OVAL)) / frame.unit
    _, v = frame.upright()
    base = float(v[_row(frame, 2), _col(frame, 2)])
    lips = distance(frame.polygon(lm.LIPS_OUT)) / frame.unit
    lower = ramp(v - base, 0.03) * ramp(oval + 0.08, 0.05) * ramp(-lips - 0.015, 0.01)
    return np.asarray(ramp(level / usual - _TIMES, _SOFT) * lower * skin, np.float32)


def _row(frame: Frame, point: int) -> int:
    return int(np.clip(frame.points[point, 1], 0, frame.shape[0] - 1))


def _col(frame: Frame, point: int) -> int:
    return int(np.clip(frame.points[point, 0], 0, frame.shape[1] - 1))
