"""The analysis of a portrait: faces, zones and marks, computed once and kept in one file."""

from __future__ import annotations

import hashlib
import json
import os
import threading
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, replace
from functools import cached_property
from pathlib import Path
from typing import Any, overload
from zipfile import BadZipFile

import numpy as np
from numpy.typing import NDArray

from retouch.colour.depth import to_float, to_integers
from retouch.errors import PictureError
from retouch.face.find import Face, face_in, find_faces
from retouch.face.ground import mark_doubt, mark_ground
from retouch.face.iris import Iris
from retouch.face.judging import Mark
from retouch.face.marks import find_marks
from retouch.face.models import MODELS, Models
from retouch.face.pose import Pose
from retouch.face.scale import Scale, by_hand
from retouch.face.zones import Layer, combine, find_zones, head_rect
from retouch.geometry import Rect
from retouch.picture import profile as profiles
from retouch.picture import read
from retouch.picture.model import Picture
from retouch.processors import at_once, begin
from retouch.zone_names import ALL_SKIN, OVER

VERSION = 8
# A nudged point takes its neighbours along over this part of the face's height.
_NUDGE_REACH = 0.05
# For quick questions about where skin is.
OVERVIEW = 1000

Progress = Callable[[float, str], None]


@dataclass(frozen=True)
class Hints:
    """What the user said about the faces.

    ``boxes`` (x, y, width, height) to look into besides; ``removed`` places (x, y) of faces that
    are none; ``irises`` (x, y, radius) laid on by hand; ``nudges`` (from x, y, to x, y) of points
    of the mesh.
    """

    boxes: tuple[tuple[float, float, float, float], ...] = ()
    removed: tuple[tuple[float, float], ...] = ()
    irises: tuple[tuple[float, float, float], ...] = ()
    nudges: tuple[tuple[float, float, float, float], ...] = ()


class MarksLater(Sequence[tuple[Mark, ...]]):
    """Marks per face that are looked for beside what follows; whoever asks for them first waits.

    They are a fifth of an analysis, and much of what is made of one begins without them.
    """

    def __init__(self, find: Callable[[], tuple[tuple[Mark, ...], ...]]) -> None:
        self._find: Callable[[], tuple[tuple[Mark, ...], ...]] | None = find
        self._found: tuple[tuple[Mark, ...], ...] = ()
        self._lock = threading.Lock()
        begin(self._all)

    def _all(self) -> tuple[tuple[Mark, ...], ...]:
        with self._lock:
            if self._find is not None:
                # The picture that it holds is let go.
                self._found, self._find = self._find(), None
            return self._found

    def __len__(self) -> int:
        return len(self._all())

    @overload
    def __getitem__(self, at: int) -> tuple[Mark, ...]: ...
    @overload
    def __getitem__(self, at: slice) -> Sequence[tuple[Mark, ...]]: ...
    def __getitem__(self, at: int | slice) -> tuple[Mark, ...] | Sequence[tuple[Mark, ...]]:
        return self._all()[at]


