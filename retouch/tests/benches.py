"""Benches for tests of operations: a small picture, and stand-ins of an analysis of two people."""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import count
from types import SimpleNamespace
from typing import Any, cast

import numpy as np

from retouch.colour.depth import to_integers
from retouch.edit import Edit
from retouch.face import Analysis, Mark
from retouch.geometry import Rect
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer
from retouch.tests.scenes import skin, spot
from retouch.work import Bench

W, H = 480, 240
# Two people side by side, the left one larger and of lighter skin, with scales of their own.
BOXES = ((20.0, 20.0, 200.0, 200.0), (290.0, 50.0, 150.0, 150.0))
SCALES = (8.0, 7.0)
SPOTS = ((90.0, 90.0), (350.0, 110.0))


def picture() -> Picture:
    image = skin(H, W, grain=0.02, seed=12)
    image[:, 250:] *= np.float32(0.55)
    # A grey wall that tells the light.
    image[220:, :] = (0.52, 0.5, 0.47)
    for x, y in SPOTS:
        spot(image, x, y, 6)
    return Picture(to_integers(image, 8))


def _mesh(box: tuple[float, float, float, float]) -> np.ndarray:
    """A mesh of which only the middles of the cheeks are known."""
    x, y, w, h = box
    points = np.full((478, 3), [x + w / 2, y + h / 2, 0], np.float32)
    points[50, :2], points[280, :2] = (x + w / 4, y + h / 2), (x + 3 * w / 4, y + h / 2)
    return points


@dataclass
class People:
    """A stand-in of an analysis: boxes of skin, each with a spot to clear and perhaps moles."""

    boxes: tuple[tuple[float, float, float, float], ...] = BOXES
    moles: tuple[tuple[float, float], ...] = ()
    key: str = "people"
    notes: dict[Any, Any] = field(default_factory=dict)
    width: int = W
    height: int = H

    @property
    def faces(self) -> tuple[Any, ...]:
        return tuple(
            SimpleNamespace(
                box=box,
                anchor=(box[0] + box[2] / 2, box[1] + box[3] / 3),
                scale=SimpleNamespace(px_per_mm=SCALES[BOXES.index(box)]),
                right_iris=SimpleNamespace(x=box[0] + box[2] / 3),
                left_iris=SimpleNamespace(x=box[0] + 2 * box[2] / 3),
                pose=SimpleNamespace(roll=0.0),
                points=_mesh(box),
            )
            for box in self.boxes
        )

    @property
    def marks(self) -> tuple[tuple[Mark, ...], ...]:
        found = []
        for x, y, w, h in self.boxes:
            own = [Mark(*p, 4, 6, "red", 0.2, 0.9, 0.9, "clear") for p in SPOTS
                   if x < p[0] < x + w and y < p[1] < y + h]  # fmt: skip
            moles = [Mark(*m, 3, 4, "dark", 0.4, 0.1, 0.95, "keep") for m in self.moles
                     if x < m[0] < x + w]  # fmt: skip
            found.append((*own, *moles))
        return tuple(found)

    who = Analysis.who
    overview = np.ones((24, 48), np.float32)

    def zone_at(self, x: float, y: float) -> tuple[int, str]:
        for n, (left, top, w, h) in enumerate(self.boxes):
            if left <= x < left + w and top <= y < top + h:
                return n, "chin"
        return -1, "background"

    def mask(
        self, names: Any, rect: Rect, shape: tuple[int, int], face: int | None = None
    ) -> np.ndarray:
        ys = rect.y0 + (np.arange(shape[0]) + 0.5)[:, None] * rect.height / shape[0]
        xs = rect.x0 + (np.arange(shape[1]) + 0.5)[None] * rect.width / shape[1]
        out = np.zeros(shape, np.float32)
        for n, (left, top, w, h) in enumerate(self.boxes):
            if "chin" in names and face in (None, n):
                inside = (xs >= left) & (xs < left + w) & (ys >= top) & (ys < top + h)
                out = np.maximum(out, inside.astype(np.float32))
        return out


def bench(people: People | None = None, **more: Any) -> Bench:
    """A bench with made-up people, whose ids are counted from 1."""
    numbers = count(1)
    analysis = cast(Analysis, people) if people is not None else None
    return Bench(Renderer(Pyramid(picture())), analysis, new_id=lambda: f"n{next(numbers)}", **more)


NOBODY = Edit()
