"""Which part of the picture a change of the edit can have changed."""

from __future__ import annotations

import json

from retouch.edit.form import pass_to_data
from retouch.edit.model import Edit, Pass
from retouch.geometry import EMPTY, Rect, union_all
from retouch.passes import registry


def changed_region(old: Edit, new: Edit, bounds: Rect) -> Rect:
    """The smallest rectangle known to hold every pixel that differs between two edits.

    Direct changes first, then in order every touch that reads what has changed.
    """
    before = {p.id: p for p in old.passes if p.enabled and p.strength > 0}
    after = {p.id: p for p in new.passes if p.enabled and p.strength > 0}
    shared_old = [i for i in before if i in after]
    shared_new = [i for i in after if i in before]
    if shared_old != shared_new:
        return bounds
    dirty: list[Rect] = []
    for gone in before.keys() - after.keys():
        dirty.append(_extent(before[gone], bounds))
    for one in (p for p in new.passes if p.id in after):
        was = before.get(one.id)
        if was is one:
            dirty += _readers(one, dirty, bounds)
            continue
        if was is None or _head(was) != _head(one):
            dirty.append(_extent(one, bounds))
            if was is not None:
                dirty.append(_extent(was, bounds))
        else:
            dirty += _touch_changes(was, one, bounds)
        dirty += _readers(one, dirty, bounds)
        reach = registry.kind(one.kind).reach(one.settings)
        if reach and dirty:
            dirty.append(union_all(dirty).grow(reach).clip(bounds))
    return union_all(dirty)


def _head(one: Pass) -> str:
    data = pass_to_data(one, with_touches=False)
    del data["name"]
    return json.dumps(data, sort_keys=True)


def _extent(one: Pass, bounds: Rect) -> Rect:
    kind = registry.kind(one.kind).touches
    if kind is None:
        return bounds
    return union_all(kind.writes(t, bounds) for t in one.touches)


def _touch_changes(was: Pass, one: Pass, bounds: Rect) -> list[Rect]:
    kind = registry.kind(one.kind).touches
    if kind is None:
        return []
    old = {t.id: t for t in was.touches}
    new = {t.id: t for t in one.touches}
    out = [kind.writes(t, bounds) for i, t in old.items() if new.get(i) != t]
    out += [kind.writes(t, bounds) for i, t in new.items() if old.get(i) != t]
    if [i for i in old if i in new] != [i for i in new if i in old]:
        out.append(_extent(one, bounds))
    return out


def _readers(one: Pass, dirty: list[Rect], bounds: Rect) -> list[Rect]:
    """What touches of the pass write that read something dirty, in their order."""
    kind = registry.kind(one.kind).touches
    if kind is None or not dirty:
        return []
    area = union_all(dirty)
    out: list[Rect] = []
    for touch in one.touches:
        if any(r.meets(area) for r in kind.reads(touch, bounds)):
            rect = kind.writes(touch, bounds)
            out.append(rect)
            area = area.union(rect)
    return out if area != EMPTY else []
