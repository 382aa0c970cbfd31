"""A first proposal for light and colour, subtle, from the picture's own statistics."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from retouch.edit import Edit, Fit, Pass
from retouch.edit.values import Value
from retouch.forms.form import completed
from retouch.natural.tones import Skin, overview, skins
from retouch.passes import registry
from retouch.work import neutral
from retouch.work.bench import Bench, Refused, inserted, place_for
from retouch.work.fitting import fitted

# The lightest tones (all but this part of the picture) are brought this near to white; by so many
# stops at most, half of what is missing (common practice, no source).
_LIGHTS, _NEAR_WHITE, _MOST_STOPS, _SUBTLE = 0.995, 0.93, 0.5, 0.5
# Lights that are lost, and darks that have closed up, as parts of the picture; and by how much they
# are held or opened at most.
_LOST, _HELD = 0.002, -30.0
_CLOSED, _DARK, _OPENED = 0.05, 0.06, 25.0
# Part of the way to neutral greys, and what is too little to be worth a pass.
_TO_NEUTRAL, _MOST_MIRED, _LEAST_MIRED = 0.5, 15.0, 1.5
_LEAST_STOPS = 0.05
# Nobody's typology angle moves further than this, degrees.
_MOST_ITA = 6.0

Settings = dict[str, dict[str, Value]]


def proposed(edit: Edit, bench: Bench) -> Settings:
    """Settings by kind of pass; what would hardly be seen is left out.

    They are halved until nobody's skin is in another class of the individual typology angle than in
    the picture as it is, or has moved far within it: light is for the picture, not for the skin.
    """
    bare = replace(edit, passes=tuple(p for p in edit.passes if p.kind not in _KINDS))
    image, _ = overview(bench.renderer, bare)
    wanted = _wanted(image) | _white(bare, bench)
    before = _skins(bench, bare)
    for _ in range(4):
        after = _skins(bench, _with(bare, bench, wanted))
        pairs = list(zip(before, after, strict=True))
        if all(a.kind == b.kind and abs(a.ita - b.ita) <= _MOST_ITA for a, b in pairs):
            return wanted
        wanted = _halved(wanted)
    return {}


_KINDS = ("light", "tone", "white_balance")


def _wanted(image: NDArray[np.float32]) -> Settings:
    luma = image @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    out: Settings = {}
    lights = float(np.quantile(luma, _LIGHTS))
    stops = _SUBTLE * 2.2 * float(np.log2(_NEAR_WHITE / max(lights, 0.05)))
    stops = float(np.clip(stops, -_MOST_STOPS, _MOST_STOPS))
    if abs(stops) >= _LEAST_STOPS:
        out["light"] = {"exposure_ev": round(stops, 2)}
    lost = float((image.max(-1) > 0.985).mean())
    closed = float((luma < _DARK).mean())
    tone: dict[str, Value] = {}
    if lost > _LOST:
        tone["peaks"] = round(max(_HELD, -10 - 400 * lost), 0)
    if closed > _CLOSED:
        tone["depths"] = round(min(_OPENED, 60 * closed), 0)
        tone["shade"] = round(min(_OPENED, 60 * closed) / 2, 0)
    if tone:
        out["tone"] = tone
    return out


def _white(edit: Edit, bench: Bench) -> Settings:
    kind = registry.kind("white_balance")
    one = Pass("w", kind.name, fit=fitted(kind, bench))
    own = float(one.fit.values["own_kelvin"])
    try:
        found = neutral.settings_for(neutral.of_greys(bench.renderer, edit), one)
    except Refused:
        return {}
    mired = 1e6 / float(found["temperature_k"]) - 1e6 / own  # type: ignore[arg-type]
    mired = float(np.clip(_TO_NEUTRAL * mired, -_MOST_MIRED, _MOST_MIRED))
    if abs(mired) < _LEAST_MIRED:
        return {}
    kelvin = round(1e6 / (1e6 / own + mired), 0)
    tint = float(np.clip(_TO_NEUTRAL * float(found["tint"]), -4, 4))  # type: ignore[arg-type]
    return {"white_balance": {"temperature_k": kelvin, "tint": round(tint, 1)}}


def _halved(settings: Settings) -> Settings:
    """Half as much of all of it."""
    out: Settings = {}
    for kind, own in settings.items():
        if kind == "white_balance":
            continue
        halved = {n: round(float(v) / 2, 2) for n, v in own.items()}  # type: ignore[arg-type]
        out[kind] = dict(halved)
    return out


def _with(edit: Edit, bench: Bench, settings: Settings) -> Edit:
    for n, (name, own) in enumerate(settings.items()):
        kind = registry.kind(name)
        fit: Fit = fitted(kind, bench)
        one = completed(Pass(f"proposed-{n}", kind.name, settings=own, fit=fit))
        edit = inserted(edit, place_for(edit, kind), one)
    return edit


def _skins(bench: Bench, edit: Edit) -> list[Skin]:
    if bench.analysis is None:
        return []
    image, _ = overview(bench.renderer, edit)
    return skins(image, bench.analysis, bench.renderer.bounds)
