"""Where the tones of a portrait lie, for the tone strip."""

from __future__ import annotations

from dataclasses import dataclass

from retouch.edit import Edit
from retouch.natural.tones import Skin, Spread, overview, skins, spreads
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk


@dataclass(frozen=True)
class Tones:
    """Readings of the result, and of the skin as it was photographed."""

    spreads: list[Spread]
    skins: list[Skin]
    before: list[Skin]


def read(portrait: Portrait) -> Tones:
    """The readings; none of what hangs on faces while they aren't known."""
    one = desk.open_desk(portrait)
    analysis = analysing.result(portrait)
    if analysis is None:
        return Tones([], [], [])
    bounds = one.renderer.bounds
    after, _ = overview(one.renderer, one.edit)
    before, _ = overview(one.renderer, Edit())
    return Tones(
        spreads(after, analysis, bounds),
        skins(after, analysis, bounds),
        skins(before, analysis, bounds),
    )
