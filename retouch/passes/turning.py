"""Settings of touches whose source can be turned, resized and mirrored."""

from __future__ import annotations

from retouch.edit.model import Touch
from retouch.edit.values import Simple
from retouch.geometry import Rect
from retouch.heal import Footprint
from retouch.heal.turned import Turn, turned, turned_reads
from retouch.passes.elsewhere import other_of
from retouch.passes.settings import Setting
from retouch.passes.ways import Reader

SETTINGS = (
    Setting("source_turn", "Turned", "The source turned around its middle, clockwise.",
            low=-180.0, high=180.0, default=0.0, unit="°"),
    Setting("source_size", "Enlarged", "The source enlarged or reduced.", low=25.0, high=400.0,
            default=100.0, unit="%"),
    Setting("source_mirror", "Mirrored", "The source mirrored left to right.",
            type="switch", default=False),
)  # fmt: skip


def mirrored_values(degrees: float, size: float) -> dict[str, Simple]:
    """Values of a touch whose source is mirrored, turned and enlarged."""
    return {
        "source_turn": round(degrees, 1),
        "source_size": round(min(max(100 * size, 25), 400), 1),
        "source_mirror": True,
    }


def _turn(touch: Touch) -> Turn:
    values = touch.values
    return Turn(
        float(values.get("source_turn", 0.0)),
        float(values.get("source_size", 100.0)) / 100,
        bool(values.get("source_mirror", False)),
    )


def _middle(place: Footprint, source: tuple[int, int]) -> tuple[float, float]:
    xs, ys = [x for x, _ in place.points], [y for _, y in place.points]
    return (min(xs) + max(xs)) / 2 + source[0], (min(ys) + max(ys)) / 2 + source[1]


def source_reader(
    read: Reader, touch: Touch, place: Footprint, source: tuple[int, int], bounds: Rect
) -> Reader:
    """A reader of a touch's source as the touch's values turn it, from the picture that it lies in."""
    if touch.elsewhere is not None:
        read = other_of(read)
    return turned(read, _middle(place, source), _turn(touch), bounds)


def source_reads(
    rects: list[Rect], touch: Touch, place: Footprint, source: tuple[int, int], bounds: Rect
) -> list[Rect]:
    """All that a touch reads: ``rects`` as they are, and what its turned source covers."""
    turn = _turn(touch)
    if turn.nothing:
        return rects
    both = [*rects, *turned_reads(rects, _middle(place, source), turn)]
    return [r.clip(bounds) for r in both if r.meets(bounds)]
