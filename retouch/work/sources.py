"""Sources for touches, and passes that touches belong into, as the analysis of the faces tells."""

from __future__ import annotations

from dataclasses import replace

from retouch.edit import Edit, Pass, Touch
from retouch.face import ALL_SKIN, ZONES, Analysis
from retouch.face.mirror import mirrored_place
from retouch.guidance import avoidance
from retouch.passes import registry
from retouch.passes.turning import mirrored_values
from retouch.passes.ways import Shape, Touches
from retouch.render import propose_source
from retouch.work.bench import Bench, Refused
from retouch.work.marks import cleared_of

_TITLES = {z.name: z.title for z in ZONES}


def chosen(bench: Bench, edit: Edit, one: Pass, touch: Touch) -> list[tuple[int, int]]:
    """Sources for a touch on top of a pass, best first."""
    analysis, kind = bench.analysis, registry.kind(one.kind).touches
    avoid = None
    if analysis is not None and kind is not None:
        place = kind.place(touch)
        avoid = avoidance(analysis, touch, place, lambda marks: cleared_of(marks, edit))
    return propose_source(bench.renderer, edit, one.id, touch, avoid=avoid)


def sourced(
    bench: Bench, edit: Edit, one: Pass, touch: Touch, after: tuple[int, int] | None = None
) -> Touch:
    """The touch with a source: the best one, or that which follows ``after``."""
    kind = registry.kind(one.kind).touches
    if touch.source is not None or kind is None or kind.propose is None:
        return touch
    found = chosen(bench, edit, one, touch)
    if not found:
        raise Refused(
            "no_source",
            "There is no clean place near enough to take from. Choose a smaller place.",
        )
    at = found.index(after) + 1 if after in found else 0
    return replace(touch, source=found[at % len(found)])


def from_other_side(bench: Bench, touch: Touch) -> Touch:
    """The touch with the mirrored place of its face as source."""
    x, y = middle(touch)
    analysis, found = bench.analysis, None
    if analysis is not None:
        face, _ = analysis.zone_at(x, y)
        found = mirrored_place(analysis.faces[face], x, y) if face >= 0 else None
    if found is None:
        raise Refused(
            "no_other_side",
            "There is no other side for this place: it lies on no face, or in its middle.",
        )
    there_x, there_y, degrees, size = found
    values = {**touch.values, **mirrored_values(degrees, size)}
    return replace(touch, values=values, source=(round(there_x - x), round(there_y - y)))


def prepared(bench: Bench, kind: registry.PassKind, touch: Touch) -> Touch:
    """A new touch with what the face tells about it."""
    prepare = kind.way.prepare if isinstance(kind.way, Touches | Shape) else None
    if prepare is None or bench.analysis is None:
        return touch
    return prepare(bench.analysis, touch, bench.renderer.pyramid)


def middle(touch: Touch) -> tuple[float, float]:
    """The middle of a touch's extent."""
    xs, ys = [x for x, _ in touch.path], [y for _, y in touch.path]
    return (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2


def zone_title(analysis: Analysis | None, touch: Touch) -> str:
    """The zone that a touch lies in, in words; empty where no face is known."""
    if analysis is None or not analysis.faces:
        return ""
    face, zone = analysis.zone_at(*middle(touch))
    if zone == "brows" and face >= 0:
        return f"{_side(analysis, face, middle(touch)[0])} brow"
    return _TITLES[zone]


def _side(analysis: Analysis, face: int, x: float) -> str:
    """The person's own side that a place is on."""
    one = analysis.faces[face]
    nearer_right = abs(x - one.right_iris.x) < abs(x - one.left_iris.x)
    return "Right" if nearer_right else "Left"


def group_of(analysis: Analysis | None, touch: Touch) -> str:
    """What belongs into one pass: "skin" is one group, every other zone one of its own."""
    if analysis is None or not analysis.faces:
        return ""
    _, zone = analysis.zone_at(*middle(touch))
    return "skin" if zone in ALL_SKIN else zone_title(analysis, touch)
