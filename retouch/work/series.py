"""One look over a session: a person's skin brought to the colour that it has on another picture."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
import scipy
from numpy.typing import NDArray

from retouch.colour.curve import looked_up
from retouch.colour.difference import ciede2000
from retouch.colour.lab import to_lab
from retouch.edit import Edit, Pass
from retouch.face import Analysis
from retouch.face.people import alike, form_of
from retouch.geometry import Rect
from retouch.natural.tones import overview
from retouch.passes import registry
from retouch.passes.ways import Curve, Pixels, Place
from retouch.render import Renderer
from retouch.work.bench import Bench, Other, Refused, bench_for
from retouch.zone_names import SKIN_OF_FACE

Colour = NDArray[np.float32]

_SURE, _LEAST = 0.8, 200
# Settings stay within what light in a session does; degrees are turned over by their logarithm.
_MOST_EV, _MOST_TINT, _KELVIN = 4.0, 45.0, (2200.0, 24_000.0)
# Where white balance hardly tells from exposure, it stays rather where it is: weights of a stop's share in L*, of a
# step of tint, of a doubled temperature.
_STAY = 0.02


@dataclass(frozen=True)
class Match:
    """Which face here and there is the same person's, and the colours (encoded RGB) of its skin."""

    face: int
    own: Colour
    wanted: Colour


def skin_colour(renderer: Renderer, edit: Edit, analysis: Analysis, face: int) -> Colour | None:
    """The median of a face's skin as an edit makes it, encoded RGB; None: too little is seen."""
    image, shape = overview(renderer, edit)
    there = analysis.mask(SKIN_OF_FACE, renderer.bounds, shape, face) > _SURE
    if int(there.sum()) < _LEAST:
        return None
    return np.asarray(np.median(image[there], 0), np.float32)


def match_of(edit: Edit, bench: Bench, other: Other) -> Match:
    """The same person on this picture and another one.

    Raises
    ------
    Refused
        In plain words, where nobody is on both, or their skin isn't seen.
    """
    here, there = bench.analysis, other.analysis
    if here is None or there is None or not here.faces or not there.faces:
        raise Refused("no_face", "A face has to be known on both pictures.")
    if other.original is None:
        raise Refused("no_original", "The other picture isn't here.")
    pairs = (
        (i, j)
        for i in range(len(here.faces))
        for j in range(len(there.faces))
        if alike(form_of(here.faces[i]), here.marks[i], form_of(there.faces[j]), there.marks[j])
    )
    found = next(pairs, None)
    if found is None:
        raise Refused(
            "not_the_same", f"Nobody on this picture is on {other.name or 'the other one'}, too."
        )
    theirs = bench_for(other.original(), there)
    own = skin_colour(bench.renderer, edit, here, found[0])
    wanted = skin_colour(theirs.renderer, other.edit, there, found[1])
    if own is None or wanted is None:
        raise Refused("no_skin", "Too little skin is seen to go by.")
    return Match(found[0], own, wanted)


def apart(one: Colour, other: Colour) -> float:
    """How far two colours (encoded RGB) lie apart, CIEDE2000."""
    a, b = (to_lab(np.clip(c, 0, 1).reshape(1, 1, 3).astype(np.float32)) for c in (one, other))
    return float(ciede2000(a, b)[0, 0])


def settings_for(
    own: Colour, wanted: Colour, white: Pass, light: Pass
) -> tuple[dict[str, Any], dict[str, Any]]:
    """Settings of white balance and light under which a colour becomes another, as near as they can.

    ``white`` and ``light`` are the passes as they stand; what they do now is in ``own`` already.
    """
    now = {**white.settings, **light.settings}
    bare = _unmade(own, white, light)
    goal = _lab(wanted)

    def settings(x: NDArray[np.float64]) -> tuple[dict[str, Any], dict[str, Any]]:
        kelvin = float(np.clip(np.exp(x[1]), *_KELVIN))
        return {"temperature_k": kelvin, "tint": float(x[2])}, {"exposure_ev": float(x[0])}

    ev, kelvin, tint = (float(str(now[n])) for n in ("exposure_ev", "temperature_k", "tint"))
    begin = np.array([ev, np.log(kelvin), tint])

    def off(x: NDArray[np.float64]) -> NDArray[np.float64]:
        whites, lights = settings(x)
        made = _made(bare, white, whites, light, lights)
        return np.concatenate([_lab(made) - goal, _STAY * (x - begin) * (1, 4, 0.1)])

    low = np.array([-_MOST_EV, np.log(_KELVIN[0]), -_MOST_TINT])
    high = np.array([_MOST_EV, np.log(_KELVIN[1]), _MOST_TINT])
    best = scipy.optimize.least_squares(
        off, np.clip(begin, low + 1e-6, high - 1e-6), bounds=(low, high),
        jac=lambda x: _slopes(off, x, (0.02, 0.01, 0.5)),
    )  # fmt: skip
    whites, lights = settings(best.x)
    return (
        {
            "temperature_k": round(whites["temperature_k"], -1),
            "tint": round(2 * whites["tint"]) / 2,
        },
        {"exposure_ev": round(lights["exposure_ev"], 2)},
    )


def _lab(colour: Colour) -> NDArray[np.float64]:
    return to_lab(np.clip(colour, 0, 1).reshape(1, 1, 3).astype(np.float32))[0, 0].astype(
        np.float64
    )


def _made(
    colour: Colour, white: Pass, whites: dict[str, Any], light: Pass, lights: dict[str, Any]
) -> Colour:
    """A colour after white balance and light."""
    way = registry.kind(white.kind).way
    assert isinstance(way, Pixels)
    values = {**registry.kind(white.kind).values(white), **whites}
    one = np.ascontiguousarray(colour.reshape(1, 1, 3), np.float32)
    balanced = way.make(one, values, Place(Rect(0, 0, 1, 1), 0))
    curve = registry.kind(light.kind).way
    assert isinstance(curve, Curve)
    table = curve.table({**light.settings, **lights}, False)
    out = (
        balanced if table is None else looked_up(np.clip(balanced, 0, 1).astype(np.float32), table)
    )
    return np.asarray(out, np.float32).reshape(3)


def _unmade(own: Colour, white: Pass, light: Pass) -> Colour:
    """The colour that both passes, as they stand, make into this one."""
    goal = own.astype(np.float64)

    def off(x: NDArray[np.float64]) -> NDArray[np.float64]:
        made = _made(x.astype(np.float32), white, {}, light, {})
        return np.asarray(made, np.float64) - goal

    steps = (0.004, 0.004, 0.004)
    start = np.clip(goal, 1e-3, 1)
    found = scipy.optimize.least_squares(
        off, start, bounds=(0, 1.0001), jac=lambda x: _slopes(off, x, steps)
    )
    return np.asarray(found.x, np.float32)


def _slopes(
    function: Callable[[NDArray[np.float64]], NDArray[np.float64]], x: NDArray[np.float64],
    steps: tuple[float, ...],
) -> NDArray[np.float64]:  # fmt: skip
    """Differences over steps that tables of single precision can tell."""
    columns = []
    for n, step in enumerate(steps):
        there = x.copy()
        there[n] += step
        back = x.copy()
        back[n] -= step
        columns.append((function(there) - function(back)) / (2 * step))
    return np.stack(columns, -1)
