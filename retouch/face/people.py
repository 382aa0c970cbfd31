"""The same person on several pictures: told by the form of the face, marks by their place on it.

Everything is worked out from the meshes at hand and kept nowhere: it says which faces of some pictures belong
together, not who somebody is.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from retouch.face import landmarks as lm
from retouch.face.find import Face
from retouch.face.judging import Mark

Places = NDArray[np.float64]

# Points that hardly move with an expression: the mesh without lips, lids and irises.
_MOVES = frozenset(lm.LIPS_OUT) | frozenset(lm.LIPS_IN) | frozenset(lm.EYE_R) | frozenset(lm.EYE_L)
_STILL = np.array([n for n in range(468) if n not in _MOVES])
_ALL = np.arange(468)
# Forms that differ by less (mm, root mean square) are one person's, by more nobody's; between them the marks tell:
# this part of the surer ones lies at the same places. Measured: one person in other light, noise and framing 0.4 to
# 1.2, with closed eyes to 1.8; different people from 1.7 on, of whose marks 6 % lie alike at most, of one person's 20
# to 80 % (docs/benchmarks.md).
SAME_MM, _MOST_MM = 1.2, 3.0
_AGREE, _LEAST_AGREEING, _AGREE_MM, _SURE = 0.12, 4, 1.2, 0.5
# With fewer sure marks the form alone has to tell.
_FEW, _FEW_MM = 12, 1.5
# How far around a place the mesh says where it lies on another picture, mm.
_AROUND_MM = 8.0
# Marks of one place lie so near to each other, and are up to so many times as large.
NEAR_MM, _TIMES = 2.2, 2.6
_KINDS_ALIKE = frozenset({frozenset(("red", "raised")), frozenset(("light", "raised"))})


@dataclass(frozen=True, eq=False)
class Form:
    """A face's mesh (478, 3) in pixels of its picture, and how many of them are a millimetre."""

    points: NDArray[np.floating]  # type: ignore[type-arg]
    px_per_mm: float


def form_of(face: Face) -> Form:
    """The form of a face that was found."""
    return Form(face.points, face.scale.px_per_mm)


def likeness(one: Form, other: Form) -> float:
    """How far the forms of two faces lie apart, root mean square in mm of both; 0: the same form.

    The meshes are laid over each other by a rotation in space and one size (W. Kabsch, Acta Cryst. A32, 1976);
    depth, which is guessed, isn't counted.
    """
    a, b = (_still(f) for f in (one, other))
    u, s, vt = np.linalg.svd(a.T @ b)
    flip = np.diag([1.0, 1.0, np.sign(np.linalg.det(u @ vt))])
    size = float(np.trace(np.diag(s) @ flip) / (a**2).sum())
    off = (a @ (u @ flip @ vt)) * size - b
    return float(np.sqrt((off[:, :2] ** 2).sum(1).mean()))


def alike(one: Form, marks: Sequence[Mark], other: Form, others: Sequence[Mark]) -> bool:
    """Whether two faces, with their marks, are of one person."""
    form = (likeness(one, other) + likeness(other, one)) / 2
    if form < SAME_MM or form > _MOST_MM:
        return form < SAME_MM
    sure, also = ([m for m in own if m.confidence > _SURE] for own in (marks, others))
    fewer = min(len(sure), len(also))
    if fewer < _FEW:
        return form < _FEW_MM
    agreeing = sum(off < _AGREE_MM for _, _, off in matched(sure, one, also, other))
    return agreeing >= max(_LEAST_AGREEING, _AGREE * fewer)


def _still(face: Form) -> Places:
    points = face.points[_STILL].astype(np.float64) / face.px_per_mm
    return np.asarray(points - points.mean(0), np.float64)


def groups(faces: Sequence[tuple[str, Form, Sequence[Mark]]]) -> list[list[int]]:
    """Which faces are of one person: numbers of them, the largest group first.

    ``faces`` come with the name of their picture and their marks; nobody is twice in one. Faces are joined, the
    likest first, where most pairs between both groups are alike.
    """
    n = len(faces)
    same, form = np.zeros((n, n)), np.zeros((n, n))
    for i in range(n):
        for j in range(i):
            (_, one, marks), (_, other, others) = faces[i], faces[j]
            same[i, j] = same[j, i] = float(alike(one, marks, other, others))
            form[i, j] = form[j, i] = likeness(one, other)
    found = [[i] for i in range(n)]
    while True:
        best: tuple[float, int, int] | None = None
        for a in range(len(found)):
            for b in range(a):
                if {faces[i][0] for i in found[a]} & {faces[j][0] for j in found[b]}:
                    continue
                between = np.ix_(found[a], found[b])
                if same[between].mean() > 0.5 and (best is None or form[between].mean() < best[0]):
                    best = (float(form[between].mean()), b, a)
        if best is None:
            return sorted(found, key=lambda g: (-len(g), g))
        found[best[1]] += found.pop(best[2])


def carried(places: Places, here: Form, there: Form) -> Places:
    """Where places (n, 2) of one picture lie on the same face of another.

    By the affine map that fits the mesh around each place best (moving least squares: S. Schaefer, T. McPhail,
    J. Warren, SIGGRAPH 2006).
    """
    a, b = (f.points[_ALL, :2].astype(np.float64) for f in (here, there))
    width = _AROUND_MM * here.px_per_mm
    out = np.empty((len(places), 2))
    for n, place in enumerate(places):
        w = np.exp(-((a - place) ** 2).sum(1) / (2 * width**2)) + 1e-4
        w /= w.sum()
        middles = w @ a, w @ b
        x, y = a - middles[0], b - middles[1]
        left = (x * w[:, None]).T @ x + 1e-9 * np.eye(2)
        out[n] = (place - middles[0]) @ np.linalg.solve(left, (x * w[:, None]).T @ y) + middles[1]
    return out


def matched(
    here: Sequence[Mark], face_here: Form, there: Sequence[Mark], face_there: Form
) -> list[tuple[int, int, float]]:
    """Marks of one person that are the same on two pictures: their numbers, and how far apart they lie (mm).

    Each has to be found in the pixels of both pictures, of a like kind and size; each belongs to one at most.
    """
    if not here or not there:
        return []
    places = carried(np.array([(m.x, m.y) for m in here]), face_here, face_there)
    other = np.array([(m.x, m.y) for m in there])
    scale = face_there.px_per_mm
    apart = np.hypot(*(places[:, None] - other[None]).transpose(2, 0, 1)) / scale
    sizes = np.log(np.array([m.radius for m in here]) / face_here.px_per_mm)
    others = np.log(np.array([m.radius for m in there]) / scale)
    unlike = np.abs(sizes[:, None] - others[None])
    kinds = np.array([[_alike(a, b) for b in there] for a in here])
    cost = apart + unlike
    cost[(apart > NEAR_MM) | (unlike > np.log(_TIMES)) | ~kinds] = 1e3
    rows, columns = scipy.optimize.linear_sum_assignment(cost)
    return [
        (int(i), int(j), float(apart[i, j]))
        for i, j in zip(rows, columns, strict=True)
        if cost[i, j] < 1e3
    ]


def _alike(one: Mark, other: Mark) -> bool:
    return one.kind == other.kind or frozenset((one.kind, other.kind)) in _KINDS_ALIKE
