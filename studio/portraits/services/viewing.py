"""Views: the pixels a window shows, dropped early when the window has asked for newer ones."""

from __future__ import annotations

import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, cast, get_args

import numpy as np
import simplejpeg
from numpy.typing import NDArray

from retouch.bands import BANDS, PARTS
from retouch.colour.lab import to_lab
from retouch.edit import Edit
from retouch.errors import Cancelled
from retouch.geometry import Rect
from retouch.passes.colour import hue_of
from retouch.picture import proof
from retouch.render import Renderer, changed_region, shows
from retouch.render.framing import grid_for
from retouch.render.grid import check_view
from retouch.warp import Warp
from retouch.work.operations import ChangePass, Operation, SetMask
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import desk, gestures, profiles, takes
from studio.portraits.services.ahead import Ahead, part_of
from studio.portraits.services.view_request import ViewRequest

_MOST_WINDOWS = 256
# A changed part is large from this part of the view on: 1 / this.
_LARGE_PART = 20
# An answer waits so long for up to so many pixels: asking for them would take the window longer.
# Large parts are better asked for, as they are no text.
_WAIT_S, _MOST_IN_ANSWER = 0.25, 120_000
# What is shown before passes above have looked is no larger than this; so many portraits are known of.
_MOST_NEARLY, _MOST_STOOD = 800_000, 16
# So long nobody asks for a view before one is guessed.
_CALM_S = 0.8
# Operations of sliders on their way.
_SLIDING = (ChangePass, SetMask)


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
_ahead = Ahead()


def checked(portrait: Portrait, request: ViewRequest) -> ViewRequest:
    """The request, if it can be met; else `ViewError`."""
    frame = desk.warp_of(portrait).frame
    check_view(request.x, request.y, request.scale, request.width, request.height, frame)
    return request


