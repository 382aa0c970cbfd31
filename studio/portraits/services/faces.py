"""What the bench shows of an analysis: faces, zones, marks with their decisions, zone masks."""

from __future__ import annotations

from dataclasses import dataclass, field

import cv2
import numpy as np

from retouch.edit import Edit
from retouch.face import Analysis
from retouch.face.braces import braces
from retouch.face.corrected import zone_mask
from retouch.face.cover import FaceZones
from retouch.face.doubts import doubts
from retouch.face.red_eyes import RedEye, red_eyes
from retouch.face.zones import Layer
from retouch.geometry import Rect
from retouch.memory import Part, shared
from retouch.natural import Reading, readings
from retouch.natural.moves import Moved, everything_moved
from retouch.natural.passes import pass_readings, stopped
from retouch.passes import registry
from retouch.passes.readings import Reading as PassReading
from retouch.render.view import grid_of
from retouch.shape.holds import Hold, holds
from retouch.work.glasses import LensLight, offered, wearing
from retouch.work.notes import notes
from retouch.zone_names import REGION_TITLES, TOGETHER_TITLES, ZONE_NAMES, ZONES
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk

_FOUND_MASK = 90  # of 255: where a zone counts as being there
# Outlines are drawn where a zone is so sure (of 255), so exactly (mm), without specks below so many mm.
_DRAWN_MASK, _DRAWN_MM, _SPECK_MM = 127, 0.6, 4.0
# The most of the memory that outlines may take, and what a point of one takes, bytes.
_DRAWN_SHARE, _POINT_BYTES = 0.01, 120
# So many places of touches are remembered with an analysis; with more of them they are looked up each time.
_MOST_THERE = 20_000

# A polygon, in pixels of the original.
Outline = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Place:
    """A zone of a face: its extent and how much has been touched in it."""

    zone: str
    face: int
    rect: Rect
    touches: int
    strength: float
    outlines: tuple[Outline, ...] = ()


def outlines_of(layer: Layer, px_per_mm: float) -> list[Outline]:
    """The outlines of a zone's layer, for drawing: polygons in pixels of the original, small specks left out."""
    found, _ = cv2.findContours(
        (layer.mask > _DRAWN_MASK).astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE
    )
    kx = layer.rect.width / layer.mask.shape[1]
    ky = layer.rect.height / layer.mask.shape[0]
    out: list[Outline] = []
    for one in found:
        if cv2.contourArea(one) * kx * ky < (_SPECK_MM * px_per_mm) ** 2:
            continue
        line = cv2.approxPolyDP(one, max(_DRAWN_MM * px_per_mm / kx, 0.5), True)[:, 0]
        if len(line) > 2:
            x = layer.rect.x0 + (line[:, 0] + 0.5) * kx
            y = layer.rect.y0 + (line[:, 1] + 0.5) * ky
            out.append(
                tuple((round(float(a), 1), round(float(b), 1)) for a, b in zip(x, y, strict=True))
            )
    return out


@dataclass(frozen=True)
class _Drawn:
    """What the bench is told of an analysis whatever the edit: each zone's extent and outlines, by face and name,
    and what each face is in doubt for.
    """

    extents: dict[tuple[int, str], Rect]
    outlines: dict[tuple[int, str], list[Outline]]
    doubts: list[tuple[str, ...]]
    # The zones in which places of touches were found to lie.
    there: dict[tuple[float, float], tuple[int, str]] = field(default_factory=dict)

    @property
    def nbytes(self) -> int:
        return _POINT_BYTES * sum(len(line) for own in self.outlines.values() for line in own)


def _drawn(analysis: Analysis) -> _Drawn:
    kept: Part[_Drawn] = shared().part("zones drawn", _DRAWN_SHARE)
    # Scales may be set by hand, which no zone shows.
    key = (analysis.key, *((f.scale, f.pose) for f in analysis.faces))
    return kept.get(key, lambda: _draw(analysis))


def _draw(analysis: Analysis) -> _Drawn:
    extents: dict[tuple[int, str], Rect] = {}
    drawn: dict[tuple[int, str], list[Outline]] = {}
    for layer in analysis.layers:
        ys, xs = (
            np.flatnonzero(layer.mask.max(1) > _FOUND_MASK),
            np.flatnonzero(layer.mask.max(0) > _FOUND_MASK),
        )
        if layer.face < 0 or not len(ys) or not len(xs):
            continue
        kx = layer.rect.width / layer.mask.shape[1]
        ky = layer.rect.height / layer.mask.shape[0]
        rect = Rect(
            int(layer.rect.x0 + xs[0] * kx), int(layer.rect.y0 + ys[0] * ky),
            int(layer.rect.x0 + (xs[-1] + 1) * kx), int(layer.rect.y0 + (ys[-1] + 1) * ky),
        )  # fmt: skip
        key = (layer.face, layer.zone)
        extents[key] = extents[key].union(rect) if key in extents else rect
        scale = analysis.faces[layer.face].scale.px_per_mm
        drawn.setdefault(key, []).extend(outlines_of(layer, scale))
    return _Drawn(extents, drawn, [doubts(analysis, n) for n in range(len(analysis.faces))])


def doubts_of(analysis: Analysis, face: int) -> tuple[str, ...]:
    """Why a face may have been understood wrongly, in words; worked out once."""
    return _drawn(analysis).doubts[face]


