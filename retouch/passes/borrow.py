"""Borrow: a part of a face from another picture of the person, laid in its place."""

from __future__ import annotations

import math

import cv2
import numpy as np

from retouch.borrowing.hairs import hairs_laid
from retouch.borrowing.joined import joined
from retouch.edit.model import Touch
from retouch.errors import EditError
from retouch.geometry import Rect
from retouch.passes.elsewhere import other_of
from retouch.passes.patch import outlined
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Reader, Touches, Values
from retouch.steps import smooth_step

# Surroundings that light is matched with, per depth of the place, and in pixels.
_AROUND, _LEAST_AROUND = 0.6, 12

_TOUCH = (
    Setting("opacity", "Strength", "How much of what is borrowed shows.", default=100.0, unit="%"),
    Setting("feather_px", "Soft edge", "Pixels over which it fades in, inside its outline.", low=0.0,
            high=300.0, default=6.0, step=0.5, unit="px"),
    Setting("across_px", "Across", "Moved to the right.", low=-2000.0, high=2000.0, default=0.0,
            step=0.5, unit="px"),
    Setting("down_px", "Down", "Moved down.", low=-2000.0, high=2000.0, default=0.0, step=0.5,
            unit="px"),
    Setting("turn", "Turned", "Turned around the middle of its outline, clockwise.", low=-180.0,
            high=180.0, default=0.0, step=0.1, unit="°"),
    Setting("size", "Size", "Enlarged or reduced.", low=50.0, high=200.0, default=100.0, step=0.5,
            unit="%"),
    Setting("light", "Light matched", "Tone and colour as those around the place.", type="switch",
            default=True),
    Setting("hairs", "Hairs alone", "Hairs over this place's own skin, in the colour of its own.",
            type="switch", default=False),
)  # fmt: skip


def _writes(touch: Touch, bounds: Rect) -> Rect:
    return outlined(touch.path, 0.0).bounds.clip(bounds)


def _reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    place = outlined(touch.path, 0.0)
    around = max(_LEAST_AROUND, math.ceil(_AROUND * place.radius))
    return [place.bounds.grow(around).clip(bounds)]


def _moved(other: Reader, touch: Touch, rect: Rect) -> Array:
    """The other picture over a rectangle, moved as the touch's values say."""
    v = touch.values
    across, down, turn, size = (float(v[k]) for k in ("across_px", "down_px", "turn", "size"))
    if not (across or down or turn) and size == 100:
        return other(rect)
    points = np.asarray(touch.path)
    x, y = (points.min(0) + points.max(0)) / 2
    # Where each pixel's content comes from: turned and sized back around the middle.
    k = cv2.getRotationMatrix2D((0.0, 0.0), turn, 100 / size)[:, :2]
    corners = np.array(
        [[rect.x0, rect.y0], [rect.x1, rect.y0], [rect.x0, rect.y1], [rect.x1, rect.y1]]
    )
    back = (corners - (x + across, y + down)) @ k.T + (x, y)
    low, high = np.floor(back.min(0)).astype(int) - 4, np.ceil(back.max(0)).astype(int) + 4
    wide = Rect(int(low[0]), int(low[1]), int(high[0]), int(high[1]))
    image = other(wide)
    xs, ys = np.meshgrid(np.arange(rect.x0, rect.x1) + 0.5, np.arange(rect.y0, rect.y1) + 0.5)
    dx, dy = xs - (x + across), ys - (y + down)
    u = (k[0, 0] * dx + k[0, 1] * dy + x - wide.x0 - 0.5).astype(np.float32)
    w = (k[1, 0] * dx + k[1, 1] * dy + y - wide.y0 - 0.5).astype(np.float32)
    taken = cv2.remap(image, u, w, cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(np.clip(taken, 0, 1), np.float32)


def _render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    if touch.elsewhere is None:
        raise EditError("This touch borrows, but no picture is named that it borrows from.")
    own, rect = _writes(touch, bounds), _reads(touch, settings, bounds)[0]
    if own.empty:
        return np.zeros((0, 0, 3), np.float32)
    area, place = read(rect), outlined(touch.path, 0.0)
    there = _moved(other_of(read), touch, rect)
    beyond = place.beyond(rect)
    opacity = np.float32(float(touch.values["opacity"]) / 100)
    feather = max(float(touch.values["feather_px"]), 1.0)
    cover = smooth_step(-beyond / np.float32(min(feather, place.radius))) * opacity
    if touch.values["hairs"]:
        there, share = hairs_laid(area, there, beyond <= 0, feather / 2)
        cover = cover * share
    elif touch.values["light"]:
        there = joined(area, there, beyond <= 0)
    change = (there - area) * cover[..., None]
    return np.ascontiguousarray(change[own.within(rect)], np.float32)


BORROW = register(
    PassKind(
        name="borrow",
        title="Borrow",
        meaning="Parts of a face from another picture: open eyes, a better smile.",
        stage="features",
        usual_name="Borrowed",
        zone_name="Borrowed",
        way=Touches(
            _TOUCH, _writes, _reads, _render, lambda t: outlined(t.path, 0.0), least_points=3
        ),
    )
)
