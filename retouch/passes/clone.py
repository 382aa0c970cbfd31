"""Clone: a plain copy from another place, for edges, patterns, hair and cloth."""

from __future__ import annotations

from functools import lru_cache

from retouch import heal
from retouch.edit.model import Touch
from retouch.errors import EditError
from retouch.geometry import Rect
from retouch.heal import Footprint
from retouch.heal import clone as cloning
from retouch.heal.copying import read_rects
from retouch.passes.registry import Array, Avoid, PassKind, Reader, TouchKind, Values, register
from retouch.passes.settings import Setting

TOUCH = (
    Setting("radius_px", "Size", "Radius of the brush.", low=0.5, high=2000.0, default=20.0,
            step=0.5, unit="px"),
    Setting("softness", "Softness", "Part of the radius over which the brush fades.",
            default=40.0, unit="%"),
    Setting("opacity", "Opacity", "The most that a stroke copies.", default=100.0, unit="%"),
    Setting("flow", "Flow", "How much each dab along the stroke lays down of what is missing.",
            low=1.0, default=100.0, unit="%"),
)  # fmt: skip


@lru_cache(maxsize=8192)
def _footprint(path: tuple[tuple[float, float], ...], radius: float) -> Footprint:
    return Footprint(path, radius)


def _of(touch: Touch) -> Footprint:
    return _footprint(touch.path, float(touch.values["radius_px"]))


def _source(touch: Touch) -> tuple[int, int]:
    if touch.source is None:
        raise EditError(f"Touch {touch.id!r} has no source yet.")
    return touch.source


def writes(touch: Touch, bounds: Rect) -> Rect:
    return _of(touch).bounds.clip(bounds)


def reads(touch: Touch, bounds: Rect) -> list[Rect]:
    return read_rects(_of(touch), _source(touch), bounds)


def render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    change = cloning(
        read,
        _of(touch),
        _source(touch),
        bounds,
        softness=float(touch.values["softness"]) / 100,
        flow=float(touch.values["flow"]) / 100,
    )
    return change * (float(touch.values["opacity"]) / 100)


def propose(
    read: Reader,
    touch: Touch,
    settings: Values,
    bounds: Rect,
    most: int,
    avoid: Avoid | None = None,
) -> list[tuple[int, int]]:
    found = heal.propose(read, _of(touch), bounds, most, avoid)
    return [(c.dx, c.dy) for c in found]


CLONE = register(
    PassKind(
        name="clone",
        title="Clone",
        meaning="Plain copies from another place, for edges, patterns, hair and cloth.",
        stage="clear",
        touches=TouchKind(TOUCH, writes, reads, render, propose),
    )
)
