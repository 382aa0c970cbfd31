"""Red eye: dabs on pupils that the flash made glow."""

from __future__ import annotations

from retouch.edit.model import Touch
from retouch.features import red_eye
from retouch.geometry import Rect
from retouch.passes.brush import footprint_of
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Reader, Touches, Values

# The brush's soft rim, as a part of its radius.
_SOFT = 0.15
_TOUCH = (
    Setting("radius_px", "Size", "Radius of the brush; a little larger than the pupil.", low=1.0,
            high=2000.0, default=20.0, step=0.5, unit="px"),
    Setting("amount", "Darker", "How much of the glow goes.", default=100.0, unit="%"),
)  # fmt: skip


def _writes(touch: Touch, bounds: Rect) -> Rect:
    return footprint_of(touch).bounds.clip(bounds)


def _reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    return [_writes(touch, bounds)]


def _render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    rect = _writes(touch, bounds)
    change = red_eye.darkened(read(rect), float(touch.values["amount"]) / 100)
    cover = footprint_of(touch).cover(rect, _SOFT)
    return change * cover[..., None]


RED_EYE = register(
    PassKind(
        name="red_eye",
        title="Red eye",
        meaning="Pupils that glow red from the flash made dark; the catchlight stays.",
        stage="features",
        usual_name="Red eyes",
        zone_name="Red eyes",
        way=Touches(_TOUCH, _writes, _reads, _render, footprint_of),
    )
)
