"""What operations share: results, finding passes and touches, names."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from retouch.edit import Edit, Pass, Touch
from retouch.passes import registry
from studio.errors import Problem

# Proposes sources for a touch on top of a pass, best first: (edit, pass id, touch) -> offsets.
Chooser = Callable[[Edit, str, Touch], list[tuple[int, int]]]

# The place on the other side of a face, and how a source from there is turned and enlarged; None: there is none.
Mirror = Callable[[float, float], tuple[float, float, float, float] | None]

# The edit of another portrait or of a take, by its id, with its pixels per millimetre.
Elsewhere = Callable[[str], tuple[Edit, float]]

# What a pass is called that appears by itself, by kind; "Skin spots 2" and so on after that.
_NAMES = {
    "heal": "Skin spots",
    "clone": "Copies",
    "patch": "Patches",
    "fill": "Fills",
    "blend": "Blended tones",
    "dodge_burn": "Light by hand",
    "zones": "Zones",
    "marks": "Marks",
    "faces": "Faces",
}


@dataclass(frozen=True)
class Context:
    """What operations may ask the studio for."""

    choose: Chooser
    mirror: Mirror = lambda x, y: None
    elsewhere: Elsewhere | None = None
    group: Callable[[Touch], str] = lambda touch: ""
    # A new touch of a kind with what the face tells about it.
    prepare: Callable[[str, Touch], Touch] = lambda kind, touch: touch
    px_per_mm: float | None = None
    # What the face analysis puts into settings of new passes, by the settings' ``auto``; empty
    # where no such face is known. Faces are numbered, the largest first.
    face: Callable[[int], dict[str, float]] = lambda face: {}
    faces: int = 0
    # Marks that are to stay: x, y and radius.
    kept: Callable[[Edit], list[tuple[float, float, float]]] = lambda edit: []
    # Marks that are to be cleared and aren't yet: x, y, radius of the brush that covers each.
    # Of one face, or of all for None.
    spots: Callable[[Edit, int | None], list[tuple[float, float, float]]] = lambda edit, face: []


@dataclass(frozen=True)
class Result:
    """The new edit, a label for the history, and which touch or pass the hand now holds."""

    edit: Edit
    label: str
    touch_id: str | None = None
    pass_id: str | None = None


def find_pass(edit: Edit, pass_id: str) -> tuple[int, Pass]:
    """A pass and its place."""
    for n, one in enumerate(edit.passes):
        if one.id == pass_id:
            return n, one
    raise Problem(404, "no_such_pass", "This pass is gone; somebody deleted it.")


def find_touch(edit: Edit, touch_id: str) -> tuple[int, int]:
    """The places of a pass and of its touch."""
    for n, one in enumerate(edit.passes):
        for m, touch in enumerate(one.touches):
            if touch.id == touch_id:
                return n, m
    raise Problem(404, "no_such_touch", "This touch is gone; somebody deleted it.")


def with_pass(edit: Edit, n: int, one: Pass) -> Edit:
    """The edit with another pass at a place."""
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


def place_of(edit: Edit, kind: str) -> int:
    """Where a new pass goes: after the last of its stage or of an earlier one."""
    stage = registry.STAGES.index(registry.kind(kind).stage)
    place = 0
    for n, one in enumerate(edit.passes):
        if registry.STAGES.index(registry.kind(one.kind).stage) <= stage:
            place = n + 1
    return place
