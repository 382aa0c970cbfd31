"""What taking glasses off a face needs: touches for reflections, shadow and frame."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.discs import disc
from retouch.edit import Edit, Touch
from retouch.face import ALL_SKIN, Analysis
from retouch.face.cover import FaceZones, right_of
from retouch.face.lens_light import Reflection, Tint, reflections, tints
from retouch.face.outlines import Points, outlines, place_within
from retouch.features import cast_shadow
from retouch.geometry import Rect, union_all
from retouch.picture import Pyramid
from retouch.processors import at_once

Mask = NDArray[np.bool_]

# The face's height in pixels at which a frame is outlined, and at which its shadow is looked for.
_UNIT, _SHADOW_UNIT = 900.0, 170.0
# A frame goes with so much of its rim, in heights of the face and in pixels: light scatters there.
_RIM, _RIM_PX = 0.0025, 1.5
# Gaps between a pane and a rim that go along (half of them, in heights of the face).
_BETWEEN = 0.010
# Surroundings of a frame that may be in its shadow, in heights of the face.
_AROUND = 0.12
_NEAR = 0.1
# What is a frame for sure, where a bright reflection ends at it.
_SURELY = 0.8
# Arms are looked at with the face so many pixels high; they begin within so much of its height beside a lens, no
# farther above it and not in this lowest part of it (parts of its height).
_ARMS_UNIT, _ARMS = 200.0, (0.15, 0.1, 0.4)
# One is told where this part of so many cells there is of the frame.
_ARM_PART, _CELLS = 0.05, (40, 40)
# Hardly anything is not a piece of a frame (parts of the squared height of the face).
_LEAST = 0.00006


def wearing(analysis: Analysis | None, edit: Edit) -> list[int]:
    """The faces that wear glasses, found or painted."""
    if analysis is None:
        return []
    painted = [t for t in edit.touches_of("zones") if t.values["zone"] == "glasses"]
    found = {a.face for a in analysis.layers if a.zone == "glasses" and not a.rect.empty}
    return [n for n in range(len(analysis.faces)) if n in found or painted]


def behind_dark(analysis: Analysis, n: int) -> bool:
    """Whether a person's eyes are hidden by dark glasses."""
    rect = union_all([a.rect for a in analysis.layers if a.zone == "lenses" and a.face == n])
    if rect.empty:
        return False
    shape = max(1, rect.height // 4), max(1, rect.width // 4)
    lenses, worn = (analysis.mask((name,), rect, shape, n) for name in ("lenses", "worn"))
    return bool(lenses.any() and (np.minimum(lenses, worn)).sum() > 0.5 * lenses.sum())


def lens_touch(one: Reflection | Tint, ident: str) -> Touch:
    """The touch that takes a reflection or a tint off."""
    names = ("red", "green", "blue")
    if isinstance(one, Tint):
        light = {f"lets_{c}": round(100 * v, 1) for c, v in zip(names, one.lets, strict=True)}
    else:
        light = {f"veil_{c}": round(100 * v, 2) for c, v in zip(names, one.veil, strict=True)}
    return Touch(ident, one.outline, light)


def frame_outlines(zones: FaceZones, n: int, more: Sequence[Points] = ()) -> list[Points]:
    """The frame of a person's glasses, as found and corrected, one outline for each piece.

    What lies within ``more`` goes along.
    """
    rect, unit = _where(zones, n)
    if rect.empty:
        return []
    cover = _cover(zones, "glasses", n, rect, unit)
    scale = cover.shape[1] / rect.width
    rim = max(_RIM * unit, _RIM_PX * scale)
    whole = cv2.dilate((cover > 0.4).astype(np.uint8), disc(rim))
    for line in more:
        at = (np.asarray(line) - (rect.x0, rect.y0)) * scale - 0.5
        cv2.fillPoly(whole, [np.round(at).astype(np.int32)], 1)
    if more:
        # What lies between a pane and the rim beside it is an edge of either.
        whole = cv2.morphologyEx(whole, cv2.MORPH_CLOSE, disc(_BETWEEN * unit))
    whole = whole > 0
    return outlines(whole, rect, max(9.0, _LEAST * unit**2))


def untold_arms(analysis: Analysis, n: int, bounds: Rect) -> list[Points]:
    """Where arms that aren't told begin, outwards of a lens: nothing to draw skin from."""
    rect = union_all([a.rect for a in analysis.layers if a.zone == "lenses" and a.face == n])
    if rect.empty:
        return []
    scale = min(1.0, _ARMS_UNIT / analysis.faces[n].height)
    shape = (max(8, round(rect.height * scale)), max(8, round(rect.width * scale)))
    lenses = (analysis.mask(("lenses",), rect, shape, n) > 0.5).astype(np.uint8)
    _, _, stats, _ = cv2.connectedComponentsWithStats(lenses)
    boxes = [s for s in stats[1:].tolist() if s[cv2.CC_STAT_AREA] > _LEAST * _ARMS_UNIT**2]
    if len(boxes) < 2:
        return []
    out: list[Points] = []
    length = _ARMS[0] * analysis.faces[n].height
    for end, way in ((min(boxes), -1), (max(boxes, key=lambda b: b[0] + b[2]), 1)):
        x, y, width, height = (v / scale for v in end[:4])
        x0 = rect.x0 + x + (width if way > 0 else 0)
        y0, y1 = rect.y0 + y - _ARMS[1] * height, rect.y0 + y + (1 - _ARMS[2]) * height
        x1 = x0 + way * length
        box = Rect(*(round(v) for v in (min(x0, x1), y0, max(x0, x1), y1))).clip(bounds)
        if box.empty or (analysis.mask(("glasses",), box, _CELLS, n) > _SURELY).mean() > _ARM_PART:
            continue
        out.append(((x0, y0), (x1, y0), (x1, y1), (x0, y1)))
    return out


def beside_frame(zones: FaceZones, light: Reflection) -> Reflection:
    """A reflection without what its outline takes of the frame, for a frame that stays."""
    rect, unit = _where(zones, light.face)
    if rect.empty:
        return light
    cover = _cover(zones, "glasses", light.face, rect, unit)
    at = (np.asarray(light.outline) - (rect.x0, rect.y0)) * (cover.shape[1] / rect.width) - 0.5
    inside = np.zeros(cover.shape, np.uint8)
    cv2.fillPoly(inside, [np.round(at).astype(np.int32)], 1)
    left = outlines((inside > 0) & (cover < _SURELY), rect)
    return replace(light, outline=left[0]) if left else light


def shadow_of(
    zones: FaceZones, n: int, pyramid: Pyramid, others: list[Points]
) -> tuple[float, float, float, float] | None:
    """The shadow of a person's frame: across, down, softness (pixels of the original), darkness.

    ``others`` are outlines of what isn't plain skin: reflections.
    """
    analysis = zones.analysis
    assert analysis is not None
    rect, _ = _where(zones, n)
    face = analysis.faces[n]
    rect = rect.grow(int(_AROUND * face.height)).clip(pyramid.picture.bounds)
    scale = min(1.0, _SHADOW_UNIT / face.height)
    shape = (max(8, round(rect.height * scale)), max(8, round(rect.width * scale)))
    unit = face.height * scale
    frame = zones.cover("glasses", face.anchor, rect, shape)
    skin = analysis.mask(ALL_SKIN, rect, shape, n) > 0.6
    beside = cv2.dilate((frame > 0.1).astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    away = cv2.distanceTransform((frame < 0.5).astype(np.uint8), cv2.DIST_L2, 3)
    veiled = np.zeros(shape, np.uint8)
    for line in others:
        at = (np.asarray(line) - (rect.x0, rect.y0)) * scale - 0.5
        cv2.fillPoly(veiled, [np.round(at).astype(np.int32)], 1)
    veiled = cv2.dilate(veiled, np.ones((3, 3), np.uint8))
    free = skin & ~beside & (away < _NEAR * unit) & (veiled == 0)
    found = cast_shadow.fit(pyramid.sampled(rect, shape), frame, free, unit)
    if found is None:
        return None
    across, down, soft, dark = found
    return across / scale, down / scale, soft / scale, dark


@dataclass(frozen=True)
class LensLight:
    """A reflection that can be taken off, or a tint: its outline and a place well within it; ``right``: on the
    person's right lens; ``burnt``: nothing is seen through it."""

    face: int
    right: bool
    burnt: bool
    outline: Points
    place: tuple[float, float]


def offered(analysis: Analysis, pyramid: Pyramid) -> list[LensLight]:
    """Each reflection and tint that is found."""
    found, tinted = light_on(analysis, pyramid)
    lights: list[Reflection | Tint] = [*found, *tinted]
    out = []
    for one in lights:
        burnt = isinstance(one, Reflection) and one.burnt
        place = place_within(one.outline)
        out.append(LensLight(one.face, on_right(analysis, one), burnt, one.outline, place))
    return out


def on_right(analysis: Analysis, one: Reflection | Tint) -> bool:
    """Whether a reflection lies on the person's right lens."""
    x, y = (np.asarray(one.outline).mean(0)[k : k + 1].astype(np.float32) for k in (0, 1))
    return bool(right_of(analysis.faces[one.face], x, y)[0] > 0.5)


def light_on(analysis: Analysis, pyramid: Pyramid) -> tuple[list[Reflection], list[Tint]]:
    """Reflections on all lenses, and their tints."""
    found: list[Any] = at_once(lambda look: look(analysis, pyramid), (reflections, tints))
    return found[0], found[1]


def _where(zones: FaceZones, n: int) -> tuple[Rect, float]:
    """Where a frame lies, and the height of the face at which it is outlined."""
    analysis = zones.analysis
    assert analysis is not None
    own = [a.rect for a in analysis.layers if a.zone == "glasses" and a.face == n]
    for touch in zones.touches:
        if touch.values["zone"] == "glasses":
            reach = float(touch.values.get("radius_px", 0.0))
            xs, ys = (np.asarray(touch.path)[:, k] for k in (0, 1))
            box = Rect(int(xs.min()), int(ys.min()), int(xs.max()) + 1, int(ys.max()) + 1)
            own.append(box.grow(int(reach) + 1))
    rect = union_all([r for r in own if not r.empty]) if own else Rect(0, 0, 0, 0)
    face = analysis.faces[n]
    margin = int(0.03 * face.height) + 4
    return rect.grow(margin).clip(zones.pyramid.picture.bounds), min(_UNIT, face.height)


def _cover(zones: FaceZones, zone: str, n: int, rect: Rect, unit: float) -> NDArray[np.float32]:
    analysis = zones.analysis
    assert analysis is not None
    scale = unit / analysis.faces[n].height
    shape = (max(8, round(rect.height * scale)), max(8, round(rect.width * scale)))
    return zones.cover(zone, analysis.faces[n].anchor, rect, shape)
