"""Which part of the picture a change of the edit can have changed."""

from __future__ import annotations

from retouch.edit.model import Edit, Pass
from retouch.geometry import EMPTY, Rect, union_all
from retouch.masks import extent
from retouch.passes import registry
from retouch.passes.ways import Guide
from retouch.render.chain import acting
from retouch.render.developing import development_of
from retouch.render.finishing import framed_passes
from retouch.render.framing import framing_of
from retouch.render.shaping import moves_of, shape_of, shaping
from retouch.shape.composed import composed


def changed_region(old: Edit, new: Edit, bounds: Rect, around: bool = True) -> Rect:
    """The smallest rectangle known to hold every pixel of the original that differs between two
    edits: all of it where they frame or develop it differently.

    Direct changes first, then in order every touch and pass that reads what has changed. Not
    ``around``: without what passes see of it that look around themselves.
    """
    if development_of(old) != development_of(new):
        return bounds
    if framing_of(old, bounds).warp.key != framing_of(new, bounds).warp.key:
        return bounds
    if framed_passes(old) != framed_passes(new):
        return bounds
    before, after = ({p.id: p for p in acting(edit)} for edit in (old, new))
    shared_old = [i for i in before if i in after]
    shared_new = [i for i in after if i in before]
    if shared_old != shared_new:
        return bounds
    dirty: list[Rect] = []
    rezoned = _guides(old) != _guides(new)
    for gone in before.keys() - after.keys():
        dirty.append(_extent(before[gone], bounds))
    for one in after.values():
        was = before.get(one.id)
        if was is one and not dirty and not (rezoned and one.mask.zones):
            continue
        own: list[Rect] = []
        if was is not None and _painted_on(was, one):
            own += _strokes(was, one, bounds, around)
            own += _touch_changes(was, one, dirty, bounds)
        elif (
            was is None
            or (was is not one and _head(was) != _head(one))
            or (rezoned and one.mask.zones)
        ):
            own.append(_extent(one, bounds))
            if was is not None:
                own.append(_extent(was, bounds))
        else:
            own += _touch_changes(was, one, dirty, bounds)
        kind = registry.kind(one.kind)
        reach = kind.reach(kind.values(one))
        if reach and around:
            # What changes below is seen as far as the pass looks; its own changes where they are.
            dirty = [r.grow(reach).clip(bounds) for r in dirty]
        dirty += own
    return union_all(dirty + _moved(old, new, bounds))


def _moved(old: Edit, new: Edit, bounds: Rect) -> list[Rect]:
    """Where the two edits move parts of the picture differently; pixels from there may be shown there."""
    was, now = moves_of(old), moves_of(new)
    masks = [[(p.id, p.mask.key, p.share) for p in shaping(e)] for e in (old, new)]
    if [m.key for m in was] == [m.key for m in now] and masks[0] == masks[1]:
        return []
    shared = 0
    if masks[0] == masks[1]:
        while shared < min(len(was), len(now)) and was[shared].key == now[shared].key:
            shared += 1
    kept = len(composed(now[:shared]).fields)
    fields = [f for e in (old, new) for f in shape_of(e).fields[kept:]]
    most = sum(f.most for e in (old, new) for f in shape_of(e).fields)
    return [f.rect.grow(int(most) + 1).clip(bounds) for f in fields]


def _guides(edit: Edit) -> list[Pass]:
    """What the user said about faces and zones."""
    ways = ((p, registry.kind(p.kind).way) for p in edit.passes if p.on)
    return [p for p, way in ways if isinstance(way, Guide) and way.rezones]


def _head(one: Pass) -> tuple[object, ...]:
    """All of a pass that decides its pixels, but its touches and the strokes of its mask."""
    values = registry.kind(one.kind).values(one)
    return one.kind, dict(values), one.mask.ground_key, one.share, one.blend


def _painted_on(was: Pass, one: Pass) -> bool:
    """Whether the pass's head differs in the strokes of its mask alone."""
    return was.mask.key != one.mask.key and _head(was) == _head(one)


def _strokes(was: Pass, one: Pass, bounds: Rect, around: bool) -> list[Rect]:
    """The places of mask strokes that only one of two passes has, within what the pass changes."""
    limits = _extent(one, bounds)
    old, new = was.mask.strokes, one.mask.strokes
    shared = 0
    while shared < min(len(old), len(new)) and old[shared] == new[shared]:
        shared += 1
    kind = registry.kind(one.kind)
    # What is cut by its mask looks at that as far as at the picture.
    reach = kind.reach if around else kind.margin
    looked = reach(kind.values(one)) if kind.cut else 0
    rects = [s.rect.grow(looked) for s in (*old[shared:], *new[shared:])]
    return [r.clip(limits) for r in rects if r.meets(limits)]


def _extent(one: Pass, bounds: Rect) -> Rect:
    declared = registry.kind(one.kind)
    within = extent(one.mask, bounds)
    if declared.guide:
        return EMPTY
    if declared.cut:
        return bounds
    kind = declared.touches
    if kind is None:
        return within
    return union_all(kind.writes(t, bounds) for t in one.touches).clip(within)


def _touch_changes(was: Pass, one: Pass, below: list[Rect], bounds: Rect) -> list[Rect]:
    """What the pass's touches write differently: changed ones, and later ones that read there.

    ``below`` is what has changed underneath; a touch only sees that and the touches before it.
    """
    kind = registry.kind(one.kind).touches
    if kind is None:
        return []
    old = {t.id: (n, t) for n, t in enumerate(was.touches)}
    kept = {t.id for t in one.touches}
    if [t.id for t in was.touches if t.id in kept] != [t.id for t in one.touches if t.id in old]:
        return [_extent(one, bounds), _extent(was, bounds)]
    removed = [(n, kind.writes(t, bounds)) for n, t in old.values() if t.id not in kept]
    out: list[Rect] = []
    for touch in one.touches:
        if touch.id in old:
            at, before = old[touch.id]
            while removed and removed[0][0] < at:
                out.append(removed.pop(0)[1])
            if touch is before or touch == before:
                if not below and not out:
                    continue
                reads = kind.reads(touch, registry.kind(one.kind).values(one), bounds)
                if any(r.meets(d) for r in reads for d in (*below, *out)):
                    out.append(kind.writes(touch, bounds))
                continue
            out.append(kind.writes(before, bounds))
        out.append(kind.writes(touch, bounds))
    return out + [rect for _, rect in removed]
