"""What is neutral in a picture: a place that is pressed on, the whites of the eyes, the greys."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from retouch.colour.linear import decoded
from retouch.colour.white import COOLEST, WARMEST, neutralising
from retouch.edit import Edit, Pass
from retouch.edit.values import Value
from retouch.face import Analysis
from retouch.geometry import Rect
from retouch.look.chroma import oklab
from retouch.natural.tones import overview
from retouch.passes.of_picture import cones, own_light
from retouch.passes.white_balance import TINT
from retouch.render import Renderer
from retouch.work.bench import Bench, Refused

# A place is this square around where it is pressed on, pixels to each side.
_AROUND = 4
# Codes from this part of the whole on are clipped, and up to this one black.
_CLIPPED, _BLACK = 0.992, 0.008
_MOST_CLIPPED = 0.1
# The whites of the eyes are no white card: they are looked at where they are brightest.
_BRIGHT = 0.6
_LEAST = 30
# What is no greyer than this (OKLab chroma) says nothing about the light; and the tones that count.
_GREY, _DARKEST, _LIGHTEST = 0.045, 0.35, 0.97
_FEW_GREYS = 0.02


def at_place(bench: Bench, edit: Edit, one: Pass, x: float, y: float) -> dict[str, Value]:
    """Settings of a white balance with which a place of the original is neutral.

    The mean of a small region as it is seen below the pass.

    Raises
    ------
    Refused
        Where the place lies outside, is clipped, or is too dark.
    """
    bounds = bench.renderer.bounds
    if not (0 <= x < bounds.width and 0 <= y < bounds.height):
        raise Refused("outside", "This place lies outside of the picture.")
    spot = Rect(int(x), int(y), int(x) + 1, int(y) + 1).grow(_AROUND).clip(bounds)
    picture = bench.renderer.pyramid.picture
    own = picture.pixels[spot.within(bounds)].astype(np.float64) / picture.top
    if (own.max(-1) >= _CLIPPED).mean() > _MOST_CLIPPED:
        raise Refused(
            "clipped", "This place is clipped to white: its colour is lost. Pick a darker one."
        )
    if own.mean() <= _BLACK:
        raise Refused("too_dark", "This place is too dark to tell its colour. Pick a lighter one.")
    n = next((k for k, p in enumerate(edit.passes) if p.id == one.id), len(edit.passes))
    seen = bench.renderer.render(replace(edit, passes=edit.passes[:n]), spot)
    return settings_for(decoded(seen).reshape(-1, 3).mean(0), one)


def settings_for(linear: NDArray[np.floating], one: Pass) -> dict[str, Value]:  # type: ignore[type-arg]
    """Settings with which a linear colour (3,) becomes neutral."""
    values = one.fit.values
    light = neutralising(linear, own_light(values), cones(values))
    tint = (light.duv - own_light(values).duv) / TINT
    return {
        "temperature_k": round(float(np.clip(light.kelvin, WARMEST, COOLEST)), 0),
        "tint": round(float(np.clip(tint, -50, 50)), 1),
        "warmth": 0.0,
    }


def of_eyes(renderer: Renderer, below: Edit, analysis: Analysis | None) -> NDArray[np.float64]:
    """Linear colour of the bright whites of the eyes, or of the teeth where no eye is open.

    Teeth are ivory: a third of their colour is taken for their own (common practice, no source).
    """
    if analysis is None or not analysis.faces:
        raise Refused("no_face", "No face is known here. Pick a neutral place instead.")
    bounds = renderer.bounds
    for zone, part in (("eye_whites", 1.0), ("teeth", 0.67)):
        found = []
        for face in analysis.faces:
            x, y, w, h = face.box
            rect = Rect(int(x), int(y), int(x + w) + 1, int(y + h) + 1).clip(bounds)
            there = analysis.mask((zone,), rect, (rect.height, rect.width)) > 0.8
            if int(there.sum()) >= _LEAST:
                linear = decoded(renderer.render(below, rect)[there])
                light = linear @ [0.2126, 0.7152, 0.0722]
                usable = (light >= np.quantile(light, _BRIGHT)) & (linear.max(-1) < 0.98)
                if usable.any():
                    found.append(np.median(linear[usable], 0))
        if found:
            colour = np.mean(found, 0).astype(np.float64)
            grey = colour @ [0.2126, 0.7152, 0.0722]
            return np.asarray(grey + part * (colour - grey))
    raise Refused(
        "no_whites", "Neither eyes nor teeth are seen well enough here. Pick a neutral place."
    )


def of_greys(renderer: Renderer, below: Edit) -> NDArray[np.float64]:
    """Linear colour that the picture's greys have in common."""
    image, _ = overview(renderer, below)
    flat = image.reshape(-1, 3)
    lab = oklab(decoded(np.clip(flat, 0, 1)))
    chroma = np.hypot(lab[:, 1], lab[:, 2])
    grey = (chroma < _GREY) & (lab[:, 0] > _DARKEST) & (lab[:, 0] < _LIGHTEST)
    if grey.mean() < _FEW_GREYS:
        raise Refused("no_greys", "There is too little grey in this picture. Pick a neutral place.")
    return np.asarray(np.median(decoded(flat[grey]), 0), np.float64)
