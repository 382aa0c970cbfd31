"""Views: the pixels a window shows, dropped early when the window has asked for newer ones."""

from __future__ import annotations

import math
import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

import simplejpeg

from retouch.edit import Edit
from retouch.errors import Cancelled
from retouch.render import render_view
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import desk, gestures

# A view is a screen's worth of pixels; this allows an 8K screen.
MOST_PIXELS = 40_000_000
_MOST_WINDOWS = 256


@dataclass(frozen=True)
class ViewRequest:
    """What to show: ``x``, ``y`` corner in pixels of the original, ``scale`` screen pixels per
    original pixel (at most 1), ``width`` x ``height`` screen pixels.

    ``show``: ``result``, ``original``, or ``without`` the pass ``without_pass``.
    """

    x: float
    y: float
    scale: float
    width: int
    height: int
    show: Literal["result", "original", "without"] = "result"
    without_pass: str | None = None
    moving: bool = False


class Newest:
    """Remembers the newest request of each window, so that older ones can stop."""

    def __init__(self) -> None:
        self._numbers: OrderedDict[str, int] = OrderedDict()
        self._lock = threading.Lock()

    def arrive(self, window: str | None, number: int) -> Callable[[], bool]:
        """Note a request; the answer tells whether it has been overtaken."""
        if window is None:
            return lambda: False
        with self._lock:
            self._numbers[window] = max(number, self._numbers.get(window, 0))
            self._numbers.move_to_end(window)
            while len(self._numbers) > _MOST_WINDOWS:
                self._numbers.popitem(last=False)
        return lambda: self._numbers.get(window, 0) > number


newest = Newest()


def view(
    portrait: Portrait,
    request: ViewRequest,
    draft: list[dict[str, Any]] | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> bytes:
    """JPEG bytes of a view.

    ``draft`` holds operations that aren't saved yet, such as a slider on its way.
    """
    numbers = (request.x, request.y, request.scale)
    if not all(math.isfinite(n) for n in numbers) or not 0 < request.scale <= 1:
        raise Problem(422, "not_valid", "A view's scale is above 0 and at most 1.")
    if request.width < 1 or request.height < 1 or request.width * request.height > MOST_PIXELS:
        raise Problem(422, "not_valid", "A view has 1 to 40 million pixels.")
    one = desk.open_desk(portrait)
    edit = one.edit
    if request.show == "original":
        edit = Edit()
    else:
        for operation in draft or []:
            edit = gestures.preview(portrait, one.renderer, edit, operation)
        if request.show == "without":
            edit = Edit(tuple(p for p in edit.passes if p.id != request.without_pass))
    try:
        pixels = render_view(
            one.renderer.plan(edit),
            request.x,
            request.y,
            request.scale,
            request.width,
            request.height,
            cancelled,
        )
    except Cancelled:
        raise Problem(499, "overtaken", "A newer view was asked for.") from None
    # Halved colour while something moves, full colour at rest (measured: see docs/benchmarks.md).
    return simplejpeg.encode_jpeg(
        pixels,
        quality=88 if request.moving else 95,
        colorspace="RGB",
        colorsubsampling="420" if request.moving else "444",
    )
