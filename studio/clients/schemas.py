"""The forms of links, and of what clients see and send."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from studio.clients.services import links, visits
from studio.portraits.api.edit_schemas import Strict

_Title = Annotated[str, Field(max_length=120)]
_Phrase = Annotated[str, Field(max_length=visits.MOST_PHRASE)]
_Days = Annotated[int, Field(ge=1, le=links.MOST_DAYS)]
_Part = Annotated[float, Field(ge=0, le=1)]
_Id = Annotated[str, Field(max_length=32)]


class LinkIn(Strict):
    """Portraits to show, for how many days, and how: ``long_side`` in pixels; ``compare``: with the originals."""

    portraits: Annotated[list[_Id], Field(min_length=1, max_length=links.MOST_PORTRAITS)]
    title: _Title = ""
    days: _Days = 30
    phrase: _Phrase = ""
    compare: bool = True
    watermark: Annotated[str, Field(max_length=80)] = ""
    long_side: Annotated[int, Field(ge=links.LEAST_SIDE, le=links.MOST_SIDE)] = 2048


class ChangeLinkIn(Strict):
    """What isn't given stays; ``days`` count from now, an empty ``phrase`` asks for none."""

    title: Annotated[_Title, Field(min_length=1)] | None = None
    days: _Days | None = None
    phrase: _Phrase | None = None


class LinkOut(Schema):
    """A link with how often it was opened and what the client said. ``phrase``: whether one is asked for."""

    id: str
    title: str
    phrase: bool
    compare: bool
    watermark: str
    long_side: int
    created_at: datetime
    expires_at: datetime
    state: Literal["open", "expired", "withdrawn"]
    opened: int
    opened_at: datetime | None
    answered_at: datetime | None
    signed_by: str
    portraits: int
    ready: int
    failed: int
    fine: int
    change: int
    pins: int
    open_pins: int
    shows: list[str]


class NewLinkOut(Schema):
    """A link and its token, which is told only now: the address is ``/showing/`` and the token."""

    link: LinkOut
    token: str


class BenchPinOut(Schema):
    """A client's pin, in pixels of the original."""

    id: str
    kind: visits.Kind
    words: str
    x: float
    y: float
    link: str
    created_at: datetime
    fresh: bool
    done: bool
    heeded: bool


class DoneIn(Strict):
    """Whether a wish is fulfilled."""

    done: bool


class HeedIn(Strict):
    """The revision that the window stands at."""

    revision: Annotated[int, Field(ge=0)]


class HeededOut(Schema):
    """How many places were marked as kept; the portrait's revision then."""

    count: int
    revision: int


class WishesOut(Schema):
    """What clients said of a portrait: wishes not done, new ones, the last verdict, whether it is signed off."""

    portrait: str
    open: int
    fresh: int
    verdict: visits.Verdict
    signed: bool


class PinOut(Schema):
    """A pin as its client sees it; ``x`` and ``y`` as parts of the picture's width and height."""

    id: str
    kind: visits.Kind
    words: str
    x: float
    y: float
    done: bool


class ShownOut(Schema):
    """A picture; ``width`` and ``height`` are all the pixels there are of it."""

    number: int
    name: str
    state: Literal["waiting", "ready", "failed"]
    version: int
    width: int
    height: int
    verdict: visits.Verdict
    pins: list[PinOut]


class ShowingOut(Schema):
    """What a client sees. ``locked``: the pass phrase is asked for, and nothing else is told."""

    locked: bool
    title: str = ""
    by: str = ""
    expires_at: datetime | None = None
    compare: bool = False
    answered: bool = False
    signed_by: str = ""
    pictures: list[ShownOut] = []


class PhraseIn(Strict):
    """A pass phrase that a client gives."""

    phrase: _Phrase


class PinIn(Strict):
    """A pin to set; ``x`` and ``y`` as parts of the picture's width and height."""

    kind: visits.Kind
    words: Annotated[str, Field(max_length=visits.MOST_WORDS)] = ""
    x: _Part
    y: _Part


class VerdictIn(Strict):
    """What a client says of a picture; empty takes it back."""

    verdict: visits.Verdict


class AnswerIn(Strict):
    """With a name the pictures are signed off; without one wishes are sent."""

    name: Annotated[str, Field(max_length=visits.MOST_NAME)] = ""
