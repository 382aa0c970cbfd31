"""Curves: tables that give each encoded value another, applied to all channels alike."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled

Array = NDArray[np.float32]

# Entries of a table less one; its steps are as fine as 16-bit values.
_STEPS = 65535


def ramp() -> Array:
    """The values 0..1 that the entries of a table stand for; as a table it changes nothing."""
    return np.linspace(0, 1, _STEPS + 1, dtype=np.float32)


@compiled
def looked_up(image: Array, table: Array) -> Array:
    """What a table makes of an image (h, w, depth), float32 0..1; values beyond are clipped."""
    h, w, depth = image.shape
    out = np.empty((h, w, depth), np.float32)
    for i in range(h):
        entries = _entries(image[i].copy().ravel())
        row = out[i].ravel()
        for n in range(w * depth):
            row[n] = table[entries[n]]
    return out


@compiled
def lay_curve(image: Array, table: Array, share: Array) -> None:
    """Take an image (h, w, depth) in place so far to what a table makes of it; (h, w) 0..1."""
    h, w, depth = image.shape
    for i in range(h):
        entries = _entries(image[i].copy().ravel())
        for j in range(w):
            part = share[i, j]
            for k in range(depth):
                image[i, j, k] += (table[entries[j * depth + k]] - image[i, j, k]) * part


@compiled
def _entries(values: Array) -> NDArray[np.uint16]:
    """The entries of a table for a row of values."""
    out = np.empty(len(values), np.uint16)
    for n in range(len(values)):
        within = min(max(values[n], np.float32(0)), np.float32(1))
        out[n] = np.uint16(np.int32(within * np.float32(_STEPS) + np.float32(0.5)))
    return out