def places(analysis: Analysis, edit: Edit) -> list[Place]:
    """The zones that are there, with the touches whose middle lies in them."""
    drawn = _drawn(analysis)
    there = drawn.there if len(drawn.there) < _MOST_THERE else {}
    counts: dict[tuple[int, str], list[float]] = {}
    for one in edit.passes:
        if not one.on or registry.kind(one.kind).guide:
            continue
        for touch in one.touches:
            x = sum(p[0] for p in touch.path) / len(touch.path)
            y = sum(p[1] for p in touch.path) / len(touch.path)
            if (x, y) not in there:
                there[x, y] = analysis.zone_at(x, y)
            key = there[x, y]
            share = one.share * float(touch.values.get("opacity", 100.0)) / 100
            counts.setdefault(key, []).append(share)
    return [
        Place(zone, face, rect, len(counts.get((face, zone), [])),
              max(counts.get((face, zone), [0.0])), tuple(drawn.outlines[face, zone]))
        for (face, zone), rect in drawn.extents.items()
    ]  # fmt: skip


def titles() -> dict[str, str]:
    """Words for every name a zone can be asked by."""
    return {**TOGETHER_TITLES, **{z.name: z.title for z in ZONES}, **REGION_TITLES}


def zone_view(
    portrait: Portrait, name: str, x: float, y: float, scale: float, width: int, height: int,
    face: int | None = None,
) -> bytes:  # fmt: skip
    """A zone's mask on a view's own pixels, as a grey PNG: white is inside."""
    if name not in ZONE_NAMES:
        raise Problem(404, "no_such_zone", f"There is no zone called {name!r}.")
    one = desk.open_desk(portrait)
    grid = grid_of(one.renderer.plan(one.edit), x, y, scale, width, height)
    analysis = analysing.result(portrait)
    if face is not None and not 0 <= face < (len(analysis.faces) if analysis else 0):
        raise Problem(404, "no_such_face", "This face isn't known here.")
    if grid.rect.empty:
        mask = np.zeros((height, width), np.float32)
    else:
        touches = one.edit.touches_of("zones")
        # Whole pixels of a level of the original, which the grid lays on the screen's own.
        size = 1 << grid.level
        rect = Rect(*(v * size for v in grid.rect.as_tuple()))
        shape = (grid.rect.height, grid.rect.width)
        px_per_mm = (
            analysis.faces[face or 0].scale.px_per_mm if analysis and analysis.faces else 6.0
        )
        found = zone_mask(
            analysis, name, rect, shape, touches, one.renderer.pyramid.sampled, face, px_per_mm
        )
        mask = np.asarray(grid.laid(found), np.float32)
    whole = np.asarray(np.clip(mask * 255 + 0.5, 0, 255), np.uint8)
    return bytes(cv2.imencode(".png", whole, [cv2.IMWRITE_PNG_COMPRESSION, 1])[1])


def of_pass(portrait: Portrait, pass_id: str) -> tuple[PassReading, ...]:
    """What a pass tells of itself in numbers; none where it tells nothing, or is gone."""
    one = desk.open_desk(portrait)
    return pass_readings(one.renderer, one.edit, pass_id)


def notes_of(portrait: Portrait, pass_id: str, found: bool) -> list[str]:
    """What is to be said about a pass where it stands; ``found``: it has something to act on."""
    edit = desk.edit_of(portrait)
    said = notes(edit).get(pass_id, [])
    one = next((p for p in edit.passes if p.id == pass_id and p.acts), None)
    if one is not None and registry.kind(one.kind).shape:
        limit = stopped(desk.open_desk(portrait).renderer.plan(edit).shape, one)
        return [*said, limit] if limit else said
    if one is not None and registry.kind(one.kind).reads is not None and not found and not said:
        return [
            "Nothing to act on is found here. Paint on its mask, or correct the zone in the stage Look."
        ]
    return said


def glowing(portrait: Portrait) -> list[RedEye]:
    """Pupils that the flash made glow; none while no face is known."""
    analysis = analysing.result(portrait)
    if analysis is None or not analysis.faces:
        return []
    return red_eyes(analysis, desk.open_desk(portrait).renderer.pyramid)


def reflecting(portrait: Portrait) -> tuple[list[int], list[LensLight]]:
    """Faces that wear glasses, and the reflections on their lenses."""
    analysis = analysing.result(portrait)
    if analysis is None or not analysis.faces:
        return [], []
    one = desk.open_desk(portrait)
    return wearing(analysis, one.edit), offered(analysis, one.renderer.pyramid)


def braced(portrait: Portrait) -> list[int]:
    """Faces that wear braces."""
    analysis = analysing.result(portrait)
    if analysis is None:
        return []
    one = desk.open_desk(portrait)
    zones = FaceZones(analysis, one.edit, one.renderer.pyramid)
    return [n for n in range(len(analysis.faces)) if braces(zones, n) is not None]


def holds_of(portrait: Portrait, face: int) -> list[Hold]:
    """Places of a face that one can take hold of."""
    analysis = analysing.result(portrait)
    if analysis is None or not 0 <= face < len(analysis.faces):
        return []
    one = analysis.faces[face]
    return holds(np.asarray(one.points[:, :2], np.float64), one.scale.px_per_mm)


def moves_of(portrait: Portrait) -> tuple[Moved, ...]:
    """Everything that the portrait's edit moves."""
    one = desk.open_desk(portrait)
    analysis = analysing.of_edit(portrait.id, one.edit)
    zones = FaceZones(analysis, one.edit, one.renderer.pyramid) if analysis is not None else None
    return everything_moved(one.renderer, one.edit, zones)


def texture(portrait: Portrait, face: int) -> list[Reading]:
    """The texture of a face's zones; none while no such face is known."""
    analysis = analysing.result(portrait)
    if analysis is None or not 0 <= face < len(analysis.faces):
        return []
    one = desk.open_desk(portrait)
    return readings(one.renderer, one.edit, analysis, face)
