"""Moves by the outline of hair or body: the passes that hold it, begun from what is found."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from retouch.edit import Edit, Touch
from retouch.edit.mask import Face
from retouch.edit.values import STRICT
from retouch.face import landmarks as lm
from retouch.face.cover import FaceZones
from retouch.face.loose import hair_outline
from retouch.face.outlines import Points, outlines
from retouch.forms.form import completed_touch
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.work.bench import Bench, Refused, Result, with_touches
from retouch.work.operations.passes import AddPass

# A second part of the hair counts if it has this part of the largest one's area.
_LARGE = 0.15
# The body is looked at with so many pixels on its longer side.
_SIDE = 900
_BODY = ("clothing", "neck", "other_skin")


@dataclass(frozen=True)
class MoveByOutline:
    """A pass that moves the hair (``volume``) or the body (``figure``) of one person by its outline.

    ``face``: whose, none: the largest. An outline of the hair that is there is used.
    """

    __pydantic_config__ = STRICT

    kind: Literal["volume", "figure"]
    face: Face = None
    op: Literal["move_by_outline"] = "move_by_outline"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The pass, its numbers at 0; `Refused` where no hair or no body is found."""
        what = "hair" if self.kind == "volume" else "body"
        analysis, people = bench.faced(self.face, f"No face is known here, so no {what} is either.")
        n, kind = people[0], registry.kind(self.kind)
        person = analysis.faces[n]
        for one in edit.passes:
            if one.kind == self.kind and one.fit.face == person.anchor and one.touches:
                raise Refused(
                    "is_there", f"{one.title} is there already: its numbers move the {what}."
                )
        zones = FaceZones(analysis, edit, bench.renderer.pyramid)
        lines = self._hair(edit, zones, n) if self.kind == "volume" else body_outline(zones, n)
        if not lines:
            raise Refused("nothing_here", f"No {what} is found here.")
        oval = person.points[list(lm.OVAL), :2]
        face = tuple((round(float(x), 1), round(float(y), 1)) for x, y in oval)
        edit, at, made = AddPass(self.kind, face=person.anchor).added(edit, bench)
        touches = tuple(
            completed_touch(Touch(bench.new_id(), line, spare=(face,)), kind) for line in lines
        )
        return Result(with_touches(edit, at, touches), kind.title, pass_id=made.id)

    def _hair(self, edit: Edit, zones: FaceZones, n: int) -> list[Points]:
        """The large parts of the person's hair: as the edit outlines them, or as found."""
        assert zones.analysis is not None
        drawn = [
            t.path for t in edit.touches_of("hair_outline")
            if self._nearest(zones, np.asarray(t.path)) == n
        ]  # fmt: skip
        lines = drawn or hair_outline(zones, n)
        sizes = [abs(cv2.contourArea(np.asarray(line, np.float32))) for line in lines]
        return [a for a, size in zip(lines, sizes, strict=True) if size > _LARGE * max(sizes)]

    @staticmethod
    def _nearest(zones: FaceZones, line: np.ndarray) -> int:
        assert zones.analysis is not None
        middles = [f.points[list(lm.OVAL), :2].mean(0) for f in zones.analysis.faces]
        return int(np.argmin([np.hypot(*(line.mean(0) - m)) for m in middles]))


def body_outline(zones: FaceZones, n: int) -> list[Points]:
    """The outline of a person's body below the chin: one closed line, or none."""
    assert zones.analysis is not None
    person = zones.analysis.faces[n]
    picture = zones.pyramid.picture
    chin = int(person.points[lm.CHIN, 1])
    rect = Rect(0, max(0, chin), picture.width, picture.height)
    if rect.empty:
        return []
    k = min(1.0, _SIDE / max(rect.width, rect.height))
    shape = (max(8, round(rect.height * k)), max(8, round(rect.width * k)))
    cover = np.zeros(shape, np.float32)
    for zone in _BODY:
        cover = np.maximum(cover, zones.cover(zone, person.anchor, rect, shape))
    whole = (cover > 0.5).astype(np.uint8)
    whole = cv2.morphologyEx(whole, cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8))
    whole = cv2.morphologyEx(whole, cv2.MORPH_OPEN, np.ones((7, 7), np.uint8))
    found = outlines(whole > 0, rect, 0.01 * shape[0] * shape[1], 1.0)
    return found[:1]
