"""Proportions of a face: how much wider, higher, further each of its parts is, by numbers."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from retouch.face import landmarks as lm
from retouch.geometry import Rect
from retouch.shape.composed import Composed, from_places, nodes_of
from retouch.shape.evenness import evened
from retouch.shape.head import turned
from retouch.shape.least_squares import deformed
from retouch.shape.mesh import RINGS, Mesh, Weights
from retouch.steps import smooth_step
from retouch.warp.field import Field
from retouch.warp.steps import Points

Chosen = NDArray[np.bool_]
# Where handles go, in mm, for an amount.
Shift = Callable[[Mesh, float], Points]
Unit = Literal["mm", "%", "°"]

# Handles nearer than this (mm) are one.
_NEAR_MM = 1.5
# Nodes of the field in the height of a face.
_NODES = 110
# From this ring on everything stands still.
_STILL = RINGS[-1]
# So far from the middle (mm) an outline is moved in full.
_HALF = 18.0
# A round iris holds the lids beside it back: they are moved by so much more.
_LIDS = 1.1
# The neck gives way over so many mm below the chin, and is so wide on each side.
_NECK_MM, _HALF_NECK_MM = 60.0, 45.0
# How far around a feature the skin follows (mm).
_AROUND = {"eye": 7.0, "brow": 6.0, "nose": 7.0, "lips": 8.0}


@dataclass(frozen=True)
class Proportion:
    """One number of a face; ``part`` and ``side`` say of what; ``most``: the largest amount both ways."""

    name: str
    part: str
    title: str
    meaning: str
    unit: Unit
    most: float
    shift: Shift
    side: Literal["", "right", "left"] = ""
    least: float | None = None

    @property
    def low(self) -> float:
        """The smallest amount; the same as the largest, the other way, if not said."""
        return -self.most if self.least is None else self.least


def _points(mesh: Mesh, numbers: tuple[int, ...]) -> Chosen:
    chosen = np.zeros(len(mesh.handles), np.bool_)
    chosen[list(numbers)] = True
    return chosen


def _extent(mesh: Mesh, numbers: tuple[int, ...], axis: int) -> float:
    return max(float(np.ptp(mesh.own[list(numbers), axis])), 1e-6)


def _along(axis: int, amount: NDArray[np.float64] | float, weight: Weights) -> Points:
    out = np.zeros((len(weight), 2))
    out[:, axis] = amount * weight
    return out


def _sign(side: str) -> float:
    """The person's left is to the right of a picture: its u grows."""
    return 1.0 if side == "left" else -1.0


def _eye(side: str, how: str) -> Shift:
    ring = lm.EYE_R if side == "right" else lm.EYE_L
    iris = range(468, 473) if side == "right" else range(473, 478)

    def shift(mesh: Mesh, amount: float) -> Points:
        chosen = mesh.groups[f"eye_{side}"]
        # The nose's sides begin at the eye's corner: they follow a little.
        weight = mesh.near(chosen, _AROUND["eye"], ("nose",))
        middle = mesh.own[list(ring)].mean(0)
        away = mesh.own - middle
        if how in ("width", "height"):
            # Irises stay round.
            weight[list(iris)] = 0
        if how == "size":
            return np.asarray(away * (amount / 100) * weight[:, None])
        if how == "width":
            return _along(0, away[:, 0] * amount / 100, weight)
        if how == "height":
            return _along(1, _LIDS * away[:, 1] * amount / 100, weight)
        if how == "tilt":
            # The outer corner goes up.
            turn = -np.radians(amount) * _sign(side)
            return np.stack([-away[:, 1], away[:, 0]], 1) * turn * weight[:, None]
        if how == "apart":
            return _along(0, amount / 2 * _sign(side), weight)
        return _along(1, -amount, weight)

    return shift


