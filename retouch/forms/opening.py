"""Opening what was stored, whatever it holds: what can't be used is left aside and named."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from retouch.edit.model import Edit, Pass, Touch
from retouch.edit.values import LONGEST_NAME
from retouch.errors import EditError
from retouch.forms.form import pass_from_data, touch_from_data
from retouch.passes import registry


@dataclass(frozen=True)
class Opened:
    """An edit, and in words what of the stored data isn't in it."""

    edit: Edit
    left: tuple[str, ...] = ()


def opened(passes: list[Any], analysis: str = "") -> Opened:
    """The edit of stored passes (in the form of JSON), as far as they can be used.

    Nothing is refused: a pass that breaks the form is left aside with a sentence, as is a touch or
    a stroke of a mask; what is stored stays stored. How many there are isn't counted here: more
    than fit in an edit open, too.
    """
    found: list[Pass] = []
    left: list[str] = []
    ids: set[str] = set()
    for data in passes:
        one = _pass(data, left)
        if one is None:
            continue
        if one.id in ids:
            left.append(f"{one.title}: another pass has the same id.")
            continue
        if registry.kind(one.kind).single and any(p.kind == one.kind for p in found):
            left.append(f"{one.title}: there is another one.")
            continue
        touches = []
        for touch in one.touches:
            if touch.id in ids:
                left.append(f"{one.title}: two touches have the same id; the second is left out.")
                continue
            ids.add(touch.id)
            touches.append(touch)
        ids.add(one.id)
        found.append(
            one if len(touches) == len(one.touches) else replace(one, touches=tuple(touches))
        )
    return Opened(Edit(tuple(found), analysis=analysis), tuple(left))


def _pass(data: Any, left: list[str]) -> Pass | None:
    if not isinstance(data, dict):
        left.append("A pass is no object.")
        return None
    data = dict(data)
    name = data.get("name")
    if isinstance(name, str) and len(name) > LONGEST_NAME:
        data["name"] = name[: LONGEST_NAME - 1] + "…"
    try:
        return pass_from_data(data)
    except EditError as error:
        reason = str(error)
    title = str(data.get("name") or data.get("kind") or "A pass")[:60]
    touches, mask = data.pop("touches", []), data.get("mask")
    strokes: list[Any] = []
    if isinstance(mask, dict):
        strokes = mask.get("strokes") or []
        data["mask"] = {n: v for n, v in mask.items() if n != "strokes"}
    try:
        bare = pass_from_data(data)
        kind = registry.kind(bare.kind)
    except EditError:
        left.append(f"{title}: {reason}")
        return None
    kept = [t for t in (_touch(t, kind, title, left) for t in touches) if t is not None]
    painted = [s for s in (_stroke(s, data, title, left) for s in strokes) if s is not None]
    return replace(bare, touches=tuple(kept), mask=replace(bare.mask, strokes=tuple(painted)))


def _touch(data: Any, kind: registry.PassKind, title: str, left: list[str]) -> Touch | None:
    try:
        return touch_from_data(data, kind)
    except EditError as error:
        left.append(f"{title}: {error}")
        return None


def _stroke(stroke: Any, data: dict[str, Any], title: str, left: list[str]) -> Any:
    try:
        return pass_from_data({**data, "mask": {"strokes": [stroke]}}).mask.strokes[0]
    except EditError as error:
        left.append(f"{title}: {error}")
        return None
