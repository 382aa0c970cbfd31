"""What a gesture asks for, as operations on an edit. Pure: no rows, no requests."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from retouch.bands import TITLES as BAND_TITLES
from retouch.edit import Edit, Pass, Touch
from retouch.edit.form import pass_from_data, pass_to_data, touch_from_data, touch_to_data
from retouch.errors import EditError
from retouch.heal.order import outside_in
from retouch.passes import registry
from studio.errors import Problem
from studio.portraits.models import new_id

# Proposes sources for a touch on top of a pass, best first: (edit, pass id, touch) -> offsets.
Chooser = Callable[[Edit, str, Touch], list[tuple[int, int]]]

# The place on the other side of a face, and how a source from there is turned; None: there is none.
Mirror = Callable[[float, float], tuple[float, float, float] | None]

# What a pass is called that appears by itself, by kind; "Skin spots 2" and so on after that.
_NAMES = {
    "heal": "Skin spots",
    "clone": "Copies",
    "patch": "Patches",
    "fill": "Fills",
    "blend": "Blended tones",
    "zones": "Zones",
    "marks": "Marks",
    "faces": "Faces",
}


@dataclass(frozen=True)
class Result:
    """The new edit, a label for the history, and which touch the hand now holds."""

    edit: Edit
    label: str
    touch_id: str | None = None


def perform(
    edit: Edit, operation: dict[str, Any], choose: Chooser, mirror: Mirror | None = None
) -> Result:
    """Carry out one operation; `Problem` or `EditError` says what can't be done."""
    if operation["op"] == "change_touch":
        return _change_touch(edit, operation, choose, mirror)
    return _OPERATIONS[operation["op"]](edit, operation, choose)


def _find_pass(edit: Edit, pass_id: str) -> tuple[int, Pass]:
    for n, one in enumerate(edit.passes):
        if one.id == pass_id:
            return n, one
    raise Problem(404, "no_such_pass", "This pass is gone; somebody deleted it.")


def _find_touch(edit: Edit, touch_id: str) -> tuple[int, int]:
    for n, one in enumerate(edit.passes):
        for m, touch in enumerate(one.touches):
            if touch.id == touch_id:
                return n, m
    raise Problem(404, "no_such_touch", "This touch is gone; somebody deleted it.")


def _with_pass(edit: Edit, n: int, one: Pass) -> Edit:
    return Edit((*edit.passes[:n], one, *edit.passes[n + 1 :]))


def free_name(edit: Edit, kind: str) -> str:
    """A name for a new pass of a kind that no other pass has."""
    return free(edit, _NAMES.get(kind, registry.kind(kind).title))


def free(edit: Edit, base: str) -> str:
    """A name, numbered if another pass has it."""
    taken = {p.name for p in edit.passes}
    name, n = base, 2
    while name in taken:
        name, n = f"{base} {n}", n + 1
    return name


def _place(edit: Edit, kind: str) -> int:
    """Where a new pass goes: after the last of its stage or of an earlier one."""
    stage = registry.STAGES.index(registry.kind(kind).stage)
    place = 0
    for n, one in enumerate(edit.passes):
        if registry.STAGES.index(registry.kind(one.kind).stage) <= stage:
            place = n + 1
    return place


def _add_pass(edit: Edit, op: dict[str, Any], choose: Chooser) -> Result:
    kind = op["kind"]
    name = op.get("name") or free_name(edit, kind)
    one = pass_from_data(
        {
            "id": op.get("id") or new_id(),
            "kind": kind,
            "name": name,
            "settings": op.get("settings") or {},
        }
    )
    if any(p.id == one.id for p in edit.passes):
        raise EditError("There is a pass with this id already.")
    at = _place(edit, kind)
    return Result(Edit((*edit.passes[:at], one, *edit.passes[at:])), f"Add {name}")


def _remove_pass(edit: Edit, op: dict[str, Any], choose: Chooser) -> Result:
    n, one = _find_pass(edit, op["id"])
    return Result(Edit(edit.passes[:n] + edit.passes[n + 1 :]), f"Delete {one.name or one.kind}")


