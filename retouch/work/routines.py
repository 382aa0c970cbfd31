"""Routines made of what was done on a portrait, and what they will do on another face."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from retouch.edit import Edit, Pass
from retouch.edit.mask import RangeArea, ZoneArea
from retouch.edit.routine import Routine, RoutineMask, RoutineStep
from retouch.errors import EditError
from retouch.face import Analysis
from retouch.face.feature_colours import seen_in
from retouch.passes import registry
from retouch.plain import plain
from retouch.work.bench import Refused
from retouch.work.glasses import behind_dark

_STAGES = ("look", "even", "features", "shape", "finish")


@dataclass(frozen=True)
class Learned:
    """A routine, what is fitted to each face, and in words what of the portrait isn't in it."""

    routine: Routine
    fitted: tuple[str, ...]
    left_out: tuple[str, ...]


def learned(
    edit: Edit,
    title: str,
    ids: Sequence[str] | None = None,
    note: str = "",
    spots_from: float | None = None,
    px_per_mm: float = 0.0,
    alone: Sequence[str] = (),
    deliveries: Sequence[str] = (),
) -> Learned:
    """A routine of passes of an edit.

    Parameters
    ----------
    ids : sequence of str, optional
        The passes; None: all that act.
    spots_from : float, optional
        Marks are healed from so much confidence on, per cent.
    px_per_mm : float
        Of the face, so that masks in pixels become millimetres; 0: not known.
    alone : sequence of str
        Passes that are for the largest face only.
    deliveries : sequence of str
        Names of the presets that results are delivered by.

    Raises
    ------
    Refused
        Where nothing is left that a routine can hold.
    """
    chosen = [p for p in edit.passes if (p.id in ids if ids is not None else p.acts)]
    steps: list[RoutineStep] = []
    fitted: list[str] = []
    left: list[str] = []
    seen: set[str] = set()
    for one in chosen:
        kind = registry.kind(one.kind)
        if kind.guide:
            continue
        if kind.single or kind.holds_touches:
            left.append(f"{one.title}: done by hand on this picture")
            continue
        made, lost = _mask(one, px_per_mm)
        if made is None:
            left.append(f"{one.title}: its mask is drawn on this picture")
            continue
        step = RoutineStep(
            one.kind, dict(one.settings), round(100 * one.share, 2), one.blend, one.name, made,
            "largest" if one.id in alone else "each",
        )  # fmt: skip
        # A group has the same pass for each of its people.
        mark = repr(
            (step.kind, sorted(step.settings.items()), step.strength, step.blend, step.mask)
        )
        if mark in seen and one.fit.face is not None:
            continue
        seen.add(mark)
        steps.append(step)
        if lost:
            left.append(f"{one.title}: what is {lost} on its mask")
        if fits(kind):
            fitted.append(one.title)
    if not steps and spots_from is None:
        raise Refused("nothing_to_keep", "None of these passes can be used on other portraits.")
    stages = [registry.kind(s.kind).stage for s in steps]
    stage = next(
        (s for s in ("even", "features", "shape", "finish", "look") if s in stages), "even"
    )
    made_of = tuple(steps)
    routine = Routine(title, made_of, note, spots_from, stage, deliveries=tuple(deliveries))  # type: ignore[arg-type]
    return Learned(routine, tuple(fitted), tuple(left))


def fits(kind: registry.PassKind) -> bool:
    """Whether a pass of this kind is fitted to a face."""
    return kind.meshed or any(
        s.name == "px_per_mm" or s.auto.startswith("skin") for s in kind.fitted
    )


def personal(kind: registry.PassKind) -> bool:
    """Whether each person of a group gets a pass of this kind of their own."""
    return kind.meshed or any(z != "background" for z in kind.zones)


def _mask(one: Pass, px_per_mm: float) -> tuple[RoutineMask | None, str]:
    """The mask as any picture can have it (None: it can't), and what of it stays here."""
    mask = one.mask
    kept, lost = [], "painted" if mask.strokes else ""
    for area in mask.areas:
        if isinstance(area, ZoneArea):
            kept.append(ZoneArea(area.zone, None, area.way, area.invert, area.side, area.share))
        elif isinstance(area, RangeArea):
            kept.append(area)  # type: ignore[arg-type]
        elif area.way == "add" or not kept:
            return None, ""
        else:
            lost = lost or "drawn"
    scale = 1 / px_per_mm if px_per_mm > 0 else 0.0
    if scale == 0 and (mask.grow_px or mask.feather_px):
        lost = lost or "grown or feathered"
    grow, feather = (
        round(max(-100.0, min(v * scale, 100.0)), 3) for v in (mask.grow_px, mask.feather_px)
    )
    return RoutineMask(tuple(kept), mask.invert, grow, feather), lost


@dataclass(frozen=True)
class Foreseen:
    """What a step of a routine will do on a face: it acts, or why it is left out."""

    title: str
    acts: bool
    why: str = ""


def foreseen(one: Routine, analysis: Analysis | None) -> list[Foreseen]:
    """What a routine will do on a picture whose faces are known, before it does it."""
    faces = len(analysis.faces) if analysis is not None else 0
    out = []
    if one.spots_from is not None:
        out.append(Foreseen("Spots healed", faces > 0, "" if faces else "no face is found"))
    if one.glasses:
        why = "" if faces else "no face is found"
        if analysis is not None and faces and all(behind_dark(analysis, n) for n in range(faces)):
            why = "the glasses are dark: nothing is seen behind them"
        out.append(Foreseen("Glasses off", why == "", why))
    for step in one.steps:
        kind = registry.kind(step.kind)
        why = missing(step, analysis)
        out.append(Foreseen(step.name or kind.title, why == "", why))
    return out


def missing(step: RoutineStep, analysis: Analysis | None) -> str:
    """Why a step has nothing to act on here, for nobody; empty: it has."""
    kind = registry.kind(step.kind)
    if not (personal(kind) or needs_zones(step)):
        return ""
    if analysis is None or not analysis.faces:
        return "no face is found"
    people = range(len(analysis.faces)) if step.person == "each" else (0,)
    if kind.by_side and not any(seen_in(analysis, n, kind.zones) for n in people):
        return unseen(kind, analysis, people)
    return ""


def unseen(kind: registry.PassKind, analysis: Analysis, people: Iterable[int]) -> str:
    """Why a feature isn't there, in words."""
    if "teeth" in kind.zones:
        return "the mouth is closed"
    return "behind dark glasses" if any(behind_dark(analysis, n) for n in people) else "not seen"


def needs_zones(step: RoutineStep) -> bool:
    """Whether a step begins on zones of the analysis."""
    if step.mask is not None:
        return any(isinstance(a, ZoneArea) for a in step.mask.areas)
    return bool(registry.kind(step.kind).zones)


def check_title(title: str) -> str:
    """A routine's title, trimmed; `EditError` where there is none or it is too long."""
    made = " ".join(plain(title).split())
    if not 1 <= len(made) <= 80:
        raise EditError("A routine's name has 1 to 80 characters.")
    return made