def _brow(side: str, how: str) -> Shift:
    line = lm.BROW_R if side == "right" else lm.BROW_L

    def shift(mesh: Mesh, amount: float) -> Points:
        chosen = mesh.groups[f"brow_{side}"]
        weight = mesh.near(chosen, _AROUND["brow"])
        low, high = mesh.own[list(line)].min(0), mesh.own[list(line)].max(0)
        middle = mesh.own[list(line)].mean(0)
        away = mesh.own - middle
        if how == "up":
            return _along(1, -amount, weight)
        if how == "tilt":
            turn = -np.radians(amount) * _sign(side)
            return np.stack([-away[:, 1], away[:, 0]], 1) * turn * weight[:, None]
        if how == "arch":
            # Most where the arch is: two thirds out; the ends stay.
            t = (mesh.own[:, 0] - low[0]) / max(high[0] - low[0], 1e-6)
            t = t if side == "left" else 1 - t
            return _along(1, -amount * np.exp(-(((t - 0.62) / 0.36) ** 2)), weight)
        # Thicker: away from its own middle line.
        slope = np.polynomial.Polynomial.fit(mesh.own[list(line), 0], mesh.own[list(line), 1], 2)
        off = np.clip(mesh.own[:, 1] - slope(np.clip(mesh.own[:, 0], low[0], high[0])), -3, 3)
        return _along(1, off * amount / 100, weight)

    return shift


def _nose(how: str) -> Shift:
    def shift(mesh: Mesh, amount: float) -> Points:
        chosen = mesh.groups["nose"]
        weight = mesh.near(chosen, _AROUND["nose"])
        wings = (64, 294, 48, 278, 129, 358)
        tip = mesh.own[1]
        root = mesh.own[lm.BETWEEN_EYES]
        base = mesh.own[2]
        # Its own middle line, which leans where the head is turned.
        t = np.clip((mesh.own[:, 1] - root[1]) / max(base[1] - root[1], 1e-6), 0, 1.2)
        line = root[0] + (base[0] - root[0]) * t
        off = mesh.own[:, 0] - line
        wide = _extent(mesh, wings, 0)
        if how == "width":
            return _along(0, off * amount / wide * np.clip(t * 1.6, 0, 1), weight)
        if how == "wings":
            wing = np.exp(-(((mesh.own[:, 1] - mesh.own[[64, 294], 1].mean()) / 8.0) ** 2))
            return _along(
                0, off * amount / wide * wing * np.clip(np.abs(off) / (0.35 * wide), 0, 1), weight
            )
        if how == "bridge":
            bridge = np.exp(-(((t - 0.35) / 0.28) ** 2))
            return _along(0, np.clip(off / 9.0, -1, 1) * amount / 2 * bridge, weight)
        if how == "length":
            return _along(1, amount * np.clip(t, 0, 1), weight)
        near_tip = np.exp(-(np.sum((mesh.own - tip) ** 2, 1) / 8.0**2))
        return _along(1, -amount * near_tip, weight)

    return shift


def _mouth(how: str) -> Shift:
    corners = (61, 291)

    def shift(mesh: Mesh, amount: float) -> Points:
        chosen = mesh.groups["lips"]
        weight = mesh.near(chosen, _AROUND["lips"])
        middle = mesh.own[list(lm.LIPS_IN)].mean(0)
        away = mesh.own - middle
        wide = _extent(mesh, corners, 0)
        t = np.clip(away[:, 0] / (wide / 2), -1.3, 1.3)
        upper, lower = mesh.own[[0, 13], 1], mesh.own[[14, 17], 1]
        if how == "width":
            return _along(0, t * amount / 2, weight)
        if how == "height":
            return _along(1, away[:, 1] * amount / 100, weight)
        if how == "smile":
            # Corners up and a little out; the middle stays.
            up = _along(1, -amount * np.abs(t) ** 2.2, weight)
            return up + _along(0, 0.25 * amount * np.sign(t) * np.abs(t) ** 2.2, weight)
        if how in ("upper", "lower"):
            edge, inner = (upper[0], upper[1]) if how == "upper" else (lower[1], lower[0])
            far = np.clip((mesh.own[:, 1] - inner) / (edge - inner + 1e-6), 0, 1)
            sign = -1.0 if how == "upper" else 1.0
            return _along(1, sign * amount * far * (1 - np.clip(np.abs(t), 0, 1) ** 2), weight)
        return _along(1, -amount, weight)

    return shift


def _contour(mesh: Mesh) -> Weights:
    """1 on the face's outline, less inside and outside; nothing on features."""
    r = mesh.outward
    weight = smooth_step((r - 0.45) / 0.55) * smooth_step((1.6 - r) / 0.6)
    for other in mesh.groups.values():
        weight[other] = 0
    return np.asarray(weight)


def _at_rest_outside(mesh: Mesh) -> Weights:
    """1 on the head and around it, fading to nothing before the outermost ring."""
    return smooth_step((_STILL - 0.05 - mesh.outward) / 0.6)


