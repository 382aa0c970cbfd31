"""Holes filled, beside the inpainting that OpenCV and scikit-image offer."""

from __future__ import annotations

import time
from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray
from skimage.metrics import structural_similarity
from skimage.restoration import inpaint_biharmonic

from benchmarks.scoring import Array, Spot, load, score
from retouch.fill import fill

SIZES = (10, 40, 120, 300)
# Middles of holes on a demo portrait: what lies there.
PLACES = {
    "skin": (820.0, 1650.0),
    "lip edge": (1150.0, 1600.0),
    "jaw on background": (625.0, 1640.0),
    "cloth": (1000.0, 2250.0),
}
_PERSON = "ana"
# Above this size these take minutes.
_SLOW = 120

Bytes = NDArray[np.uint8]
Mask = NDArray[np.bool_]


def _bytes(a: Array) -> Bytes:
    return np.ascontiguousarray((np.clip(a, 0, 1) * 255 + 0.5).astype(np.uint8))


def _floats(a: Bytes) -> Array:
    return np.asarray(a, np.float32) / np.float32(255)


def _inpaint(method: int) -> Callable[[Array, Mask], Array]:
    return lambda a, hole: _floats(cv2.inpaint(_bytes(a), hole.astype(np.uint8) * 255, 5, method))


def _xphoto(method: int) -> Callable[[Array, Mask], Array]:
    def run(a: Array, hole: Mask) -> Array:
        keep = (~hole).astype(np.uint8) * 255
        source = _bytes(a)
        if method == cv2.xphoto.INPAINT_SHIFTMAP:
            source = cv2.cvtColor(source, cv2.COLOR_RGB2LAB)
        out = np.zeros_like(source)
        cv2.xphoto.inpaint(source, keep, out, method)
        if method == cv2.xphoto.INPAINT_SHIFTMAP:
            out = cv2.cvtColor(out, cv2.COLOR_LAB2RGB)
        return np.asarray(np.where(hole[..., None], _floats(out), a), np.float32)

    return run


def _biharmonic(a: Array, hole: Mask) -> Array:
    return np.asarray(inpaint_biharmonic(a, hole, channel_axis=-1), np.float32)


FILLERS: dict[str, tuple[Callable[[Array, Mask], Array], int]] = {
    "cv2.inpaint Telea": (_inpaint(cv2.INPAINT_TELEA), 1000),
    "cv2.inpaint Navier-Stokes": (_inpaint(cv2.INPAINT_NS), 1000),
    "cv2.xphoto shift map": (_xphoto(cv2.xphoto.INPAINT_SHIFTMAP), _SLOW),
    "cv2.xphoto FSR, fast": (_xphoto(cv2.xphoto.INPAINT_FSR_FAST), 40),
    "skimage biharmonic": (_biharmonic, _SLOW),
    "**Mellow Glass**": (lambda a, hole: fill(a, hole), 1000),
}


def cut(image: Array, x: float, y: float, size: int) -> tuple[Array, Mask, Spot]:
    """A piece of a picture with a round hole of ``size`` pixels across in it."""
    radius = size / 2
    margin = int(max(48, 1.2 * size))
    x0, y0 = max(int(x - radius) - margin, 0), max(int(y - radius) - margin, 0)
    x1 = min(int(x + radius) + margin, image.shape[1])
    y1 = min(int(y + radius) + margin, image.shape[0])
    ys, xs = np.mgrid[y0:y1, x0:x1]
    hole = np.hypot(xs + 0.5 - x, ys + 0.5 - y) <= radius
    return np.ascontiguousarray(image[y0:y1, x0:x1]), hole, Spot(x - x0, y - y0, radius / 1.3, "")


def _similarity(result: Array, truth: Array, hole: Mask) -> float:
    """Mean SSIM of the grey pictures inside the hole (Wang et al. 2004, scikit-image)."""
    grey = [cv2.cvtColor(np.ascontiguousarray(a), cv2.COLOR_RGB2GRAY) for a in (result, truth)]
    _, each = structural_similarity(*grey, data_range=1.0, full=True)
    return float(each[hole].mean())


def measure() -> dict[tuple[str, str, int], tuple[float, float, float, float]]:
    """Tone, texture, SSIM and seconds of every filler at every place and size."""
    image = load(_PERSON).keep
    fill(*cut(image, 200, 200, 10)[:2])  # compiled before it is timed
    out = {}
    for place, (x, y) in PLACES.items():
        for size in SIZES:
            truth, hole, spot = cut(image, x, y, size)
            holed = truth.copy()
            holed[hole] = 0.5
            for name, (run, most) in FILLERS.items():
                if size > most:
                    continue
                start = time.perf_counter()
                result = run(holed, hole)
                seconds = time.perf_counter() - start
                tone, texture = score(result, truth, spot)
                out[name, place, size] = (
                    tone,
                    texture,
                    _similarity(result, truth, hole),
                    seconds,
                )
    return out
