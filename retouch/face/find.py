"""Finding faces: detection at several sizes and angles, accepted only with a fitted mesh."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.depth import to_float
from retouch.face import landmarks as lm
from retouch.face.iris import Iris, refine_both
from retouch.face.models import MODELS, Box, Models
from retouch.face.pose import Pose, pose
from retouch.face.scale import Scale, from_irises

Pixels = NDArray[np.uint8]
Array = NDArray[np.float32]

# The whole picture is searched at this long side, tiles at up to this many times it.
SEARCH_SIDE = 1280
_TILE_ROWS = (2, 4)
_TILE_OVERLAP = 0.25
# The detector bears a head turned to about this many degrees; turned copies cover the rest.
_TURNS = (0, 40, -40)
# Lying or upside down is believed only where the score is higher by this much.
_LAST_TURNS = (90, -90, 180)
_DOUBT = 0.12
# A mesh is fitted on a crop of this many box sizes, at this side in pixels.
_CROP = 2.0
_CROP_SIDE = 448
# Two meshes whose boxes overlap by this much are the same face.
_SAME = 0.3
# A face of this part of the picture's longer side is a portrait's.
_LARGE = 0.12
# Reflections on glasses over eyes: as light as this (parts of the whole), wider than a catchlight (half of
# it, in radii of the iris); eyes are looked at without them where they hide this part of them, and looked for
# where the other tells where they hide so much more, this part of them altogether.
_BURNT, _CATCHLIGHT = 0.82, 0.3
# So much of one lies beyond the lids.
_BEYOND_LIDS = 0.3
_HIDDEN, _MORE_HIDDEN, _MOSTLY_HIDDEN = 0.04, 0.12, 0.35
# Faces narrower than this many pixels of the original carry too little to work on.
LEAST_WIDTH = 40


@dataclass(frozen=True, eq=False)
class Face:
    """A face: ``points`` (478, 3) float32 in pixels of the original, irises, pose and scale.

    ``score`` is the detector's, 0..1; ``by_hand`` tells that the user gave the box.
    """

    points: Array
    score: float
    pose: Pose
    right_iris: Iris
    left_iris: Iris
    scale: Scale
    by_hand: bool = False

    @property
    def box(self) -> tuple[float, float, float, float]:
        """x, y, width, height of the mesh's outline."""
        oval = self.points[list(lm.OVAL), :2]
        (x0, y0), (x1, y1) = oval.min(0), oval.max(0)
        return float(x0), float(y0), float(x1 - x0), float(y1 - y0)

    @property
    def anchor(self) -> tuple[float, float]:
        """A place that names this person for good: between the eyes, to a tenth of a pixel."""
        x, y = self.points[lm.BETWEEN_EYES, :2]
        return round(float(x), 1), round(float(y), 1)

    @property
    def height(self) -> float:
        """From hairline to chin, pixels of the original."""
        return float(np.linalg.norm(self.points[lm.CHIN, :2] - self.points[lm.TOP, :2]))

    def outlines(self) -> list[list[tuple[float, float]]]:
        """The mesh's lines around face, eyes, brows and lips, rounded to a tenth of a pixel."""
        groups = (lm.OVAL, lm.EYE_R, lm.EYE_L, lm.BROW_R, lm.BROW_L, lm.LIPS_OUT, lm.LIPS_IN)
        rounded = (np.round(self.points[list(g), :2].astype(float), 1).tolist() for g in groups)
        return [[(x, y) for x, y in one] for one in rounded]


def find_faces(
    picture: Pixels,
    progress: Callable[[float], None] = lambda share: None,
    models: Models = MODELS,
) -> list[Face]:
    """All faces of a picture, the largest first.

    Parameters
    ----------
    picture : ndarray (h, w, 3) uint8
        sRGB, upright, at full size.
    progress : callable
        Told the done share, 0..1, now and then.

    Returns
    -------
    list of Face
        Empty where no detection is confirmed by a mesh.
    """
    boxes = _search(picture, models, lambda s: progress(0.3 * s))
    faces = _accept(picture, boxes, models)
    # Beside a large face a portrait has no small ones; without any they are worth a long look.
    if not any(f.height > _LARGE * max(picture.shape[:2]) for f in faces):
        boxes += _search_tiles(picture, models, lambda s: progress(0.3 + 0.6 * s))
        faces = _accept(picture, boxes, models)
    progress(1.0)
    return sorted(faces, key=lambda f: -f.height)