def _change_pass(edit: Edit, op: dict[str, Any], choose: Chooser) -> Result:
    n, one = _find_pass(edit, op["id"])
    data = pass_to_data(one, with_touches=False)
    given = {k: v for k, v in op.items() if k not in ("op", "id") and v is not None}
    if "settings" in given:
        given["settings"] = {**data["settings"], **given["settings"]}
    changed = pass_from_data({**data, **given})
    changed = replace(changed, touches=one.touches)
    label = _change_label(one, given)
    return Result(_with_pass(edit, n, changed), label)


def _change_label(one: Pass, given: dict[str, Any]) -> str:
    name = one.name or one.kind
    if "name" in given:
        return f"Rename to {given['name']}"
    if "enabled" in given:
        return f"{name} {'on' if given['enabled'] else 'off'}"
    if "strength" in given:
        return f"{name}: strength {given['strength']:g} %"
    if "settings" in given:
        titles = {s.name: s.title for s in registry.kind(one.kind).settings}
        changed = ", ".join(
            titles[k] for k, v in given["settings"].items() if v != one.settings.get(k)
        )
        return f"{name}: {changed or 'settings'}"
    return f"{name}: {', '.join(given)}"


def _move_pass(edit: Edit, op: dict[str, Any], choose: Chooser) -> Result:
    n, one = _find_pass(edit, op["id"])
    rest = edit.passes[:n] + edit.passes[n + 1 :]
    at = max(0, min(op["index"], len(rest)))
    return Result(Edit((*rest[:at], one, *rest[at:])), f"Move {one.name or one.kind}")


def _fits(one: Pass, op: dict[str, Any]) -> bool:
    """Whether a pass is one that a new touch belongs to."""
    if one.kind != op["kind"] or not one.enabled:
        return False
    wanted = (op.get("settings") or {}).get("band", "all")
    return bool(one.settings.get("band", "all") == wanted)


def _band_name(edit: Edit, op: dict[str, Any]) -> str | None:
    """A name for a new pass that works in one band; None where it works in all."""
    band = str((op.get("settings") or {}).get("band", "all"))
    if band not in BAND_TITLES:
        return None
    base = f"{BAND_TITLES[band]}: {registry.kind(op['kind']).title.lower()}"
    return free(edit, base)


def _add_touch(edit: Edit, op: dict[str, Any], choose: Chooser) -> Result:
    pass_id = op.get("pass_id")
    if pass_id is None:
        fitting = [p for p in edit.passes if _fits(p, op)]
        if fitting:
            pass_id = fitting[-1].id
        else:
            pass_id = new_id()
            edit = _add_pass(edit, {**op, "id": pass_id, "name": _band_name(edit, op)}, choose).edit
    n, one = _find_pass(edit, pass_id)
    kind = registry.kind(one.kind)
    touch = touch_from_data({**op["touch"], "id": op["touch"].get("id") or new_id()}, kind)
    if any(t.id == touch.id for p in edit.passes for t in p.touches):
        raise EditError("There is a touch with this id already.")
    touch = _sourced(edit, one, touch, choose)
    new = replace(one, touches=(*one.touches, touch))
    return Result(_with_pass(edit, n, new), kind.title, touch.id)


def _add_touches(edit: Edit, op: dict[str, Any], choose: Chooser) -> Result:
    """Several touches as one gesture, each seeing the ones before."""
    ids: list[str] = []
    for one in _in_order(op):
        try:
            done = _add_touch(edit, {**op, "touch": one}, choose)
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


def _remove_touches(edit: Edit, op: dict[str, Any], choose: Chooser) -> Result:
    for one in op["ids"]:
        edit = _remove_touch(edit, {"id": one}, choose).edit
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