def _wider(height: Callable[[Mesh], float], spread_mm: float) -> Shift:
    """The outline further out at a height, by half of the amount on each side."""

    def shift(mesh: Mesh, amount: float) -> Points:
        weight = _contour(mesh)
        if spread_mm < np.inf:
            weight = weight * np.exp(-(((mesh.own[:, 1] - height(mesh)) / spread_mm) ** 2))
        half = _HALF if spread_mm < np.inf else _extent(mesh, (lm.SIDE_R, lm.SIDE_L), 0) / 2
        return _along(0, np.clip(mesh.own[:, 0] / half, -1, 1) * amount / 2, weight)

    return shift


def _level(*numbers: int) -> Callable[[Mesh], float]:
    return lambda mesh: float(mesh.own[list(numbers), 1].mean())


def _chin(mesh: Mesh, amount: float) -> Points:
    chin, mouth = mesh.own[lm.CHIN, 1], mesh.own[17, 1]
    down = smooth_step((mesh.own[:, 1] - mouth) / max(chin - mouth, 1e-6))
    side = np.exp(-(((mesh.own[:, 0] - mesh.own[lm.CHIN, 0]) / 28.0) ** 2))
    outer = np.clip((1.6 - mesh.outward) / 0.6, 0, 1)
    weight = down * side * outer
    weight[mesh.groups["lips"]] = 0
    return _along(1, amount, weight)


def _forehead(mesh: Mesh, amount: float) -> Points:
    top, brow = mesh.own[lm.TOP, 1], mesh.own[[*lm.BROW_R, *lm.BROW_L], 1].min()
    up = smooth_step((brow - mesh.own[:, 1]) / max(brow - top, 1e-6))
    outer = np.clip((2.0 - mesh.outward) / 1.0, 0, 1)
    return _along(1, -amount, up * outer)


def _head(mesh: Mesh, amount: float) -> Points:
    """The whole head about the chin, hair and all."""
    about = mesh.own[lm.CHIN]
    below = np.clip((about[1] + 45.0 - mesh.own[:, 1]) / 45.0, 0, 1)
    weight = _at_rest_outside(mesh) * below
    return np.asarray((mesh.own - about) * (amount / 100) * weight[:, None])


def _ears(mesh: Mesh, amount: float) -> Points:
    """Ears stand beside the outline between brows and the nose's base: the rings there go in."""
    level = float(mesh.own[[lm.SIDE_R, lm.SIDE_L], 1].mean())
    r = mesh.outward
    ring = np.exp(-(((r - 1.2) / 0.12) ** 2))
    weight = ring * np.exp(-(((mesh.own[:, 1] - level) / 28.0) ** 2)) * (r > 1.02)
    return _along(0, -np.sign(mesh.own[:, 0]) * amount, weight)


def _even(feature: str, around_mm: float) -> Shift:
    def shift(mesh: Mesh, amount: float) -> Points:
        return evened(mesh, feature, amount / 100, around_mm)

    return shift


def _both(
    name: str, part: str, title: str, meaning: str, unit: Unit, most: float,
    made: Callable[[str, str], Shift], how: str,
) -> list[Proportion]:  # fmt: skip
    return [
        Proportion(f"{name}_{side}", part, title, meaning, unit, most, made(side, how), side)
        for side in ("right", "left")
    ]


def _neck(how: str) -> Shift:
    """Below the chin: the way to the shoulders longer, or the neck wider."""

    def shift(mesh: Mesh, amount: float) -> Points:
        u, down = mesh.own[:, 0] - mesh.own[lm.CHIN, 0], mesh.own[:, 1] - mesh.own[lm.CHIN, 1]
        fade = _at_rest_outside(mesh)
        if how == "length":
            # The head goes up as a whole, and what lies below the chin gives way.
            return _along(1, -amount * np.clip((_NECK_MM - down) / _NECK_MM, 0, 1), fade)
        weight = np.exp(-(((down - 0.5 * _NECK_MM) / (0.35 * _NECK_MM)) ** 2)) * fade
        return _along(0, np.clip(u / _HALF_NECK_MM, -1, 1) * amount / 2, weight)

    return shift


def _apart(mesh: Mesh, amount: float) -> Points:
    """Moved apart from the others: in depth (`head.turned`), or by a field of its own (`gaze.gaze_field`)."""
    return np.zeros_like(mesh.own)


