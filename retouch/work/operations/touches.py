"""Operations on touches."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Annotated, Any, Literal

from pydantic import Field

from retouch.bands import TITLES as BAND_TITLES
from retouch.edit import Edit, Elsewhere, Pass, Touch
from retouch.edit.values import (
    MOST_SPARED,
    STRICT,
    GivenTouchValues,
    GivenValues,
    Ident,
    Name,
    Offset,
    Outline,
    Path,
    Pressure,
    Switch,
)
from retouch.errors import EditError
from retouch.forms.form import completed_touch
from retouch.passes import registry
from retouch.work.bench import (
    Bench,
    Refused,
    Result,
    find_pass,
    find_touch,
    free_name,
    with_touches,
)
from retouch.work.operations.passes import AddPass
from retouch.work.sources import from_other_side, group_of, prepared, sourced

# Touches in one gesture.
_MOST_AT_ONCE = 2000
_Ids = Annotated[tuple[Ident, ...], Field(min_length=1, max_length=_MOST_AT_ONCE)]
_Label = Annotated[str, Field(max_length=120)]


@dataclass(frozen=True)
class NewTouch:
    """A touch to add; without a source the best one is chosen."""

    __pydantic_config__ = STRICT

    path: Path
    id: Ident | None = None
    values: GivenTouchValues = field(default_factory=dict)
    source: Offset | None = None
    spare: Annotated[tuple[Outline, ...], Field(max_length=MOST_SPARED)] | None = None
    elsewhere: Elsewhere | None = None
    pressure: Pressure | None = None


@dataclass(frozen=True)
class AddTouch:
    """Add a touch to a pass; without ``pass_id`` to the topmost pass of the kind, or a new one.

    With ``settings`` that name a band, only passes that work in this band fit, and a new one
    gets the settings. A fill keeps from other zones of the face unless it may draw from
    ``anywhere``.
    """

    __pydantic_config__ = STRICT

    kind: Name
    touch: NewTouch
    pass_id: Ident | None = None
    settings: GivenValues | None = None
    anywhere: Switch | None = None
    op: Literal["add_touch"] = "add_touch"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the touch in the pass it belongs to, its source chosen."""
        kind = registry.kind(self.kind)
        new = self.touch
        touch = completed_touch(
            Touch(
                new.id or bench.new_id(), new.path, new.values, new.source, new.spare or (),
                elsewhere=new.elsewhere, pressure=new.pressure or (),
            ),
            kind,
        )  # fmt: skip
        # What is moved goes across zones; its strokes belong together.
        group = "" if kind.shape else group_of(bench.analysis, touch)
        edit, n = self._home(edit, bench, kind, group)
        one = edit.passes[n]
        if any(t.id == touch.id for p in edit.passes for t in p.touches):
            raise EditError("There is a touch with this id already.")
        if not self.anywhere:
            touch = prepared(bench, kind, touch)
        touch = sourced(bench, edit, one, touch)
        return Result(with_touches(edit, n, (*one.touches, touch)), kind.title, touch.id)

    def _home(
        self, edit: Edit, bench: Bench, kind: registry.PassKind, group: str
    ) -> tuple[Edit, int]:
        """The pass that the hand has open, if the touch belongs there; else the last that fits;
        else a new one.
        """
        if self.pass_id is not None:
            n, wanted = find_pass(edit, self.pass_id)
            if self._fits(wanted, group, bench):
                return edit, n
        for n in reversed(range(len(edit.passes))):
            if self._fits(edit.passes[n], group, bench):
                return edit, n
        add = AddPass(self.kind, bench.new_id(), self._name(edit, kind, group), self.settings)
        edit = add.perform(edit, bench).edit
        return edit, find_pass(edit, add.id or "")[0]

    @property
    def _band(self) -> str:
        return str((self.settings or {}).get("band", "all"))

    def _fits(self, one: Pass, group: str, bench: Bench) -> bool:
        """Whether a pass is one that the touch belongs to: its kind, band and zone."""
        if one.kind != self.kind or not one.on or one.settings.get("band", "all") != self._band:
            return False
        own = group_of(bench.analysis, one.touches[0]) if one.touches else ""
        return not own or not group or own == group

    def _name(self, edit: Edit, kind: registry.PassKind, group: str) -> str | None:
        """A name for a new pass that says its band or zone; None where its kind says enough."""
        if self._band in BAND_TITLES:
            return free_name(edit, f"{BAND_TITLES[self._band]}: {kind.title.lower()}")
        if kind.guide or group in ("", "skin"):
            return None
        return free_name(edit, kind.named(group))


