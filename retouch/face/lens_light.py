"""What lenses of glasses do to the picture: reflections on them, and their tint."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.transfer import to_linear
from retouch.discs import disc, grown
from retouch.face.analysis import Analysis
from retouch.geometry import Rect
from retouch.picture import Pyramid
from retouch.zone_names import ALL_SKIN

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]
Points = tuple[tuple[float, float], ...]

# The face's height in pixels at which lenses are looked at.
_UNIT = 640.0
# What lies around the lenses and is looked at, and the ring of skin that tells its colour.
_AROUND, _RING = 0.1, 0.08
# Reflections are about as white as daylight through a coated lens (linear, their mean is 1).
_LIGHT = np.array([0.95, 1.05, 1.0], np.float32)
# The darkest of what is seen through one: this quantile.
_DARKEST = 0.02
# The light is looked at softened so much (pixels); levels of veil that are told apart (linear).
_SOFT, _LEVELS = 1.5, (0.012, 0.03, 0.08, 0.2, 0.45)
# A reflection has at least this area (parts of the squared height of the face).
_LEAST = 0.0006
# So much of it shows skin that isn't burnt out.
_LEAST_PART = 0.15
# Panes and lamps have few dents, a shine of the skin has many: so much of its hull is in it.
_EVEN = 0.8
# Its edge is a step within so many pixels to either side, not a slope over three times that.
_STEP, _SLOPE, _SHARP = 3.0, 3.0, 0.7
# Beyond it lies less than this part of what lies within: a shine of the skin falls off all around.
_ENDS = 0.5
# It adds at most so many times what its edge tells.
_MOST_STEPS = 1.5
# Lids and lashes have edges of their own, so far around eyes (heights of the face).
_LIDS = 0.015
# So many places of the edge, and this part of them, have to show it.
_LEAST_PLACES, _AGREE = 12, 0.7
# And so much of it is seen: the rest lies at rims, at eyes, or at what is burnt out.
_LEAST_EDGE = 0.125
# Two outlines that share so much are the same one.
_SAME = 0.75
# From this value of its darkest channel on (encoded), nothing is seen through a reflection.
_BURNT = 0.8
# What hangs on it goes along from this value on, and when so much lighter than the lens is.
_NEARLY, _LIGHTER = 0.55, 0.2
# A reflection that adds so much (linear) is told over an eye, too, if this part of it isn't the eye.
_STRONG, _BESIDE_EYE = 0.2, 0.3
# Gaps between panes, and what glows around them, in heights of the face.
_GAP, _GLOW = 0.014, 0.007
# What hangs together by less than this isn't one (half of it, in heights of the face); a pane that is so
# far hidden is told as a rectangle.
_CUT, _RECTANGLE = 0.006, 0.5
# Lenses let through less than this much: they are tinted (parts, per channel).
_CLEAR = 0.8
# Both lenses let through as much, but for this; it is compared so far beside a rim (heights of faces).
_ALIKE, _BESIDE_RIM = 0.15, 0.015
# Outlines follow edges to so many pixels.
_FINE = 0.4


@dataclass(frozen=True)
class Reflection:
    """A reflection on a lens.

    ``face`` is whose; ``outline`` in pixels of the original; ``veil`` the light that it adds, linear
    (red, green, blue), 0..1; ``burnt``: nothing is seen through it.
    """

    face: int
    outline: Points
    veil: tuple[float, float, float]
    burnt: bool


@dataclass(frozen=True)
class Tint:
    """A tinted lens: its ``outline``, and what part of light it lets through (red, green, blue)."""

    face: int
    outline: Points
    lets: tuple[float, float, float]


@dataclass(frozen=True)
class _Looked:
    """The lenses of a face at the size at which they are looked at."""

    rect: Rect
    unit: float
    image: Array
    light: Array
    lens: Mask
    frame: Mask
    eyes: Mask
    whites: Mask
    skin: Mask

    def places(self, contour: NDArray[np.int32]) -> Points:
        """A contour in pixels of the original."""
        fine = cv2.approxPolyDP(contour, _FINE, True)[:, 0].astype(np.float64) + 0.5
        h, w = self.lens.shape
        x = self.rect.x0 + fine[:, 0] * self.rect.width / w
        y = self.rect.y0 + fine[:, 1] * self.rect.height / h
        return tuple((round(float(a), 1), round(float(b), 1)) for a, b in zip(x, y, strict=True))


def _looked(analysis: Analysis, n: int, pyramid: Pyramid) -> _Looked | None:
    own = [a.rect for a in analysis.layers if a.zone == "lenses" and a.face == n]
    if not own or own[0].empty:
        return None
    face = analysis.faces[n]
    scale = min(1.0, _UNIT / face.height)
    rect = own[0].grow(int(_AROUND * face.height)).clip(pyramid.picture.bounds)
    shape = (max(8, round(rect.height * scale)), max(8, round(rect.width * scale)))
    image = np.ascontiguousarray(np.clip(pyramid.sampled(rect, shape), 0, 1), np.float32)

    def zone(*names: str) -> Array:
        return np.asarray(analysis.mask(names, rect, shape, n), np.float32)

    unit = face.height * scale
    eyes = grown(zone("eye_whites", "irises", "lashes") > 0.25, 0.008 * unit)
    return _Looked(
        rect, unit, image, np.asarray(to_linear(image), np.float32), zone("lenses") > 0.5,
        zone("glasses") > 0.2, eyes, zone("eye_whites") > 0.25, zone(*ALL_SKIN) > 0.8,
    )  # fmt: skip


def reflections(analysis: Analysis, pyramid: Pyramid) -> list[Reflection]:
    """All reflections on the lenses of all faces, the faintest of a place first.

    Skin keeps the direction of its colour in light and shade, and a reflection adds another one's:
    each pixel is taken apart into the two (linear). What is added in sharply bounded areas is a
    reflection; how much it adds is the step at its edge.
    """
    out = []
    for n in range(len(analysis.faces)):
        seen = _looked(analysis, n, pyramid)
        if seen is not None:
            out += [*_veils(seen, n), *_burnt(seen, n)]
    return out


def _burnt_out(seen: _Looked) -> Mask:
    """Where nothing is seen through reflections: whole panes, up to the rim."""
    low = cv2.GaussianBlur(seen.image.min(-1), (0, 0), 1.5)
    near = grown(seen.lens, 2) & ~seen.frame
    found = ((low > _BURNT) & near).astype(np.uint8)
    found = cv2.morphologyEx(found, cv2.MORPH_OPEN, disc(0.003 * seen.unit))
    # Panes cut by a rim, and their rims, are nearly as light; they hang together.
    usual = float(np.median(low[seen.lens])) if seen.lens.any() else 1.0
    wide = (low > max(_NEARLY, usual + _LIGHTER)) & near
    _, parts = cv2.connectedComponents(
        cv2.morphologyEx(wide.astype(np.uint8), cv2.MORPH_CLOSE, disc(_GAP * seen.unit))
    )
    found |= (wide & np.isin(parts, np.unique(parts[found > 0])) & (parts > 0)).astype(np.uint8)
    closed = cv2.morphologyEx(found, cv2.MORPH_CLOSE, disc(_GAP * seen.unit))
    whole = np.zeros(seen.lens.shape, np.bool_)
    least = _LEAST / 3 * seen.unit**2
    whites = grown(seen.whites, _CUT * seen.unit)
    for part in _parts(closed > 0, least):
        # Windows and lamps have no dents.
        if part.sum() >= _EVEN * _hull(part).sum():
            whole |= _hull(part)
            continue
        # Whites of eyes are as light, and shine of the skin nearly: a pane is seen beside them, too.
        beside = cv2.morphologyEx(
            (part & ~whites).astype(np.uint8), cv2.MORPH_OPEN, disc(_CUT * seen.unit)
        )
        for pane in _parts(beside > 0, least):
            whole |= _pane(pane) & (closed > 0) | _hull(pane)
    return grown(whole, _GLOW * seen.unit) & grown(seen.lens, 0.004 * seen.unit)


def _burnt(seen: _Looked, n: int) -> Iterator[Reflection]:
    for part in _parts(_burnt_out(seen), _LEAST / 3 * seen.unit**2):
        for contour in _contours(part):
            yield Reflection(n, seen.places(contour), (1.0, 1.0, 1.0), True)


def _contours(part: Mask) -> list[NDArray[np.int32]]:
    found, _ = cv2.findContours(part.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return [c for c in found if len(c) >= 3]  # type: ignore[misc]


def _parts(mask: Mask, least: float) -> list[Mask]:
    count, labels, stats, _ = cv2.connectedComponentsWithStats(
        mask.astype(np.uint8), connectivity=4
    )
    return [labels == k for k in range(1, count) if stats[k, cv2.CC_STAT_AREA] >= least]


def _added(seen: _Looked) -> Array | None:
    """How much light of another colour than the skin's lies over each pixel, linear; None: not told."""
    ring = grown(seen.lens, _RING * seen.unit) & ~grown(seen.lens | seen.frame, 3) & seen.skin
    if np.count_nonzero(ring) < 100:
        return None
    colours = seen.light[ring]
    colours = colours[colours.sum(1) > 0.02]
    if len(colours) < 100:
        return None
    skin = np.median(colours / colours.sum(1, keepdims=True), axis=0)
    both = np.stack([skin / np.linalg.norm(skin), _LIGHT / np.linalg.norm(_LIGHT)], 1)
    apart = np.linalg.pinv(both).astype(np.float32)
    soft = cv2.GaussianBlur(seen.light, (0, 0), _SOFT)
    # Along a unit vector; as light whose mean over the channels counts.
    added = soft @ apart[1] / float(np.linalg.norm(_LIGHT))
    return np.asarray(added - np.median(added[ring]), np.float32)


