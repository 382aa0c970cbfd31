"""Healers to compare: ours, and what libraries offer. Each changes an array in place."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray
from skimage.restoration import inpaint_biharmonic

from benchmarks.scoring import CIRCLE, Array, Spot
from retouch import heal
from retouch.geometry import Rect

_PATCH = 4  # libraries work on a patch of this many radii to each side


def ours(image: Array, spot: Spot) -> None:
    """Our heal: source search included, brush of 1.3 r."""
    bounds = Rect(0, 0, image.shape[1], image.shape[0])

    def read(rect: Rect) -> Array:
        return image[rect.y0 : rect.y1, rect.x0 : rect.x1]

    brush = heal.Footprint(((spot.x, spot.y),), CIRCLE * spot.r)
    view = heal.examine(read, brush, bounds)
    best = heal.propose(read, brush, bounds, 1, view=view)[0]
    change = heal.heal(read, brush, (best.dx, best.dy), bounds, view=view)
    w = heal.write_rect(brush, bounds)
    image[w.y0 : w.y1, w.x0 : w.x1] += change


def patch(image: Array, spot: Spot) -> None:
    """Our patch: the same place outlined, its source proposed."""
    bounds = Rect(0, 0, image.shape[1], image.shape[0])

    def read(rect: Rect) -> Array:
        return image[rect.y0 : rect.y1, rect.x0 : rect.x1]

    turns = np.linspace(0, 2 * np.pi, 48, endpoint=False)
    radius = CIRCLE * spot.r
    place = heal.outline(
        tuple((spot.x + radius * np.cos(t), spot.y + radius * np.sin(t)) for t in turns),
        0.2 * radius,
    )
    best = heal.propose(read, place, bounds, 1)[0]
    w = heal.write_rect(place, bounds)
    image[w.y0 : w.y1, w.x0 : w.x1] += heal.heal(read, place, (best.dx, best.dy), bounds)


def _patch(image: Array, spot: Spot) -> tuple[tuple[slice, slice], NDArray[np.uint8]]:
    half = int(_PATCH * spot.r)
    y0, x0 = max(int(spot.y) - half, 0), max(int(spot.x) - half, 0)
    y1, x1 = min(int(spot.y) + half, image.shape[0]), min(int(spot.x) + half, image.shape[1])
    ys, xs = np.mgrid[y0:y1, x0:x1]
    mask = np.hypot(xs + 0.5 - spot.x, ys + 0.5 - spot.y) <= CIRCLE * spot.r
    return np.s_[y0:y1, x0:x1], mask.astype(np.uint8) * 255


def _bytes(a: Array) -> NDArray[np.uint8]:
    return np.ascontiguousarray((np.clip(a, 0, 1) * 255 + 0.5).astype(np.uint8))


def _inpaint(image: Array, spot: Spot, radius: float, method: int) -> None:
    cut, mask = _patch(image, spot)
    image[cut] = cv2.inpaint(_bytes(image[cut]), mask, radius, method).astype(np.float32) / 255


def telea_3(image: Array, spot: Spot) -> None:
    _inpaint(image, spot, 3, cv2.INPAINT_TELEA)


def telea_5(image: Array, spot: Spot) -> None:
    _inpaint(image, spot, 5, cv2.INPAINT_TELEA)


def navier_stokes_3(image: Array, spot: Spot) -> None:
    _inpaint(image, spot, 3, cv2.INPAINT_NS)


def biharmonic(image: Array, spot: Spot) -> None:
    cut, mask = _patch(image, spot)
    image[cut] = inpaint_biharmonic(image[cut], mask > 0, channel_axis=-1)


def seamless(image: Array, spot: Spot) -> None:
    """cv2.seamlessClone from the best of four near sources (ring closest in mean colour)."""
    cut, mask = _patch(image, spot)
    radius = CIRCLE * spot.r
    step = round(2.5 * radius)
    target = _bytes(image[cut])
    ring = cv2.dilate(mask, np.ones((5, 5), np.uint8)) > mask
    h, w = mask.shape
    best: tuple[float, NDArray[np.uint8]] | None = None
    for dx, dy in ((step, 0), (-step, 0), (0, step), (0, -step)):
        y0, x0 = cut[0].start + dy, cut[1].start + dx
        if y0 < 0 or x0 < 0 or y0 + h > image.shape[0] or x0 + w > image.shape[1]:
            continue
        source = _bytes(image[y0 : y0 + h, x0 : x0 + w])
        gap = np.abs(source[ring].astype(float) - target[ring].astype(float)).mean()
        if best is None or gap < best[0]:
            best = (float(gap), source)
    if best is None:
        return
    x, y, bw, bh = cv2.boundingRect(mask)
    clone = cv2.seamlessClone(best[1], target, mask, (x + bw // 2, y + bh // 2), cv2.NORMAL_CLONE)
    image[cut] = clone.astype(np.float32) / 255


def untouched(image: Array, spot: Spot) -> None:
    """Nothing: the error of the blemishes themselves."""


INPAINTERS = {
    "cv2.inpaint Telea, 3 px": telea_3,
    "cv2.inpaint Telea, 5 px": telea_5,
    "cv2.inpaint Navier-Stokes, 3 px": navier_stokes_3,
    "skimage biharmonic": biharmonic,
}
COPIERS = {"cv2.seamlessClone, best of four": seamless}
