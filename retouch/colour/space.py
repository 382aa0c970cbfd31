"""The colour space of a picture, from its ICC profile: what its values mean, and back.

Passes work on the same kind of values whatever profile a picture has (`arrays.Working`), so that
the same skin is the same numbers: sRGB-encoded, beyond 0..1 where the profile is wider. The
profile's transfer curves and primaries are asked of LittleCMS once; from then on tables and a matrix
do the work.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import Protocol

import cv2
import imagecodecs
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Encoded, Linear, Working
from retouch.colour.depth import Integers, to_float, to_integers
from retouch.colour.linear import decoded, encoded, looked_up
from retouch.colour.transfer import to_encoded
from retouch.compiled import compiled
from retouch.errors import PictureError

# Relative colorimetric, LittleCMS intent 1: in-gamut colours keep their appearance exactly.
RELATIVE = 1
# cmsFLAGS_NOOPTIMIZE: without it LittleCMS puts a coarse table in place of the exact curves and
# matrix, which costs up to 1 % on 16-bit data.
EXACT = 0x0100
# White (D65) and primaries of sRGB as x, y, Y: IEC 61966-2-1.
_WHITE = [0.3127, 0.3290, 1.0]
_PRIMARIES = [0.64, 0.33, 1.0, 0.30, 0.60, 1.0, 0.15, 0.06, 1.0]
# A profile is one of curves and primaries if it gives probes so exactly (linear light).
_TRUE_TO = 5e-4
# Entries of the tables from light to a profile's values. Light lies in them by its fourth root: steep
# curves bend less there.
_STEPS = 16384
# Colours that moved by less are as the file has them: a third of a 16-bit step.
_STILL = 5e-6


class Space(Protocol):
    """What the values of a picture mean."""

    @property
    def wide(self) -> bool:
        """Whether working values aren't simply the encoded ones."""
        ...

    @property
    def keeps_codes(self) -> bool:
        """Whether what nothing changes is delivered in the codes that it was read in."""
        ...

    def to_working(self, pixels: Integers) -> Working:
        """Working values of encoded integers (h, w, 3)."""
        ...

    def to_encoded(self, working: Working) -> Encoded:
        """The profile's values of working ones; what it can't hold is clipped to 0..1."""
        ...


class Plain:
    """sRGB: the encoded values themselves. Also for pictures without a profile (common practice)."""

    wide = False
    keeps_codes = True

    def to_working(self, pixels: Integers) -> Working:
        return to_float(pixels)

    def to_encoded(self, working: Working) -> Encoded:
        return np.clip(working, 0, 1)


class Primaries:
    """A profile of three transfer curves and three primaries.

    Parameters
    ----------
    curves : ndarray (65536, 3)
        Linear light of each encoded 16-bit value; rises.
    matrix : ndarray (3, 3)
        From linear light of the profile's primaries to that of sRGB.
    """

    wide = True
    keeps_codes = True

    def __init__(self, curves: NDArray[np.float64], matrix: NDArray[np.float64]) -> None:
        self._light = np.ascontiguousarray(curves, np.float32)
        self._matrix = matrix
        self._back = np.ascontiguousarray(np.linalg.inv(matrix), np.float32)
        light = np.linspace(0, 1, _STEPS) ** 4
        codes = np.arange(len(curves)) / (len(curves) - 1)
        self._encoded = np.stack(
            [np.interp(light, curves[:, k], codes) for k in range(3)], -1
        ).astype(np.float32)

    def to_working(self, pixels: Integers) -> Working:
        table = self._light if pixels.dtype == np.uint16 else self._light[::257]
        light = cv2.LUT(pixels, np.ascontiguousarray(table)[None])
        return encoded(cv2.transform(light, self._matrix))

    def to_encoded(self, working: Working) -> Encoded:
        light = decoded(np.ascontiguousarray(working, np.float32))
        _own(light, self._back, self._encoded)
        return light


class Tables:
    """A profile that is no curves and primaries: every value goes through LittleCMS."""

    wide = True
    keeps_codes = True

    def __init__(self, icc: bytes, grey: bool) -> None:
        self._icc = icc
        self._grey = grey

    def to_working(self, pixels: Integers) -> Working:
        return encoded(_to_light(to_float(pixels), self._icc, self._grey))

    def to_encoded(self, working: Working) -> Encoded:
        light = decoded(np.ascontiguousarray(working, np.float32))
        out = imagecodecs.cms_transform(
            light, _linear_srgb(), self._icc, colorspace="rgb", outcolorspace="rgb",
            outdtype="f4", intent=RELATIVE, flags=EXACT,
        )  # fmt: skip
        return np.clip(np.asarray(out, np.float32), 0, 1)


class LinearData:
    """Linear data of a developed raw file, which may lie beyond white.

    Parameters
    ----------
    matrix : (3, 3) numbers
        From codes as 0..1 to linear light of sRGB's primaries.
    delivered : Space
        What values are delivered in.
    """

    wide = True
    keeps_codes = False

    def __init__(self, matrix: Sequence[Sequence[float]], delivered: Space) -> None:
        self._matrix = np.asarray(matrix, np.float64)
        self._delivered = delivered

    def to_working(self, pixels: Integers) -> Working:
        return encoded(cv2.transform(to_float(pixels), self._matrix))

    def to_encoded(self, working: Working) -> Encoded:
        return self._delivered.to_encoded(working)


