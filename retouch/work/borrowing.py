"""Which part of another picture's face goes where on this one, and along which line it is joined."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.borrowing.joined import joined
from retouch.borrowing.pins import laid, similarity, taken
from retouch.discs import disc
from retouch.edit.values import MOST_PINS, Path
from retouch.errors import EditError
from retouch.face import landmarks as lm
from retouch.face.find import Face
from retouch.face.ridges import path
from retouch.geometry import Rect
from retouch.picture import Pyramid

_Points = NDArray[np.float64]
Array = NDArray[np.float32]
Pins = tuple[tuple[float, float, float, float], ...]
Single = Literal["right_eye", "left_eye", "mouth", "right_brow", "left_brow", "face", "outline"]
# The zone of the brows over a rectangle, on (rows, cols).
Brows = Callable[[Rect, tuple[int, int]], Array]
Part = Literal["eyes", "right_eye", "left_eye", "mouth", "brows", "face", "outline"]

PART_TITLES: dict[Part, str] = {
    "eyes": "Both eyes", "right_eye": "Right eye", "left_eye": "Left eye", "mouth": "Mouth",
    "brows": "Brows", "face": "Whole face", "outline": "Outline",
}  # fmt: skip

# What is borrowed in two pieces.
PAIRS: dict[Part, tuple[Single, Single]] = {
    "eyes": ("right_eye", "left_eye"), "brows": ("right_brow", "left_brow"),
}  # fmt: skip
# The points of the mesh around each part, and how far beyond them it reaches.
_POINTS: dict[Single, tuple[tuple[int, ...], str]] = {
    "right_eye": (lm.EYE_R, "eye"), "left_eye": (lm.EYE_L, "eye"), "mouth": (lm.LIPS_OUT, "mouth"),
    "right_brow": (lm.BROW_R, "brow"), "left_brow": (lm.BROW_L, "brow"), "face": (lm.OVAL, "face"),
}  # fmt: skip

# Heads turned apart by more than this (degrees: yaw, pitch) show other sides of a face.
MOST_APART = (12.0, 10.0)
# On a head turned aside by more than this (degrees) one brow is seen much shorter than the other.
MOST_ASIDE = 20.0
# Points of the mesh that move with no expression (much): forehead, bridge of the nose, temples,
# corners of the eyes, ears' sides.
_STILL = (
    10, 109, 338, 67, 297, 151, 9, 8, 168, 6, 197, 195, 5, 127, 356, 234, 454, 93, 323, 33, 133,
    362, 263, 116, 345, 117, 346, 2, 98, 327,
)  # fmt: skip
# Around eyes and brows, and on the forehead, by side; each point's partner stands at its place.
_SIDE_R = (*lm.EYE_R, *lm.BROW_R, 109, 67, 103, 54, 104, 69, 108)
_SIDE_L = (*lm.EYE_L, *lm.BROW_L, 338, 297, 332, 284, 333, 299, 337)
# How far a part reaches beyond its points, in heights of the face.
_BEYOND: dict[str, float] = {
    "eye": 0.055,
    "mouth": 0.06,
    "brow": 0.035,
    "face": -0.03,
}
# Both brows are looked for so far around the mesh's points, where their zone covers so much; the outline
# of a mirrored one lies so far outside (heights of the face).
_BROW_ROOM, _BROW, _ROUND_BROW = 0.06, 0.3, 0.01
# What is mirrored stays within this part of the face's own outline.
_OWN_FACE = 0.96
# The line may lie this much further in or out, where the two pictures are most alike.
_FREE = 0.03
_TURNS = 240
# Both are laid over each other more finely with the face so high, on a ring around the part, moved
# by at most so much (heights of the face).
_UNIT, _FINE_RING, _FINE_MOST = 900.0, 0.09, 0.03
# Patches around the part that bend the map: so many, so large, believed from this response on;
# so many of them are enough.
_PATCHES, _PATCH, _SURE, _ENOUGH = 16, 0.07, 0.25, 10
_BEND_MOST = 0.012
# The edge fades over so much of the face's height.
_FEATHER = 0.008


@dataclass(frozen=True)
class Side:
    """A face in a picture."""

    face: Face
    pyramid: Pyramid


@dataclass(frozen=True)
class Proposal:
    """Where a part is joined, how the other picture lies there, and how softly it ends (pixels)."""

    outline: Path
    pins: Pins
    feather: float


def apart(here: Face, there: Face) -> tuple[float, float]:
    """How far two heads are turned apart, in degrees: sideways and up or down."""
    return abs(here.pose.yaw - there.pose.yaw), abs(here.pose.pitch - there.pose.pitch)


def propose(here: Side, there: Side, part: Single, drawn: Path | None = None) -> Proposal:
    """A part of another picture's face laid over this one.

    The mesh lays it (position, size, turn), registration of what surrounds the part refines that and
    bends it a little, and the line goes where both pictures are most alike. ``drawn`` is the line for
    the part "outline", which stays as it is.

    Raises
    ------
    EditError
        When the heads are turned too far apart; it tells by how much.
    """
    yaw, pitch = apart(here.face, there.face)
    if yaw > MOST_APART[0] or pitch > MOST_APART[1]:
        way, by, most = (
            ("sideways", yaw, MOST_APART[0]) if yaw / MOST_APART[0] > pitch / MOST_APART[1]
            else ("up or down", pitch, MOST_APART[1])
        )  # fmt: skip
        raise EditError(
            f"The heads are turned {by:.0f}° apart {way}; up to {most:.0f}° a part of one fits the other."
        )
    if part == "outline":
        if drawn is None or len(drawn) < 3:
            raise EditError("Draw an outline around what is to be borrowed.")
        lines = [np.asarray(drawn, np.float64)]
    else:
        lines = _lines(here.face, there.face, part)
    turn = _still(here.face, there.face)
    whole = np.concatenate(lines)
    pins = _refined(here, there, turn, whole)
    outline = lines[0] if part == "outline" else _around(whole)
    if part not in ("outline", "face"):
        outline = _seam(here, there, pins, outline)
    feather = max(2.0, _FEATHER * here.face.height)
    return Proposal(_path(outline), pins, round(2 * feather) / 2)


def pins_between(here: Side, there: Side) -> Pins:
    """How another picture's face lies over this one's: by the mesh, refined around the face."""
    turn = _still(here.face, there.face)
    outline = here.face.points[list(lm.OVAL), :2].astype(np.float64)
    return _refined(here, there, turn, outline)


def mirrored_brow(here: Side, right: bool, brows: Brows) -> Proposal:
    """The other brow, mirrored, laid where the person's right or left one is.

    Points of the mesh around eyes, brows and on the forehead are the pins; the outline holds both this
    brow and the other one laid over it, so that nothing of either is left out.

    Parameters
    ----------
    brows : callable
        The zone of the brows over a rectangle on (rows, cols), 0..1.

    Raises
    ------
    EditError
        When the head is turned too far aside; it tells by how much. Or where no brow is seen.
    """
    yaw = abs(here.face.pose.yaw)
    if yaw > MOST_ASIDE:
        raise EditError(
            f"The head is turned {yaw:.0f}° aside; up to {MOST_ASIDE:.0f}° one brow fits the other's place."
        )
    sides = (_SIDE_R, _SIDE_L) if right else (_SIDE_L, _SIDE_R)
    own, other = (here.face.points[list(side), :2].astype(np.float64) for side in sides)
    pins = _rounded(np.concatenate([own, other], 1))
    lines = (lm.BROW_R, lm.BROW_L) if right else (lm.BROW_L, lm.BROW_R)
    own_line, other_line = (here.face.points[list(n), :2].astype(np.float64) for n in lines)
    height = here.face.height
    rect, there = _room(own_line, height), _room(other_line, height)
    map_ = laid(pins)
    xs, ys = np.meshgrid(np.arange(rect.x0, rect.x1) + 0.5, np.arange(rect.y0, rect.y1) + 0.5)
    at = map_.there(np.stack([xs.ravel(), ys.ravel()], 1)).reshape(*xs.shape, 2)
    at = (at - (there.x0 + 0.5, there.y0 + 0.5)).astype(np.float32)
    mask = brows(there, (there.height, there.width)).astype(np.float32)
    over = cv2.remap(mask, at[..., 0], at[..., 1], cv2.INTER_LINEAR)
    both = np.maximum(brows(rect, (rect.height, rect.width)), over) > _BROW
    feather = max(2.0, _FEATHER * height)
    grown = cv2.dilate(both.astype(np.uint8), disc(_ROUND_BROW * height, least=0))
    found = cv2.findContours(grown, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)[0]
    if not found:
        raise EditError("No brow is found on this face.")
    line = cv2.approxPolyDP(max(found, key=cv2.contourArea), 0.7, True)[:, 0].astype(np.float64)
    outline = _within_face(line + (rect.x0 + 0.5, rect.y0 + 0.5), here.face)
    return Proposal(_path(outline), pins, round(2 * feather) / 2)


def _room(line: _Points, height: float) -> Rect:
    """A rectangle around a brow, with room for the other one laid over it."""
    room = _BROW_ROOM * height
    low, high = np.floor(line.min(0) - room), np.ceil(line.max(0) + room)
    return Rect(int(low[0]), int(low[1]), int(high[0]), int(high[1]))


def _still(here: Face, there: Face) -> _Points:
    """The similarity from one mesh to the other by what no expression moves, outliers left out."""
    a, b = (f.points[list(_STILL), :2].astype(np.float64) for f in (here, there))
    keep = np.ones(len(a), np.bool_)
    turn = similarity(a, b)
    for _ in range(3):
        off = np.linalg.norm(a @ turn[:, :2].T + turn[:, 2] - b, axis=1)
        keep = off <= max(2.5 * float(np.median(off)), 1.0)
        turn = similarity(a[keep], b[keep])
    return turn


def _lines(here: Face, there: Face, part: Single) -> list[_Points]:
    """The outlines that a part needs on this picture: its own, and the other's laid over it."""
    points, kind = _POINTS[part]
    back = similarity_back(_still(here, there))
    out = []
    for face, turn in ((here, None), (there, back)):
        at = face.points[list(points), :2].astype(np.float64)
        if turn is not None:
            at = at @ turn[:, :2].T + turn[:, 2]
        out.append(_grown(at, kind, here.height))
    return out


