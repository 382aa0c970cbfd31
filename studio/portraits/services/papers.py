"""Sheets and statements about a portrait: what was done, before and after, contact sheets."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any, Literal

import numpy as np
from django.utils import timezone
from numpy.typing import NDArray

from retouch.edit import Edit
from retouch.geometry import Rect
from retouch.papers.checked import as_data, checked_sheet
from retouch.papers.compared import Form, as_jpeg, as_pdf, sheet
from retouch.papers.contact import contact_sheet, long_side_of
from retouch.papers.told import disclosure_sheet
from retouch.passes.elsewhere import pictures_of
from retouch.picture import Output, xmp
from retouch.picture.described import Description
from retouch.render import framing, render_view
from retouch.work.disclosure import Disclosure, disclosure
from studio.accounts.models import Preferences
from studio.errors import Problem
from studio.portraits.models import HistoryEntry, Portrait
from studio.portraits.services import analysing, desk, library, natural
from studio.portraits.services.patterns import filled
from studio.portraits.services.small import small_picture

Pixels = NDArray[np.uint8]
_SMALL, _LARGE = 900, 2600
# Portraits on one contact sheet, details on a sheet, pixels of each.
MOST_ON_SHEET, MOST_DETAILS, MOST_DETAIL_PX = 400, 6, 3000
# Steps of the history that a file tells.
_MOST_STEPS = 200


def told(portrait: Portrait) -> Disclosure:
    """What is done to the people in a portrait as it stands."""
    edit = desk.edit_of(portrait)
    return of_edit(portrait, edit)


def of_edit(portrait: Portrait, edit: Edit) -> Disclosure:
    """The same of an edit of it, with the faces that it was made on, or those found by now."""
    analysis = analysing.of_edit(portrait.id, edit) or analysing.result(portrait)
    return disclosure(desk.renderer_of(portrait, edit), edit, analysis)


def told_sheet(portrait: Portrait) -> bytes:
    """The same as a PDF."""
    before, after = _both(portrait, _SMALL)
    when = timezone.localtime().strftime("%Y-%m-%d %H:%M")
    return disclosure_sheet(portrait.name, when, told(portrait), before, after)


def checked_page(portrait: Portrait) -> bytes:
    """The natural check as a PDF."""
    before, after = _both(portrait, _SMALL)
    when = timezone.localtime().strftime("%Y-%m-%d %H:%M")
    return checked_sheet(
        portrait.name, when, natural.checked(portrait), before, after, told(portrait)
    )


def checked_data(portrait: Portrait) -> dict[str, object]:
    """The natural check and what was done, as plain data."""
    return as_data(natural.checked(portrait), told(portrait))


def compared(
    portrait: Portrait, form: Form, kind: Literal["jpeg", "pdf"], details: Sequence[Rect] = ()
) -> bytes:
    """Before and after on one sheet; ``details`` are places of the framed picture, shown at 1:1."""
    edit = desk.edit_of(portrait)
    renderer = desk.renderer_of(portrait, edit)
    plans = [renderer.plan(e) for e in (framing.frame_alone(edit), edit)]
    warp = plans[1].warp
    bounds = Rect(0, 0, warp.width, warp.height)
    parts = [one.clip(bounds) for one in details]
    if any(p.empty for p in parts):
        raise Problem(422, "not_here", "A detail has to lie in the picture.")
    before, after = _both(portrait, _LARGE)
    made = sheet(before, after, form)
    # Details come from the pictures at full size, each by itself.
    for part in parts:
        pair = [render_view(p, part.x0, part.y0, 1.0, part.width, part.height) for p in plans]
        row = sheet(pair[0], pair[1], "beside")
        width = max(made.shape[1], row.shape[1])
        made = np.concatenate([_wide(made, width), _wide(row, width)], axis=0)
    return as_jpeg(made) if kind == "jpeg" else as_pdf(portrait.name, made)


def _wide(pixels: Pixels, width: int) -> Pixels:
    left = (width - pixels.shape[1]) // 2
    sides = ((0, 24), (left, width - pixels.shape[1] - left), (0, 0))
    return np.pad(pixels, sides, constant_values=250)


def contact(user: Any, title: str, ids: Sequence[str]) -> bytes:
    """A contact sheet of portraits as they stand, in the order of their ids."""
    portraits = [library.find(user, one) for one in ids]
    long_side = long_side_of(len(portraits))

    def cells() -> Iterator[tuple[str, Pixels]]:
        for one in portraits:
            edit = desk.edit_of(one)
            yield one.name, small_picture(desk.renderer_of(one, edit), edit, long_side)

    return contact_sheet(title, cells(), len(portraits))


def _both(portrait: Portrait, long_side: int) -> tuple[Pixels, Pixels]:
    edit = desk.edit_of(portrait)
    renderer = desk.renderer_of(portrait, edit)
    before = framing.frame_alone(edit)
    return small_picture(renderer, before, long_side), small_picture(renderer, edit, long_side)


def card_of(user: Any) -> xmp.Card:
    """Who the user says makes their pictures."""
    found = Preferences.objects.filter(user=user).first()
    known = {k: v for k, v in (found.card if found else {}).items() if k in xmp.Card.__dataclass_fields__}  # fmt: skip
    return xmp.Card(**known)


def packet_of(
    portrait: Portrait, edit: Edit, card: xmp.Card, labels: Sequence[str], output: Output
) -> str:
    """The XMP of a delivery: who made it, how it came to be, what was done, step by step; and what its own file says
    of it, as far as the output keeps that.
    """
    own = described(portrait, edit) if output.keep_metadata else None
    steps = [xmp.Step("edited", label) for label in labels[-_MOST_STEPS:]]
    when = timezone.now().isoformat(timespec="seconds")
    said_title = own.text("dc:title") if own else ""
    today = timezone.localdate().isoformat()
    title = filled(card.title, portrait=portrait.name, date=today) or said_title or portrait.name
    made = replace(card, title=title)
    said = of_edit(portrait, edit).text if any(p.acts for p in edit.passes) else ""
    return xmp.packet(made, source_of(edit), steps, when, said, own, output.keep_place)


def described(portrait: Portrait, edit: Edit | None = None) -> Description | None:
    """What a portrait's own file says of it in words."""
    return desk.renderer_of(portrait, edit).pyramid.picture.said


def source_of(edit: Edit) -> str:
    """How a picture came to be: a key of `xmp.SOURCES`."""
    acting = any(p.acts for p in edit.passes)
    return "composite" if pictures_of(edit) else "edited" if acting else "capture"


def labels_of(portrait: Portrait) -> list[str]:
    """What the steps that lead to where a portrait stands are called."""
    entries = HistoryEntry.objects.filter(portrait=portrait, number__lte=portrait.history_at)
    return list(entries.order_by("number").values_list("label", flat=True))
