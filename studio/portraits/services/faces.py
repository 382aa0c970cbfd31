"""What the bench shows of an analysis: faces, zones, marks with their decisions, zone masks."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit import Edit, Touch
from retouch.face import Analysis, Mark
from retouch.face.corrected import zone_mask
from retouch.face.names import ALL_SKIN, TOGETHER_TITLES, ZONE_NAMES, ZONES
from retouch.geometry import Rect
from retouch.heal import outline
from retouch.natural import Reading, readings
from retouch.passes import registry
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk
from studio.portraits.services.zone_groups import APART, beside, group_of_zone

_FOUND_MASK = 90  # of 255: where a zone counts as being there
_MOST_PIXELS = 40_000_000
# Marks surer than this aren't copied; places less surely skin than this don't serve skin.
_SURE_MARK, _LEAST_SKIN = 0.3, 0.4
# Zones around a touch are looked at in so many cells along the longer side.
_MOST_AVOIDED = 256
# Sources lie within this many radii (retouch.heal.source.FARTHEST, and the brush itself).
_SEARCHED = 6.5


@dataclass(frozen=True)
class Place:
    """A zone of a face: its extent and how much has been touched in it."""

    zone: str
    face: int
    rect: Rect
    touches: int
    strength: float


@dataclass(frozen=True)
class Decided:
    """A mark with its decision and the touch that holds it, if the user has decided."""

    id: str
    face: int
    zone: str
    mark: Mark
    decision: str
    touch_id: str | None
    cleared: bool


def places(analysis: Analysis, edit: Edit) -> list[Place]:
    """The zones that are there, with the touches whose middle lies in them."""
    extents: dict[tuple[int, str], Rect] = {}
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
    counts: dict[tuple[int, str], list[float]] = {}
    for one in edit.passes:
        if not one.on or one.kind in ("zones", "marks", "faces"):
            continue
        for touch in one.touches:
            x = sum(p[0] for p in touch.path) / len(touch.path)
            y = sum(p[1] for p in touch.path) / len(touch.path)
            key = analysis.zone_at(x, y)
            share = one.strength / 100 * float(touch.values.get("opacity", 100.0)) / 100
            counts.setdefault(key, []).append(share)
    return [
        Place(zone, face, rect, len(counts.get((face, zone), [])),
              max(counts.get((face, zone), [0.0])))
        for (face, zone), rect in extents.items()
    ]  # fmt: skip


def decided(analysis: Analysis, edit: Edit) -> list[Decided]:
    """All marks, those that the user decided about with that decision, the others as proposed."""
    decisions = [t for p in edit.passes if p.kind == "marks" and p.on for t in p.touches]
    out = []
    for n, marks in enumerate(analysis.marks):
        cleared = _cleared(marks, edit)
        for k, mark in enumerate(marks):
            own = _near(decisions, mark)
            zone = analysis.zone_at(mark.x, mark.y)[1]
            out.append(
                Decided(
                    f"{n}-{k}", n, zone, mark,
                    str(own.values["decision"]) if own else mark.proposal,
                    own.id if own else None,
                    bool(cleared[k]),
                )
            )  # fmt: skip
    return out


def _near(touches: list[Touch], mark: Mark) -> Touch | None:
    """The latest decision about a mark: one whose middle lies in it."""
    for touch in reversed(touches):
        x, y = touch.path[0]
        if math.hypot(x - mark.x, y - mark.y) <= max(mark.radius, 2.0):
            return touch
    return None


def _cleared(marks: Sequence[Mark], edit: Edit) -> NDArray[np.bool_]:
    """Which marks have their middle under a heal."""
    dabs = [
        (*place, float(t.values["radius_px"]))
        for p in edit.passes
        if p.kind == "heal" and p.on
        for t in p.touches
        for place in t.path
    ]
    if not dabs or not marks:
        return np.zeros(len(marks), np.bool_)
    x, y, r = np.asarray(dabs, np.float32).T
    at = np.asarray([(m.x, m.y) for m in marks], np.float32)
    away = (at[:, 0, None] - x) ** 2 + (at[:, 1, None] - y) ** 2
    return np.asarray((away < r * r).any(1))


def avoidance(analysis: Analysis, edit: Edit, touch: Touch) -> registry.Avoid:
    """Where a touch must not take from: other marks, what is no skin if it lies on skin, and what is
    no tooth, lip or eye if it lies on one."""
    x, y = touch.path[len(touch.path) // 2]
    if "radius_px" in touch.values:
        radius = float(touch.values["radius_px"])
    else:
        place = outline(touch.path)
        (x, y), radius = place.nodes(place.radius, 1)[0], place.radius
    face, zone = analysis.zone_at(x, y)
    on_skin = face >= 0 and zone in ALL_SKIN
    group = group_of_zone(zone) if face >= 0 else "skin"
    reach = _SEARCHED * radius
    near = [
        m
        for of_face in analysis.marks
        for m in of_face
        if m.confidence > _SURE_MARK and radius < math.hypot(m.x - x, m.y - y) < reach + m.reach
    ]
    marks = [m for m, done in zip(near, _cleared(near, edit), strict=True) if not done]

    def avoid(rect: Rect) -> NDArray[np.uint8]:
        out = np.zeros((rect.height, rect.width), np.uint8)
        if on_skin:
            skin = analysis.overview
            kx, ky = skin.shape[1] / analysis.width, skin.shape[0] / analysis.height
            matrix = np.array(
                [
                    [kx, 0, (rect.x0 + 0.5) * kx - 0.5],
                    [0, ky, (rect.y0 + 0.5) * ky - 0.5],
                ]
            )
            here = cv2.warpAffine(
                skin, matrix, (rect.width, rect.height),
                flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE,
            )  # fmt: skip
            out = (here < _LEAST_SKIN).astype(np.uint8)
        elif group in APART:
            k = min(1.0, _MOST_AVOIDED / max(rect.width, rect.height))
            cells = (max(1, round(rect.height * k)), max(1, round(rect.width * k)))
            other = (analysis.mask(beside(group), rect, cells) > 0.5).astype(np.uint8)
            out = cv2.resize(other, (rect.width, rect.height), interpolation=cv2.INTER_NEAREST)
        for mark in marks:
            place = (round(mark.x - rect.x0 - 0.5), round(mark.y - rect.y0 - 0.5))
            if -mark.reach < place[0] < rect.width + mark.reach:
                cv2.circle(out, place, max(1, round(mark.reach)), 1, -1)
        return out

    return avoid


def titles() -> dict[str, str]:
    """Words for every name a zone can be asked by."""
    return {**TOGETHER_TITLES, **{z.name: z.title for z in ZONES}}


def zone_view(
    portrait: Portrait, name: str, x: float, y: float, scale: float, width: int, height: int,
    face: int | None = None,
) -> bytes:  # fmt: skip
    """A zone's mask on a view's own pixels, as a grey PNG: white is inside."""
    if name not in ZONE_NAMES:
        raise Problem(404, "no_such_zone", f"There is no zone called {name!r}.")
    numbers = (x, y, scale)
    if not all(math.isfinite(n) for n in numbers) or not 0 < scale <= 1:
        raise Problem(422, "not_valid", "A view's scale is above 0 and at most 1.")
    if width < 1 or height < 1 or width * height > _MOST_PIXELS:
        raise Problem(422, "not_valid", "A view has 1 to 40 million pixels.")
    one = desk.open_desk(portrait)
    analysis = analysing.result(portrait)
    touches = [t for p in one.edit.passes if p.kind == "zones" and p.on for t in p.touches]
    # Whole pixels of the original around the view, so that the mask lies exactly.
    rect = Rect(
        math.floor(x), math.floor(y), math.ceil(x + width / scale), math.ceil(y + height / scale)
    )
    shape = (max(1, round(rect.height * scale)), max(1, round(rect.width * scale)))
    px_per_mm = analysis.faces[face or 0].scale.px_per_mm if analysis and analysis.faces else 6.0
    mask = zone_mask(
        analysis, name, rect, shape, touches, one.renderer.pyramid.sampled, face, px_per_mm
    )
    kx, ky = shape[1] / rect.width, shape[0] / rect.height
    step_x, step_y = kx / scale, ky / scale
    matrix = np.array(
        [
            [step_x, 0, (x - rect.x0) * kx + 0.5 * step_x - 0.5],
            [0, step_y, (y - rect.y0) * ky + 0.5 * step_y - 0.5],
        ]
    )
    grey = cv2.warpAffine(
        mask, matrix, (width, height), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )  # fmt: skip
    whole = np.asarray(np.clip(grey * 255 + 0.5, 0, 255), np.uint8)
    return bytes(cv2.imencode(".png", whole, [cv2.IMWRITE_PNG_COMPRESSION, 1])[1])


def texture(portrait: Portrait, face: int) -> list[Reading]:
    """The texture of a face's zones; none while no such face is known."""
    analysis = analysing.result(portrait)
    if analysis is None or not 0 <= face < len(analysis.faces):
        return []
    one = desk.open_desk(portrait)
    return readings(one.renderer, one.edit, analysis, face)
