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
    entries = np.empty(n, np.int32)
    for i in range(h):
        _find(rows[i], entries)
        for m in range(n):
            rows[i, m] = table[np.uint32(entries[m])]


@compiled
def lean(rows: Array, table: Array, share: Array) -> None:
    """Take values in place so far to what a table holds for them (see `look_up`).

    ``share`` (h, w), 0..1, stands for all three channels of a pixel.
    """
    h, w = share.shape
    n = 3 * w
    entries, there = np.empty(n, np.int32), np.empty(n, np.float32)
    parts = np.empty(n, np.float32)
    for i in range(h):
        row, part = rows[i], share[i]
        _find(row, entries)
        for m in range(n):
            there[m] = table[np.uint32(entries[m])]
        for j in range(w):
            parts[3 * j] = parts[3 * j + 1] = parts[3 * j + 2] = part[j]
        for m in range(n):
            row[m] += (there[m] - row[m]) * parts[m]


@compiled
def _find(values: Array, entries: NDArray[np.int32]) -> None:
    """The entries of a table for a row of values."""
    zero, one, steps, half = np.float32(0), np.float32(1), np.float32(_STEPS), np.float32(0.5)
    for m in range(len(values)):
        entries[m] = np.int32(min(max(values[m], zero), one) * steps + half)
