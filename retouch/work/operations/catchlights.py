"""A catchlight added in the form of the other eye's."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from retouch.edit import Edit, Touch
from retouch.edit.mask import Face, ZoneArea
from retouch.edit.values import STRICT, Simple
from retouch.face.analysis import Analysis
from retouch.face.catchlights import catchlight, seen_iris
from retouch.face.iris import Iris
from retouch.forms.form import completed_touch
from retouch.passes import registry
from retouch.work.bench import Bench, Refused, Result, with_pass
from retouch.work.operations.passes import AddPass

_EYE = ("irises", "pupils", "eye_whites")
# A light lies on what is seen of the eye with this part of it at least; it is moved towards the middle of the
# iris for that, in so many steps.
_ON_EYE, _STEPS = 0.6, 12


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
        pyramid = bench.renderer.pyramid
        found = catchlight(analysis, pyramid, people[0], other)
        if found is None:
            raise Refused("no_catchlight", "The other eye has no catchlight that could be taken.")
        # The light comes from the same side in both eyes: it isn't mirrored.
        k = own.radius / other.radius
        there = np.asarray(found.path)
        here = _on_eye(analysis, people[0], own, (there - (other.x, other.y)) * k)
        if here is None:
            raise Refused(
                "covered",
                "This eye is covered where the light would lie. Open it in the stage Shape.",
            )
        values: dict[str, Simple] = {
            "radius_px": max(1.0, round(2 * found.radius * k) / 2), "softness": 40.0,
            "source_size": round(100 * min(max(k, 0.25), 4.0), 1),
        }  # fmt: skip
        # A mirrored or sized source is turned about the middle of the stroke.
        way = (there.min(0) + there.max(0)) / 2 - (here.min(0) + here.max(0)) / 2
        touch = Touch(
            bench.new_id(), tuple((round(float(x), 1), round(float(y), 1)) for x, y in here), values,
            (round(float(way[0])), round(float(way[1]))),
        )  # fmt: skip
        touch = completed_touch(touch, registry.kind("clone"))
        label = f"Catchlight, {self.side} eye"
        # Lids stay as they are.
        areas = tuple(
            ZoneArea(zone, analysis.faces[people[0]].anchor, side=self.side) for zone in _EYE
        )
        edit, n, one = AddPass("clone", name=label, areas=areas).added(edit, bench)
        made = with_pass(edit, n, replace(one, touches=(touch,), blend="lighten"))
        return Result(made, label, touch.id, one.id)


def _on_eye(
    analysis: Analysis, face: int, iris: Iris, away: NDArray[np.float64]
) -> NDArray[np.float64] | None:
    """Places ``away`` (n, 2) from the middle of an iris on what is seen of it, moved no farther than that takes;
    None where it is covered."""
    rect, seen = seen_iris(analysis, face, iris)
    if not seen.any():
        return None
    ys, xs = np.nonzero(seen)
    to = np.array([xs.mean() + rect.x0 + 0.5, ys.mean() + rect.y0 + 0.5])
    places = away + (iris.x, iris.y)
    step = (to - places.mean(0)) / _STEPS
    for n in range(_STEPS + 1):
        here = places + n * step
        x, y = np.floor(here - (rect.x0, rect.y0)).astype(int).T
        on = (x >= 0) & (y >= 0) & (x < rect.width) & (y < rect.height)
        if seen[y[on], x[on]].sum() >= _ON_EYE * len(here):
            return here
    return None
