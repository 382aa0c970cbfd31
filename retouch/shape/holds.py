"""Places of a face that one can take hold of, and which number each of them changes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from retouch.face import landmarks as lm
from retouch.shape.mesh import Mesh
from retouch.shape.proportions import PROPORTIONS
from retouch.warp.steps import Points

Side = Literal["", "right", "left"]
_BY_NAME = {p.name: p for p in PROPORTIONS}


@dataclass(frozen=True)
class Pull:
    """A number that a hold changes: by ``per_mm`` for each mm in the direction ``way`` (x, y of the
    original, a unit)."""

    number: str
    way: tuple[float, float]
    per_mm: float


@dataclass(frozen=True)
class Hold:
    """A place (pixels of the original) with what pulling it does; ``side`` as the person has it."""

    title: str
    side: Side
    at: tuple[float, float]
    pulls: tuple[Pull, ...]


# What is taken hold of: words, the points on the right and left (or one in the middle), and the numbers for
# pulling it outwards and upwards, with their change per mm; an eye's and a brow's number is its own.
_Row = tuple[str, tuple[int, int] | int, tuple[str, float] | None, tuple[str, float] | None]
_ROWS: tuple[_Row, ...] = (
    ("Corner of the eye", (33, 263), ("eye_width", 0.0), ("eye_tilt", 0.0)),
    ("Upper lid", (159, 386), None, ("eye_height", 0.0)),
    ("Eye", (468, 473), ("eye_apart", 2.0), ("eye_up", 1.0)),
    ("Brow", (52, 282), None, ("brow_up", 1.0)),
    ("Arch of the brow", (105, 334), None, ("brow_arch", 1.0)),
    ("End of the brow", (70, 300), None, ("brow_tilt", 0.0)),
    ("Wing of the nose", (64, 294), ("nose_wings", 2.0), None),
    ("Side of the nose", (198, 420), ("nose_width", 2.0), None),
    ("Tip of the nose", 1, None, ("nose_tip", 1.0)),
    ("Base of the nose", 2, None, ("nose_length", -1.0)),
    ("Corner of the mouth", (61, 291), ("mouth_width", 2.0), ("mouth_smile", 1.0)),
    ("Upper lip", 0, None, ("lip_upper", 1.0)),
    ("Lower lip", 17, None, ("lip_lower", -1.0)),
    ("Mouth", 14, None, ("mouth_up", 1.0)),
    ("Cheek", (93, 323), ("face_cheeks", 2.0), None),
    ("Corner of the jaw", (58, 288), ("face_jaw_corner", 2.0), None),
    ("Jaw", (136, 365), ("face_jaw", 2.0), None),
    ("Side of the chin", (148, 377), ("face_chin_width", 0.0), None),
    ("Chin", lm.CHIN, None, ("face_chin", -1.0)),
    ("Temple", (21, 251), ("face_forehead_width", 0.0), None),
    ("Forehead", lm.TOP, None, ("face_forehead", 1.0)),
)  # fmt: skip


def holds(points: Points, px_per_mm: float) -> list[Hold]:
    """All places of a face (478, 2) that one can take hold of."""
    mesh = Mesh(np.asarray(points, np.float64), px_per_mm)
    across, down = mesh.axes
    up = (-float(down[0]), -float(down[1]))
    out = []
    for title, where, outward, upward in _ROWS:
        sides: tuple[Side, ...] = ("right", "left") if isinstance(where, tuple) else ("",)
        for n, side in enumerate(sides):
            point = where[n] if isinstance(where, tuple) else where
            sign = 1.0 if side == "left" else -1.0
            out_way = (sign * float(across[0]), sign * float(across[1]))
            pulls = [
                _pull(mesh, pull, side, point, way)
                for pull, way in ((outward, out_way), (upward, up))
                if pull is not None
            ]
            x, y = mesh.points[point]
            out.append(Hold(title, side, (float(x), float(y)), tuple(pulls)))
    return out


def _pull(
    mesh: Mesh, pull: tuple[str, float], side: Side, point: int, way: tuple[float, float]
) -> Pull:
    """A pull with its change per mm: where the table has none, by what the number itself does there."""
    name, per_mm = pull
    number = name if name in _BY_NAME else f"{name}_{side}"
    if not per_mm:
        moved = mesh.pixels(_BY_NAME[number].shift(mesh, 1.0))[point] / mesh.px_per_mm
        along = float(moved @ np.asarray(way))
        per_mm = 1 / along if abs(along) > 1e-3 else 1.0
    return Pull(number, way, round(per_mm, 3))
