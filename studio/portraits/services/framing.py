"""What the bench needs while the frame is worked on: how settings come out, and proposals."""

from __future__ import annotations

from collections.abc import Mapping

from retouch.edit import Pass
from retouch.edit.values import Value
from retouch.forms.form import completed
from retouch.geometry import Rect
from retouch.passes.frame import FRAME, wish
from retouch.warp import Framing, framed
from retouch.work import cropping, straightening
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk


def _bounds(portrait: Portrait) -> Rect:
    return Rect(0, 0, portrait.width, portrait.height)


def completed_settings(settings: Mapping[str, Value]) -> dict[str, Value]:
    """All settings of a frame, checked; what isn't given is as it comes."""
    return dict(completed(Pass("frame", FRAME.name, settings=settings)).settings)


def framing(portrait: Portrait, settings: Mapping[str, Value]) -> Framing:
    """The frame that settings give."""
    return framed(wish(completed_settings(settings)), _bounds(portrait))


def cuts(portrait: Portrait, settings: Mapping[str, Value], face: int) -> list[cropping.Proposal]:
    """Frames that suit a face; none while it isn't known."""
    analysis = analysing.result(portrait)
    if analysis is None:
        return []
    return cropping.proposals(analysis, completed_settings(settings), _bounds(portrait), face)


def level(portrait: Portrait, by: str, face: int) -> straightening.Levelling:
    """The angle that levels the picture by a face's eyes or by long lines; `Problem` if none does."""
    analysis = analysing.result(portrait)
    if by == "eyes":
        found = straightening.from_pupils(analysis, face) if analysis is not None else None
        if found is None:
            raise Problem(422, "no_face", "No face is known here whose eyes could be levelled.")
        return found
    found = straightening.from_lines(desk.renderer_of(portrait).pyramid, analysis)
    if found is None:
        raise Problem(
            422, "no_lines", "There are no long straight lines here that agree. Draw one instead."
        )
    return found