def _within_face(line: _Points, face: Face) -> _Points:
    """A line whose points beyond the face are drawn in towards its middle."""
    oval = face.points[list(lm.OVAL), :2].astype(np.float32)
    oval = oval.mean(0) + (oval - oval.mean(0)) * np.float32(_OWN_FACE)
    middle = line.mean(0)
    out = line.copy()
    for n, point in enumerate(line):
        for t in np.linspace(0, 0.9, 19):
            out[n] = point + t * (middle - point)
            if cv2.pointPolygonTest(oval, (float(out[n, 0]), float(out[n, 1])), False) >= 0:
                break
    return out


def _grown(at: _Points, kind: str, height: float) -> _Points:
    """Points moved away from their middle by as much as a part reaches beyond them."""
    middle = at.mean(0)
    away = at - middle
    far = np.maximum(np.linalg.norm(away, axis=1, keepdims=True), 1e-6)
    return np.asarray(middle + away * (1 + _BEYOND[kind] * height / far))


def similarity_back(turn: _Points) -> _Points:
    """The similarity the other way."""
    back = np.linalg.inv(turn[:, :2])
    return np.concatenate([back, (-back @ turn[:, 2])[:, None]], 1)


def _around(points: _Points) -> _Points:
    """The convex line around points."""
    return np.asarray(cv2.convexHull(points.astype(np.float32))[:, 0], np.float64)


