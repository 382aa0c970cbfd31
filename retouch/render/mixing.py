"""Laying what a pass makes over what is below it, large pictures in strips at the same time."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.blend import blend
from retouch.colour.curve import lean, look_up
from retouch.compiled import compiled
from retouch.processors import PARTS, at_once, edges

Array = NDArray[np.float32]

# From so many pixels on a picture is worked on in strips at the same time.
WORTH_PARTING = 500_000


def blended(mode: str, below: Array, above: Array) -> Array:
    """What a blend mode makes of both, and of what lies beyond 0..1 below, which blending knows
    nothing of.
    """
    if mode == "normal":
        return above
    inside = np.clip(below, 0, 1)
    return blend(mode, inside, np.clip(above, 0, 1)) + (below - inside)


def mix_into(
    image: Working, here: tuple[slice, slice], above: Array, mode: str, share: Array | float
) -> None:
    """Lay so much of what is above over a part of an image (h, w, 3), in place, in a blend mode."""
    rows, cols = here
    weight = share if isinstance(share, float) else np.ascontiguousarray(share[..., 0])

    def mix(strip: tuple[int, int]) -> None:
        own = np.s_[strip[0] : strip[1]]
        top = rows.start + strip[0]
        below = image[top : rows.start + strip[1], cols]
        mixed = blended(mode, below, above[own])
        if not isinstance(weight, float):
            _lay_over(image, top, cols.start, np.ascontiguousarray(mixed), weight[own])
        elif weight == 1.0:
            below[:] = mixed
        else:
            below += (mixed - below) * np.float32(weight)

    h, w = rows.stop - rows.start, cols.stop - cols.start
    if h * w < WORTH_PARTING:
        mix((0, h))
    else:
        at_once(mix, edges(0, h, 2 * PARTS))


def bend_into(
    image: Working, here: tuple[slice, slice], table: Array, share: Array | float
) -> None:
    """Take a part of an image (h, w, 3) so far along a curve (`retouch.colour.curve`), in place."""
    part = image[here]
    h, w = part.shape[:2]
    # All channels of a row in line; the same memory.
    rows = part.reshape(h, -1)
    weight = None
    if not isinstance(share, float):
        weight = share[..., 0]
    elif share != 1.0:
        weight = np.broadcast_to(np.float32(share), (h, w))

    def bend(strip: tuple[int, int]) -> None:
        own = np.s_[strip[0] : strip[1]]
        if weight is None:
            look_up(rows[own], table)
        else:
            lean(rows[own], table, weight[own])

    if h * w < WORTH_PARTING:
        bend((0, h))
    else:
        at_once(bend, edges(0, h, 2 * PARTS))


def add_into(image: Working, change: Array, top: int, left: int, share: Array | float) -> None:
    """Add a change (h, w, 3) to an image in place, its corner at a row and column, as far as the
    image goes; ``share`` (H, W, 1) lies on the image."""
    if isinstance(share, float):
        _add(image, change, top, left, np.float32(share))
    else:
        _add_shared(image, change, top, left, share[..., 0])


@compiled
def _add(image: Working, change: Array, top: int, left: int, share: np.float32) -> None:
    h, w = change.shape[:2]
    for i in range(max(0, -top), min(h, image.shape[0] - top)):
        for j in range(max(0, -left), min(w, image.shape[1] - left)):
            for k in range(3):
                image[top + i, left + j, k] += change[i, j, k] * share


@compiled
def _add_shared(image: Working, change: Array, top: int, left: int, share: Array) -> None:
    h, w = change.shape[:2]
    for i in range(max(0, -top), min(h, image.shape[0] - top)):
        for j in range(max(0, -left), min(w, image.shape[1] - left)):
            part = share[top + i, left + j]
            for k in range(3):
                image[top + i, left + j, k] += change[i, j, k] * part


@compiled
def _lay_over(image: Working, top: int, left: int, above: Array, share: Array) -> None:
    """``image + (above - image) * share`` in place, from a corner of the image on."""
    h, w = share.shape
    for i in range(h):
        for j in range(w):
            part, y, x = share[i, j], top + i, left + j
            image[y, x, 0] += (above[i, j, 0] - image[y, x, 0]) * part
            image[y, x, 1] += (above[i, j, 1] - image[y, x, 1]) * part
            image[y, x, 2] += (above[i, j, 2] - image[y, x, 2]) * part
