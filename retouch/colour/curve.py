"""Curves: tables that give each encoded value another, applied to all channels alike."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.compiled import compiled

Array = NDArray[np.float32]

# Steps of a table from 0 to 1: as fine as 16-bit values.
_STEPS = 65535
# Tables for pictures of wide profiles go so far beyond 0..1.
_LOW, _HIGH = -2, 4


def ramp(wide: bool = False) -> Array:
    """The values that the entries of a table stand for; as a table it changes nothing.

    They go from 0 to 1, or as far beyond as values of ``wide`` profiles may.
    """
    if wide:
        return (np.arange(_LOW * _STEPS, _HIGH * _STEPS + 1) / _STEPS).astype(np.float32)
    return np.linspace(0, 1, _STEPS + 1, dtype=np.float32)


def _first(table: Array) -> float:
    """The value that the first entry of a table stands for."""
    return 0.0 if len(table) == _STEPS + 1 else float(_LOW)


def looked_up(image: Working, table: Array) -> Array:
    """What a table makes of an image (h, w, depth); values beyond the table are clipped."""
    out = np.array(image)
    look_up(out.reshape(len(out), -1), table)
    return out


def look_up(rows: Array, table: Array) -> None:
    """Give values what a table holds for them, in place; values beyond it are clipped.

    ``rows`` (h, n) are those of an image, all channels in a row.
    """
    _look_up(rows, table, _first(table))


def lean(rows: Array, table: Array, share: Array) -> None:
    """Take values in place so far to what a table holds for them (see `look_up`).

    ``share`` (h, w), 0..1, stands for all three channels of a pixel.
    """
    _lean(rows, table, share, _first(table))


@compiled
def _look_up(rows: Array, table: Array, first: float) -> None:
    h, n = rows.shape
    entries = np.empty(n, np.int32)
    for i in range(h):
        _find(rows[i], entries, first, len(table))
        for m in range(n):
            rows[i, m] = table[np.uint32(entries[m])]


@compiled
def _lean(rows: Array, table: Array, share: Array, first: float) -> None:
    h, w = share.shape
    n = 3 * w
    entries, there = np.empty(n, np.int32), np.empty(n, np.float32)
    parts = np.empty(n, np.float32)
    for i in range(h):
        row, part = rows[i], share[i]
        _find(row, entries, first, len(table))
        for m in range(n):
            there[m] = table[np.uint32(entries[m])]
        for j in range(w):
            parts[3 * j] = parts[3 * j + 1] = parts[3 * j + 2] = part[j]
        for m in range(n):
            row[m] += (there[m] - row[m]) * parts[m]


@compiled
def _find(values: Array, entries: NDArray[np.int32], first: float, count: int) -> None:
    """The entries of a table for a row of values."""
    low, steps, half = np.float32(first), np.float32(_STEPS), np.float32(0.5)
    high = low + np.float32(count - 1) / steps
    for m in range(len(values)):
        entries[m] = np.int32((min(max(values[m], low), high) - low) * steps + half)