TURNS = ("head_turn", "head_nod", "head_tilt")
GAZES = ("gaze_side", "gaze_up")

PROPORTIONS: tuple[Proportion, ...] = (
    *_both("eye_size", "Eyes", "Size", "The eye larger or smaller.", "%", 15, _eye, "size"),
    *_both("eye_width", "Eyes", "Width", "Longer or shorter between its corners.", "%", 15, _eye, "width"),
    *_both("eye_height", "Eyes", "Open", "Lids further apart; the iris stays round.", "%", 40, _eye, "height"),
    *_both("eye_tilt", "Eyes", "Tilt", "The outer corner up or down.", "°", 6, _eye, "tilt"),
    *_both("eye_apart", "Eyes", "Apart", "Further from the other eye; each goes half of it.", "mm", 5, _eye, "apart"),
    *_both("eye_up", "Eyes", "Up", "Higher or lower.", "mm", 3, _eye, "up"),
    *_both("brow_up", "Brows", "Up", "Higher or lower.", "mm", 5, _brow, "up"),
    *_both("brow_tilt", "Brows", "Tilt", "The outer end up or down.", "°", 10, _brow, "tilt"),
    *_both("brow_arch", "Brows", "Arch", "The arch higher; both ends stay.", "mm", 4, _brow, "arch"),
    *_both("brow_thick", "Brows", "Thickness", "Thicker or thinner.", "%", 40, _brow, "thick"),
    Proportion("nose_width", "Nose", "Width", "Of the whole nose.", "mm", 8, _nose("width")),
    Proportion("nose_wings", "Nose", "Wings", "Between the wings.", "mm", 8, _nose("wings")),
    Proportion("nose_bridge", "Nose", "Bridge", "Width of the bridge.", "mm", 5, _nose("bridge")),
    Proportion("nose_length", "Nose", "Length", "From between the eyes to its base.", "mm", 6, _nose("length")),
    Proportion("nose_tip", "Nose", "Tip", "The tip up or down.", "mm", 5, _nose("tip")),
    Proportion("mouth_width", "Mouth", "Width", "Between the corners.", "mm", 10, _mouth("width")),
    Proportion("mouth_height", "Mouth", "Height", "Of both lips together.", "%", 30, _mouth("height")),
    Proportion("mouth_smile", "Mouth", "Smile", "The corners up or down.", "mm", 6, _mouth("smile")),
    Proportion("lip_upper", "Mouth", "Upper lip", "Fuller or thinner.", "mm", 4, _mouth("upper")),
    Proportion("lip_lower", "Mouth", "Lower lip", "Fuller or thinner.", "mm", 4, _mouth("lower")),
    Proportion("mouth_up", "Mouth", "Up", "Higher or lower: the way below the nose shorter or longer.", "mm", 5, _mouth("up")),
    Proportion("face_width", "Face", "Width", "The whole outline wider or narrower.", "mm", 10, _wider(_level(lm.SIDE_R, lm.SIDE_L), np.inf)),
    Proportion("face_cheeks", "Face", "Cheeks", "Where the cheekbones are.", "mm", 12, _wider(_level(93, 323), 22.0)),
    Proportion("face_jaw_corner", "Face", "Jaw corners", "Between the corners of the jaw.", "mm", 12, _wider(_level(58, 288), 18.0)),
    Proportion("face_jaw", "Face", "Jaw", "The jaw between its corners and the chin.", "mm", 12, _wider(_level(136, 365, 150, 379), 16.0)),
    Proportion("face_chin_width", "Face", "Chin width", "Wider or narrower.", "mm", 8, _wider(_level(148, 377, lm.CHIN), 9.0)),
    Proportion("face_chin", "Face", "Chin length", "From the lower lip to the chin.", "mm", 8, _chin),
    Proportion("face_forehead", "Face", "Forehead height", "From the brows to the hairline.", "mm", 10, _forehead),
    Proportion("face_forehead_width", "Face", "Forehead width", "Between the temples.", "mm", 8, _wider(_level(54, 284, 21, 251), 22.0)),
    Proportion("head_size", "Face", "Head", "The whole head, with hair.", "%", 6, _head),
    Proportion("ears", "Face", "Ears", "Closer to the head.", "mm", 5, _ears),
    Proportion("neck_length", "Neck", "Length", "From the chin to the shoulders.", "mm", 10, _neck("length")),
    Proportion("neck_width", "Neck", "Width", "Wider or narrower.", "mm", 12, _neck("width")),
    Proportion("head_turn", "Head", "Turn", "Towards the person's left, or below 0 right.", "°", 8, _apart),
    Proportion("head_nod", "Head", "Nod", "The face up, or below 0 down.", "°", 8, _apart),
    Proportion("head_tilt", "Head", "Tilt", "Towards the person's left shoulder, or below 0 the right.", "°", 8, _apart),
    Proportion("gaze_side", "Gaze", "Aside", "Both irises towards the person's left, or below 0 right; lids stay.", "mm", 1.5, _apart),
    Proportion("gaze_up", "Gaze", "Up", "Both irises up, or below 0 down; lids stay.", "mm", 0.6, _apart),
    Proportion("even_eyes", "Left and right", "Eyes even", "So much of what both eyes differ taken away.", "%", 100, _even("eyes", 7.0), least=0),
    Proportion("even_brows", "Left and right", "Brows even", "So much of what both brows differ taken away.", "%", 100, _even("brows", 6.0), least=0),
    Proportion("even_nose", "Left and right", "Nose even", "So much of what both sides differ taken away.", "%", 100, _even("nose", 6.0), least=0),
    Proportion("even_mouth", "Left and right", "Mouth even", "So much of what both sides differ taken away.", "%", 100, _even("mouth", 8.0), least=0),
    Proportion("even_face", "Left and right", "Outline even", "So much of what both sides differ taken away.", "%", 100, _even("face", 12.0), least=0),
)  # fmt: skip