def face_in(
    picture: Pixels, box: tuple[float, float, float, float], models: Models = MODELS
) -> Face | None:
    """The face in a box that the user drew (x, y, width, height); None if no mesh fits there."""
    x, y, width, height = box
    for factor in (1.0, 1.25, 0.8):
        w, h = width * factor, height * factor
        one = Box(x + (width - w) / 2, y + (height - h) / 2, w, h, 1.0)
        for turn in (0.0, *(float(t) for t in _TURNS[1:]), *(float(t) for t in _LAST_TURNS)):
            points = _fit(picture, one, turn, models)
            if points is not None and _overlap(_bounds(points), (x, y, width, height)) > 0.15:
                return make_face(picture, points, 1.0, by_hand=True)
    return None


def make_face(picture: Pixels, points: Array, score: float, by_hand: bool = False) -> Face:
    """A face from its mesh: irises fitted to the pixels, pose and scale worked out."""
    turned = pose(points)
    right, left = _irises(picture, points, turned)
    scale = from_irises(right, left, turned.yaw)
    return Face(points, score, turned, right, left, scale, by_hand)


def _irises(picture: Pixels, points: Array, turned: Pose) -> tuple[Iris, Iris]:
    """The mesh's irises, fitted to the pixels."""
    parts, corners = [], []
    guesses, by_other = _guesses(picture, points)
    for (x, y, radius), lids in zip(guesses, _lids(points), strict=True):
        half = int(np.ceil(2.6 * radius)) + 2
        x0, y0 = max(int(x) - half, 0), max(int(y) - half, 0)
        here = np.s_[y0 : int(y) + half, x0 : int(x) + half]
        red = to_float(picture[here][..., 0])
        hidden = _panes(picture[here], radius, lids - (x0, y0))
        if hidden.mean() > _HIDDEN:
            red = np.where(hidden, np.float32(np.nan), red)
        parts.append((red, Iris(x - x0, y - y0, radius, found=False)))
        corners.append((x0, y0))
    between = corners[1][0] - corners[0][0], corners[1][1] - corners[0][1]
    fitted = (
        refine_both(parts[0], parts[1], np.radians(turned.roll), between, np.radians(turned.yaw))
        if all(min(red.shape) >= 6 for red, _ in parts)
        else (parts[0][1], parts[1][1])
    )
    right, left = (
        replace(one, x=one.x + x0, y=one.y + y0)
        for one, (x0, y0) in zip(fitted, corners, strict=True)
    )
    # What is seen of one that is mostly hidden leads astray.
    if by_other == 0:
        right = Iris(*guesses[0][:2], left.radius, found=False)
    elif by_other == 1:
        left = Iris(*guesses[1][:2], right.radius, found=False)
    return right, left


def _guesses(picture: Pixels, points: Array) -> tuple[list[tuple[float, float, float]], int | None]:
    """Middle and radius of the mesh's irises; of one that a reflection on glasses hides far more than the
    other, by that: eyes look the same way. Which of them is told if hardly anything of it is seen."""
    out, hidden = [], []
    lids = _lids(points)
    for centre, line in zip((lm.IRIS_R, lm.IRIS_L), lids, strict=True):
        ring = points[centre + 1 : centre + 5, :2]
        radius = float(np.linalg.norm(ring[0] - ring[2]) / 2)
        x, y = float(points[centre, 0]), float(points[centre, 1])
        hidden.append(_hidden_share(picture, x, y, radius, line))
        out.append((x, y, radius))
    own = int(hidden[1] > hidden[0])
    if hidden[own] < hidden[1 - own] + _MORE_HIDDEN:
        return out, None
    middles = [(line.min(0) + line.max(0)) / 2 for line in lids]
    wide = [float(np.ptp(line[:, 0])) for line in lids]
    ratio = wide[own] / max(wide[1 - own], 1e-6)
    x, y, radius = out[1 - own]
    there = middles[own] + (np.array([x, y]) - middles[1 - own]) * (ratio, 1.0)
    out[own] = float(there[0]), float(there[1]), radius
    return out, own if hidden[own] > _MOSTLY_HIDDEN else None


def _hidden_share(
    picture: Pixels, x: float, y: float, radius: float, lids: NDArray[np.float64]
) -> float:
    """Which part of what lies around a place of an eye is hidden by panes."""
    half, near = int(np.ceil(2.6 * radius)) + 1, int(1.5 * radius) + 1
    x0, y0 = max(int(x) - half, 0), max(int(y) - half, 0)
    part = picture[y0 : int(y) + half, x0 : int(x) + half]
    if min(part.shape[:2]) < 3:
        return 0.0
    cx, cy = int(x) - x0, int(y) - y0
    told = _panes(part, radius, lids - (x0, y0))
    told = told[max(cy - near, 0) : max(cy + near, 0), max(cx - near, 0) : max(cx + near, 0)]
    return float(told.mean()) if told.size else 0.0


def _lids(points: Array) -> list[NDArray[np.float64]]:
    """The outlines of both eyes."""
    return [points[list(eye), :2].astype(np.float64) for eye in (lm.EYE_R, lm.EYE_L)]


