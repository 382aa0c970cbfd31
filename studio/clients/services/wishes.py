"""Pins as the retoucher sees them: on the bench, on the wall, heeded, done."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from django.db.models import Count, Q
from django.utils import timezone

from retouch.passes.marks import MARKS
from retouch.work.operations import AddTouches, NewTouch
from studio.clients.models import ClientLink, Pin, ShownPortrait
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk, gestures

# How far from a pin a mark may lie that it is about, and the place that is kept where none does (mm).
_NEAR_MM, _KEPT_MM, _USUAL_PX_PER_MM = 3.0, 2.0, 6.0


@dataclass(frozen=True)
class Told:
    """Of a portrait: wishes that aren't done, those not looked at yet, what was said of it last, whether it is signed off."""

    open: int
    fresh: int
    verdict: str
    signed: bool


def pins_of(portrait: Portrait) -> Any:
    """The pins of a portrait, the first first."""
    return Pin.objects.filter(shown__portrait=portrait).select_related("shown__link")


def looked_at(portrait: Portrait) -> None:
    """They aren't new any more."""
    pins_of(portrait).filter(seen_at=None).update(seen_at=timezone.now())


def done(user: Any, pin_id: str, yes: bool) -> Pin:
    """A wish is fulfilled, or isn't after all."""
    found = Pin.objects.filter(shown__portrait__owner=user, pk=pin_id).first()
    if found is None:
        raise Problem(404, "not_found", "This pin is no longer there.")
    found.done_at = timezone.now() if yes else None
    found.save(update_fields=["done_at"])
    return found


def heed(portrait: Portrait, revision: int) -> tuple[int, int]:
    """Keep the places that clients want kept, as one gesture; how many new ones there were, and the revision then.

    A pin is about the nearest mark close to it; where there is none, the place itself is kept.
    """
    pins = list(pins_of(portrait).filter(kind="keep", heeded=False, done_at=None))
    if not pins:
        return 0, portrait.revision
    analysis = analysing.of_edit(portrait.id, desk.edit_of(portrait))
    touches = []
    for pin in pins:
        x, y, radius = pin.x_px, pin.y_px, _KEPT_MM * _USUAL_PX_PER_MM
        if analysis is not None and analysis.faces:
            face = max(analysis.zone_at(x, y)[0], 0)
            scale = analysis.faces[face].scale.px_per_mm
            radius = _KEPT_MM * scale
            marks = [
                (math.hypot(m.x - x, m.y - y) - m.reach, m)
                for all_of in analysis.marks
                for m in all_of
            ]
            away, mark = min(marks, key=lambda one: one[0], default=(math.inf, None))
            if mark is not None and away <= _NEAR_MM * scale:
                x, y, radius = mark.x, mark.y, max(mark.radius, 0.5)
        touches.append(NewTouch(((x, y),), values={"decision": "keep", "radius_px": radius}))
    label = (
        "Keep a place that the client named"
        if len(pins) == 1
        else f"Keep {len(pins)} places that the client named"
    )
    outcome = gestures.perform(
        portrait, revision, AddTouches(MARKS.name, tuple(touches), label=label)
    )
    Pin.objects.filter(pk__in=[p.pk for p in pins]).update(heeded=True)
    return len(pins), outcome.portrait.revision


def told(user: Any) -> dict[str, Told]:
    """What clients said of the user's portraits, by id; those of which nothing was said aren't there."""
    pins = Pin.objects.filter(shown__portrait__owner=user, shown__portrait__deleted_at=None)
    counted = pins.values_list("shown__portrait_id").annotate(
        open=Count("pk", filter=Q(done_at=None)),
        fresh=Count("pk", filter=Q(seen_at=None, done_at=None)),
    )
    by = {pk: (open_, fresh) for pk, open_, fresh in counted}
    shown = ShownPortrait.objects.filter(
        link__in=ClientLink.objects.filter(owner=user, withdrawn_at=None), portrait__deleted_at=None
    )
    # The last link has the last word.
    said = {
        pk: (verdict, bool(signed))
        for pk, verdict, signed in shown.order_by("link__created_at").values_list(
            "portrait_id", "verdict", "link__signed_by"
        )
        if verdict
    }
    return {
        pk: Told(*by.get(pk, (0, 0)), *said.get(pk, ("", False)))
        for pk in {*by, *said}
    }  # fmt: skip
