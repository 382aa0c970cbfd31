"""What every operation's result has to pass: the checks that opening an edit applies."""

from __future__ import annotations

from retouch.edit import Edit, Pass, Touch
from retouch.edit.mask import MaskStroke
from retouch.edit.values import MOST_PASSES, MOST_STROKES, MOST_TOUCHES
from retouch.errors import EditError
from retouch.forms.form import check_ids, check_singles, completed, completed_touch, parsed, plain
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.work.bench import Refused


def check_result(old: Edit, new: Edit, bounds: Rect) -> None:
    """Refuse an edit that couldn't be opened again, or whose touches take from beside the picture.

    Only what differs from ``old`` is looked at. Where there is too much already, less is allowed.
    """
    if new is old:
        return
    if len(new.passes) > max(MOST_PASSES, len(old.passes)):
        raise EditError(f"At most {MOST_PASSES} passes fit in one edit.")
    known = {id(p) for p in old.passes}
    before = {p.id: p for p in old.passes}
    changed = [p for p in new.passes if id(p) not in known]
    for one in changed:
        _check_pass(one, before.get(one.id), bounds)
    if changed:
        check_ids(new)
        check_singles(new)


def _check_pass(one: Pass, was: Pass | None, bounds: Rect) -> None:
    kind = registry.kind(one.kind)
    touches, strokes = one.touches, one.mask.strokes
    had = (was.touches, was.mask.strokes) if was is not None else ((), ())
    if len(touches) > max(MOST_TOUCHES, len(had[0])):
        raise EditError(f"At most {MOST_TOUCHES} touches fit in one pass; begin another.")
    if len(strokes) > max(MOST_STROKES, len(had[1])):
        raise EditError(f"At most {MOST_STROKES} strokes fit in one mask; duplicate the pass.")
    completed(parsed(Pass, plain(one.head), one.title), one.title)
    known = {id(t) for t in had[0]}
    for touch in touches:
        if id(touch) not in known:
            completed_touch(parsed(Touch, plain(touch), one.title), kind, one.title)
            _check_source(touch, kind, bounds)
    painted = {id(s) for s in had[1]}
    for stroke in strokes:
        if id(stroke) not in painted:
            parsed(MaskStroke, plain(stroke), one.title)


def _check_source(touch: Touch, kind: registry.PassKind, bounds: Rect) -> None:
    way = kind.touches
    if way is None or touch.source is None:
        return
    place = way.writes(touch, bounds)
    if not place.empty and not place.shift(*touch.source).meets(bounds):
        raise Refused("source_outside", "The source lies outside of the picture; nothing changed.")
