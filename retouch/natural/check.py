"""The natural check: readings of a result against its original, each with a limit and where it comes from."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from retouch.edit.model import Edit
from retouch.face.analysis import Analysis
from retouch.features.teeth import whiteness
from retouch.natural import edges, features, grain, seams, shades
from retouch.natural.finding import PRACTICE, Finding
from retouch.natural.known import Known
from retouch.natural.pairs import LEAST_SCALE, Array, Pair, Result, pair_of
from retouch.processors import at_once
from retouch.render import Renderer
from retouch.zone_names import ALL_SKIN, SKIN_OF_FACE, ZONES

# Rounding, and what no eye sees (CIEDE2000 below 1; M. R. Luo, G. Cui, B. Rigg, Color Research and
# Application 26, 2001; from memory).
_UNSEEN = 1.0
_TITLES = {z.name: z.title for z in ZONES}
# So many healed places say something together.
_ENOUGH_HEALED = 4
# Pixels to the millimetre that readings of colour, light and edges need.
_COARSE = 2.0


def of_run(
    renderer: Renderer, edit: Edit, analysis: Analysis, result: Result | None = None
) -> tuple[Finding, ...]:
    """Readings of all faces that need no grain to be seen: colour, features, light, edges; for many portraits.

    ``result`` as in `pair_of`.
    """
    out: list[Finding] = []
    for n in range(len(analysis.faces)):
        pair = pair_of(renderer, edit, analysis, n, _COARSE, result)
        for part in _PARTS:
            out += part.make(pair) if part.fineness <= _COARSE else ()
    return tuple(out)


def of_codes_of(renderer: Renderer, edit: Edit) -> tuple[Finding, ...]:
    """Readings of the whole picture as a file."""
    level = min(1, renderer.pyramid.highest)
    before, after = (
        renderer.plan(e).view(renderer.bounds.reduced(level), level) for e in (Edit(), edit)
    )
    return tuple(of_codes(before, after))


def fineness_of(name: str) -> float:
    """Pixels to the millimetre that a reading of a face needs: colour and light far fewer than grain."""
    return next((part.fineness for part in _PARTS if name in part.names), _COARSE)


def one_of(pair: Pair, name: str) -> tuple[Finding, ...]:
    """Readings of a face among which the named one is, and no more than need be."""
    part = next((part for part in _PARTS if name in part.names), None)
    return () if part is None else tuple(part.make(pair))


def of_codes(before: Array, after: Array) -> Iterator[Finding]:
    """Readings of the picture as a file."""
    yield Finding(
        "clipped", "Clipped", "The part of the picture where a channel came to an end of its range. " + PRACTICE,
        "", edges.clipped(before, after), 0.3, "%",
    )  # fmt: skip
    yield Finding(
        "banded", "Banded", "The part of the picture that came to lie in steps. " + PRACTICE,
        "", edges.banded(before, after), 3.0, "%",
    )  # fmt: skip


def of_pair(pair: Pair, known: Known | None = None) -> Iterator[Finding]:
    """Readings of one face; with ``known`` only those are worked out whose pixels changed."""

    def read(part: _Part) -> tuple[Finding, ...]:
        if known is None:
            return tuple(part.make(pair))
        return known.of(pair, part.names[0], part.zones, part.make)

    for found in at_once(read, _PARTS):
        yield from found


def _edges(pair: Pair) -> Iterator[Finding]:
    found = edges.halo(pair)
    if found is not None:
        yield Finding(
            "halo", "Halo", "A line of light along hair, head or clothing that wasn't there. " + PRACTICE,
            "", found[0], 3.0, "L*", face=pair.face, place=pair.box_of(found[1]),
        )  # fmt: skip
    value, where = seams.seams(pair)
    yield Finding(
        "seams", "Edges that weren't there", "How long the longest edge is that a mask or a brush left on skin or behind the head. " + PRACTICE,
        "", value, 8.0, "mm", face=pair.face, place=pair.box_of(where),
    )  # fmt: skip


def _grain(pair: Pair) -> Iterator[Finding]:
    meaning = "The amplitude of pores and fine hairs, per cent of the original's. " + PRACTICE
    for zone in SKIN_OF_FACE:
        where = pair.inside(zone)
        value = grain.left(pair, where)
        if value is None:
            continue
        place = pair.box_of(where)
        yield Finding(
            "texture", "Texture left", meaning, zone, value, 70.0, "%", "least", pair.face, place,
            _TITLES[zone],
        )  # fmt: skip
        more = Finding(
            "texture_more", "Texture", meaning, zone, value, 145.0, "%", "most", pair.face, place,
            _TITLES[zone],
        )  # fmt: skip
        # A zone has one line, unless it is too much.
        if more.amber:
            yield more
    value, where = grain.gone(pair)
    yield Finding(
        "grain_gone", "Without grain", "The part of the face's skin that lost half of its grain or more. " + PRACTICE,
        "", value, 4.0, "%", face=pair.face, place=pair.box_of(where),
    )  # fmt: skip
    value, where = grain.repeats(pair)
    yield Finding(
        "repeats", "Repeats", "The part of the face's skin that looks like a place beside it; healing copies a little. " + PRACTICE,
        "", value, 1.0, "%", face=pair.face, place=pair.box_of(where),
    )  # fmt: skip
    count, value, where = grain.healed(pair)
    if count >= _ENOUGH_HEALED:
        rough = value > 100
        yield Finding(
            "healed", "Grain of healed places", "The median of their grain, per cent of that beside them; the worst one is shown. " + PRACTICE,
            "", value, 150.0 if rough else 70.0, "%", "most" if rough else "least", pair.face, pair.box_of(where), f"{count} places",
        )  # fmt: skip


def _colour(pair: Pair) -> Iterator[Finding]:
    place = pair.box_of(pair.skin)
    value = shades.shift(pair)
    if value is not None:
        yield Finding(
            "shift", "Colour shift", "CIEDE2000 between the skin's medians; below 1 isn't seen. " + PRACTICE,
            "", value, 4.0, "ΔE00", face=pair.face, place=place,
        )  # fmt: skip
    both = shades.classes(pair)
    if both is not None:
        was, now = both
        moved = abs(now.ita - was.ita)
        changed = was.kind != now.kind and (value or 0) > _UNSEEN
        yield Finding(
            "ita", "Skin's class", "The individual typology angle (Chardon and others, 1991); a change of class is always told.",
            "", moved, -1.0 if changed else 12.0, "°", face=pair.face, place=place,
            words=f"{was.kind} before, {now.kind} now" if changed else was.kind,
        )  # fmt: skip
    value = shades.greyness(pair)
    if value is not None:
        yield Finding(
            "grey", "Colour left", "Chroma of the face's skin, per cent of before. " + PRACTICE,
            "", value, 80.0, "%", "least", pair.face, place,
        )  # fmt: skip
    for zone, value in shades.apart(pair):
        yield Finding(
            "apart", "Face and other skin", "By how much more the face differs from the skin beside it, CIEDE2000. " + PRACTICE,
            zone, value, 2.5, "ΔE00", face=pair.face, place=place, words=_TITLES[zone],
        )  # fmt: skip


def _features(pair: Pair) -> Iterator[Finding]:
    eyes = pair.inside("eye_whites")
    if int(eyes.sum()) >= 60:
        was, now = (float(np.quantile(lab[..., 0][eyes], 0.9)) for lab in pair.labs)
        chroma = [float(np.median(np.hypot(lab[..., 1], lab[..., 2])[eyes])) for lab in pair.labs]
        if now > was + 0.5:
            yield Finding(
                "whites", "Eye whites", "Lightness of the lightest tenth, L*; lighter than the ceiling looks lit from inside. " + PRACTICE,
                "eye_whites", max(now, 0.0), max(86.0, was + 0.5), "L*", face=pair.face, place=pair.box_of(eyes),
            )  # fmt: skip
            yield Finding(
                "whites_lifted", "Eye whites lifted", "By how much they got lighter, L*. " + PRACTICE,
                "eye_whites", now - was, 9.0, "L*", face=pair.face, place=pair.box_of(eyes),
                words=f"chroma {chroma[0]:.0f} before, {chroma[1]:.0f} now",
            )  # fmt: skip
    for name, title, meaning, value, limit, unit, where in features.irises(pair):
        yield Finding(
            name, title, f"{meaning} {PRACTICE}", "irises", value, limit, unit, face=pair.face, place=pair.box_of(where)
        )  # fmt: skip
    found = features.sides(pair)
    if found is not None:
        yield Finding(
            "sides", "Left and right", "By how much further apart in lightness both sides of a feature are than before, L*. " + PRACTICE,
            "", found[0], 4.0, "L*", face=pair.face, place=pair.box_of(found[2]), words=found[1],
        )  # fmt: skip
    teeth = pair.inside("teeth")
    if int(teeth.sum()) >= 60:
        was, now = (float(np.median(whiteness(lab[teeth]))) for lab in pair.labs)
        if now > was + 0.5:
            yield Finding(
                "teeth", "Teeth whitened", "The dental whiteness index WI_D (Pérez and others, 2016), more than before; 2.62 is still accepted as the same (2019), four times that is a clear bleaching. " + PRACTICE,
                "teeth", now - was, 12.0, "WI_D", face=pair.face, place=pair.box_of(teeth),
            )  # fmt: skip


def _light(pair: Pair) -> Iterator[Finding]:
    place = pair.box_of(pair.skin)
    value = shades.form(pair)
    if value is not None:
        yield Finding(
            "form", "Form left", "The broad range of light over the face, per cent of before. " + PRACTICE,
            "", value, 72.0, "%", "least", pair.face, place,
        )  # fmt: skip
    found = shades.under_eyes(pair)
    if found is not None:
        yield Finding(
            "under_eyes", "Under the eyes", "How much lighter than the cheek the place under an eye became, L*. " + PRACTICE,
            "", found[0], 3.0, "L*", face=pair.face, place=pair.box_of(found[1]),
        )  # fmt: skip
    value = shades.shine(pair)
    if value is not None:
        yield Finding(
            "shine", "Shine left", "Small light on the face's skin, per cent of before; skin without any looks powdered. " + PRACTICE,
            "", value, 45.0, "%", "least", pair.face, place,
        )  # fmt: skip


@dataclass(frozen=True)
class _Part:
    """Readings that come together: what makes them, their names, the zones that they look at (none: the whole
    face), and the pixels to the millimetre that they need.
    """

    make: Callable[[Pair], Iterator[Finding]]
    names: tuple[str, ...]
    zones: tuple[str, ...]
    fineness: float = _COARSE


_PARTS = (
    _Part(_grain, ("texture", "texture_more", "grain_gone", "repeats", "healed"), SKIN_OF_FACE, LEAST_SCALE),
    _Part(_colour, ("shift", "ita", "grey", "apart"), ALL_SKIN),
    _Part(_features, ("whites", "whites_lifted", "irises", "irises_richer", "sides", "teeth"), ("eye_whites", "irises", "brows", "teeth")),
    _Part(_light, ("form", "under_eyes", "shine"), SKIN_OF_FACE),
    _Part(_edges, ("halo", "seams"), ()),
)  # fmt: skip