def shifts(mesh: Mesh, amounts: Mapping[str, float]) -> Points:
    """Where the handles go, in pixels, by amounts of `PROPORTIONS`; others are 0."""
    total = np.zeros_like(mesh.own)
    for one in PROPORTIONS:
        amount = float(amounts.get(one.name, 0.0))
        if amount:
            total += one.shift(mesh, amount)
    return mesh.pixels(total)


def field_of(
    points: Points,
    px_per_mm: float,
    amounts: Mapping[str, float],
    below: Composed,
    depths: Sequence[float] = (),
) -> Field | None:
    """The field of a face's proportions on top of what was moved before; ``points`` in the original.

    ``depths`` are those of the mesh's points, pixels: without them the head isn't turned.
    """
    if not any(amounts.get(p.name) for p in PROPORTIONS if p.name not in GAZES):
        return None
    mesh = Mesh(below.forth(np.asarray(points, np.float64)), px_per_mm)
    goals = mesh.handles + shifts(mesh, amounts)
    turns = [float(amounts.get(name, 0.0)) for name in TURNS]
    if any(turns) and len(depths) == len(mesh.points):
        goals = goals + mesh.pixels(turned(mesh, np.asarray(depths, np.float64), *turns))
    outer = mesh.handles[len(mesh.points) + (len(RINGS) - 1) * len(lm.OVAL) :]
    low, high = outer.min(0), outer.max(0)
    rect = Rect(*(int(v) for v in (*np.floor(low), *np.ceil(high))))
    tall = float(np.hypot(*(mesh.points[lm.CHIN] - mesh.points[lm.TOP])))
    step = float(2.0 ** max(0, round(np.log2(max(tall / _NODES, 1.0)))))
    x, y, places = nodes_of(rect, step)
    flat = places.reshape(-1, 2)
    # An iris's middle carries it; its rim would hold the lids beside it.
    kept = np.ones(len(goals), np.bool_)
    kept[[*range(469, 473), *range(474, 478)]] = False
    # Towards the outermost ring everything comes to rest.
    middle = mesh.points[list(lm.OVAL)].mean(0)
    line = outer - middle
    turn = np.arctan2(line[:, 1], line[:, 0])
    order = np.argsort(turn)
    off = flat - middle
    reach = np.interp(
        np.arctan2(off[:, 1], off[:, 0]), turn[order], np.hypot(*line.T)[order], period=2 * np.pi
    )
    share = smooth_step((1 - np.hypot(*off.T) / reach) / 0.2)
    moving = share > 0
    at = flat.copy()
    gone = deformed(flat[moving], goals[kept], mesh.handles[kept], _NEAR_MM * px_per_mm)
    at[moving] += (gone - at[moving]) * share[moving, None]
    return from_places(x, y, step, at.reshape(places.shape))