@dataclass(frozen=True)
class _Over:
    """What lies over lenses: light of another colour than the skin's (``added``, linear), places that are
    ``burnt`` out, and eyes, whose whites ``hide`` what is added."""

    added: Array
    burnt: Mask
    hide: Mask


def _veils(seen: _Looked, n: int) -> Iterator[Reflection]:
    added = _added(seen)
    if added is None:
        return
    burnt = _burnt_out(seen)
    over = _Over(added, burnt, seen.eyes & ~burnt & seen.lens)
    # Whites of eyes are as grey as a reflection: over them it goes on as beside them.
    even = _across(added, over.hide) if over.hide.any() else added
    inner = cv2.erode(seen.lens.astype(np.uint8), disc(0.004 * seen.unit)) > 0
    kept: list[Mask] = []
    left = added
    for level in _LEVELS:
        # A strong one is seen over an eye, too, and its edge there is its own.
        strong = level >= _STRONG
        mask = ((added if strong else even) > level) & inner
        mask = cv2.morphologyEx(mask.astype(np.uint8), cv2.MORPH_OPEN, disc(2)) > 0
        for whole in _even(mask, burnt, _LEAST * seen.unit**2):
            if strong and (whole & ~seen.eyes).sum() < _BESIDE_EYE * whole.sum():
                continue
            if any((whole & k).sum() > _SAME * (whole | k).sum() for k in kept):
                continue
            if (whole & burnt).sum() > _SAME * whole.sum():
                continue
            for contour in _contours(whole):
                told = _veil(seen, over, whole, contour, left)
                if told is None or min(told.edge, told.mean) < 0.5 * level:
                    continue
                r, g, b = (round(float(v), 4) for v in np.clip(told.veil, 0, 1))
                kept.append(whole)
                left = np.asarray(left - told.light * whole, np.float32)
                yield Reflection(n, seen.places(contour), (r, g, b), False)


