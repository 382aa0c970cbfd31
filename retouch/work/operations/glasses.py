"""Glasses taken off a face, as one step of ordinary passes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import cv2
import numpy as np

from retouch.edit import Edit, Pass, Touch
from retouch.edit.mask import Face
from retouch.edit.values import MOST_SPARED, STRICT, Switch
from retouch.face.cover import FaceZones
from retouch.face.lens_light import Reflection, Tint
from retouch.face.mirror import within_eye
from retouch.face.outlines import Points
from retouch.forms.form import completed, completed_touch
from retouch.passes import registry
from retouch.passes.turning import mirrored_values
from retouch.work.bench import Bench, Refused, Result, free_name, inserted, place_for
from retouch.work.fitting import fitted, usual_mask
from retouch.work.glasses import (
    behind_dark,
    frame_outlines,
    lens_touch,
    light_on,
    shadow_of,
    wearing,
)
from retouch.work.sources import prepared

# An eye is made from its own other half where no more than this part of that is burnt out.
_MOST_BURNT = 0.15


@dataclass(frozen=True)
class TakeOffGlasses:
    """Reflections, the shadow and the frame of glasses removed.

    Passes in the order in which one needs the other: reflections subtracted where something is seen
    through them; the cast shadow lifted; the frame, and what is burnt out beside it, filled with what
    lies around; eyes that are burnt out made from the other one where that is seen. ``face``: one person of a group; none: everyone
    who wears glasses. ``only_light`` leaves frame and shadow alone.
    """

    __pydantic_config__ = STRICT

    face: Face = None
    only_light: Switch | None = None
    op: Literal["take_off_glasses"] = "take_off_glasses"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The passes, above those of their stage; `Refused` where no glasses are seen."""
        analysis = bench.analysis
        if analysis is None or not analysis.faces:
            raise Refused("no_face", "No face is known here, so no glasses can be found.")
        asked = bench.person(self.face)
        people = [n for n in wearing(analysis, edit) if asked is None or n == asked]
        if not people:
            raise Refused(
                "no_glasses",
                "No glasses are found on this face. Paint their frame as a zone, or fill it by hand.",
            )
        if all(behind_dark(analysis, n) for n in people):
            raise Refused(
                "dark_glasses",
                "These glasses are dark: nothing of the eyes is seen that could be shown without them. "
                "Borrow the eyes from another picture.",
            )
        people = [n for n in people if not behind_dark(analysis, n)]
        pyramid = bench.renderer.pyramid
        zones = FaceZones(analysis, edit, pyramid)
        found, tints = light_on(analysis, pyramid)
        lights = [r for r in found if r.face in people]
        seen_through: list[Reflection | Tint] = [r for r in lights if not r.burnt]
        seen_through += [t for t in tints if t.face in people]
        burnt = [r for r in lights if r.burnt]
        made: list[tuple[str, str, list[Touch]]] = [
            ("lens_light", "Reflections on lenses",
             [self._touch(bench, "lens_light", lens_touch(r, bench.new_id())) for r in seen_through]),
        ]  # fmt: skip
        eyes = [
            self._by_own_iris(
                prepared(bench, registry.kind("fill"), self._fill(bench, r.outline)),
                r,
                burnt,
                bench,
            )
            for r in burnt
        ]
        if self.only_light:
            frames = [line for n in people for line in frame_outlines(zones, n)]
            eyes = [replace(t, spare=(*frames, *t.spare)[:MOST_SPARED]) for t in eyes]
            made.append(("fill", "Burnt-out reflections", eyes))
        else:
            for n in people:
                frame = frame_outlines(zones, n)
                gone = frame_outlines(zones, n, [r.outline for r in burnt if r.face == n])
                made += [
                    ("cast_shadow", "Shadow of the glasses",
                     self._shadows(bench, zones, n, frame, lights)),
                    ("fill", "Frame of the glasses", [self._framed(bench, line) for line in gone]),
                ]  # fmt: skip
            # What the other eye shows goes over what was filled from around.
            made.append(
                ("fill", "Eyes behind reflections", [t for t in eyes if t.source is not None])
            )
        kept = [(kind, name, touches) for kind, name, touches in made if touches]
        if not kept:
            raise Refused("nothing_here", "No reflections are found on these lenses.")
        at = place_for(edit, registry.kind("lens_light"))
        for n, (kind, name, touches) in enumerate(kept):
            one = self._pass(edit, bench, kind, name, touches)
            edit = inserted(edit, at + n, one)
        label = "Reflections off the lenses" if self.only_light else "Glasses off"
        return Result(edit, label, pass_id=edit.passes[at + len(kept) - 1].id)

    def _pass(self, edit: Edit, bench: Bench, kind: str, name: str, touches: list[Touch]) -> Pass:
        one = registry.kind(kind)
        return completed(
            Pass(
                bench.new_id(), kind, free_name(edit, name), {}, usual_mask(one, bench, edit, None),
                fit=fitted(one, bench, None), touches=tuple(touches),
            )
        )  # fmt: skip

    def _touch(self, bench: Bench, kind: str, touch: Touch) -> Touch:
        return completed_touch(touch, registry.kind(kind))

    def _fill(self, bench: Bench, line: Points) -> Touch:
        return self._touch(bench, "fill", Touch(bench.new_id(), line, {"shape": "outline"}))

    def _by_own_iris(
        self, touch: Touch, light: Reflection, burnt: list[Reflection], bench: Bench
    ) -> Touch:
        """A fill of an eye whose like on the other side is burnt out, too, by the other half of itself."""
        assert bench.analysis is not None
        if touch.source is not None:
            return touch
        line = np.asarray(light.outline)
        x, y = (line.min(0) + line.max(0)) / 2
        found = within_eye(bench.analysis.faces[light.face], float(x), float(y))
        if found is None:
            return touch
        there_x, there_y, degrees, size = found
        shift = round(there_x - x), round(there_y - y)
        # Mirrored left to right about its middle, near enough to tell whether that is burnt out.
        other = (line - (x, y)) * (-1, 1) + (there_x, there_y)
        for one in burnt:
            outline = np.asarray(one.outline, np.float32)
            inside = [
                cv2.pointPolygonTest(outline, (float(a), float(b)), False) >= 0 for a, b in other
            ]
            if np.mean(inside) > _MOST_BURNT:
                return touch
        values = {**touch.values, **mirrored_values(degrees, size)}
        return replace(touch, values=values, source=shift)

    def _framed(self, bench: Bench, line: Points) -> Touch:
        """A fill of a piece of the frame: the other side of the face wears it, too."""
        touch = prepared(bench, registry.kind("fill"), self._fill(bench, line))
        plain = self._fill(bench, line)
        return replace(plain, spare=touch.spare)

    def _shadows(
        self, bench: Bench, zones: FaceZones, n: int, lines: list[Points], lights: list[Reflection]
    ) -> list[Touch]:
        """The shadow of every piece of a frame, if one is told."""
        found = shadow_of(zones, n, bench.renderer.pyramid, [r.outline for r in lights])
        if found is None:
            return []
        across, down, soft, dark = found
        values = {
            "dark": float(round(100 * dark)), "across_px": round(2 * across) / 2,
            "down_px": round(2 * down) / 2, "soft_px": max(0.5, round(2 * soft) / 2),
        }  # fmt: skip
        return [
            self._touch(bench, "cast_shadow", Touch(bench.new_id(), line, values)) for line in lines
        ]