def _grid(points: _Points) -> _Points:
    """Nine places over the extent of points."""
    low, high = points.min(0), points.max(0)
    xs, ys = np.meshgrid(*(np.linspace(low[k], high[k], 3) for k in (0, 1)))
    return np.stack([xs.ravel(), ys.ravel()], 1)


def _pins(turn: _Points, places: _Points) -> Pins:
    there = places @ turn[:, :2].T + turn[:, 2]
    return _rounded(np.concatenate([places, there], 1)[:MOST_PINS])


def _rounded(rows: _Points) -> Pins:
    return tuple(
        (round(x, 2), round(y, 2), round(u, 2), round(v, 2)) for x, y, u, v in rows.tolist()
    )


def _form(image: Array, sigma: float) -> Array:
    """Forms without light: what registration looks at."""
    grey = np.log(cv2.cvtColor(np.ascontiguousarray(image), cv2.COLOR_RGB2GRAY) + 0.05)
    return np.asarray(
        cv2.GaussianBlur(grey, (0, 0), sigma) - cv2.GaussianBlur(grey, (0, 0), 8 * sigma),
        np.float32,
    )


def _refined(here: Side, there: Side, turn: _Points, part: _Points) -> Pins:
    """Pins of the similarity, moved so that what surrounds the part lies on its like."""
    height = here.face.height
    bounds = here.pyramid.picture.bounds
    low, high = part.min(0), part.max(0)
    ring = _FINE_RING * height
    rect = Rect(int(low[0] - ring), int(low[1] - ring), int(high[0] + ring), int(high[1] + ring))
    rect = rect.clip(bounds)
    places = _grid(np.array([[rect.x0, rect.y0], [rect.x1, rect.y1]], np.float64))
    pins = _pins(turn, places)
    if rect.width < 24 or rect.height < 24:
        return pins
    k = min(1.0, _UNIT / height)
    size = (max(24, round(rect.width * k)), max(24, round(rect.height * k)))
    own = np.ascontiguousarray(np.clip(here.pyramid.sampled(rect, size[::-1]), 0, 1), np.float32)
    other = cv2.resize(taken(there.pyramid, laid(pins), rect), size, interpolation=cv2.INTER_AREA)
    hole = np.zeros(size[::-1], np.uint8)
    at = (_around(part) - (rect.x0, rect.y0)) * k - 0.5
    cv2.fillConvexPoly(hole, np.round(at).astype(np.int32), 1)
    free = (hole == 0).astype(np.uint8)
    sigma = max(1.0, 0.004 * height * k)
    forms = _form(own, sigma), _form(other, sigma)
    warp = np.eye(2, 3, dtype=np.float32)
    stop = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 60, 1e-5)
    for motion in (cv2.MOTION_TRANSLATION, cv2.MOTION_AFFINE):
        try:
            _, found = cv2.findTransformECC(*forms, warp.copy(), motion, stop, free, 1)
        except cv2.error:
            break
        corners = np.array([[0, 0, 1], [size[0], 0, 1], [0, size[1], 1], [*size, 1]], np.float64)
        if np.abs(corners @ found.T - corners[:, :2]).max() > _FINE_MOST * height * k:
            break
        warp = found
    # The refined map: from this picture to where the first map looks, and on to the other.
    first = laid(pins)
    scaled = ((places - (rect.x0, rect.y0)) * k - 0.5) @ warp[:, :2].T.astype(np.float64) + warp[
        :, 2
    ]
    there_at = first.there((scaled + 0.5) / k + (rect.x0, rect.y0))
    pins = _rounded(np.concatenate([places, there_at], 1))
    for _ in range(2):
        pins = _bent(here, there, pins, part, rect, k)
    return pins


