"""Changes of an edit as data: found by comparing two edits, applied forwards or backwards.

A change is ``{"what": "pass" | "strokes" | "touch", "id", "pass_id", "index", "before", "after"}``:
the state of one pass (without its touches and the strokes of its mask) or touch before and after,
None where it didn't exist. For ``strokes`` it is the strokes from ``index`` on, before and after.
The same form is kept in the history, sent to the browser, and written to the rows.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from retouch.edit import Edit, Pass, Touch
from retouch.edit.mask import MaskStroke
from retouch.forms.form import parsed, pass_from_data, plain, touch_from_data
from retouch.passes import registry

Change = dict[str, Any]


def compare(old: Edit, new: Edit) -> list[Change]:
    """The changes that lead from one edit to the other.

    Removals come first (touches before their pass, later before earlier), then new and changed
    passes, then their touches, in order; so they can be applied one by one.
    """
    was = {p.id: (n, p) for n, p in enumerate(old.passes)}
    now = {p.id: (n, p) for n, p in enumerate(new.passes)}
    out: list[Change] = []
    for n, one in reversed(list(enumerate(old.passes))):
        kept = {t.id for t in now[one.id][1].touches} if one.id in now else set()
        for m, touch in reversed(list(enumerate(one.touches))):
            if touch.id not in kept:
                out.append(_touch(one.id, m, touch, None))
        if one.id not in now:
            out += _strokes(one, None)
            out.append(_pass(n, one, None))
    common_before = [p.id for p in old.passes if p.id in now]
    common_after = [p.id for p in new.passes if p.id in was]
    moved = common_before != common_after
    for n, one in enumerate(new.passes):
        at, before = was.get(one.id, (n, None))
        if before is one and not moved:
            continue
        if before is None or moved or before.head != one.head:
            change = _pass(n, before, one)
            change["index_before"] = at
            out.append(change)
        out += _strokes(before, one)
        out += _touches(before, one)
    return out


def _head(one: Pass) -> dict[str, Any]:
    return plain(one.head)  # type: ignore[no-any-return]


def _strokes(before: Pass | None, after: Pass | None) -> list[Change]:
    """The strokes in which two states of a pass's mask differ, if they do."""
    old = before.mask.strokes if before else ()
    new = after.mask.strokes if after else ()
    same = 0
    while same < min(len(old), len(new)) and (old[same] is new[same] or old[same] == new[same]):
        same += 1
    if same == len(old) == len(new):
        return []
    some = after or before
    assert some is not None
    return [
        {
            "what": "strokes",
            "id": some.id,
            "pass_id": some.id,
            "index": same,
            "before": [plain(s) for s in old[same:]],
            "after": [plain(s) for s in new[same:]],
        }
    ]


def _touches(before: Pass | None, one: Pass) -> list[Change]:
    old = {t.id: (m, t) for m, t in enumerate(before.touches)} if before else {}
    out: list[Change] = []
    for m, touch in enumerate(one.touches):
        had = old.get(touch.id)
        if had is None or (had[1] is not touch and had[1] != touch):
            out.append(_touch(one.id, m, had[1] if had else None, touch))
    return out


def _pass(index: int, before: Pass | None, after: Pass | None) -> Change:
    some = after or before
    assert some is not None
    return {
        "what": "pass",
        "id": some.id,
        "pass_id": some.id,
        "index": index,
        "before": _head(before) if before else None,
        "after": _head(after) if after else None,
    }


def _touch(pass_id: str, index: int, before: Touch | None, after: Touch | None) -> Change:
    some = after or before
    assert some is not None
    return {
        "what": "touch",
        "id": some.id,
        "pass_id": pass_id,
        "index": index,
        "before": plain(before) if before else None,
        "after": plain(after) if after else None,
    }


def reverse(changes: list[Change]) -> list[Change]:
    """The changes that take the given ones back."""
    out = []
    for change in reversed(changes):
        back = {**change, "before": change["after"], "after": change["before"]}
        if "index_before" in change:
            back["index"], back["index_before"] = change["index_before"], change["index"]
        out.append(back)
    # Passes that stay are put at their places from the lowest up, or the order would come out
    # wrong; a pass that comes back does so before its touches.
    slots = [n for n, c in enumerate(out) if c["what"] == "pass" and c["after"] and c["before"]]
    for n, change in zip(slots, sorted((out[n] for n in slots), key=_index), strict=True):
        out[n] = change
    return out


def _index(change: Change) -> int:
    return int(change["index"])


def apply(edit: Edit, changes: list[Change]) -> Edit:
    """The edit after the changes; passes they don't mention stay the same objects."""
    passes = list(edit.passes)
    for change in changes:
        at = next((n for n, p in enumerate(passes) if p.id == change["pass_id"]), None)
        if change["what"] == "pass":
            touches = passes[at].touches if at is not None else ()
            strokes = passes[at].mask.strokes if at is not None else ()
            if at is not None:
                del passes[at]
            if change["after"] is not None:
                bare = pass_from_data(change["after"])
                mask = replace(bare.mask, strokes=strokes)
                one = replace(bare, mask=mask, touches=touches)
                passes.insert(min(change["index"], len(passes)), one)
            continue
        if at is None:
            continue
        one = passes[at]
        if change["what"] == "strokes":
            added = [parsed(MaskStroke, s, "stroke") for s in change["after"]]
            mask = replace(one.mask, strokes=(*one.mask.strokes[: change["index"]], *added))
            passes[at] = replace(one, mask=mask)
            continue
        rest = [t for t in one.touches if t.id != change["id"]]
        if change["after"] is not None:
            touch = touch_from_data(change["after"], registry.kind(one.kind))
            rest.insert(min(change["index"], len(rest)), touch)
        passes[at] = replace(one, touches=tuple(rest))
    return replace(edit, passes=tuple(passes))