@dataclass(frozen=True)
class Analysis:
    """What is known about a portrait. Marks are listed per face, the surest first."""

    width: int
    height: int
    faces: tuple[Face, ...]
    layers: tuple[Layer, ...]
    marks: Sequence[tuple[Mark, ...]]
    missed: tuple[tuple[float, float, float, float], ...] = ()

    @cached_property
    def overview(self) -> NDArray[np.float32]:
        """All skin over the whole picture, reduced to `OVERVIEW` pixels on the long side."""
        scale = min(1.0, OVERVIEW / max(self.width, self.height))
        shape = (max(1, round(self.height * scale)), max(1, round(self.width * scale)))
        return self.mask(ALL_SKIN, Rect(0, 0, self.width, self.height), shape)

    @cached_property
    def notes(self) -> dict[tuple[str, str, int], dict[str, float]]:
        """What was worked out about its faces, by the name of what did, the picture's digest, and
        the face's number: kept as long as the analysis is.
        """
        return {}

    @property
    def nbytes(self) -> int:
        """Memory that it takes up."""
        return sum(a.mask.nbytes for a in self.layers) + sum(f.points.nbytes for f in self.faces)

    @cached_property
    def key(self) -> str:
        """Fingerprint of the zones and of whose they are: what names an analysis."""
        digest = hashlib.blake2b(digest_size=12)
        digest.update(repr([(f.anchor, f.box) for f in self.faces]).encode())
        for layer in self.layers:
            digest.update(repr((layer.zone, layer.face, layer.rect.as_tuple())).encode())
            digest.update(layer.mask.tobytes())
        return digest.hexdigest()

    def who(self, face: tuple[float, float] | int) -> int | None:
        """The number of the face at a place of the original, the largest first; None: no face.

        Of several whose boxes hold the place, that whose own is nearest. A number stands for itself.
        """
        if isinstance(face, int):
            return face if 0 <= face < len(self.faces) else None
        x, y = face
        found = []
        for n, one in enumerate(self.faces):
            left, top, width, height = one.box
            if left <= x <= left + width and top <= y <= top + height:
                away = np.hypot(one.anchor[0] - x, one.anchor[1] - y) / max(height, 1)
                found.append((float(away), n))
        return min(found)[1] if found else None

    def zone_at(self, x: float, y: float) -> tuple[int, str]:
        """The face and zone that a place belongs to most; (-1, "background") where none is."""
        best, key = 0.3, (-1, "background")
        for layer in self.layers:
            r = layer.rect
            if layer.face < 0 or layer.zone in OVER or not (r.x0 <= x < r.x1 and r.y0 <= y < r.y1):
                continue
            row = int((y - r.y0) * layer.mask.shape[0] / r.height)
            col = int((x - r.x0) * layer.mask.shape[1] / r.width)
            share = layer.mask[row, col] / 255
            if share > best:
                best, key = share, (layer.face, layer.zone)
        return key

    def mask(
        self, names: Sequence[str], rect: Rect, shape: tuple[int, int], face: int | None = None
    ) -> NDArray[np.float32]:
        """Zones together over a rectangle of the original, see `zones.combine`."""
        return combine(list(self.layers), tuple(names), rect, shape, face)


def displayed(picture: Picture) -> NDArray[np.uint8]:
    """The picture's pixels in 8-bit sRGB, as a screen shows them: what faces are judged on."""
    pixels = picture.pixels
    if picture.developed is not None:
        return np.asarray(to_integers(np.clip(picture.space.to_working(pixels), 0, 1), 8), np.uint8)
    if pixels.dtype != np.uint8:
        pixels = to_integers(to_float(pixels), 8)
    return np.asarray(profiles.to_srgb(np.asarray(pixels, np.uint8), picture.icc), np.uint8)


