"""Working values to linear light and back, by tables: as exact as 16-bit data, several times as fast.

The curve is sRGB's (`transfer`), mirrored below 0 and going on above 1.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Linear, Working
from retouch.colour.transfer import to_encoded, to_linear
from retouch.compiled import compiled

Array = NDArray[np.float32]

# Entries of the tables, the lightest light and the highest encoded value that they know; further
# out they go on straight. Light lies in its table by its root: the steep curve bends less there.
_STEPS, _LIGHTEST, _MOST_ENCODED = 16384, 4.0, 1.9
BY_ROOT = to_encoded((np.linspace(0, np.sqrt(_LIGHTEST), _STEPS) ** 2).astype(np.float32))
DECODED = to_linear(np.linspace(0, _MOST_ENCODED, _STEPS, dtype=np.float32))
# Finer ones of which the nearest entry is as exact as 16-bit values; further out they end.
_FINE = 1 << 17
FINE_BY_ROOT = to_encoded((np.linspace(0, np.sqrt(_LIGHTEST), _FINE) ** 2).astype(np.float32))
FINE_DECODED = to_linear(np.linspace(0, _MOST_ENCODED, _FINE, dtype=np.float32))
_FINE_ROOT_SCALE = np.float32((_FINE - 1) / np.sqrt(_LIGHTEST))
_FINE_ENCODED_SCALE = np.float32((_FINE - 1) / _MOST_ENCODED)
_ROOT_SCALE = np.float32((_STEPS - 1) / np.sqrt(_LIGHTEST))
_ENCODED_SCALE = np.float32((_STEPS - 1) / _MOST_ENCODED)


def encoded(light: Linear) -> Working:
    """Working values of linear light, any shape."""
    flat = np.array(light, np.float32)
    _encode_all(flat.reshape(-1), BY_ROOT)
    return flat


def decoded(working: Working) -> Linear:
    """Linear light of working values, any shape."""
    flat = np.array(working, np.float32)
    _decode_all(flat.reshape(-1), DECODED)
    return flat


def through(working: Working, matrix: NDArray[np.floating]) -> Working:  # type: ignore[type-arg]
    """Working values whose linear light went through a matrix.

    Parameters
    ----------
    working : ndarray (h, w, 3) float32
    matrix : ndarray (3, 3)
        On linear light of sRGB's primaries.
    """
    out = np.array(working, np.float32)
    rows = out.reshape(len(out), -1)
    _through(rows, np.ascontiguousarray(matrix, np.float32), FINE_DECODED, FINE_BY_ROOT)
    return out


@compiled
def looked_up(table: Array, at: np.float32) -> np.float32:
    """The value of a table between two of its entries."""
    n = min(max(np.int32(at), np.int32(0)), np.int32(len(table) - 2))
    return table[n] + (table[n + 1] - table[n]) * (at - np.float32(n))


@compiled
def decode(value: np.float32, table: Array) -> np.float32:
    """Linear light of one working value, by `DECODED`."""
    out = looked_up(table, abs(value) * _ENCODED_SCALE)
    return out if value >= 0 else -out


@compiled
def encode(light: np.float32, table: Array) -> np.float32:
    """The working value of some linear light, by `BY_ROOT`."""
    out = looked_up(table, np.sqrt(abs(light)) * _ROOT_SCALE)
    return out if light >= 0 else -out


@compiled
def _encode_all(values: Array, table: Array) -> None:
    for i in range(len(values)):
        values[i] = encode(values[i], table)


@compiled
def _decode_all(values: Array, table: Array) -> None:
    for i in range(len(values)):
        values[i] = decode(values[i], table)


@compiled
def decode_row(values: Array, table: Array, entries: NDArray[np.int32], out: Array) -> None:
    """Linear light of a row of working values, by the nearest entry of `FINE_DECODED`.

    ``entries`` is room for as many numbers. Four times as fast as `decode` one by one: each loop
    fills vector registers.
    """
    for j in range(len(values)):
        at = abs(values[j]) * _FINE_ENCODED_SCALE + np.float32(0.5)
        entries[j] = np.int32(min(at, np.float32(_FINE - 1)))
    for j in range(len(values)):
        out[j] = table[np.uint32(entries[j])]
    for j in range(len(values)):
        out[j] = np.copysign(out[j], values[j])


@compiled
def encode_row(light: Array, table: Array, entries: NDArray[np.int32], out: Array) -> None:
    """Working values of a row of linear light, by the nearest entry of `FINE_BY_ROOT`."""
    for j in range(len(light)):
        at = np.sqrt(abs(light[j])) * _FINE_ROOT_SCALE + np.float32(0.5)
        entries[j] = np.int32(min(at, np.float32(_FINE - 1)))
    for j in range(len(light)):
        out[j] = table[np.uint32(entries[j])]
    for j in range(len(light)):
        out[j] = np.copysign(out[j], light[j])


@compiled
def _through(rows: Array, m: Array, decoding: Array, encoding: Array) -> None:
    n = rows.shape[1]
    light, entries = np.empty(n, np.float32), np.empty(n, np.int32)
    for i in range(len(rows)):
        decode_row(rows[i], decoding, entries, light)
        for j in range(n // 3):
            r, g, b = light[3 * j], light[3 * j + 1], light[3 * j + 2]
            light[3 * j] = m[0, 0] * r + m[0, 1] * g + m[0, 2] * b
            light[3 * j + 1] = m[1, 0] * r + m[1, 1] * g + m[1, 2] * b
            light[3 * j + 2] = m[2, 0] * r + m[2, 1] * g + m[2, 2] * b
        encode_row(light, encoding, entries, rows[i])