def view(
    portrait: Portrait,
    request: ViewRequest,
    draft: list[Operation] | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> bytes:
    """JPEG bytes of a view.

    ``draft`` holds operations that aren't saved yet, such as a slider on its way.
    """
    with calm.stirred():
        return _viewed(portrait, request, draft, cancelled)


def _viewed(
    portrait: Portrait,
    request: ViewRequest,
    draft: list[Operation] | None,
    cancelled: Callable[[], bool],
) -> bytes:
    one = desk.open_desk(portrait)
    edit = one.edit
    if draft is None and request.show == "result":
        made = _ahead.take(portrait.id, edit, request)
        if made is not None:
            _stood.note(portrait.id, edit, request)
            return made
    _ahead.hurry()
    # While settings or masks move, touches above them keep what they change now.
    standing = edit if draft and all(isinstance(o, _SLIDING) for o in draft) else None
    for operation in draft or []:
        edit = gestures.preview(portrait, one.renderer, edit, operation)
    renderer = desk.renderer_of(portrait, edit)
    try:
        pixels = _shown(portrait, renderer, edit, request, cancelled, standing)
    except Cancelled:
        raise Problem(499, "overtaken", "A newer view was asked for.") from None
    if request.show == "result" and not (draft or request.moving or request.unframed):
        _stood.note(portrait.id, edit, request)
    return _encoded(pixels, request.moving)


def guess(portrait: Portrait, request: ViewRequest) -> None:
    """Begin to make a view that a window may ask for next, while nobody asks for any; what is asked for then ends it."""
    checked(portrait, request)
    if not calm.now:
        return
    one = desk.open_desk(portrait)
    plan = one.renderer.plan(one.edit)
    place = (request.x, request.y, request.scale, request.width, request.height)
    grid = shows.grid_of(plan, *place)

    def make(overtaken: Callable[[], bool]) -> bytes:
        return _encoded(shows.seen(plan, grid, overtaken), False)

    _ahead.start(portrait.id, one.edit, request, make, guess=True)


class Calm:
    """Whether views are made, or were a moment ago, for whomever: then the processors are needed."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._making, self._at = 0, -_CALM_S

    @contextmanager
    def stirred(self) -> Iterator[None]:
        """While a view is made."""
        with self._lock:
            self._making += 1
        try:
            yield
        finally:
            with self._lock:
                self._making, self._at = self._making - 1, time.monotonic()

    @property
    def now(self) -> bool:
        """Whether none is."""
        return not self._making and time.monotonic() - self._at >= _CALM_S


calm = Calm()


def faces_of(portrait: Portrait) -> str:
    """The name of the analysis that views of the portrait hang on; empty: of none."""
    return desk.edit_of(portrait).analysis


@dataclass(frozen=True)
class Seen:
    """A part of a view as JPEG. ``nearly``: passes above what changed don't know of it yet; it is to be asked
    for again."""

    part: ViewRequest
    jpeg: bytes
    nearly: bool = False


class LookAhead:
    """What a window will see of a gesture: begun when the new edit is known, before it is saved.

    Called with the edit before, the new one and the region that differs.
    """

    def __init__(self, portrait: Portrait, request: ViewRequest) -> None:
        _ahead.hurry()
        self.portrait = portrait
        self.request = checked(portrait, request)
        self._edit: Edit | None = None
        self._part: ViewRequest | None = None
        self._nearly: Seen | None = None
        self._begin: Callable[[], None] | None = None

    def __call__(self, before: Edit, edit: Edit, dirty: Rect) -> None:
        self._edit = edit
        warp = desk.warp_of(self.portrait, edit)
        self._part = part = part_of(self.request, warp.covers(dirty))
        if part is None:
            return
        renderer = desk.renderer_of(self.portrait, edit)
        if part.width * part.height > _MOST_IN_ANSWER:
            # Passes above look far around: what the hand did is shown before they have.
            direct = changed_region(before, edit, renderer.bounds, around=False)
            own = part_of(self.request, warp.covers(direct))
            self._nearly = _nearly(self.portrait, renderer, edit, own)
        plan = renderer.plan(edit)
        grid, whole = (
            shows.grid_of(plan, r.x, r.y, r.scale, r.width, r.height) for r in (part, self.request)
        )
        # A small touch changes again and again elsewhere; for it the whole isn't worth the time.
        large = _LARGE_PART * part.width * part.height >= self.request.width * self.request.height

        def make(overtaken: Callable[[], bool]) -> bytes:
            pixels = shows.seen(plan, grid, overtaken, around=whole if large else None)
            _stood.note(self.portrait.id, edit, part)
            return _encoded(pixels, False)

        def begin() -> None:
            _ahead.start(self.portrait.id, edit, part, make)

        if self._nearly is None:
            begin()
        else:
            # Its answer is ready: what takes longer doesn't hold that up.
            self._begin = begin

    def picture(self) -> Seen | None:
        """The part that has changed, if it is done soon: else the window asks for it."""
        if self._begin is not None:
            self._begin()
            return self._nearly
        if self._part is None or self._edit is None:
            return None
        if self._part.width * self._part.height > _MOST_IN_ANSWER:
            return None
        made = _ahead.ready(self.portrait.id, self._edit, self._part, _WAIT_S)
        return None if made is None else Seen(self._part, made)


class _Stood:
    """The last edit of each portrait whose view was computed, and that view: what passes above a change add
    is known from it."""

    def __init__(self) -> None:
        self._last: OrderedDict[str, tuple[Edit, ViewRequest]] = OrderedDict()
        self._lock = threading.Lock()

    def note(self, portrait: str, edit: Edit, request: ViewRequest) -> None:
        with self._lock:
            self._last[portrait] = edit, request
            self._last.move_to_end(portrait)
            while len(self._last) > _MOST_STOOD:
                self._last.popitem(last=False)

    def of(self, portrait: str) -> tuple[Edit, ViewRequest] | None:
        with self._lock:
            return self._last.get(portrait)


_stood = _Stood()


def _nearly(
    portrait: Portrait, renderer: Renderer, edit: Edit, own: ViewRequest | None
) -> Seen | None:
    """What the hand itself changed, before the passes above it have looked; None where that takes as long."""
    known = _stood.of(portrait.id)
    if known is None or own is None or own.width * own.height > _MOST_NEARLY:
        return None
    standing, whole = known
    if whole.scale != own.scale:
        return None
    plan = renderer.preview(edit, standing)
    part, known_part = (
        shows.grid_of(plan, r.x, r.y, r.scale, r.width, r.height) for r in (own, whole)
    )
    pixels = shows.foreseen(plan, part, known_part)
    return None if pixels is None else Seen(own, _encoded(pixels, False), nearly=True)


def _encoded(pixels: NDArray[np.uint8], moving: bool) -> bytes:
    # Halved colour while something moves, full colour at rest (measured: see docs/benchmarks.md).
    return simplejpeg.encode_jpeg(
        pixels,
        quality=88 if moving else 95,
        colorspace="RGB",
        colorsubsampling="420" if moving else "444",
    )


def _shown(
    portrait: Portrait,
    renderer: Renderer,
    edit: Edit,
    request: ViewRequest,
    cancelled: Callable[[], bool],
    standing: Edit | None,
) -> NDArray[np.uint8]:
    show, of = request.show, request.of
    one = next((p for p in edit.passes if p.id == of), None)
    if one is None and show in ("mask", "tint", "effect"):
        raise Problem(404, "no_such_pass", "This pass is gone; somebody deleted it.")
    plan = renderer.plan(edit, standing)
    place = (request.x, request.y, request.scale, request.width, request.height)
    # Whatever is compared is seen in the frame of the present edit, or it wouldn't lie on it.
    if request.unframed:
        whole = Warp(plan.bounds, plan.bounds.width, plan.bounds.height)
        grid = grid_for(whole, *place, renderer.pyramid.highest)
    else:
        grid = shows.grid_of(plan, *place)
    if show == "take":
        edit = takes.edit_of(portrait, of)
    elif show == "step":
        edit = gestures.edit_at(portrait, int(of) if of.isdecimal() else -1)
    if show in ("take", "step"):
        renderer = desk.renderer_of(portrait, edit)
        plan = renderer.plan(edit)

    def of_edit(other: Edit) -> NDArray[np.uint8]:
        shown = plan if other is edit else renderer.plan(other)
        return shows.seen(shown, grid, cancelled, quick=request.moving)

    if show == "original":
        return of_edit(Edit())
    if show in ("without", "effect"):
        without = of_edit(Edit(tuple(p for p in edit.passes if p.id != of)))
        return without if show == "without" else shows.effect_view(of_edit(edit), without)
    if show in ("mask", "tint"):
        assert one is not None
        if show == "mask":
            return shows.mask_view(plan, grid, one)
        return shows.tint_view(plan, grid, one, cancelled)
    if show == "band":
        if of not in (*BANDS, *PARTS):
            raise Problem(404, "no_such_band", f"There is no band called {of!r}.")
        return shows.band_view(plan, grid, of, request.sizes, cancelled)
    if show == "clipped":
        return shows.clipped_view(of_edit(edit))
    if show in ("proof", "gamut"):
        to, paper = printed_by(portrait.owner, of)
        seen = of_edit(edit)
        return (
            proof.as_printed(seen, to, paper)
            if show == "proof"
            else shows.gamut_view(seen, proof.beyond(seen, to))
        )
    if show == "boosted":
        return shows.boosted_view(of_edit(edit))
    if show == "change":
        return shows.change_view(of_edit(Edit()), of_edit(edit))
    return of_edit(edit)


def printed_by(user: Any, of: str) -> tuple[proof.Conversion, bool]:
    """How a view is proofed: ``profile,intent,black point,paper``, the latter two 0 or 1."""
    parts = of.split(",")
    if len(parts) != 4 or parts[1] not in get_args(proof.Intent):
        raise Problem(422, "no_such_proof", "Say the profile, the intent, black point and paper.")
    icc = profiles.icc_of(user, parts[0])
    intent = cast(proof.Intent, parts[1])
    return proof.Conversion(icc, intent, parts[2] == "1"), parts[3] == "1"


@dataclass(frozen=True)
class Sample:
    """A colour: CIELAB, and its OKLab hue in degrees, as picked colours count it."""

    lab: list[float]
    hue: float


def sample(portrait: Portrait, x: float, y: float, seen: bool = False) -> Sample:
    """The mean of five by five pixels around a place of the original, or of the result ``seen``."""
    renderer = desk.renderer_of(portrait)
    pyramid, bounds = renderer.pyramid, renderer.bounds
    # Not a number fails every comparison.
    if not (0 <= x < bounds.width and 0 <= y < bounds.height):
        raise Problem(422, "outside", "This place lies outside of the picture.")
    spot = Rect(int(x) - 2, int(y) - 2, int(x) + 3, int(y) + 3).clip(bounds)
    pixels = renderer.render(desk.edit_of(portrait), spot) if seen else pyramid.crop(spot, 0)
    lab = to_lab(pixels).reshape(-1, 3).mean(0)
    r, g, b = (float(v) for v in np.clip(pixels.reshape(-1, 3).mean(0), 0, 1))
    return Sample([round(float(v), 2) for v in lab], round(hue_of((r, g, b)), 1))
