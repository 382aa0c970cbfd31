"""Operations on touches."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from retouch.bands import TITLES as BAND_TITLES
from retouch.edit import Edit, Pass, Touch
from retouch.edit.form import touch_from_data, touch_to_data
from retouch.errors import EditError
from retouch.heal.order import outside_in
from retouch.passes import registry
from retouch.passes.turning import mirrored_values
from studio.errors import Problem
from studio.portraits.models import new_id
from studio.portraits.services.operations.base import (
    Chooser,
    Context,
    Mirror,
    Result,
    find_pass,
    find_touch,
    free,
    with_pass,
)
from studio.portraits.services.operations.passes import add_pass


def _fits(one: Pass, op: dict[str, Any], group: str, context: Context) -> bool:
    """Whether a pass is one that a new touch belongs to: its kind, band and zone."""
    if one.kind != op["kind"] or not one.on:
        return False
    wanted = (op.get("settings") or {}).get("band", "all")
    if one.settings.get("band", "all") != wanted:
        return False
    own = context.group(one.touches[0]) if one.touches else ""
    return not own or not group or own == group


def _name(edit: Edit, op: dict[str, Any], group: str) -> str | None:
    """A name for a new pass that says its band or zone; None where its kind says enough."""
    band = str((op.get("settings") or {}).get("band", "all"))
    title = registry.kind(op["kind"]).title
    if band in BAND_TITLES:
        return free(edit, f"{BAND_TITLES[band]}: {title.lower()}")
    if registry.kind(op["kind"]).guide or group in ("", "skin"):
        return None
    return free(edit, group if op["kind"] == "heal" else f"{group}: {title.lower()}")


def _new_touch(op: dict[str, Any]) -> Touch:
    data = {**op["touch"], "id": op["touch"].get("id") or new_id()}
    return touch_from_data(data, registry.kind(op["kind"]))


def add_touch(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    touch = _new_touch(op)
    group = context.group(touch)
    wanted = [p for p in edit.passes if p.id == op.get("pass_id")]
    if op.get("pass_id") and not wanted:
        find_pass(edit, op["pass_id"])
    # The pass that the hand has open, if the touch belongs there; else the last one that fits.
    fitting = [p for p in (*edit.passes, *wanted) if _fits(p, op, group, context)]
    if fitting:
        pass_id = fitting[-1].id
    else:
        pass_id = new_id()
        edit = add_pass(edit, {**op, "id": pass_id, "name": _name(edit, op, group)}, context).edit
    n, one = find_pass(edit, pass_id)
    kind = registry.kind(one.kind)
    if any(t.id == touch.id for p in edit.passes for t in p.touches):
        raise EditError("There is a touch with this id already.")
    if not op.get("anywhere"):
        touch = context.prepare(one.kind, touch)
    touch = _sourced(edit, one, touch, context.choose)
    new = replace(one, touches=(*one.touches, touch))
    return Result(with_pass(edit, n, new), kind.title, touch.id)


def add_touches(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    """Several touches as one gesture, each seeing the ones before."""
    ids: list[str] = []
    for one in _in_order(op):
        try:
            done = add_touch(edit, {**op, "touch": one}, context)
        except Problem as problem:
            # A place without a source nearby is left as it is; the others are done.
            if problem.body["code"] != "no_source":
                raise
            continue
        edit = done.edit
        ids.append(done.touch_id or "")
    if not ids:
        raise Problem(422, "no_source", "There is no clean place near enough to take from.")
    title = registry.kind(op["kind"]).title
    return Result(edit, op.get("label") or f"{title}: {len(ids)} places", ids[-1])


def _in_order(op: dict[str, Any]) -> list[dict[str, Any]]:
    """The touches as they are best made: spots to heal from the outside of a bad area inwards."""
    touches: list[dict[str, Any]] = op["touches"]
    if op["kind"] != "heal" or any(len(t["path"]) != 1 for t in touches):
        return touches
    spots = [
        (
            float(t["path"][0][0]),
            float(t["path"][0][1]),
            float(t.get("values", {}).get("radius_px", 20)),
        )
        for t in touches
    ]
    return [touches[n] for n in outside_in(spots)]


def remove_touches(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    for one in op["ids"]:
        edit = remove_touch(edit, {"id": one}, context).edit
    return Result(edit, op.get("label") or f"Delete {len(op['ids'])} touches")


def _sourced(
    edit: Edit,
    one: Pass,
    touch: Touch,
    choose: Chooser,
    after: tuple[int, int] | None = None,
) -> Touch:
    """The touch with a source: the best proposal, or the one that follows ``after``."""
    kind = registry.kind(one.kind).touches
    if touch.source is not None or kind is None or kind.propose is None:
        return touch
    found = choose(edit, one.id, touch)
    if not found:
        raise Problem(
            422,
            "no_source",
            "There is no clean place near enough to take from. Choose a smaller place.",
        )
    at = found.index(after) + 1 if after in found else 0
    return replace(touch, source=found[at % len(found)])


def _from_other_side(data: dict[str, Any], mirror: Mirror) -> dict[str, Any]:
    """A touch's data with the mirrored place of its face as source."""
    xs, ys = [x for x, _ in data["path"]], [y for _, y in data["path"]]
    middle = ((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2)
    found = mirror(*middle)
    if found is None:
        raise Problem(
            422,
            "no_other_side",
            "There is no other side for this place: it lies on no face, or in its middle.",
        )
    x, y, degrees, size = found
    values = {**data["values"], **mirrored_values(degrees, size)}
    return {**data, "values": values, "source": [round(x - middle[0]), round(y - middle[1])]}


def change_touch(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    n, m = find_touch(edit, op["id"])
    one = edit.passes[n]
    data = touch_to_data(one.touches[m])
    label = "Change touch"
    if op.get("enabled") is not None:
        data["enabled"] = op["enabled"]
        label = "Touch on" if op["enabled"] else "Touch off"
    if op.get("values"):
        data["values"] = {**data["values"], **op["values"]}
        label = "Resize touch" if "radius_px" in op["values"] else label
    if op.get("path") is not None:
        data["path"], label = op["path"], "Move touch"
    if op.get("source") is not None:
        data["source"], label = op["source"], "Move source"
    elif op.get("mirrored"):
        data, label = _from_other_side(data, context.mirror), "Source from the other side"
    elif op.get("new_source"):
        data["source"], label = None, "New source"
    touch = touch_from_data(data, registry.kind(one.kind))
    if one.kind == "heal" and (
        op.get("path") is not None or "radius_px" in (op.get("values") or {})
    ):
        # What was around the old place says nothing about the new one.
        touch = context.prepare(one.kind, replace(touch, spare=()))
    touch = _sourced(edit, one, touch, context.choose, after=one.touches[m].source)
    touches = (*one.touches[:m], touch, *one.touches[m + 1 :])
    return Result(with_pass(edit, n, replace(one, touches=touches)), label, touch.id)


def remove_touch(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    n, m = find_touch(edit, op["id"])
    one = edit.passes[n]
    touches = one.touches[:m] + one.touches[m + 1 :]
    return Result(with_pass(edit, n, replace(one, touches=touches)), "Delete touch")


def change_touches(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    shift = op.get("shift") or (0, 0)
    for one in op["ids"]:
        n, m = find_touch(edit, one)
        path = [(x + shift[0], y + shift[1]) for x, y in edit.passes[n].touches[m].path]
        change = {"id": one, "path": path} if any(shift) else {"id": one}
        for field in ("values", "enabled"):
            if op.get(field) is not None:
                change[field] = op[field]
        edit = change_touch(edit, change, context).edit
    what = "Move" if any(shift) else "Change"
    if op.get("enabled") is not None:
        what = "Switch on" if op["enabled"] else "Switch off"
    return Result(edit, f"{what} {len(op['ids'])} touches", op["ids"][-1])


def duplicate_touches(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    made = ""
    for one in op["ids"]:
        n, m = find_touch(edit, one)
        touch = edit.passes[n].touches[m]
        xs, ys = [x for x, _ in touch.path], [y for _, y in touch.path]
        aside = 2 * float(touch.values.get("radius_px", 0)) or 0.5 * (max(xs) - min(xs)) + 4
        path = tuple((x + aside, y) for x, y in zip(xs, ys, strict=True))
        # Both keep taking from the same place.
        source = touch.source and (touch.source[0] - round(aside), touch.source[1])
        copy = replace(touch, id=new_id(), path=path, source=source)
        owner = edit.passes[n]
        edit = with_pass(edit, n, replace(owner, touches=(*owner.touches, copy)))
        made = copy.id
    return Result(edit, f"Duplicate {len(op['ids'])} touches", made)
