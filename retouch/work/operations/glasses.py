"""Glasses taken off a face, as one step of ordinary passes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit import Edit, Pass, Touch
from retouch.edit.mask import Area, Face, OutlineArea, ZoneArea
from retouch.edit.values import MOST_AREAS, MOST_SPARED, STRICT, Point, Switch
from retouch.face import landmarks as lm
from retouch.face.analysis import Analysis
from retouch.face.cover import FaceZones
from retouch.face.lens_light import Reflection, Tint
from retouch.face.mirror import mirrored_place, within_eye
from retouch.face.outlines import Points
from retouch.forms.form import completed, completed_touch
from retouch.heal.turned import Turn
from retouch.passes import registry
from retouch.passes.turning import mirrored_values
from retouch.work.bench import Bench, Refused, Result, free_name, inserted, place_for
from retouch.work.fitting import fitted, usual_mask
from retouch.work.glasses import (
    behind_dark,
    beside_frame,
    frame_outlines,
    lens_touch,
    light_on,
    on_right,
    shadow_of,
    untold_arms,
    wearing,
)
from retouch.work.sources import prepared

# An eye is made from the other one, or from its own other half, where no more than this part of that is
# hidden; from its own half where so much less of it is.
_MOST_HIDDEN, _OWN_HALF = 0.6, 0.3
# An eye reaches so many radii of its iris; a reflection with less than this part there is beside it. Places
# of a reflection that are looked at, along either side.
_EYE, _LEAST_EYE, _GRID = 2.6, 0.05, 24
# Where no shadow of glasses is lifted.
_NO_SKIN = ("eyes", "brows", "hair", "beard", "clothing", "background")
# An iris and its dark rim, in its radii.
_ROUND_IRIS = 1.15
# The passes of reflections alone, in their order.
_SEEN, _BURNT, _EYES = "Reflections on lenses", "Burnt-out reflections", "Eyes behind reflections"
_ORDER = (_SEEN, _BURNT)
# Lids opened so far beyond themselves, across and down, hold the lashes.
_WITH_LASHES = np.array([1.25, 2.2])
# So far, they hold all of an eye.
_LIDS = np.array([1.1, 1.3])


@dataclass(frozen=True)
class TakeOffGlasses:
    """Reflections, the shadow and the frame of glasses removed.

    Passes in the order in which one needs the other: reflections subtracted where something is seen
    through them; the cast shadow lifted; the frame, and what is burnt out beside it, filled with what
    lies around; eyes that are burnt out made from the other one where that is seen. ``face``: one person of a group; none: everyone
    who wears glasses. ``only_light`` leaves frame and shadow alone, and so does ``light``: a place within
    the one reflection or tint to take off.
    """

    __pydantic_config__ = STRICT

    face: Face = None
    only_light: Switch | None = None
    light: Point | None = None
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
        frame_stays = self.only_light or self.light is not None
        if frame_stays:
            burnt = [beside_frame(zones, r) for r in burnt]
        hidden = burnt
        if self.light is not None:
            seen_through = [r for r in seen_through if self._holds(r)]
            burnt = [r for r in burnt if self._holds(r)]
        made: list[tuple[str, str, list[Touch]]] = [
            ("lens_light", _SEEN,
             [self._touch(bench, "lens_light", lens_touch(r, bench.new_id())) for r in seen_through]),
        ]  # fmt: skip
        frames = {n: frame_outlines(zones, n) for n in people}
        eyes = [self._eye(bench, r, hidden, frames[r.face]) for r in burnt]
        if frame_stays:
            made.append(("fill", _BURNT, eyes))
        else:
            for n in people:
                gone = frame_outlines(zones, n, [r.outline for r in burnt if r.face == n])
                # Eyes that are made anew afterwards lend nothing to the skin around them.
                redone = [t for t, r in zip(eyes, burnt, strict=True) if r.face == n]
                apart = untold_arms(analysis, n, pyramid.picture.bounds)
                if all(t.source for t in redone):
                    apart += _around_eyes(analysis, n)
                made += [
                    ("cast_shadow", "Shadow of the glasses",
                     self._shadows(bench, zones, n, frames[n], lights)),
                    ("fill", "Frame of the glasses",
                     [self._framed(bench, line, apart) for line in gone]),
                ]  # fmt: skip
            # What the other eye shows goes over what was filled from around.
            made.append(("fill", _EYES, [t for t in eyes if t.source is not None]))
        kept = [(kind, name, touches) for kind, name, touches in made if touches]
        if not kept:
            raise Refused("nothing_here", "No reflections are found on these lenses.")
        if self.light is not None:
            return self._one(edit, bench, kept, [*seen_through, *burnt])
        at = place_for(edit, registry.kind("lens_light"))
        for n, (kind, name, touches) in enumerate(kept):
            one = self._pass(edit, bench, kind, name, touches)
            edit = inserted(edit, at + n, one)
        label = "Reflections off the lenses" if self.only_light else "Glasses off"
        return Result(edit, label, pass_id=edit.passes[at + len(kept) - 1].id)

    def _holds(self, one: Reflection | Tint) -> bool:
        assert self.light is not None
        return bool(_within(np.array([self.light], np.float32), [one.outline])[0])

    def _one(
        self,
        edit: Edit,
        bench: Bench,
        made: list[tuple[str, str, list[Touch]]],
        lights: list[Reflection | Tint],
    ) -> Result:
        """The passes of one reflection, joined to those of the ones before it. They stay in their order: what
        is filled sees the others subtracted already."""
        passes = list(edit.passes)
        for n, (kind, name, touches) in enumerate(made):
            known = next(
                (k for k, p in enumerate(passes) if (p.kind, p.name) == (kind, name)), None
            )
            if known is not None:
                both = (*passes[known].touches, *touches)
                passes[known] = replace(passes[known], touches=both)
                continue
            one = self._pass(replace(edit, passes=tuple(passes)), bench, kind, name, touches)
            later = _ORDER[_ORDER.index(name) + 1 :]
            at = place_for(edit, registry.kind("lens_light")) + n
            passes.insert(next((k for k, p in enumerate(passes) if p.name in later), at), one)
        assert bench.analysis is not None
        side = "right" if on_right(bench.analysis, lights[0]) else "left"
        edit = replace(edit, passes=tuple(passes))
        return Result(edit, f"Reflection off the {side} lens")

    def _pass(self, edit: Edit, bench: Bench, kind: str, name: str, touches: list[Touch]) -> Pass:
        one = registry.kind(kind)
        mask = usual_mask(one, bench, edit, None)
        if kind == "cast_shadow":
            # Beside and behind glasses it is unsure what is skin: all that surely is something else is left out.
            areas: list[Area] = [ZoneArea(zone, way="take") for zone in _NO_SKIN]
            assert bench.analysis is not None
            for n in wearing(bench.analysis, edit):
                lids = _around_eyes(bench.analysis, n, _LIDS)
                areas += [OutlineArea(line, way="take") for line in lids]
            mask = replace(mask, areas=tuple(areas)[:MOST_AREAS])
        return completed(
            Pass(
                bench.new_id(), kind, free_name(edit, name), {}, mask,
                fit=fitted(one, bench, None), touches=tuple(touches),
            )
        )  # fmt: skip

    def _touch(self, bench: Bench, kind: str, touch: Touch) -> Touch:
        return completed_touch(touch, registry.kind(kind))

    def _fill(self, bench: Bench, line: Points) -> Touch:
        return self._touch(bench, "fill", Touch(bench.new_id(), line, {"shape": "outline"}))

    def _eye(
        self, bench: Bench, light: Reflection, burnt: list[Reflection], frame: list[Points]
    ) -> Touch:
        """A fill of what is burnt out; of an eye by the other one or by its own other half, whichever is
        seen: what is burnt out or behind the frame there isn't drawn from.
        """
        analysis = bench.analysis
        assert analysis is not None
        touch = self._fill(bench, light.outline)
        keeps = prepared(bench, registry.kind("fill"), touch).spare
        hidden = [*frame, *(r.outline for r in burnt if r.face == light.face and r is not light)]
        touch = replace(touch, spare=(*hidden, *keeps)[:MOST_SPARED])
        face = analysis.faces[light.face]
        line = np.asarray(light.outline, np.float32)
        x, y = ((line.min(0) + line.max(0)) / 2).tolist()
        places = _places_in_eye(analysis, light)
        if not len(places):
            # It lies beside the eyes: nothing of them belongs there.
            return replace(
                touch, spare=(*_around_eyes(analysis, light.face), *touch.spare)[:MOST_SPARED]
            )
        best = None
        for found, itself in ((mirrored_place(face, x, y), False), (within_eye(face, x, y), True)):
            if found is None:
                continue
            lines = [*hidden, light.outline] if itself else hidden
            share = _hidden_share(places - (x, y), found, lines)
            # Both halves of an eye differ, at the corners most of all.
            if share <= _MOST_HIDDEN and (best is None or share < best[0] - _OWN_HALF):
                best = share, found
        if best is None:
            # Filled from around: an iris that is seen isn't there a second time.
            seen = _irises_beside(analysis, light)
            return replace(touch, spare=(*seen, *touch.spare)[:MOST_SPARED])
        there_x, there_y, degrees, size = best[1]
        values = {**touch.values, **mirrored_values(degrees, size)}
        return replace(touch, values=values, source=(round(there_x - x), round(there_y - y)))

    def _framed(self, bench: Bench, line: Points, apart: list[Points]) -> Touch:
        """A fill of a piece of the frame: the other side of the face wears it, too; nothing is drawn from
        within ``apart``."""
        touch = prepared(bench, registry.kind("fill"), self._fill(bench, line))
        plain = self._fill(bench, line)
        return replace(plain, spare=(*apart, *touch.spare)[:MOST_SPARED])

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


def _around_eyes(
    analysis: Analysis, n: int, reach: NDArray[np.float64] = _WITH_LASHES
) -> list[Points]:
    """Outlines around a person's eyes, lashes and all, or as far as said (times the lids', across and down)."""
    out = []
    for eye in (lm.EYE_R, lm.EYE_L):
        line = analysis.faces[n].points[list(eye), :2].astype(np.float64)
        middle = (line.min(0) + line.max(0)) / 2
        wide = middle + (line - middle) * reach
        out.append(tuple((round(float(x), 1), round(float(y), 1)) for x, y in wide))
    return out


def _places_in_eye(analysis: Analysis, light: Reflection) -> NDArray[np.float32]:
    """Places (n, 2) of a reflection that lie over an eye and what is close around it; few: none."""
    line = np.asarray(light.outline, np.float32)
    low, high = line.min(0), line.max(0)
    grid = np.stack(
        np.meshgrid(*(np.linspace(a, b, _GRID) for a, b in zip(low, high, strict=True))), -1
    )
    flat = grid.reshape(-1, 2).astype(np.float32)
    inside = _within(flat, [light.outline])
    face = analysis.faces[light.face]
    irises = np.array([(i.x, i.y) for i in (face.right_iris, face.left_iris)])
    radius = max(face.right_iris.radius, face.left_iris.radius)
    near = np.linalg.norm(flat[:, None] - irises, axis=2).min(1) < _EYE * radius
    if (inside & near).sum() < _LEAST_EYE * inside.sum():
        return flat[:0]
    return flat[inside & near]


def _irises_beside(analysis: Analysis, light: Reflection) -> list[Points]:
    """Outlines of a person's irises whose middle doesn't lie behind a reflection."""
    out = []
    face = analysis.faces[light.face]
    for iris in (face.right_iris, face.left_iris):
        if not _within(np.array([[iris.x, iris.y]], np.float32), [light.outline])[0]:
            turns = np.linspace(0, 2 * np.pi, 24, endpoint=False)
            reach = _ROUND_IRIS * iris.radius
            xs, ys = iris.x + reach * np.cos(turns), iris.y + reach * np.sin(turns)
            out.append(
                tuple((round(float(x), 1), round(float(y), 1)) for x, y in zip(xs, ys, strict=True))
            )
    return out


def _hidden_share(
    away: NDArray[np.float32], found: tuple[float, float, float, float], lines: list[Points]
) -> float:
    """Which part of a mirrored place is hidden by what lies within outlines.

    ``away`` (n, 2): places beside the middle of what is mirrored; ``found``: where that lies, how it is
    turned and enlarged.
    """
    x, y, degrees, size = found
    there = away @ Turn(degrees, size, True).matrix().T + (x, y)
    return float(_within(there.astype(np.float32), lines).mean())


def _within(places: NDArray[np.float32], lines: list[Points]) -> NDArray[np.bool_]:
    out = np.zeros(len(places), np.bool_)
    for line in lines:
        outline = np.asarray(line, np.float32)
        out |= [cv2.pointPolygonTest(outline, (float(a), float(b)), False) >= 0 for a, b in places]
    return out