@dataclass(frozen=True)
class _Veil:
    """A veil (3,) linear; the ``light`` it was told from, and what its ``edge`` shows."""

    veil: Array
    light: float
    edge: float

    @property
    def mean(self) -> float:
        return float(self.veil.mean())


def _veil(
    seen: _Looked, over: _Over, whole: Mask, contour: NDArray[np.int32], left: Array
) -> _Veil | None:
    """What a reflection adds; None where its edge doesn't show it, or too little of it is free."""
    step = _step(seen, contour, over.burnt, left)
    free = whole & ~over.burnt & ~over.hide
    if step is None or free.sum() < _LEAST_PART * whole.sum():
        return None
    # Two ways to tell: what lies over it beside skin elsewhere, and the step at its edge.
    edge = float(step.mean())
    light = min((float(np.median(over.added[free])) + edge) / 2, _MOST_STEPS * edge)
    # A strong one tells its own colour.
    own = step / max(edge, 1e-6)
    part_own = min(edge / _STRONG, 1.0) ** 2
    veil = np.asarray(light * (part_own * own + (1 - part_own) * _LIGHT), np.float32)
    veil = veil * min(1.0, _least_light(seen, whole & ~over.burnt, veil))
    return _Veil(veil, light, edge)


def _even(mask: Mask, burnt: Mask, least: float) -> Iterator[Mask]:
    """Parts with few dents, without their holes; of others those that are left without what is burnt out: a
    veil that touches a pane has no form of its own with it."""

    def has_form(part: Mask) -> bool:
        return bool(part.sum() >= _EVEN * _hull(part).sum())

    for part in map(_filled, _parts(mask, least)):
        if has_form(part):
            yield part
        elif (part & burnt).any():
            beside = cv2.morphologyEx((part & ~burnt).astype(np.uint8), cv2.MORPH_OPEN, disc(2))
            yield from filter(has_form, map(_filled, _parts(beside > 0, least)))


