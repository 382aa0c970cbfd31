"""Glasses: rims around the eyes, the bridge and the arms, and the lenses inside."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import lab_of_pixels
from retouch.discs import disc
from retouch.face import features
from retouch.face import landmarks as lm
from retouch.face.arm_behind import arm_behind
from retouch.face.bars import WIRE, Bar, Rim, arm, bridge, sampled, squared
from retouch.face.frame import Frame, fill
from retouch.face.rims import rim_of
from retouch.processors import at_once

Array = NDArray[np.float32]

# Burnt-out light: as light as this, and with less colour.
_BURNT, _WHITE = 85.0, 14.0
# Panes are so much lighter than the face (L*), or this part of the way to white, and so wide; bars between them at most (half of either, in
# heights of the face).
_AROUND_EYE = 0.15
_PANE, _PANE_PART, _PANE_HALF, _BAR_HALF = 35.0, 0.6, 0.014, 0.007
# So far inside a lens (heights of the face), what is so much lighter than it usually is (L*) is a reflection.
_INSIDE, _GLARE = 0.004, 22.0
# A rim so much lighter than the face (L*) is a light one; its corners lie within so many halves of it.
_LIGHT_RIM, _CORNER = 25.0, 2.5
# A pane runs into it that has this part there.
_RUNS_IN = 0.25
# Glasses are told where this much of a rim is seen: at the clearer eye, and at the other.
_SURE, _OTHER = 0.8, 0.72
# Within this part of its usual width a line is surely the frame; a brow isn't outside of that one.
_CORE, _STOUT = 0.3, 2.5
# How far from its likely edges the frame's own may lie, and what is looked at around, in heights
# of the face; rounds of telling it by colour.
_BAND, _AROUND, _CUTS = 0.006, 0.04, 2
# Through dark lenses comes less than this part of the face's light (common practice: sunglasses for
# general use let 8 to 18 in 100 through, the darker ones 3 to 8; ISO 12312-1, from memory).
_DARK = 0.1


@dataclass(frozen=True)
class Spectacles:
    """``frame`` and ``lenses`` (h, w) float32 0..1 on the pixels of what was looked at; ``dark``: next to
    nothing is seen through them."""

    frame: Array
    lenses: Array
    dark: bool


def spectacles(frame: Frame) -> Spectacles | None:
    """The glasses a face wears, or None.

    A rim is a closed path around an eye along which the picture differs from both its sides in the
    same direction of colour: darker or lighter, of plastic or metal. Brows, lids and shadows give
    parts of such a path, never nearly all of it.
    """
    seen = lab_of_pixels(frame.pixels)
    even, burnt = _without_glare(frame, seen)
    lab = cv2.GaussianBlur(even, (0, 0), 0.7)
    soft = cv2.GaussianBlur(seen, (0, 0), 0.7)

    def of_side(right: bool) -> tuple[Array, Rim]:
        brow = features.brow(frame, right)
        return brow, rim_of(frame, lab, soft, burnt, brow, right)

    sides = at_once(of_side, (True, False))
    rims = [rim for _, rim in sides]
    shares = sorted(r.seen for r in rims)
    if shares[1] < _SURE or shares[0] < _OTHER:
        return None
    shape = frame.shape
    inside = np.maximum(*(fill(shape, r.inner) for r in rims))
    whole = np.maximum(*(fill(shape, r.outer) for r in rims))
    found = [
        bridge(lab, frame.unit, rims, whole),
        arm(lab, frame.unit, rims[0], rims[1], whole),
        arm(lab, frame.unit, rims[1], rims[0], whole),
    ]
    bars = [b for b in found if b is not None]
    likely = np.clip(whole - inside, 0, 1)
    for bar in bars:
        likely = np.maximum(likely, fill(shape, bar.outline) * (1 - inside))
    own = _told_by_colour(frame, likely, rims, bars, sides[0][0] + sides[1][0])
    own = np.maximum.reduce([own, *(_known(frame, seen, r) for r in rims)])
    own = np.maximum.reduce([own, *(_corners_of(frame, seen, r, own, burnt) for r in rims)])
    # Beside an arm that is seen lies hair, as dark and as thin.
    rings = own * (cv2.dilate(whole, np.ones((3, 3), np.uint8)) > 0.5)
    behind = at_once(lambda r: arm_behind(frame, lab, r.middle, r.half, rings), rims)
    own = np.maximum.reduce([own, *behind])
    lenses = np.clip(whole - cv2.GaussianBlur(own, (0, 0), 0.8), 0, 1) * (inside > 0)
    lenses = np.asarray(lenses, np.float32)
    return Spectacles(cv2.GaussianBlur(own, (0, 0), 0.6), lenses, _dark(frame, seen, lenses, whole))


def _dark(frame: Frame, lab: Array, lenses: Array, whole: Array) -> bool:
    """Whether lenses let hardly any light through, beside the face around them."""
    light = ((np.maximum(lab[..., 0], 8.0) + 16) / 116) ** 3
    burnt = (lab[..., 0] > _BURNT) & (np.hypot(lab[..., 1], lab[..., 2]) < _WHITE)
    within = (lenses > 0.8) & ~burnt
    around = (frame.polygon(lm.OVAL) > 0.5) & (whole < 0.01)
    if not within.any() or not around.any():
        return False
    return bool(np.median(light[within]) < _DARK * np.median(light[around]))


def _without_glare(frame: Frame, lab: Array) -> tuple[Array, Array]:
    """The picture in CIELAB, panes that are reflected in it coloured as the face around, and where they
    are (0 or 1): their edges, and bars between them, would be lines as clear as a rim."""
    face = frame.polygon(lm.OVAL) > 0.5
    if not face.any():
        return lab, np.zeros(frame.shape, np.float32)
    colours = np.broadcast_to(np.median(lab[face], axis=0), lab.shape).copy()
    reach = _AROUND_EYE * frame.unit
    boxes = []
    for eye in (lm.EYE_R, lm.EYE_L):
        outline = frame.points[list(eye)]
        (x0, y0), (x1, y1) = np.maximum(outline.min(0) - reach, 0), outline.max(0) + reach
        here = np.s_[int(y0) : int(y1), int(x0) : int(x1)]
        if lab[here].size:
            boxes.append(here)
            # One side of a face may lie in the sun, the other in the shade.
            colours[here] = np.median(lab[here].reshape(-1, 3), axis=0)
    white = np.hypot(lab[..., 1], lab[..., 2]) < _WHITE
    # Beside dark skin panes are less light; with the bars between them they are wider than rims.
    lighter = np.minimum(_PANE, _PANE_PART * (100 - colours[..., 0]))
    light = ((lab[..., 0] > colours[..., 0] + lighter) & white).astype(np.uint8)
    light = cv2.morphologyEx(light, cv2.MORPH_CLOSE, disc(_BAR_HALF * frame.unit))
    panes = cv2.morphologyEx(light, cv2.MORPH_OPEN, disc(_PANE_HALF * frame.unit))
    panes = cv2.dilate(panes, np.ones((3, 3), np.uint8))
    for here in boxes:
        free = panes[here] == 0
        if free.any():
            colours[here] = np.median(lab[here][free], axis=0)
    lab = np.where(panes[..., None] > 0, colours, lab)
    return np.asarray(lab, np.float32), panes.astype(np.float32)


def _told_by_colour(
    frame: Frame, likely: Array, rims: list[Rim], bars: list[Bar], brows: Array
) -> Array:
    """The pixels of the frame near its paths, 0 or 1.

    C. Rother, V. Kolmogorov, A. Blake, *GrabCut*, SIGGRAPH 2004: colours of what surely is the
    frame and of what surely isn't, and borders where the picture has edges.
    """
    core, stout = np.zeros((2, *frame.shape), np.uint8)
    lines: list[Rim | Bar] = [*rims, *bars]
    for line in lines:
        at = np.round(line.middle * 16 - 8).astype(np.int32).tolist()
        for first, second, clear in zip(at[:-1], at[1:], line.clear[:-1], strict=True):
            for canvas, part in ((core, _CORE), (stout, _STOUT)):
                if clear or part == _STOUT:
                    wide = max(1, round(2 * part * line.half))
                    cv2.line(canvas, first, second, 1, wide, cv2.LINE_8, 4)
    ys, xs = np.nonzero(core)
    margin = int(_AROUND * frame.unit)
    here = np.s_[
        max(int(ys.min()) - margin, 0) : int(ys.max()) + margin,
        max(int(xs.min()) - margin, 0) : int(xs.max()) + margin,
    ]
    maybe = (likely[here] > 0.5) & (stout[here] > 0)
    told_core = (core[here] > 0) & maybe
    away = cv2.distanceTransform((~maybe).astype(np.uint8), cv2.DIST_L2, 3)
    told = np.full(maybe.shape, cv2.GC_BGD, np.uint8)
    told[away < _BAND * frame.unit] = cv2.GC_PR_BGD
    told[maybe] = cv2.GC_PR_FGD
    told[(brows[here] > 0.3) & (stout[here] == 0)] = cv2.GC_BGD
    told[told_core] = cv2.GC_FGD
    pixels = np.ascontiguousarray(frame.pixels[here])
    models = np.zeros((1, 65)), np.zeros((1, 65))
    cv2.setRNGSeed(1)
    cv2.grabCut(pixels, told, None, *models, _CUTS, cv2.GC_INIT_WITH_MASK)  # type: ignore[call-overload]
    out = np.zeros(frame.shape, np.float32)
    out[here] = (told == cv2.GC_FGD) | (told == cv2.GC_PR_FGD)
    return out


def _known(frame: Frame, lab: Array, rim: Rim) -> Array:
    """What of a rim is taken as its path says, 0 or 1: wires, whose gloss has all colours, and what
    crosses a reflection, which outshines it."""
    light = cv2.GaussianBlur(lab[..., 0], (0, 0), 1.0)
    ways = rim.outer - rim.inner
    ways /= np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-6)
    within = fill(frame.shape, rim.inner) > 0.5
    usual = float(np.median(light[within])) if within.any() else 100.0
    beside = rim.middle - 2 * rim.half * ways - _INSIDE * frame.unit * ways
    told = sampled(light, *np.ascontiguousarray(beside[None].T))[:, 0] > usual + _GLARE
    if rim.half < WIRE * frame.unit:
        told |= rim.clear
    out = np.zeros(frame.shape, np.uint8)
    at = np.round(rim.middle * 16 - 8).astype(np.int32).tolist()
    wide = max(1, round(2 * rim.half))
    for k in np.flatnonzero(told):
        cv2.line(out, at[k - 1], at[k], 1, wide, cv2.LINE_8, 4)
    return out.astype(np.float32)


def _corners_of(frame: Frame, lab: Array, rim: Rim, own: Array, panes: Array) -> Array:
    """What of a light rim lies beside its smooth path, as the corners of a square one do, 0 or 1.

    A light one is told from skin by its colour alone; a dark one isn't from lashes and brows. A reflected
    pane that runs into a corner goes along: nothing tells them apart.
    """
    face = frame.polygon(lm.OVAL) > 0.5
    out = np.zeros(frame.shape, np.float32)
    # What is as light as a wire is a glint.
    if not face.any() or rim.half < WIRE * frame.unit:
        return out
    if rim.colour[0] < np.median(lab[face][:, 0]) + _LIGHT_RIM:
        return out
    alike = (squared(lab, rim.colour, rim.varies) < 1).astype(np.uint8)
    reach = disc(_CORNER * rim.half)
    whole = fill(frame.shape, rim.outer)
    near = cv2.dilate(((own > 0.5) & (whole > 0.5)).astype(np.uint8), reach)
    count, parts = cv2.connectedComponents(alike & near)
    joined = np.zeros(count, np.bool_)
    joined[np.unique(parts[own > 0.5])] = True
    joined[0] = False
    out[joined[parts]] = 1
    count, parts = cv2.connectedComponents((panes > 0.5).astype(np.uint8))
    size, taken = (np.bincount(p, minlength=count) for p in (parts.ravel(), parts[out > 0.5]))
    along = taken > _RUNS_IN * size
    along[0] = False
    out[along[parts]] = 1
    return out
