"""The natural check of a portrait: made when it is asked for, kept while nothing changes."""

from __future__ import annotations

import threading
from collections import OrderedDict

import numpy as np

from retouch.colour.difference import ciede2000
from retouch.colour.lab import to_lab
from retouch.errors import FacesMissing
from retouch.geometry import Rect
from retouch.natural.finding import Finding
from retouch.natural.known import Known
from retouch.render import framing
from retouch.work.natural_check import one_reading, whole_check
from studio.errors import Problem
from studio.portraits.models import HistoryEntry, Portrait
from studio.portraits.services import analysing, desk, gestures
from studio.portraits.services.small import small_picture

_MOST, _MOST_STEPS = 64, 2000
# Places to compare: looked for on a picture so large, differing by so much (CIEDE2000), so wide (px).
_LOOKED, _SEEN, _SPOT_PX = 900, 1.5, 360

_kept: OrderedDict[tuple[object, ...], tuple[Finding, ...]] = OrderedDict()
_known = Known()
_steps: OrderedDict[tuple[object, ...], Finding | None] = OrderedDict()
_lock = threading.Lock()
# One at a time: views come first.
_turn = threading.Lock()


def checked(portrait: Portrait) -> tuple[Finding, ...]:
    """All readings of the portrait as it stands."""
    one = desk.open_desk(portrait)
    try:
        analysis = analysing.waited_for(portrait, one.edit, 60.0)
    except FacesMissing as error:
        raise Problem(422, "faces_missing", str(error)) from None
    known = analysis.key if analysis is not None else ""
    key = portrait.id, portrait.revision, known, tuple(portrait.seen)
    with _lock:
        if key in _kept:
            return _kept[key]
    with _turn:
        found = whole_check(one.renderer, one.edit, analysis, portrait.seen, _known)
    with _lock:
        _kept[key] = found
        while len(_kept) > _MOST:
            _kept.popitem(last=False)
    return found


def at_step(
    portrait: Portrait, step: int, reading: str, face: int | None, zone: str
) -> tuple[str, Finding | None]:
    """What a step of the history is called, and one reading of the portrait as it was then."""
    edit = gestures.edit_at(portrait, step)
    entry = HistoryEntry.objects.filter(portrait=portrait, number=step).first()
    label = entry.label if entry is not None else "Opened"
    key = portrait.id, portrait.revision, step, reading, face, zone
    with _lock:
        if key in _steps:
            return label, _steps[key]
    try:
        analysis = analysing.waited_for(portrait, edit, 60.0)
    except FacesMissing as error:
        raise Problem(422, "faces_missing", str(error)) from None
    with _turn:
        found = one_reading(desk.renderer_of(portrait, edit), edit, analysis, reading, face, zone)
    with _lock:
        _steps[key] = found
        while len(_steps) > _MOST_STEPS:
            _steps.popitem(last=False)
    return label, found


def spots(portrait: Portrait, count: int, seed: int) -> list[Rect]:
    """Random places of the framed picture at which the result visibly differs, apart from one another."""
    edit = desk.edit_of(portrait)
    renderer = desk.renderer_of(portrait, edit)
    pair = [small_picture(renderer, e, _LOOKED) for e in (framing.frame_alone(edit), edit)]
    warp = renderer.plan(edit).warp
    scale = pair[0].shape[1] / warp.width
    both = [to_lab(np.asarray(p, np.float32) / np.float32(255)) for p in pair]
    differs = ciede2000(both[0], both[1]) > _SEEN
    rng = np.random.default_rng(seed)
    out: list[Rect] = []
    side = min(_SPOT_PX, warp.width, warp.height)
    reach = round(side * scale)
    while len(out) < count and differs.any():
        ys, xs = np.nonzero(differs)
        n = int(rng.integers(len(ys)))
        # What stands out lies somewhere in it, not always in the middle.
        off = rng.uniform(-0.3, 0.3, 2) * side
        x, y = (int(v / scale - side / 2 + o) for v, o in zip((xs[n], ys[n]), off, strict=True))
        x, y = (min(max(v, 0), m - side) for v, m in ((x, warp.width), (y, warp.height)))
        out.append(Rect(x, y, x + side, y + side))
        differs[max(ys[n] - reach, 0) : ys[n] + reach, max(xs[n] - reach, 0) : xs[n] + reach] = (
            False
        )
    return out
