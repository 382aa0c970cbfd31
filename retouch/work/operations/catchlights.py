"""A catchlight added in the form of the other eye's."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import cv2
import numpy as np

from retouch.edit import Edit, Touch
from retouch.edit.mask import Face
from retouch.edit.values import STRICT, Simple
from retouch.face.iris import Iris
from retouch.forms.form import completed_touch
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.picture import Pyramid
from retouch.work.bench import Bench, Refused, Result, find_pass, with_pass
from retouch.work.operations.passes import AddPass

# A catchlight is brighter than the iris around it by this much (encoded), has this much of the
# iris's area at least, is taken with so much around it and at most so large (radii of the iris).
_BRIGHTER, _LEAST, _AROUND, _SMALL = 0.15, 0.002, 0.08, 0.35


@dataclass(frozen=True)
class AddCatchlight:
    """A catchlight in an eye, in the form of the other eye's; ``side`` is the eye that gets it, as the
    person has it."""

    __pydantic_config__ = STRICT

    side: Literal["right", "left"]
    face: Face = None
    op: Literal["add_catchlight"] = "add_catchlight"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """A clone that lightens, in a pass of its own; `Refused` in words."""
        analysis, people = bench.faced(
            self.face, "No face is known here, so there is no other eye."
        )
        face = analysis.faces[people[0]]
        own, other = face.right_iris, face.left_iris
        if self.side == "left":
            own, other = other, own
        found = catchlight(bench.renderer.pyramid, other)
        if found is None:
            raise Refused("no_catchlight", "The other eye has no catchlight that could be taken.")
        x, y, radius = found
        # The light comes from the same side in both eyes: it isn't mirrored.
        k = own.radius / other.radius
        here_x, here_y = own.x + (x - other.x) * k, own.y + (y - other.y) * k
        values: dict[str, Simple] = {
            "radius_px": max(1.0, round(2 * radius * k) / 2), "softness": 40.0,
            "source_size": round(100 * min(max(k, 0.25), 4.0), 1),
        }  # fmt: skip
        touch = Touch(
            bench.new_id(), ((round(here_x, 1), round(here_y, 1)),), values,
            (round(x - here_x), round(y - here_y)),
        )  # fmt: skip
        touch = completed_touch(touch, registry.kind("clone"))
        label = f"Catchlight, {self.side} eye"
        added = AddPass("clone", bench.new_id(), label, areas=()).perform(edit, bench)
        n, one = find_pass(added.edit, added.pass_id or "")
        made = with_pass(added.edit, n, replace(one, touches=(touch,), blend="lighten"))
        return Result(made, label, touch.id, one.id)


def catchlight(pyramid: Pyramid, iris: Iris) -> tuple[float, float, float] | None:
    """The largest light in an iris: x, y and radius in pixels of the original; None without one."""
    r = iris.radius
    rect = Rect(int(iris.x - r), int(iris.y - r), int(iris.x + r) + 1, int(iris.y + r) + 1)
    rect = rect.clip(pyramid.picture.bounds)
    if rect.width < 4 or rect.height < 4:
        return None
    light = np.asarray(pyramid.crop(rect, 0)).min(-1)
    ys, xs = np.mgrid[rect.y0 : rect.y1, rect.x0 : rect.x1] + 0.5
    inside = np.hypot(xs - iris.x, ys - iris.y) < r
    # A small light: whites of eyes are larger, and light skin lies beyond.
    side = 2 * max(2, round(_SMALL * r)) + 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))
    small = cv2.morphologyEx(np.ascontiguousarray(light, np.float32), cv2.MORPH_TOPHAT, disc)
    bright = (small > _BRIGHTER) & inside
    count, parts, stats, middles = cv2.connectedComponentsWithStats(bright.astype(np.uint8))
    if count < 2:
        return None
    k = 1 + int(stats[1:, cv2.CC_STAT_AREA].argmax())
    if stats[k, cv2.CC_STAT_AREA] < _LEAST * np.pi * r * r:
        return None
    at = np.argwhere(parts == k)[:, ::-1] + 0.5
    x, y = middles[k] + 0.5
    reach = float(np.hypot(*(at - (x, y)).T).max()) + _AROUND * r
    return rect.x0 + float(x), rect.y0 + float(y), reach