def _least_light(seen: _Looked, part: Mask, veil: Array) -> float:
    """How many times a veil a reflection can add: nothing under it is darker than its own light."""
    light = cv2.GaussianBlur(seen.light, (0, 0), 1.0)[part] / np.maximum(veil, np.float32(1e-5))
    return float(np.quantile(light.min(1), _DARKEST)) if len(light) else 0.0


def _pane(part: Mask) -> Mask:
    """The smallest rectangle around a part, as panes are; its hull where that is hardly one."""
    box = cv2.boxPoints(cv2.minAreaRect(np.concatenate(_contours(part))))
    canvas = np.zeros(part.shape, np.uint8)
    cv2.fillConvexPoly(canvas, np.round(box).astype(np.int32), 1)
    return canvas > 0 if part.sum() > _RECTANGLE * canvas.sum() else _hull(part)


def _hull(part: Mask) -> Mask:
    canvas = np.zeros(part.shape, np.uint8)
    cv2.fillConvexPoly(canvas, cv2.convexHull(np.concatenate(_contours(part))), 1)
    return canvas > 0


def _filled(part: Mask) -> Mask:
    """A part without its holes: lashes and moles lie under a reflection, too."""
    canvas = np.zeros(part.shape, np.uint8)
    cv2.drawContours(canvas, _contours(part), -1, 1, cv2.FILLED)
    return canvas > 0


def _across(values: Array, hidden: Mask) -> Array:
    """Values with the hidden ones made from those beside them."""
    low, high = float(values.min()), float(values.max())
    scale = 255 / max(high - low, 1e-6)
    bytes_ = np.clip((values - low) * scale, 0, 255).astype(np.uint8)
    made = cv2.inpaint(bytes_, hidden.astype(np.uint8), 3, cv2.INPAINT_NS)
    return np.where(hidden, made.astype(np.float32) / scale + low, values)


