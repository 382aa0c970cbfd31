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


def looked_up(image: Array, table: Array) -> Array:
    """What a table makes of an image (h, w, depth), float32 0..1; values beyond are clipped."""
    out = np.array(image)
    look_up(out.reshape(len(out), -1), table)
    return out


@compiled
def look_up(rows: Array, table: Array) -> None:
    """Give values 0..1 what a table holds for them, in place; values beyond are clipped.

    ``rows`` (h, n) are those of an image, all channels in a row.
    """
    h, n = rows.shape
    entries = np.empty(n, np.uint16)
    for i in range(h):
        _find(rows[i], entries)
        for m in range(n):
            rows[i, m] = table[entries[m]]


@compiled
def lean(rows: Array, table: Array, share: Array) -> None:
    """Take values in place so far to what a table holds for them (see `look_up`).

    ``share`` (h, w), 0..1, stands for all channels of a pixel.
    """
    h, w = share.shape
    n = rows.shape[1]
    depth = n // w
    entries, there = np.empty(n, np.uint16), np.empty(n, np.float32)
    for i in range(h):
        _find(rows[i], entries)
        for m in range(n):
            there[m] = table[entries[m]]
        for j in range(w):
            part = share[i, j]
            for m in range(j * depth, (j + 1) * depth):
                rows[i, m] += (there[m] - rows[i, m]) * part


@compiled
def _find(values: Array, entries: NDArray[np.uint16]) -> None:
    """The entries of a table for a row of values."""
    for m in range(len(values)):
        within = min(max(values[m], np.float32(0)), np.float32(1))
        entries[m] = np.uint16(np.int32(within * np.float32(_STEPS) + np.float32(0.5)))