@dataclass(frozen=True)
class AddTouches:
    """Several touches as one gesture; ``label`` names it in the history."""

    __pydantic_config__ = STRICT

    kind: Name
    touches: Annotated[tuple[NewTouch, ...], Field(min_length=1, max_length=_MOST_AT_ONCE)]
    pass_id: Ident | None = None
    label: _Label | None = None
    op: Literal["add_touches"] = "add_touches"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with all of them, each seeing the ones before."""
        ids: list[str] = []
        for touch in self._in_order():
            try:
                done = AddTouch(self.kind, touch, self.pass_id).perform(edit, bench)
            except Refused as refused:
                # A place without a source nearby is left as it is; the others are done.
                if refused.code != "no_source":
                    raise
                continue
            edit = done.edit
            ids.append(done.touch_id or "")
        if not ids:
            raise Refused("no_source", "There is no clean place near enough to take from.")
        title = registry.kind(self.kind).title
        return Result(edit, self.label or f"{title}: {len(ids)} places", ids[-1])

    def _in_order(self) -> tuple[NewTouch, ...]:
        """The touches as their kind makes dabs best."""
        kind = registry.kind(self.kind)
        order = kind.touches.order if kind.touches is not None else None
        if order is None or any(len(t.path) != 1 for t in self.touches):
            return self.touches
        own = {s.name: s.default for s in kind.touch_settings}
        usual = own.get("radius_px")
        radius = usual if isinstance(usual, float) else 20.0
        spots = [(*t.path[0], float(t.values.get("radius_px", radius))) for t in self.touches]
        return tuple(self.touches[n] for n in order(spots))


@dataclass(frozen=True)
class ChangeTouch:
    """Move, resize or re-source a touch; ``new_source`` chooses again."""

    __pydantic_config__ = STRICT

    id: Ident
    path: Path | None = None
    values: GivenTouchValues | None = None
    source: Offset | None = None
    new_source: Switch | None = None
    mirrored: Switch | None = None
    enabled: Switch | None = None
    op: Literal["change_touch"] = "change_touch"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the touch changed; its source stays unless another is asked for."""
        n, m = find_touch(edit, self.id)
        one = edit.passes[n]
        kind = registry.kind(one.kind)
        touch, label = self._changed(one.touches[m], bench)
        touch = completed_touch(touch, kind, one.title)
        moved = self.path is not None or "radius_px" in (self.values or {})
        if (moved and kind.touches is not None and kind.touches.afresh) or (
            kind.shape and (self.path is not None or self.values)
        ):
            # What was around the old place says nothing about the new one.
            touch = prepared(bench, kind, replace(touch, spare=()))
        touch = sourced(bench, edit, one, touch, after=one.touches[m].source)
        touches = (*one.touches[:m], touch, *one.touches[m + 1 :])
        return Result(with_touches(edit, n, touches), label, touch.id)

    def _changed(self, touch: Touch, bench: Bench) -> tuple[Touch, str]:
        label = "Change touch"
        given: dict[str, Any] = {}
        if self.enabled is not None:
            given["enabled"], label = self.enabled, "Touch on" if self.enabled else "Touch off"
        if self.values:
            given["values"] = {**touch.values, **self.values}
            label = "Resize touch" if "radius_px" in self.values else label
        if self.path is not None:
            given["path"], label = self.path, "Move touch"
            if len(self.path) != len(touch.path):
                given["pressure"] = ()
        touch = replace(touch, **given)
        if self.source is not None:
            return replace(touch, source=self.source), "Move source"
        if self.mirrored:
            return from_other_side(bench, touch), "Source from the other side"
        if self.new_source:
            return replace(touch, source=None), "New source"
        return touch, label


@dataclass(frozen=True)
class RemoveTouch:
    """Delete a touch."""

    __pydantic_config__ = STRICT

    id: Ident
    op: Literal["remove_touch"] = "remove_touch"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit without it; its pass stays."""
        n, m = find_touch(edit, self.id)
        touches = edit.passes[n].touches
        return Result(with_touches(edit, n, touches[:m] + touches[m + 1 :]), "Delete touch")


@dataclass(frozen=True)
class RemoveTouches:
    """Delete several touches as one gesture."""

    __pydantic_config__ = STRICT

    ids: _Ids
    label: _Label | None = None
    op: Literal["remove_touches"] = "remove_touches"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit without them."""
        for one in self.ids:
            edit = RemoveTouch(one).perform(edit, bench).edit
        return Result(edit, self.label or f"Delete {len(self.ids)} touches")


@dataclass(frozen=True)
class ChangeTouches:
    """Several touches moved, given values, or switched, as one gesture."""

    __pydantic_config__ = STRICT

    ids: _Ids
    shift: Offset | None = None
    values: GivenTouchValues | None = None
    enabled: Switch | None = None
    op: Literal["change_touches"] = "change_touches"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with all of them changed alike."""
        dx, dy = self.shift or (0, 0)
        for one in self.ids:
            n, m = find_touch(edit, one)
            path = tuple((x + dx, y + dy) for x, y in edit.passes[n].touches[m].path)
            change = ChangeTouch(
                one, path if dx or dy else None, values=self.values, enabled=self.enabled
            )
            edit = change.perform(edit, bench).edit
        what = "Move" if dx or dy else "Change"
        if self.enabled is not None:
            what = "Switch on" if self.enabled else "Switch off"
        return Result(edit, f"{what} {len(self.ids)} touches", self.ids[-1])


@dataclass(frozen=True)
class DuplicateTouches:
    """Copies of touches beside themselves, on top of their pass."""

    __pydantic_config__ = STRICT

    ids: _Ids
    op: Literal["duplicate_touches"] = "duplicate_touches"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the copies, which take from where their originals take from."""
        made = ""
        for one in self.ids:
            n, m = find_touch(edit, one)
            touches = edit.passes[n].touches
            touch = touches[m]
            xs, ys = [x for x, _ in touch.path], [y for _, y in touch.path]
            aside = 2 * float(touch.values.get("radius_px", 0)) or 0.5 * (max(xs) - min(xs)) + 4
            copy = replace(
                touch,
                id=bench.new_id(),
                path=tuple((x + aside, y) for x, y in zip(xs, ys, strict=True)),
                source=touch.source and (touch.source[0] - round(aside), touch.source[1]),
            )
            edit = with_touches(edit, n, (*touches, copy))
            made = copy.id
        return Result(edit, f"Duplicate {len(self.ids)} touches", made)