def _from_other_side(data: dict[str, Any], mirror: Mirror | None) -> dict[str, Any]:
    """A touch's data with the mirrored place of its face as source."""
    xs, ys = [x for x, _ in data["path"]], [y for _, y in data["path"]]
    middle = ((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2)
    found = mirror(*middle) if mirror else None
    if found is None:
        raise Problem(
            422,
            "no_other_side",
            "There is no other side for this place: it lies on no face, or in its middle.",
        )
    x, y, degrees = found
    values = {**data["values"], "source_turn": round(degrees, 1), "source_mirror": True}
    return {**data, "values": values, "source": [round(x - middle[0]), round(y - middle[1])]}


def _change_touch(
    edit: Edit, op: dict[str, Any], choose: Chooser, mirror: Mirror | None = None
) -> Result:
    n, m = _find_touch(edit, op["id"])
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
        data, label = _from_other_side(data, mirror), "Source from the other side"
    elif op.get("new_source"):
        data["source"], label = None, "New source"
    touch = touch_from_data(data, registry.kind(one.kind))
    touch = _sourced(edit, one, touch, choose, after=one.touches[m].source)
    touches = (*one.touches[:m], touch, *one.touches[m + 1 :])
    return Result(_with_pass(edit, n, replace(one, touches=touches)), label, touch.id)


def _remove_touch(edit: Edit, op: dict[str, Any], choose: Chooser) -> Result:
    n, m = _find_touch(edit, op["id"])
    one = edit.passes[n]
    touches = one.touches[:m] + one.touches[m + 1 :]
    return Result(_with_pass(edit, n, replace(one, touches=touches)), "Delete touch")


def _change_touches(edit: Edit, op: dict[str, Any], choose: Chooser) -> Result:
    shift = op.get("shift") or (0, 0)
    for one in op["ids"]:
        n, m = _find_touch(edit, one)
        path = [(x + shift[0], y + shift[1]) for x, y in edit.passes[n].touches[m].path]
        change = {"id": one, "path": path} if any(shift) else {"id": one}
        for field in ("values", "enabled"):
            if op.get(field) is not None:
                change[field] = op[field]
        edit = _change_touch(edit, change, choose).edit
    what = "Move" if any(shift) else "Change"
    if op.get("enabled") is not None:
        what = "Switch on" if op["enabled"] else "Switch off"
    return Result(edit, f"{what} {len(op['ids'])} touches", op["ids"][-1])


def _duplicate_touches(edit: Edit, op: dict[str, Any], choose: Chooser) -> Result:
    made = ""
    for one in op["ids"]:
        n, m = _find_touch(edit, one)
        touch = edit.passes[n].touches[m]
        xs, ys = [x for x, _ in touch.path], [y for _, y in touch.path]
        aside = 2 * float(touch.values.get("radius_px", 0)) or 0.5 * (max(xs) - min(xs)) + 4
        path = tuple((x + aside, y) for x, y in zip(xs, ys, strict=True))
        # Both keep taking from the same place.
        source = touch.source and (touch.source[0] - round(aside), touch.source[1])
        copy = replace(touch, id=new_id(), path=path, source=source)
        owner = edit.passes[n]
        edit = _with_pass(edit, n, replace(owner, touches=(*owner.touches, copy)))
        made = copy.id
    return Result(edit, f"Duplicate {len(op['ids'])} touches", made)


def _paint_mask(edit: Edit, op: dict[str, Any], choose: Chooser) -> Result:
    n, one = _find_pass(edit, op["pass_id"])
    data = pass_to_data(one, with_touches=False)
    mask = data["mask"]
    data["mask"] = {**mask, "strokes": [*mask.get("strokes", []), op["stroke"]]}
    changed = replace(pass_from_data(data), touches=one.touches)
    label = "Bring back" if op["stroke"].get("reveal") else "Ease"
    return Result(_with_pass(edit, n, changed), f"{label} {one.name or one.kind}")


def _clip_pass(edit: Edit, op: dict[str, Any], choose: Chooser) -> Result:
    n, one = _find_pass(edit, op["pass_id"])
    data = pass_to_data(one, with_touches=False)
    mask: dict[str, Any] = {"kind": "everything"}
    if op.get("points"):
        mask = {
            "kind": "outline",
            "points": op["points"],
            "feather_px": op.get("feather_px", 1),
            "invert": op.get("invert", False),
        }
    data["mask"] = {**mask, "strokes": data["mask"].get("strokes", [])}
    changed = replace(pass_from_data(data), touches=one.touches)
    label = "Clip" if op.get("points") else "Unclip"
    return Result(_with_pass(edit, n, changed), f"{label} {one.name or one.kind}")


_OPERATIONS: dict[str, Callable[[Edit, dict[str, Any], Chooser], Result]] = {
    "add_pass": _add_pass,
    "remove_pass": _remove_pass,
    "change_pass": _change_pass,
    "move_pass": _move_pass,
    "add_touch": _add_touch,
    "add_touches": _add_touches,
    "remove_touches": _remove_touches,
    "change_touch": _change_touch,
    "change_touches": _change_touches,
    "duplicate_touches": _duplicate_touches,
    "paint_mask": _paint_mask,
    "clip_pass": _clip_pass,
    "remove_touch": _remove_touch,
}
