"""Edits in the database: read from rows, written as the rows that changed."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from retouch.edit import Edit
from retouch.edit import Pass as EditPass
from retouch.edit import Touch as EditTouch
from retouch.forms.opening import Opened, opened
from studio.portraits.models import MaskStroke, Pass, Portrait, Touch

# Rows hold the fields of the edit's own classes, but for ids and for what has rows of its own.
_PASS_FIELDS = tuple(f.name for f in fields(EditPass) if f.name not in ("id", "touches"))
_TOUCH_FIELDS = tuple(f.name for f in fields(EditTouch) if f.name != "id")


def load(portrait: Portrait) -> Opened:
    """The portrait's edit as its rows say, with what of them can't be used."""
    passes: list[dict[str, Any]] = []
    for row in Pass.objects.filter(portrait=portrait).prefetch_related("touches", "strokes"):
        one: dict[str, Any] = {"id": row.uid, **{f: getattr(row, f) for f in _PASS_FIELDS}}
        one["mask"] = {**row.mask, "strokes": [s.data for s in row.strokes.all()]}
        one["touches"] = [
            {"id": t.uid, **{f: getattr(t, f) for f in _TOUCH_FIELDS}} for t in row.touches.all()
        ]
        passes.append(one)
    return opened(passes, portrait.analysis)


def save(portrait: Portrait, new: Edit, changes: list[dict[str, Any]]) -> None:
    """Write what the changes mention, inside the caller's transaction."""
    # What is set below is all that is written of a row.
    found = Pass.objects.filter(portrait=portrait).only("uid", "position", "portrait_id")
    rows = {row.uid: row for row in found}
    lengths = {one.id: len(one.touches) for one in new.passes}
    dirty_touches: set[str] = set()
    for change in changes:
        state = change["after"]
        if change["what"] == "pass":
            if state is None:
                # A pass that couldn't be opened may never have been in the edit.
                gone = rows.pop(change["id"], None)
                if gone is not None:
                    gone.delete()
                continue
            row = rows.get(change["id"]) or Pass(
                portrait=portrait, uid=change["id"], position=change["index"]
            )
            for field in _PASS_FIELDS:
                # An entry of the history may be older than a field.
                if field in state:
                    setattr(row, field, state[field])
            row.save()
            rows[change["id"]] = row
            continue
        owner = rows[change["pass_id"]]
        if change["what"] == "strokes":
            at = change["index"]
            MaskStroke.objects.filter(owner_pass=owner, position__gte=at).delete()
            MaskStroke.objects.bulk_create(
                MaskStroke(owner_pass=owner, position=at + n, data=s) for n, s in enumerate(state)
            )
            continue
        if state is None:
            Touch.objects.filter(owner_pass=owner, uid=change["id"]).delete()
            continue
        fields = {field: state[field] for field in _TOUCH_FIELDS if field in state}
        if change["before"] is not None:
            Touch.objects.filter(owner_pass=owner, uid=change["id"]).update(**fields)
            continue
        Touch.objects.create(owner_pass=owner, uid=change["id"], position=_next(owner), **fields)
        if change["index"] + 1 < lengths[change["pass_id"]]:
            dirty_touches.add(change["pass_id"])
    for n, one in enumerate(new.passes):
        if rows[one.id].position != n:
            Pass.objects.filter(pk=rows[one.id].pk).update(position=n)
        if one.id in dirty_touches:
            _renumber(rows[one.id], [t.id for t in one.touches])


def _next(owner: Pass) -> int:
    places = Touch.objects.filter(owner_pass=owner).order_by("-position")
    last = places.values_list("position", flat=True).first()
    return 0 if last is None else last + 1


def _renumber(owner: Pass, order: list[str]) -> None:
    """Positions in the edit's order."""
    rows = list(Touch.objects.filter(owner_pass=owner).only("uid", "position"))
    if [row.uid for row in rows] == order:
        return
    place = {uid: n for n, uid in enumerate(order)}
    for row in rows:
        row.position = place[row.uid]
    Touch.objects.bulk_update(rows, ["position"], batch_size=500)
