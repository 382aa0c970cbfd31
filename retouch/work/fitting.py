"""Fitting passes to faces: the one place where what a face gives is put into a pass."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from retouch.colour.lab import to_lab
from retouch.edit import Edit, Fit, Pass
from retouch.edit.mask import Face, Mask, MaskStroke, ZoneArea
from retouch.face import Analysis
from retouch.face.complexion import complexion
from retouch.face.feature_colours import hair_of, irises_of, teeth_of, whites_of
from retouch.face.pairs import pair_of
from retouch.face.rouge import rouge
from retouch.face.sides import sides
from retouch.passes.make_up import PAIRS
from retouch.passes.of_picture import CONES, OWN_LIGHT
from retouch.passes.registry import PassKind
from retouch.passes.skin_settings import own_skin
from retouch.picture import Picture, Pyramid
from retouch.work.bench import Bench, Refused
from retouch.work.marks import to_keep

# A mark that stays is painted out with a soft brush so much larger than itself.
_SPARED, _SOFT = 1.75, 30.0
# Heads turned aside by more than this (degrees) hide a part of what proportions would move.
MOST_TURNED = 45.0
_LIPS = ("lip_upper", "lip_lower")
# The background's colour is read from so many pixels on the longer side.
_OVERVIEW = 300

Giver = Callable[[Analysis, Pyramid, int], dict[str, float]]


def _noted(
    name: str, giver: Giver, analysis: Analysis, pyramid: Pyramid, face: int
) -> dict[str, float]:
    """What a giver gives, worked out once: a routine asks for the same skin again and again."""
    note = (name, pyramid.picture.digest, face)
    if note not in analysis.notes:
        analysis.notes[note] = giver(analysis, pyramid, face)
    return dict(analysis.notes[note])


def _scale(analysis: Analysis, pyramid: Pyramid, face: int) -> dict[str, float]:
    return {"px_per_mm": round(min(max(analysis.faces[face].scale.px_per_mm, 0.2), 300.0), 2)}


def _colour(prefix: str, zones: tuple[str, ...]) -> Giver:
    def give(analysis: Analysis, pyramid: Pyramid, face: int) -> dict[str, float]:
        colour = complexion(analysis, pyramid, face, zones)
        return {f"{prefix}_{c}": round(v, 1) for c, v in zip("lab", colour, strict=True)}

    return give


def _skin(analysis: Analysis, pyramid: Pyramid, face: int) -> dict[str, float]:
    """The skin's colour, and how the light's side changes it."""
    found = sides(analysis, pyramid, face)
    given = {f"skin_{c}": round(v, 1) for c, v in zip("lab", found.base, strict=True)}
    given |= {f"side_{c}": round(v, 1) for c, v in zip("lab", found.side, strict=True)}
    x, y = found.at
    return given | {
        "side_x": round(x, 1), "side_y": round(y, 1), "side_angle": round(found.angle, 1),
        "side_mm": found.soft_mm,
    }  # fmt: skip


def _cheeks(analysis: Analysis, pyramid: Pyramid, face: int) -> dict[str, float]:
    """What both cheeks have alike beside the skin's own colour."""
    skin = _noted("skin", _skin, analysis, pyramid, face)
    own = own_skin(skin | _scale(analysis, pyramid, face), 1.0)
    found = rouge(analysis, pyramid, own, face)
    given = {"rouge_red": round(found.red, 1), "rouge_mm": found.size_mm}
    for side, (x, y) in zip(("right", "left"), found.at, strict=True):
        given |= {f"rouge_{side}_x": round(x, 1), f"rouge_{side}_y": round(y, 1)}
    return given


def _whites(analysis: Analysis, pyramid: Pyramid, face: int) -> dict[str, float]:
    found = whites_of(analysis, pyramid, face)
    if found is None:
        return {}
    a, b = found.neutral
    return {
        "white_l": round(found.light, 1), "white_a": round(a, 1), "white_b": round(b, 1),
        "white_glint": round(found.catchlight, 1),
    }  # fmt: skip