def _bent(here: Side, there: Side, pins: Pins, part: _Points, rect: Rect, k: float) -> Pins:
    """More pins around the part, each where a patch of both pictures agrees.

    C. D. Kuglin, D. C. Hines, *The Phase Correlation Image Alignment Method*, 1975.
    """
    height, map_ = here.face.height, laid(pins)
    size = (max(24, round(rect.width * k)), max(24, round(rect.height * k)))
    own = np.ascontiguousarray(np.clip(here.pyramid.sampled(rect, size[::-1]), 0, 1), np.float32)
    other = cv2.resize(taken(there.pyramid, map_, rect), size, interpolation=cv2.INTER_AREA)
    sigma = max(1.0, 0.003 * height * k)
    forms = _form(own, sigma), _form(other, sigma)
    side = 2 * max(8, round(_PATCH * height * k / 2))
    window = cv2.createHanningWindow((side, side), cv2.CV_32F)
    line = _around(part)
    middle = line.mean(0)
    moved = []
    for n in range(_PATCHES):
        angle = 2 * np.pi * n / _PATCHES
        way = np.array([np.cos(angle), np.sin(angle)])
        reach = float(((line - middle) @ way).max()) + 0.35 * _PATCH * height
        place = middle + reach * way
        x, y = (np.round((place - (rect.x0, rect.y0)) * k).astype(int) - side // 2).tolist()
        if x < 0 or y < 0 or x + side > size[0] or y + side > size[1]:
            continue
        patches = [np.ascontiguousarray(f[y : y + side, x : x + side]) for f in forms]
        (dx, dy), response = cv2.phaseCorrelate(patches[0], patches[1], window)
        shift = np.array([dx, dy]) / k
        if response < _SURE or np.abs(shift).max() > _BEND_MOST * height:
            continue
        moved.append((place, shift))
    if not moved:
        return pins
    at, shifts = (np.array([m[k] for m in moved]) for k in (0, 1))
    # A patch on something that moved by itself (a lid, a lash) is told by those beside it.
    around = np.stack([np.roll(shifts, n, 0) for n in (-2, -1, 0, 1, 2)])
    shifts = np.median(around, axis=0)
    found = _rounded(np.concatenate([at, map_.there(at + shifts)], 1))
    # Agreed all around, they alone say what lies inside.
    return found if len(found) >= _ENOUGH else (*pins, *found)[:MOST_PINS]


def _seam(here: Side, there: Side, pins: Pins, line: _Points, part: float = _FREE) -> _Points:
    """The closed line near another along which both pictures are most alike."""
    height = here.face.height
    free = part * height
    low, high = line.min(0) - 2 * free, line.max(0) + 2 * free
    rect = Rect(int(low[0]), int(low[1]), int(high[0]), int(high[1])).clip(
        here.pyramid.picture.bounds
    )
    if rect.empty:
        return line
    own = np.ascontiguousarray(np.clip(here.pyramid.crop(rect, 0), 0, 1), np.float32)
    other = taken(there.pyramid, laid(pins), rect)
    inside = np.zeros(own.shape[:2], np.uint8)
    cv2.fillConvexPoly(inside, np.round(line - (rect.x0, rect.y0) - 0.5).astype(np.int32), 1)
    other = joined(own, other, inside > 0)
    soft = max(1.0, 0.002 * height)
    away = cv2.GaussianBlur(own, (0, 0), soft) - cv2.GaussianBlur(other, (0, 0), soft)
    # Dark lines, lashes and brows, are crossed only where nothing else is left.
    grey = cv2.cvtColor(own, cv2.COLOR_RGB2GRAY)
    hairs = cv2.GaussianBlur(grey, (0, 0), 6 * soft) - cv2.GaussianBlur(grey, (0, 0), soft)
    cost = np.linalg.norm(away, axis=2) + 0.5 * np.maximum(hairs, 0)
    middle = line.mean(0)
    turn = np.linspace(0, 2 * np.pi, _TURNS, endpoint=False)
    ways = np.stack([np.cos(turn), np.sin(turn)], 1)
    reach = _reach(line, middle, ways)
    steps = np.arange(-int(free), int(free) + 1)
    r = np.maximum(reach[:, None] + steps[None], 2)
    x = (middle[0] + ways[:, :1] * r - rect.x0 - 0.5).astype(np.float32)
    y = (middle[1] + ways[:, 1:] * r - rect.y0 - 0.5).astype(np.float32)
    costs = cv2.remap(
        cost.astype(np.float32), x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    scores = -costs / max(float(np.median(costs)), 1e-4)
    thrice = np.ascontiguousarray(np.concatenate([scores] * 3), np.float32)
    at = path(thrice, 2, 0.15)[_TURNS : 2 * _TURNS]
    found = r[np.arange(_TURNS), at]
    wide = np.concatenate([found[-4:], found, found[:4]])
    smooth = np.convolve(wide, np.ones(9) / 9, mode="valid")
    return np.asarray(middle + ways * smooth[:, None])


def _reach(line: _Points, middle: _Points, ways: _Points) -> NDArray[np.float64]:
    """How far a line around a place lies from it, by direction."""
    at = line - middle
    angle = np.unwrap(np.arctan2(at[:, 1], at[:, 0]))
    if angle[-1] < angle[0]:
        at, angle = at[::-1], np.unwrap(np.arctan2(at[::-1, 1], at[::-1, 0]))
    closed = np.concatenate([at, at[:1]])
    dense = np.concatenate([np.linspace(a, b, 24, endpoint=False) for a, b in pairwise(closed)])
    turn = np.arctan2(dense[:, 1], dense[:, 0])
    order = np.argsort(turn)
    wanted = np.arctan2(ways[:, 1], ways[:, 0])
    lengths = np.linalg.norm(dense, axis=1)
    return np.asarray(np.interp(wanted, turn[order], lengths[order], period=2 * np.pi))


def _path(line: _Points) -> Path:
    return tuple((round(float(x), 1), round(float(y), 1)) for x, y in line)
