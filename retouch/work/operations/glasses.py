"""Glasses taken off a face, as one step of ordinary passes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit import Edit, Pass, Touch
from retouch.edit.mask import Area, Face, OutlineArea, ZoneArea
from retouch.edit.values import MOST_AREAS, MOST_SPARED, STRICT, Switch
from retouch.face import landmarks as lm
from retouch.face.analysis import Analysis
from retouch.face.cover import FaceZones
from retouch.face.lens_light import Reflection, Tint
from retouch.face.mirror import Corner, across_eye, beyond_iris, mirrored_place, within_eye
from retouch.face.outlines import Points
from retouch.forms.form import completed, completed_touch
from retouch.heal.turned import Turn
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

# An eye is made from the other one, or from its own other half, where no more than this part of that is
# hidden; from its own half where so much less of it is.
_MOST_HIDDEN, _OWN_HALF = 0.6, 0.3
# An eye reaches so many radii of its iris; a reflection with less than this part there is beside it. Places
# of a reflection that are looked at, along either side.
_EYE, _LEAST_EYE, _GRID = 2.6, 0.05, 24
# Where no shadow of glasses is lifted.
_NO_SKIN = ("eyes", "brows", "hair", "beard", "clothing", "background")
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
        frames = {n: frame_outlines(zones, n) for n in people}
        eyes = [self._eye(bench, r, burnt, frames[r.face]) for r in burnt]
        corners = [self._corner(bench, r, t) for r, t in zip(burnt, eyes, strict=True)]
        if self.only_light:
            made.append(("fill", "Burnt-out reflections", eyes))
        else:
            for n in people:
                gone = frame_outlines(zones, n, [r.outline for r in burnt if r.face == n])
                # Eyes that are made anew afterwards lend nothing to the skin around them.
                redone = [t for t, r in zip(eyes, burnt, strict=True) if r.face == n]
                apart = _around_eyes(analysis, n) if all(t.source for t in redone) else []
                made += [
                    ("cast_shadow", "Shadow of the glasses",
                     self._shadows(bench, zones, n, frames[n], lights)),
                    ("fill", "Frame of the glasses",
                     [self._framed(bench, line, apart) for line in gone]),
                ]  # fmt: skip
            # What the other eye shows goes over what was filled from around.
            made.append(
                ("fill", "Eyes behind reflections",
                 [t for t in (*eyes, *corners) if t is not None and t.source is not None])
            )  # fmt: skip
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
            return touch
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
            return touch
        there_x, there_y, degrees, size = best[1]
        values = {**touch.values, **mirrored_values(degrees, size)}
        return replace(touch, values=values, source=(round(there_x - x), round(there_y - y)))

    def _corner(self, bench: Bench, light: Reflection, eye: Touch) -> Touch | None:
        """A fill of what lies between the iris and the corner of an eye that looks aside and was made from its own
        other half: by what lies at its other corner."""
        analysis = bench.analysis
        assert analysis is not None
        face = analysis.faces[light.face]
        line = np.asarray(light.outline, np.float32)
        x, y = ((line.min(0) + line.max(0)) / 2).tolist()
        found = within_eye(face, x, y)
        if eye.source is None or found is None:
            return None
        if eye.source != (round(found[0] - x), round(found[1] - y)):
            return None
        corner = beyond_iris(face, x, y)
        part = [] if corner is None else _cut_off(light.outline, corner)
        if len(part) < 3:
            return None
        touch = self._fill(bench, tuple(part))
        own = np.asarray(part, np.float32)
        x, y = ((own.min(0) + own.max(0)) / 2).tolist()
        there_x, there_y, degrees, size = across_eye(face, x, y)
        values = {**touch.values, **mirrored_values(degrees, size)}
        source = round(there_x - x), round(there_y - y)
        return replace(touch, values=values, source=source, spare=eye.spare)

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


def _cut_off(line: Points, corner: Corner) -> list[tuple[float, float]]:
    """The part of an outline that lies towards the corner of an eye (I. Sutherland, G. Hodgman, *Reentrant
    Polygon Clipping*, Communications of the ACM 1974)."""
    places = np.asarray(line, np.float64)
    away = (places - corner.edge) @ corner.way
    out: list[tuple[float, float]] = []
    for n in range(len(places)):
        a, b, da, db = places[n - 1], places[n], away[n - 1], away[n]
        if (da > 0) != (db > 0):
            cut = a + (b - a) * da / (da - db)
            out.append((round(float(cut[0]), 1), round(float(cut[1]), 1)))
        if db > 0:
            out.append((round(float(b[0]), 1), round(float(b[1]), 1)))
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