def _step(seen: _Looked, contour: NDArray[np.int32], burnt: Mask, added: Array) -> Array | None:
    """What a reflection adds at its edge, (3,) linear, or None where its edge is no step, or where much of it
    lies beyond it, too.

    ``added`` (h, w) is what lies over each pixel besides what is told already.
    """
    line = contour[:, 0].astype(np.float32)
    if len(line) < 2 * _LEAST_PLACES:
        return None
    ahead, behind = np.roll(line, -4, 0), np.roll(line, 4, 0)
    along = ahead - behind
    out = np.stack([along[:, 1], -along[:, 0]], 1)
    out /= np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-6)
    # Contours run around their part; which side is out is told by its area.
    if cv2.contourArea(contour, True) < 0:
        out = -out
    eyes = grown(seen.eyes, _LIDS * seen.unit)
    free = (seen.lens & ~burnt & ~eyes & ~grown(seen.frame, 1)).astype(np.float32)

    def at(image: Array, away: float) -> Array:
        p = (line + away * out).astype(np.float32)
        return np.asarray(
            cv2.remap(image, p[:, 0], p[:, 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        ).reshape(len(line), -1)

    light = cv2.GaussianBlur(seen.light, (0, 0), 1.0)
    good = np.minimum.reduce([at(free, k)[:, 0] for k in (_STEP, -_STEP, -_STEP * _SLOPE)]) > 0.9
    if np.count_nonzero(good) < max(_LEAST_PLACES, _LEAST_EDGE * len(line)):
        return None
    within, beyond = (float(np.median(at(added, k)[:, 0][good])) for k in (-_STEP, _STEP))
    if beyond > _ENDS * within:
        return None
    step = (at(light, -_STEP) - at(light, _STEP))[good]
    slope = (at(light, -_STEP * _SLOPE) - at(light, _STEP * _SLOPE))[good]
    size = float(np.median(step, axis=0).mean())
    if size <= 0 or size < _SHARP * float(np.median(slope, axis=0).mean()):
        return None
    if (step.mean(1) > 0.4 * size).mean() < _AGREE:
        return None
    return np.asarray(np.median(step, axis=0), np.float32)


def tints(analysis: Analysis, pyramid: Pyramid) -> list[Tint]:
    """Lenses that let through clearly less than they should, in some colour.

    Skin just inside a rim is compared with skin just outside of it.
    """
    out = []
    for n in range(len(analysis.faces)):
        seen = _looked(analysis, n, pyramid)
        if seen is None:
            continue
        added = _added(seen)
        veiled = np.zeros(seen.lens.shape, np.bool_) if added is None else added > _LEVELS[0]
        free = seen.skin & ~grown(_burnt_out(seen) | veiled, 2)
        found = []
        for part in _parts(seen.lens, _LEAST * seen.unit**2):
            for contour in _contours(_filled(part))[:1]:
                lets = _let_through(seen, contour, free)
                if lets is not None:
                    found.append((contour, lets))
        # Both lenses are of one glass: a shadow or hair makes one of them seem dark.
        if len(found) != 2 or np.abs(found[0][1] - found[1][1]).max() > _ALIKE:
            continue
        lets = np.minimum((found[0][1] + found[1][1]) / 2, 1)
        if float(lets.min()) < _CLEAR:
            r, g, b = (round(float(max(v, 0.05)), 3) for v in lets)
            out += [Tint(n, seen.places(contour), (r, g, b)) for contour, _ in found]
    return out


def _let_through(seen: _Looked, contour: NDArray[np.int32], free: Mask) -> Array | None:
    """Light just inside a rim beside that just outside of it, (3,), or None where skin isn't seen."""
    line = contour[:, 0].astype(np.float32)
    away = line - line.mean(0)
    away /= np.maximum(np.linalg.norm(away, axis=1, keepdims=True), 1e-6)
    depth = cv2.distanceTransform(seen.frame.astype(np.uint8), cv2.DIST_L2, 3)
    beyond = 2 * float(depth.max()) + _BESIDE_RIM * seen.unit
    light = cv2.GaussianBlur(seen.light, (0, 0), 2.0)

    def at(image: Array, k: float) -> Array:
        p = (line + k * away).astype(np.float32)
        taken = cv2.remap(image, p[:, 0], p[:, 1], cv2.INTER_LINEAR, borderValue=0)
        return np.asarray(taken, np.float32).reshape(len(line), -1)

    inside = -_BESIDE_RIM * seen.unit
    mask = free.astype(np.float32)
    good = (at(mask, inside)[:, 0] > 0.9) & (at(mask, beyond)[:, 0] > 0.9)
    if np.count_nonzero(good) < _LEAST_PLACES * 3:
        return None
    ratio = at(light, inside)[good] / np.maximum(at(light, beyond)[good], 1e-4)
    return np.asarray(np.median(ratio, axis=0), np.float32)
