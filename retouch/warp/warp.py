"""A warp: the map from the framed picture to the original, as a value."""

from __future__ import annotations

import hashlib
import math
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from retouch.geometry import EMPTY, Rect, union_all
from retouch.warp.field import Field
from retouch.warp.steps import Matrix, Points, Step, moved

# A rectangle is followed at so many places along each side where the map isn't projective …
_ALONG = 17
# … and what lies between them is taken to reach so far beyond, as a part of their distance.
_BETWEEN = 0.25
# Matrices this near to whole numbers move whole pixels.
_WHOLE = 1e-9

# What is seen beyond the picture's edge: its border continued, or a grey (0..1).
Beyond = float | Literal["edge"]


@dataclass(frozen=True)
class WholePixels:
    """A warp that moves whole pixels: a part of the original, turned and mirrored.

    ``rect`` of the original is turned clockwise by ``turns`` quarters, then mirrored left to right
    if ``mirror``.
    """

    rect: Rect
    turns: int
    mirror: bool

    def laid(self, pixels: NDArray[Any]) -> NDArray[Any]:
        """Pixels of a part of ``rect``, as they lie in the framed picture."""
        out = np.rot90(pixels, -self.turns)
        return np.ascontiguousarray(out[:, ::-1] if self.mirror else out)


