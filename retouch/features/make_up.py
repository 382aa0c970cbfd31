"""Make-up: colour laid in so that texture and light stay, and what is there made stronger or fainter."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.lab import shifted, to_lab
from retouch.features.toning import blur_reach, blurred, parts_of, tint_of, within
from retouch.steps import step_between

Array = NDArray[np.float32]

# Colour is laid over what is broader than this (mm, sigma); finer differences of colour stay.
_FORM_MM = 0.8
# Full amounts: lighter or darker (L*), and how much richer what is there becomes.
_MOST_LIGHT, _MOST_STRONGER, _MOST_RICHER = 18.0, 16.0, 0.9
# What L* lies above 116 times the cube root of Y / Yn (CIE 15:2018, 8.2.1).
_TOE = np.float32(16)
# So much lighter than the person's skin (L*) begins and surely is shine.
_SHINES = (3.0, 12.0)
# Where shadows, middle tones and lights lie beside the place's own middle (L*), and over how much they
# fade into each other.
_FROM_MIDDLE, _FADE = 4.0, 5.0
TONES = ("all", "shadows", "midtones", "lights")


@dataclass(frozen=True)
class MakeUp:
    """``amount`` 0..1 of a colour of ``hue`` (degrees) and ``chroma`` is laid in; ``light`` -1..1 makes
    lighter or darker; ``stronger`` -1..1 makes what is there stronger or fainter beside ``skin`` (CIELAB).

    ``tones``: on which tones of the place. ``even`` 0..1 takes so much of the difference of both sides
    away: ``differs`` is how the person's right side differs from the left (CIELAB). No place comes
    further from what it was than ``most`` (CIE 1976). A colour is laid in as it looks in the picture's
    light: beside ``neutral``, what is grey there (CIELAB).
    """

    amount: float
    hue: float
    chroma: float
    light: float
    stronger: float
    skin: tuple[float, float, float]
    tones: str = "all"
    even: float = 0.0
    differs: tuple[float, float, float] = (0.0, 0.0, 0.0)
    most: float = np.inf
    neutral: tuple[float, float, float] = (70.0, 0.0, 0.0)


def polar(a: float, b: float) -> tuple[float, float]:
    """Hue (0..360 degrees) and chroma of a colour's a* and b*."""
    return float(np.degrees(np.arctan2(b, a)) % 360), float(np.hypot(a, b))


def reach(px_per_mm: float) -> int:
    """Pixels around a place that `laid` looks at."""
    return blur_reach(_FORM_MM * px_per_mm)


def _toned(light: Array, form: Array, tones: str) -> Array | np.float32:
    """How much each place counts among the tones, beside its surroundings."""
    over = light - form
    if tones == "shadows":
        return 1 - step_between(over, -_FROM_MIDDLE, -_FROM_MIDDLE + _FADE)
    if tones == "lights":
        return step_between(over, _FROM_MIDDLE - _FADE, _FROM_MIDDLE)
    if tones == "midtones":
        return 1 - step_between(np.abs(over), _FROM_MIDDLE - _FADE / 2, _FROM_MIDDLE + _FADE / 2)
    return np.float32(1)


def laid(
    image: Working, look: MakeUp, px_per_mm: float, on_right: NDArray[np.bool_] | None = None
) -> Working:
    """Working values (h, w, 3) with make-up; the mask says where it lies.

    ``on_right`` (h, w) tells which places lie on the person's right side, for evening both.
    """
    before = to_lab(image)
    light, a, b = parts_of(before)
    sigma = _FORM_MM * px_per_mm
    form_l, form_a, form_b = (blurred(c, sigma) for c in (light, a, b))
    share = _toned(light, form_l, look.tones)
    if look.stronger:
        part = np.float32(look.stronger) * share
        # Darker than the skin and of another colour than it: that is what was put on.
        dark = step_between(np.float32(look.skin[0]) - light, 0.0, 16.0)
        light = light - np.float32(_MOST_STRONGER) * part * dark * step_between(light, 4.0, 24.0)
        # Where skin shines it is paler than itself: that is light, and would turn blue.
        laid_on = part * (1 - step_between(form_l - np.float32(look.skin[0]), *_SHINES))
        # Beside skin in this shade: in less of the same light a* and b* shrink as L* + 16 does (the
        # cube root of CIE 15:2018, 8.2.1).
        shade = np.clip((form_l + _TOE) / np.float32(look.skin[0] + _TOE), 0, 1)
        a = a + np.float32(_MOST_RICHER) * laid_on * (form_a - shade * np.float32(look.skin[1]))
        b = b + np.float32(_MOST_RICHER) * laid_on * (form_b - shade * np.float32(look.skin[2]))
    if look.even and on_right is not None:
        # Each side goes half of the way.
        way = np.where(on_right, np.float32(-0.5), np.float32(0.5)) * np.float32(look.even) * share
        light, a, b = (
            np.asarray(c + way * np.float32(d), np.float32)
            for c, d in zip((light, a, b), look.differs, strict=True)
        )
    if look.amount:
        part = np.float32(look.amount) * share
        # In the shade colours are less rich.
        rich = np.clip(form_l / np.float32(max(look.skin[0], 1.0)), 0.25, 1.15)
        angle, grey = np.radians(look.hue), tint_of(form_l, look.neutral)
        a = a + part * (grey[0] + rich * np.float32(look.chroma * np.cos(angle)) - form_a)
        b = b + part * (grey[1] + rich * np.float32(look.chroma * np.sin(angle)) - form_b)
    if look.light:
        lift = np.float32(look.light * _MOST_LIGHT) * share
        # Lights are lifted less the lighter they are, and darks darkened less the darker.
        room = (
            np.clip((100 - light) / 60, 0, 1) if look.light > 0 else step_between(light, 4.0, 40.0)
        )
        light = np.asarray(light + lift * room, np.float32)
    after = np.dstack([light, a, b])
    if np.isfinite(look.most):
        way = after - before
        far = np.sqrt((way * way).sum(-1, dtype=np.float32))
        held = within(far, np.float32(look.most)) / np.maximum(far, np.float32(1e-6))
        after = before + way * held[..., None]
    return shifted(image, before, after)
