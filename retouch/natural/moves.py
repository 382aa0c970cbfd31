"""Everything that was moved in a picture: by which pass, where, how far."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from retouch.edit.model import Edit
from retouch.face import landmarks as lm
from retouch.face.cover import FaceZones
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.passes.ways import Shape
from retouch.render import Renderer
from retouch.render.shaping import shaping
from retouch.shape.composed import Composed
from retouch.shape.proportions import PROPORTIONS
from retouch.warp.field import Field

# In this order: what is more is said first.
_WHERE = (("hair", "hair"), ("skin", "skin"), ("clothing", "clothing"))


@dataclass(frozen=True)
class Moved:
    """What one pass moved.

    Attributes
    ----------
    pass_id, name : str
    where : str
        Face, right or left side of it, hair, skin, clothing, background; "picture" without a face.
    what : tuple of str
        The numbers that were changed, in words; of strokes and parts how many.
    most_px, most_mm : float
        The largest shift; mm is None without a face.
    of_head : float or None
        The same as per cent of the face's height from the hairline's middle to the chin.
    """

    pass_id: str
    name: str
    where: str
    what: tuple[str, ...]
    most_px: float
    most_mm: float | None
    of_head: float | None


def everything_moved(renderer: Renderer, edit: Edit, zones: FaceZones | None) -> tuple[Moved, ...]:
    """What each pass of moves that is on does, in their order; those that move nothing are left out."""
    shape = renderer.plan(edit).shape
    by_name: dict[str, list[tuple[float, Field]]] = {}
    fields = list(shape.fields)
    for made in shape.made:
        if made.most > 0 and fields:
            by_name.setdefault(made.name, []).append((made.most, fields.pop(0)))
    out = []
    for one in shaping(edit):
        own = [f for n in (one.id, *(t.id for t in one.touches)) for f in by_name.get(n, [])]
        if not own:
            continue
        most, field = max(own, key=lambda f: f[0])
        at = _largest(field, shape)
        face = _nearest(zones, at)
        mm = tall = None
        if zones is not None and face is not None and zones.analysis is not None:
            person = zones.analysis.faces[face]
            mm, tall = most / person.scale.px_per_mm, 100 * most / person.height
        changed = [p for p in PROPORTIONS if one.settings.get(p.name)]
        # Kinds that move by other numbers tell them as they are called.
        others = tuple(
            f"{s.title} {float(one.settings[s.name]):+g} {s.unit}"  # type: ignore[arg-type]
            for s in registry.kind(one.kind).settings
            if s.unit and one.settings.get(s.name) and not changed
        )
        numbers = tuple(
            f"{p.part}: {f'{p.side} ' if p.side else ''}{p.title.lower()} {float(one.settings[p.name]):+g} {p.unit}"  # type: ignore[arg-type]
            for p in changed
        )
        count = len(one.touches)
        what = (
            numbers or others or ((f"{count} stroke{'' if count == 1 else 's'}",) if count else ())
        )
        sides = {p.side for p in changed}
        of_face = f"face, {changed[0].side} side" if len(sides) == 1 and sides != {""} else "face"
        way = registry.kind(one.kind).way
        said = way.where if isinstance(way, Shape) else ""
        where = said or (of_face if changed else _where(zones, face, at))
        out.append(Moved(one.id, one.title, where, what, most, mm, tall))
    return tuple(out)


def _largest(field: Field, shape: Composed) -> tuple[float, float]:
    """Where in the original a field shifts most."""
    size = np.hypot(field.shifts[..., 0], field.shifts[..., 1])
    n = int(size.argmax())
    x, y = shape.back(field.places.reshape(-1, 2)[n : n + 1])[0]
    return float(x), float(y)


def _nearest(zones: FaceZones | None, at: tuple[float, float]) -> int | None:
    if zones is None or zones.analysis is None or not zones.analysis.faces:
        return None
    middles = [f.points[list(lm.OVAL), :2].mean(0) for f in zones.analysis.faces]
    return int(np.argmin([np.hypot(*(m - at)) for m in middles]))


def _where(zones: FaceZones | None, face: int | None, at: tuple[float, float]) -> str:
    if zones is None or face is None or zones.analysis is None:
        return "picture"
    x, y = int(at[0]), int(at[1])
    rect = Rect(x - 2, y - 2, x + 3, y + 3).clip(zones.pyramid.picture.bounds)
    if rect.empty:
        return "background"
    person = zones.analysis.faces[face]
    covers = {
        title: float(zones.cover(zone, None, rect, (rect.height, rect.width)).mean())
        for zone, title in _WHERE
    }
    best = max(covers, key=lambda title: covers[title])
    if covers[best] < 0.5:
        return "background"
    oval = person.points[list(lm.OVAL), :2]
    low, high = oval.min(0), oval.max(0)
    if best != "skin" or not ((low <= at).all() and (at <= high).all()):
        return best
    # As the person has them: their right side is where the right iris is.
    right = np.hypot(at[0] - person.right_iris.x, at[1] - person.right_iris.y)
    left = np.hypot(at[0] - person.left_iris.x, at[1] - person.left_iris.y)
    if abs(right - left) < 0.25 * (right + left):
        return "face"
    return f"face, {'right' if right < left else 'left'} side"