def _panes(part: Pixels, radius: float, lids: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Where a reflection has burnt out the picture of an eye: wider than its own catchlights, and beyond
    its ``lids`` (n, 2), within which a white may be as light."""
    low = part.min(-1) if part.ndim == 3 else part
    top = 255 if part.dtype == np.uint8 else 65535
    light = (low > _BURNT * top).astype(np.uint8)
    side = 2 * max(1, round(_CATCHLIGHT * radius)) + 1
    wide = cv2.morphologyEx(light, cv2.MORPH_OPEN, np.ones((side, side), np.uint8))
    opening = np.zeros(light.shape, np.uint8)
    cv2.fillPoly(opening, [np.round(lids).astype(np.int32)], 1)
    # Bars between panes are thin.
    count, labels = cv2.connectedComponents(cv2.dilate(wide, np.ones((side, side), np.uint8)))
    labels[wide == 0] = 0
    areas = np.bincount(labels.ravel(), minlength=count)
    beyond = np.bincount(labels[opening == 0], minlength=count) > _BEYOND_LIDS * areas
    beyond[0] = False
    return cv2.dilate(beyond[labels].astype(np.uint8), np.ones((5, 5), np.uint8)) > 0


def _search(
    picture: Pixels, models: Models, progress: Callable[[float], None]
) -> list[tuple[Box, float]]:
    """Boxes in pixels of the original with the turn at which they were found."""
    width = picture.shape[1]
    found: list[tuple[Box, float]] = []
    turns = (*_TURNS, *_LAST_TURNS)
    small = _reduced(picture, SEARCH_SIDE)
    for n, turn in enumerate(turns):
        found += [
            (replace(box, score=box.score - (_DOUBT if turn in _LAST_TURNS else 0)), at)
            for box, at in _detect_turned(small, float(turn), width / small.shape[1], models)
        ]
        progress((n + 1) / len(turns))
    return found


def _search_tiles(
    picture: Pixels, models: Models, progress: Callable[[float], None]
) -> list[tuple[Box, float]]:
    """Boxes found in parts of the picture, looked at larger."""
    height, width = picture.shape[:2]
    found: list[tuple[Box, float]] = []
    done, steps = 0, sum(r * r for r in _TILE_ROWS)
    for rows in _TILE_ROWS:
        # Tiles only help where they show more than the whole picture did.
        side = SEARCH_SIDE * rows // 2
        if max(height, width) < 0.75 * side:
            continue
        level = _reduced(picture, side)
        factor = width / level.shape[1]
        for x0, y0, x1, y1 in _tiles(level.shape[1], level.shape[0], rows):
            for box in models.detect(level[y0:y1, x0:x1]):
                moved = Box(box.x + x0, box.y + y0, box.width, box.height, box.score)
                found.append((_scaled(moved, factor), 0.0))
            done += 1
            progress(min(done / steps, 1.0))
    return found


def _tiles(width: int, height: int, rows: int) -> list[tuple[int, int, int, int]]:
    out = []
    w, h = width / rows, height / rows
    for i in range(rows):
        for j in range(rows):
            x0, y0 = int(max((j - _TILE_OVERLAP) * w, 0)), int(max((i - _TILE_OVERLAP) * h, 0))
            x1 = int(min((j + 1 + _TILE_OVERLAP) * w, width))
            y1 = int(min((i + 1 + _TILE_OVERLAP) * h, height))
            out.append((x0, y0, x1, y1))
    return out


def _detect_turned(
    small: Pixels, turn: float, factor: float, models: Models
) -> list[tuple[Box, float]]:
    if turn == 0:
        return [(_scaled(b, factor), 0.0) for b in models.detect(small)]
    height, width = small.shape[:2]
    matrix, size = _turning(width, height, turn)
    turned = cv2.warpAffine(small, matrix, size, borderMode=cv2.BORDER_REPLICATE)
    back = cv2.invertAffineTransform(matrix)
    out = []
    for box in models.detect(turned):
        cx, cy = back @ np.array([*box.centre, 1.0])
        moved = Box(
            float(cx) - box.width / 2, float(cy) - box.height / 2, box.width, box.height, box.score
        )
        out.append((_scaled(moved, factor), turn))
    return out


def _turning(width: int, height: int, turn: float) -> tuple[NDArray[np.float64], tuple[int, int]]:
    """Matrix that turns a picture by degrees (counter-clockwise) and the size it then needs."""
    matrix = cv2.getRotationMatrix2D((width / 2, height / 2), turn, 1.0)
    c, s = abs(matrix[0, 0]), abs(matrix[0, 1])
    w, h = int(height * s + width * c), int(height * c + width * s)
    matrix[0, 2] += w / 2 - width / 2
    matrix[1, 2] += h / 2 - height / 2
    return matrix, (w, h)


def _accept(picture: Pixels, boxes: list[tuple[Box, float]], models: Models) -> list[Face]:
    """Faces of the boxes in which a mesh fits; each face once."""
    meshes: list[tuple[Array, float]] = []
    for box, turn in sorted(boxes, key=lambda b: -b[0].score):
        if any(_inside(box.centre, _bounds(p)) for p, _ in meshes):
            continue
        points = _fit(picture, box, turn, models)
        if points is None:
            continue
        bounds = _bounds(points)
        if bounds[2] < LEAST_WIDTH or not _inside(box.centre, bounds):
            continue
        if any(_overlap(bounds, _bounds(p)) > _SAME for p, _ in meshes):
            continue
        meshes.append((points, box.score))
    return [make_face(picture, points, score) for points, score in meshes]


def _fit(picture: Pixels, box: Box, turn: float, models: Models) -> Array | None:
    """The mesh in a box; a turned head is fitted again on an upright crop."""
    points = _mesh_at(picture, box, turn, models)
    if points is None:
        return None
    for _ in range(2):
        roll = pose(points).roll
        x, y, width, height = _bounds(points)
        side = max(width, height)
        square = Box(x + width / 2 - side / 2, y + height / 2 - side / 2, side, side, box.score)
        again = _mesh_at(picture, square, roll, models)
        if again is None:
            return None
        done = abs(pose(again).roll - roll) < 8
        points = again
        if done:
            break
    return points


def _mesh_at(picture: Pixels, box: Box, turn: float, models: Models) -> Array | None:
    side = _CROP * max(box.width, box.height)
    if side < 8:
        return None
    cx, cy = box.centre
    size = int(min(_CROP_SIDE, max(192, side)))
    scale = size / side
    c, s = np.cos(np.radians(turn)) * scale, np.sin(np.radians(turn)) * scale
    matrix = np.array([[c, s, size / 2 - c * cx - s * cy], [-s, c, size / 2 + s * cx - c * cy]])
    if scale < 0.5:
        # Far too many pixels: average first, so that nothing aliases.
        k = 2 ** int(np.floor(np.log2(1 / scale)))
        half = int(side * 0.75)
        x0, y0 = max(int(cx) - half, 0), max(int(cy) - half, 0)
        part = picture[y0 : max(int(cy) + half, 0), x0 : max(int(cx) + half, 0)]
        if min(part.shape[:2]) < 2 * k:
            return None
        shape = (part.shape[1] // k, part.shape[0] // k)
        part = cv2.resize(part, shape, interpolation=cv2.INTER_AREA)
        kx, ky = (
            shape[0] / (min(int(cx) + half, picture.shape[1]) - x0),
            shape[1] / (min(int(cy) + half, picture.shape[0]) - y0),
        )
        local = matrix @ np.array([[1 / kx, 0, x0], [0, 1 / ky, y0], [0, 0, 1]])
        crop = cv2.warpAffine(part, local, (size, size), borderMode=cv2.BORDER_REPLICATE)
    else:
        crop = cv2.warpAffine(picture, matrix, (size, size), borderMode=cv2.BORDER_REPLICATE)
    points = models.mesh(crop)
    if points is None:
        return None
    back = cv2.invertAffineTransform(matrix)
    out = np.empty_like(points)
    out[:, :2] = points[:, :2] @ back[:, :2].T + back[:, 2]
    out[:, 2] = points[:, 2] / scale
    return out


def _reduced(picture: Pixels, side: int) -> Pixels:
    height, width = picture.shape[:2]
    k = side / max(height, width)
    if k >= 1:
        return picture
    size = (max(1, round(width * k)), max(1, round(height * k)))
    return np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA))


def _scaled(box: Box, by: float) -> Box:
    return Box(box.x * by, box.y * by, box.width * by, box.height * by, box.score)


def _bounds(points: Array) -> tuple[float, float, float, float]:
    oval = points[list(lm.OVAL), :2]
    (x0, y0), (x1, y1) = oval.min(0), oval.max(0)
    return float(x0), float(y0), float(x1 - x0), float(y1 - y0)


def _inside(place: tuple[float, float], bounds: tuple[float, float, float, float]) -> bool:
    x, y, w, h = bounds
    return x <= place[0] <= x + w and y <= place[1] <= y + h


def _overlap(a: tuple[float, float, float, float], b: tuple[float, float, float, float]) -> float:
    """Intersection over union of two boxes."""
    w = min(a[0] + a[2], b[0] + b[2]) - max(a[0], b[0])
    h = min(a[1] + a[3], b[1] + b[3]) - max(a[1], b[1])
    both = max(w, 0) * max(h, 0)
    return both / (a[2] * a[3] + b[2] * b[3] - both)