def _irises(analysis: Analysis, pyramid: Pyramid, face: int) -> dict[str, float]:
    given: dict[str, float] = {}
    for side, one in zip(("right", "left"), irises_of(analysis, pyramid, face), strict=True):
        if one is not None:
            values = (one.x, one.y, one.radius, one.pupil, *one.lab)
            names = ("x", "y", "r", "pupil", "l", "ca", "cb")
            given |= {f"iris_{side}_{n}": round(v, 2) for n, v in zip(names, values, strict=True)}
    return given


def _teeth(analysis: Analysis, pyramid: Pyramid, face: int) -> dict[str, float]:
    found = teeth_of(analysis, pyramid, face)
    return {f"teeth_{c}": round(v, 1) for c, v in zip("lab", found, strict=True)} if found else {}


def _hair(analysis: Analysis, pyramid: Pyramid, face: int) -> dict[str, float]:
    found = hair_of(analysis, pyramid, face)
    return {f"hair_{c}": round(v, 1) for c, v in zip("lab", found, strict=True)} if found else {}


def _wall(analysis: Analysis, pyramid: Pyramid, face: int) -> dict[str, float]:
    """The colour of what lies behind everyone, as most of it is."""
    bounds = pyramid.picture.bounds
    k = min(1.0, _OVERVIEW / max(bounds.width, bounds.height))
    shape = (max(1, round(bounds.height * k)), max(1, round(bounds.width * k)))
    there = analysis.mask(("background",), bounds, shape) > 0.9
    if not there.any():
        return {}
    colour = np.median(to_lab(pyramid.sampled(bounds, shape))[there], axis=0)
    return {f"wall_{c}": round(float(v), 1) for c, v in zip("lab", colour, strict=True)}


def _pairs(analysis: Analysis, pyramid: Pyramid, face: int) -> dict[str, float]:
    found = pair_of(analysis, pyramid, face, PAIRS)
    given = {"pair_x": found.x, "pair_y": found.y, "pair_angle": found.angle}
    for name, lab in found.differs.items():
        given |= {f"pair_{name}_{c}": v for c, v in zip("lab", lab, strict=True)}
    return {n: round(v, 1) for n, v in given.items()}


# What gives the values that kinds of pass declare as ``auto``, by the beginning of their names.
_GIVERS: dict[str, Giver] = {
    "px_per_mm": _scale,
    "skin": _skin,
    "side": _skin,
    "rouge": _cheeks,
    "lip": _colour("lip", _LIPS),
    "white": _whites,
    "iris": _irises,
    "teeth": _teeth,
    "pair": _pairs,
    "hair": _hair,
    "wall": _wall,
}


def fitted(kind: PassKind, bench: Bench, face: Face = None) -> Fit:
    """What the picture and a face give to a pass of a kind: of one person, or for everyone of the
    largest face.

    Where no face is known the kind's usual values stand, until the pass is fitted again.
    """
    number = bench.person(face)
    analysis = bench.analysis
    known = analysis is not None and bool(analysis.faces)
    given = of_picture(bench.renderer.pyramid.picture)
    by_face = [s for s in kind.fitted if s.auto not in given]
    asked: set[Giver] = set()
    for s in by_face if known else ():
        assert analysis is not None
        name, giver = next((n, g) for n, g in _GIVERS.items() if s.auto.startswith(n))
        if giver not in asked:
            asked.add(giver)
            pyramid = bench.renderer.pyramid
            given |= _noted(name, giver, analysis, pyramid, number or 0)
    values: dict[str, Any] = {s.name: given.get(s.auto, s.default) for s in kind.fitted}
    if known and kind.meshed:
        assert analysis is not None
        person = analysis.faces[number or 0]
        points = tuple((round(float(x), 1), round(float(y), 1)) for x, y in person.points[:, :2])
        depths = tuple(round(float(z), 1) for z in person.points[:, 2])
        return Fit(person.anchor, values, points, depths)
    if not known or not by_face or number is None:
        return Fit(values=values)
    assert analysis is not None
    return Fit(analysis.faces[number].anchor, values)


