"""Views of one band of detail, its levels stretched so that faint marks stand out."""

from __future__ import annotations

import math

import cv2
import numpy as np
import simplejpeg
from numpy.typing import NDArray

from retouch.bands import BANDS, PARTS, Sizes, band
from retouch.geometry import Rect
from retouch.picture import profile as profiles
from retouch.picture.model import to_integers
from retouch.render.renderer import Plan
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import desk

Array = NDArray[np.float32]

_MOST_PIXELS = 40_000_000
# A band is shown with this standard deviation (encoded values), as far as its own is not more …
_SPREAD = 0.13
# … and amplified this many times at most, so that an empty band doesn't show noise.
_MOST_GAIN = 40.0
_BROAD_GAIN = 1.6


def band_view(
    portrait: Portrait, name: str, sizes: Sizes, x: float, y: float, scale: float, width: int,
    height: int,
) -> bytes:  # fmt: skip
    """A band over a view's own pixels, as JPEG; grey is nothing.

    ``x``, ``y``, ``scale``, ``width``, ``height`` as a view has them (`viewing.ViewRequest`).
    """
    if name not in (*BANDS, *PARTS):
        raise Problem(404, "no_such_band", f"There is no band called {name!r}.")
    if not all(math.isfinite(n) for n in (x, y, scale)) or not 0 < scale <= 1:
        raise Problem(422, "not_valid", "A view's scale is above 0 and at most 1.")
    if width < 1 or height < 1 or width * height > _MOST_PIXELS:
        raise Problem(422, "not_valid", "A view has 1 to 40 million pixels.")
    one = desk.open_desk(portrait)
    plan = one.renderer.plan(one.edit)
    seen = stretched(_seen(plan, name, sizes, x, y, scale, width, height), name)
    pixels = profiles.to_srgb(to_integers(seen, 8), one.renderer.pyramid.picture.icc)
    return simplejpeg.encode_jpeg(
        np.ascontiguousarray(pixels, np.uint8), quality=92, colorsubsampling="444"
    )


def _seen(
    plan: Plan, name: str, sizes: Sizes, x: float, y: float, scale: float, width: int, height: int
) -> Array:
    """The band on the view's pixels, worked out on the level that the view needs."""
    pyramid = plan.renderer.pyramid
    level = min(max(0, math.floor(math.log2(1 / scale) + 1e-9)), pyramid.highest)
    size = 1 << level
    limits = plan.bounds.reduced(level)
    ratio = scale * size
    left, top = x / size, y / size
    rect = Rect(
        math.floor(left) - 2,
        math.floor(top) - 2,
        math.ceil(left + width / ratio) + 2,
        math.ceil(top + height / ratio) + 2,
    ).clip(limits)
    if rect.empty:
        return np.zeros((height, width, 3), np.float32)
    here = Sizes(sizes.px_per_mm / size, sizes.divide_mm)
    found = band(lambda r: plan.view(r, level), rect, limits, name, here)
    step = 1 / ratio
    matrix = np.array(
        [
            [step, 0, left - rect.x0 + 0.5 * step - 0.5],
            [0, step, top - rect.y0 + 0.5 * step - 0.5],
        ]
    )
    return cv2.warpAffine(
        np.ascontiguousarray(found, np.float32), matrix, (width, height),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE,
    )  # fmt: skip


def stretched(seen: Array, name: str) -> Array:
    """Values of a band as they are shown, 0..1.

    Broad parts are spread around their mean; others around the middle grey, as far as their
    typical (median) size asks.
    """
    if name in ("tone", "light"):
        middle = seen.mean((0, 1))
        return np.clip(middle + _BROAD_GAIN * (seen - middle), 0, 1)
    typical = 1.4826 * float(np.median(np.abs(seen)))
    gain = min(_SPREAD / max(typical, 1e-6), _MOST_GAIN)
    return np.clip(0.5 + gain * seen, 0, 1)