@dataclass(frozen=True, eq=False)
class Warp:
    """Where each place of the framed picture comes from.

    All places are continuous coordinates, x right, y down, pixel centres at +0.5.

    Parameters
    ----------
    bounds : Rect
        The original.
    width, height : int
        Of the framed picture, in its pixels.
    steps : tuple of Step
        From the framed picture back to the original, in that order.
    beyond : float or "edge"
        What shows where the frame reaches beyond the picture: a grey 0..1, or the border continued.
    """

    bounds: Rect
    width: int
    height: int
    steps: tuple[Step, ...] = ()
    beyond: Beyond = "edge"

    @cached_property
    def key(self) -> str:
        """Fingerprint of the whole map; empty where it changes nothing."""
        if self.identity:
            return ""
        parts = [repr((self.width, self.height, self.beyond)), *(s.key for s in self.steps)]
        return hashlib.blake2b("|".join(parts).encode(), digest_size=12).hexdigest()

    @property
    def frame(self) -> Rect:
        """The whole framed picture."""
        return Rect(0, 0, self.width, self.height)

    @cached_property
    def matrix(self) -> Matrix | None:
        """`to_original` as one (3, 3) matrix where all steps are projective; else None."""
        out = np.eye(3)
        for step in self.steps:
            if step.matrix is None:
                return None
            out = step.matrix @ out
        return out / out[2, 2]

    @cached_property
    def fields(self) -> tuple[Field, ...]:
        """The steps that move parts of the picture by themselves."""
        return tuple(s for s in self.steps if isinstance(s, Field))

    @cached_property
    def flat(self) -> Warp:
        """The same frame without fields."""
        if not self.fields:
            return self
        rest = tuple(s for s in self.steps if not isinstance(s, Field))
        return Warp(self.bounds, self.width, self.height, rest, self.beyond)

    @cached_property
    def moving(self) -> Rect:
        """The part of the framed picture that fields move; empty without any."""
        if not self.fields:
            return EMPTY
        return self.flat.covers(union_all([f.rect for f in self.fields]).clip(self.bounds))

    @cached_property
    def cell(self) -> int:
        """Pixels of the frame between nodes of the map that its fields need, a power of two."""
        finest = min((f.step for f in self.fields), default=16.0) / max(self.flat.ratio, 1e-6)
        return int(2 ** np.clip(np.floor(np.log2(max(finest, 1.0))), 1, 4))

    @cached_property
    def _inverse(self) -> Matrix | None:
        return None if self.matrix is None else np.linalg.inv(self.matrix)

    @cached_property
    def identity(self) -> bool:
        """Whether the framed picture is the original."""
        same = self.frame == self.bounds
        return same and self.whole_pixels == WholePixels(self.bounds, 0, False)

    @cached_property
    def whole_pixels(self) -> WholePixels | None:
        """How whole pixels move, where that is all that happens."""
        m = self.matrix
        if m is None or np.abs(m - np.round(m)).max() > _WHOLE or np.abs(m[2, :2]).max() > _WHOLE:
            return None
        linear = np.round(m[:2, :2]).astype(int)
        for turns in range(4):
            for mirror in (False, True):
                if np.array_equal(linear, _turned(turns, mirror)):
                    corners = self.to_original(_corners(self.frame))
                    (x0, y0), (x1, y1) = corners.min(0).round(), corners.max(0).round()
                    rect = Rect(int(x0), int(y0), int(x1), int(y1))
                    return WholePixels(rect, turns, mirror) if self._holds(rect) else None
        return None

    def _holds(self, rect: Rect) -> bool:
        return rect.clip(self.bounds) == rect

    @cached_property
    def ratio(self) -> float:
        """Pixels of the original per pixel of the frame, along a side, at the frame's middle."""
        return float(self.ratios(np.array([[self.width / 2, self.height / 2]]))[0])

    def ratios(self, points: Points) -> NDArray[np.float64]:
        """Pixels of the original per pixel of the frame, along a side, at places (n, 2)."""
        h = 0.5
        dx = self.to_original(points + [h, 0]) - self.to_original(points - [h, 0])
        dy = self.to_original(points + [0, h]) - self.to_original(points - [0, h])
        return np.asarray(np.sqrt(np.abs(dx[:, 0] * dy[:, 1] - dx[:, 1] * dy[:, 0])))

    def to_original(self, points: Points) -> Points:
        """Where places (n, 2) of the framed picture lie in the original."""
        if self.matrix is not None:
            return moved(self.matrix, points)
        for step in self.steps:
            points = step.back(points)
        return points

    def to_result(self, points: Points) -> Points:
        """Where places (n, 2) of the original lie in the framed picture; perhaps outside of it."""
        if self._inverse is not None:
            return moved(self._inverse, points)
        for step in reversed(self.steps):
            points = step.forth(points)
        return points

    def reads(self, rect: Rect) -> Rect:
        """The pixels of the original that a part of the framed picture shows, or continues where it lies beyond it."""
        return self._around(self.to_original(self._along(rect))).nearest(self.bounds)

    def covers(self, rect: Rect) -> Rect:
        """The pixels of the framed picture, clipped to it, that show a part of the original."""
        if rect.empty:
            return rect
        return self._around(self.to_result(self._along(rect))).clip(self.frame)

    def _along(self, rect: Rect) -> Points:
        """Places on a rectangle that show where all of it goes: corners, or a lattice."""
        if self.matrix is not None:
            return _corners(rect)
        xs = np.linspace(rect.x0, rect.x1, _ALONG)
        ys = np.linspace(rect.y0, rect.y1, _ALONG)
        return np.stack(np.meshgrid(xs, ys), -1).reshape(-1, 2)

    def _around(self, points: Points) -> Rect:
        more = 0.0
        if self.matrix is None:
            more = _BETWEEN * float(np.ptp(points, 0).max()) / (_ALONG - 1)
        (x0, y0), (x1, y1) = points.min(0) - more, points.max(0) + more
        return Rect(
            math.floor(x0 + 1e-6), math.floor(y0 + 1e-6), math.ceil(x1 - 1e-6), math.ceil(y1 - 1e-6)
        )


def _turned(turns: int, mirror: bool) -> NDArray[np.int64]:
    """From offsets in a picture that was turned and then mirrored to those before."""
    back = np.linalg.matrix_power(np.array([[0, 1], [-1, 0]]), turns)
    return np.asarray(back @ np.diag([-1, 1]) if mirror else back)


def _corners(rect: Rect) -> Points:
    xs, ys = (rect.x0, rect.x1), (rect.y0, rect.y1)
    return np.array([(x, y) for x in xs for y in ys], np.float64)