def check_meshed(bench: Bench, face: Face = None) -> None:
    """Refuse to move parts of a face that isn't known, or is seen too much from the side."""
    analysis = bench.analysis
    if analysis is None or not analysis.faces:
        raise Refused("no_face", "No face is known here. Nudge by hand, or add a face in Look.")
    yaw = abs(analysis.faces[bench.person(face) or 0].pose.yaw)
    if yaw > MOST_TURNED:
        raise Refused(
            "turned_away",
            f"This head is turned {yaw:.0f}° aside; proportions are found up to {MOST_TURNED:.0f}°. "
            "Nudge by hand.",
        )


def of_picture(picture: Picture) -> dict[str, float]:
    """What the picture itself gives, by the names of `passes.of_picture`: its size, and the light
    that it is balanced for.
    """
    given: dict[str, Any] = {s.auto: s.default for s in (*OWN_LIGHT, *CONES)}
    given["long_px"] = float(max(picture.width, picture.height))
    given["tall_px"] = float(picture.height)
    given["wide_px"] = float(picture.width)
    if picture.taken is not None:
        given |= {"own_kelvin": picture.taken.light.kelvin, "own_duv": picture.taken.light.duv}
        cones = np.asarray(picture.taken.cones)
        given |= {s.auto: float(v) for s, v in zip(CONES, cones.reshape(-1), strict=True)}
    return given


def usual_mask(kind: PassKind, bench: Bench, edit: Edit, face: Face = None) -> Mask:
    """Where a new pass acts until the user says otherwise: the kind's zones, without marks that
    are to stay; everywhere while no face is known.
    """
    analysis = bench.analysis
    if analysis is None or not analysis.faces or not (kind.zones or kind.clears):
        return Mask()
    if kind.clears:
        return Mask(tuple(ZoneArea(z, way="take", share=share) for z, share in kind.clears))
    number = bench.person(face)
    anchor = analysis.faces[number].anchor if number is not None else None
    areas = [ZoneArea(z, anchor) for z in kind.zones]
    areas += [ZoneArea(z, anchor, "take") for z in kind.besides]
    kept = to_keep(analysis, edit) if kind.spares_marks else []
    return Mask(
        tuple(areas),
        strokes=tuple(
            MaskStroke(((x, y),), max(_SPARED * radius, 1.0), _SOFT) for x, y, radius in kept
        ),
    )


def refitted(one: Pass, kind: PassKind, bench: Bench, before: Analysis | None) -> Pass:
    """A pass that was made on another picture, fitted to the faces of this one.

    The person it was for is the one of the same rank by size here.

    Raises
    ------
    Refused
        Where it hangs on faces and they aren't known yet, or there are fewer people here.
    """
    if bench.analysis is None:
        if one.mask.zones or kind.zones or kind.meshed:
            raise Refused(
                "faces_unknown",
                "The faces of this picture are still being looked at. Try again in a moment.",
            )
        return replace(one, fit=fitted(kind, bench)) if kind.fitted else one

    def here(face: Face) -> Face:
        if face is None:
            return None
        rank = before.who(face) if before is not None else (face if isinstance(face, int) else None)
        if rank is None or rank >= bench.people:
            raise Refused(
                "no_such_face", f"{one.title} is for a person who has nobody like them here."
            )
        assert bench.analysis is not None
        return bench.analysis.faces[rank].anchor

    areas = tuple(
        replace(a, face=here(a.face)) if isinstance(a, ZoneArea) else a for a in one.mask.areas
    )
    face = here(one.fit.face)
    return replace(one, mask=replace(one.mask, areas=areas), fit=fitted(kind, bench, face))