PLAIN = Plain()


@lru_cache(maxsize=64)
def space_of(icc: bytes | None, grey: bool = False) -> Space:
    """The space of a profile; ``grey``: of one value, in three equal channels.

    A profile of tables that goes one way only (some of scanners) can't be written back to: its
    values are taken as sRGB's.

    Raises
    ------
    PictureError
        If LittleCMS can't use the profile.
    """
    if icc is None:
        return PLAIN
    try:
        curves, matrix, true = _asked(icc, grey)
    except Exception as error:
        raise PictureError(f"The picture's colour profile can't be used: {error}.") from None
    if true and _is_srgb(curves, matrix):
        return PLAIN
    if true:
        return Primaries(curves, matrix)
    tables = Tables(icc, grey)
    try:
        tables.to_encoded(np.full((1, 1, 3), 0.5, np.float32))
    except Exception:
        return PLAIN
    return tables


def _asked(icc: bytes, grey: bool) -> tuple[NDArray[np.float64], NDArray[np.float64], bool]:
    """Curves (65536, 3) and matrix of a profile, and whether they are all of it."""
    ramp = np.linspace(0, 1, 65536, dtype=np.float32)
    if grey:
        light = _to_light(ramp[None, :, None].repeat(3, -1), icc, True)[0].mean(-1)
        return light[:, None].repeat(3, 1).astype(np.float64), np.eye(3), True
    curves, columns = [], []
    for k in range(3):
        probe = np.zeros((1, len(ramp), 3), np.float32)
        probe[0, :, k] = ramp
        light = _to_light(probe, icc, False)[0].astype(np.float64)
        column = light[-1]
        columns.append(column)
        curves.append(np.maximum.accumulate(light @ column / (column @ column)))
    matrix, curve = np.stack(columns, -1), np.stack(curves, -1)
    probes = np.random.default_rng(1).random((1, 64, 3)).astype(np.float32)
    codes = np.round(probes[0] * 65535).astype(np.int64)
    own = np.stack([curve[codes[:, k], k] for k in range(3)], -1) @ matrix.T
    true = np.abs(own - _to_light(probes, icc, False)[0]).max() < _TRUE_TO
    return curve, matrix, bool(true)


def _is_srgb(curves: NDArray[np.float64], matrix: NDArray[np.float64]) -> bool:
    """Whether values can be taken as sRGB's: all of them to half an 8-bit step."""
    codes = np.linspace(0, 1, len(curves), dtype=np.float32)
    off = np.abs(to_encoded(curves.astype(np.float32)) - codes[:, None]).max()
    return bool(off < 0.5 / 255 and np.abs(matrix - np.eye(3)).max() < 3e-3)


def _to_light(values: Encoded, icc: bytes, grey: bool) -> Linear:
    """Linear light of sRGB primaries, not clipped."""
    out = imagecodecs.cms_transform(
        np.ascontiguousarray(values[..., 0] if grey else values), icc, _linear_srgb(),
        colorspace="gray" if grey else "rgb", outcolorspace="rgb", outdtype="f4",
        intent=RELATIVE, flags=EXACT,
    )  # fmt: skip
    return np.asarray(out, np.float32)


@lru_cache(maxsize=1)
def _linear_srgb() -> bytes:
    return bytes(imagecodecs.cms_profile("rgb", whitepoint=_WHITE, primaries=_PRIMARIES, gamma=1.0))


def settled(
    working: Working, before: Callable[[], Working], pixels: Integers, space: Space, bits: int
) -> Integers:
    """Encoded integers (h, w, 3) of a result, as deep as ``bits`` (8 or 16).

    Where it is what it was ``before`` (asked for where it matters), the file's own ``pixels`` stay
    to the bit.
    """
    if not space.wide:
        return to_integers(working, bits)
    if not space.keeps_codes:
        return to_integers(space.to_encoded(working), bits)
    moved = (np.abs(working - before()) > _STILL).any(-1)
    out = pixels.copy()
    if moved.all():
        return to_integers(space.to_encoded(working), bits)
    if moved.any():
        out[moved] = to_integers(space.to_encoded(working[moved][None]), bits)[0]
    return out


@compiled
def _own(
    light: NDArray[np.float32], matrix: NDArray[np.float32], table: NDArray[np.float32]
) -> None:
    """Encoded values of linear light of sRGB primaries, in place."""
    h, w, _ = light.shape
    step = np.float32(len(table) - 1)
    for i in range(h):
        for j in range(w):
            r, g, b = light[i, j, 0], light[i, j, 1], light[i, j, 2]
            for k in range(3):
                own = matrix[k, 0] * r + matrix[k, 1] * g + matrix[k, 2] * b
                own = min(max(own, np.float32(0)), np.float32(1))
                light[i, j, k] = looked_up(table[:, k], np.sqrt(np.sqrt(own)) * step)