def analyse(
    picture: Picture,
    hints: Hints = Hints(),
    progress: Progress = lambda share, doing: None,
    models: Models = MODELS,
    marks_later: bool = False,
) -> Analysis:
    """Analyse a picture.

    Parameters
    ----------
    progress : callable
        Told the done share, 0..1, and what is being done, in words.
    marks_later : bool
        Don't wait for the marks: see `MarksLater`.
    """
    pixels = displayed(picture)
    progress(0.02, "Looking for faces")
    faces = find_faces(pixels, lambda s: progress(0.02 + 0.3 * s, "Looking for faces"), models)
    faces, missed = _hinted(pixels, faces, hints, models)
    progress(0.34, "Telling skin, hair and features apart")
    layers = find_zones(
        pixels, faces, lambda s: progress(0.34 + 0.46 * s, "Telling skin, hair and features apart"),
        models,
    ) if faces else []  # fmt: skip
    bounds = Rect(0, 0, picture.width, picture.height)

    def marks_of(n: int) -> tuple[Mark, ...]:
        rect, face = head_rect(faces[n], bounds), faces[n]
        shape = (max(1, rect.height // 3), max(1, rect.width // 3))
        ground = mark_ground(layers, rect, shape, n, face)
        doubt = mark_doubt(layers, rect, shape, n, face)
        return tuple(find_marks(pixels, rect, ground, face.scale.px_per_mm, doubt))

    def all_marks() -> tuple[tuple[Mark, ...], ...]:
        return tuple(at_once(marks_of, range(len(faces))))

    marks: Sequence[tuple[Mark, ...]]
    if marks_later:
        marks = MarksLater(all_marks)
    else:
        progress(0.8, "Looking for marks")
        marks = all_marks()
    progress(1.0, "Done")
    return Analysis(picture.width, picture.height, tuple(faces), tuple(layers), marks, missed)


def _hinted(
    pixels: NDArray[np.uint8], faces: list[Face], hints: Hints, models: Models
) -> tuple[list[Face], tuple[tuple[float, float, float, float], ...]]:
    """The faces as the user has it: added, removed, scaled. Boxes without a face are returned."""

    def within(face: Face, x: float, y: float) -> bool:
        bx, by, w, h = face.box
        return bx <= x <= bx + w and by <= y <= by + h

    out = [f for f in faces if not any(within(f, *p) for p in hints.removed)]
    missed = []
    for box in hints.boxes:
        found = face_in(pixels, box, models)
        if found is None:
            missed.append(box)
            continue
        middle = (box[0] + box[2] / 2, box[1] + box[3] / 2)
        out = [f for f in out if not within(f, *middle)] + [found]
    for x0, y0, x1, y1 in hints.nudges:
        near = [f for f in out if within(f, x0, y0)]
        if near:
            out[out.index(near[0])] = _nudged(near[0], (x0, y0), (x1 - x0, y1 - y0))
    for x, y, radius in hints.irises:
        near = [f for f in out if within(f, x, y)]
        if near:
            face = near[0]
            scale = by_hand(radius, face.right_iris, face.left_iris, face.pose.yaw)
            out[out.index(face)] = replace(face, scale=scale)
    return sorted(out, key=lambda f: -f.height), tuple(missed)


def _nudged(face: Face, at: tuple[float, float], by: tuple[float, float]) -> Face:
    """The mesh with its points near a place moved, farther ones less."""
    points = face.points.copy()
    away = np.hypot(points[:, 0] - at[0], points[:, 1] - at[1]) / (_NUDGE_REACH * face.height)
    points[:, :2] += np.exp(-(away**2))[:, None] * np.asarray(by, np.float32)
    return replace(face, points=points, by_hand=True)


def save(analysis: Analysis, path: Path) -> None:
    """Write an analysis to one file, whole or not at all."""
    arrays: dict[str, Any] = {}
    for n, face in enumerate(analysis.faces):
        arrays[f"points{n}"] = face.points
    for n, layer in enumerate(analysis.layers):
        arrays[f"mask{n}"] = layer.mask
    meta = {
        "version": VERSION,
        "width": analysis.width,
        "height": analysis.height,
        "faces": [_face_data(f) for f in analysis.faces],
        "layers": [{"zone": a.zone, "face": a.face, "rect": a.rect.as_tuple()} for a in analysis.layers],
        "marks": [[asdict(m) for m in of_face] for of_face in analysis.marks],
        "missed": analysis.missed,
    }  # fmt: skip
    arrays["meta"] = np.frombuffer(json.dumps(meta).encode(), np.uint8)
    path.parent.mkdir(parents=True, exist_ok=True)
    beside = path.with_name(f"{path.name}.{os.getpid()}.part")
    with open(beside, "wb") as file:
        np.savez_compressed(file, **arrays)
    os.replace(beside, path)


def _face_data(face: Face) -> dict[str, Any]:
    return {
        "score": face.score,
        "by_hand": face.by_hand,
        "pose": asdict(face.pose),
        "right_iris": asdict(face.right_iris),
        "left_iris": asdict(face.left_iris),
        "scale": asdict(face.scale),
    }


def load(path: Path) -> Analysis:
    """Read an analysis; `PictureError` when the file isn't one of this version."""
    try:
        with np.load(path, allow_pickle=False) as file:
            meta = json.loads(bytes(file["meta"]))
            if meta["version"] != VERSION:
                raise PictureError("This analysis was made by another version.")
            faces = tuple(
                Face(
                    file[f"points{n}"], f["score"], Pose(**f["pose"]), Iris(**f["right_iris"]),
                    Iris(**f["left_iris"]), Scale(**f["scale"]), f["by_hand"],
                )
                for n, f in enumerate(meta["faces"])
            )  # fmt: skip
            layers = tuple(
                Layer(a["zone"], a["face"], Rect(*a["rect"]), file[f"mask{n}"])
                for n, a in enumerate(meta["layers"])
            )
            marks = tuple(tuple(Mark(**m) for m in of_face) for of_face in meta["marks"])
            missed = tuple((m[0], m[1], m[2], m[3]) for m in meta["missed"])
            return Analysis(meta["width"], meta["height"], faces, layers, marks, missed)
    except (OSError, EOFError, BadZipFile, ValueError, KeyError, TypeError) as error:
        raise PictureError(f"The analysis can't be read: {error}.") from None


def analyse_file(
    source: Path, target: Path, hints: Hints = Hints(), progress: Progress = lambda s, d: None
) -> None:
    """Read a photograph, analyse it, and save the result: the whole job for a worker process."""
    save(analyse(read(source), hints, progress), target)
