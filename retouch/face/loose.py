"""Loose strands: single hairs that leave the hair's outline, lie across it, or hang into the face."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import to_lab
from retouch.discs import disc
from retouch.edit.values import Point
from retouch.face import landmarks as lm
from retouch.face.cover import FaceZones
from retouch.face.find import Face
from retouch.face.outlines import Points, outlines
from retouch.face.threads import (
    density,
    followed,
    gone_on,
    is_ridge,
    length,
    mean_along,
    middles,
    strongest,
)
from retouch.geometry import Rect
from retouch.progress import report

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]
Line = NDArray[np.float64]
Reader = Callable[[Rect, tuple[int, int]], Array]

# Strands are looked for at so many pixels per mm at most, so far around the hair, and followed on from
# there so far (mm).
_FINE, _AROUND_MM, _FOLLOWED_MM = 8.0, 28.0, 80.0
# The outline of the hair leaves out what is thinner than this, fills narrower gaps, and is smooth
# over this (mm).
_THIN_MM, _GAP_MM, _SMOOTH_MM = 3.0, 2.0, 2.0
# Its soft edge reaches so far out at most; there the median over so many mm is so many times that of
# the background's grain.
_EDGE_MM, _CLOSE_MM, _BUSY = 5.0, 1.6, 2.0
# A strand differs from its surroundings over this width, along half of this stretch (mm).
_WIDE_MM, _STRETCH_MM = 0.45, 1.4
# Within the hair a strand runs at least so far from where the hair flows (radians), which is told from
# so wide a place, beginning so deep below the outline (mm).
_APART, _FLOW_MM, _DEEP_MM = 0.25, 2.0, 0.3
# It begins where it is so many times stronger than usual and goes on down to this; less than this
# (CIELAB) is grain.
_SURE, _FAINT, _GRAIN = 3.2, 1.7, 0.25
# What surely is a strand is followed on from its ends down to this.
_FAINTER = 1.3
# What differs from its surroundings by less than this part of what is usual there begins none.
_DIFFERS = 0.7
# Usual is the mean over so many mm, of what is so many times the middle of its kind at most: hair and
# skin have places full of lines (shine, gaps), before the background strands are many themselves.
_USUAL_MM, _STRONG, _STRONG_GROUND = 6.0, 2.5, 1.3
# A strand is so long at least, across the hair so much (mm), and leaves the outline by so much: what
# doesn't is the hair's soft edge.
_LONG_MM, _ACROSS_MM, _OUT_MM = 2.5, 3.5, 2.5
# On the face it is so long, and reaches so far from the hair, whose own ends lie nearer (mm).
_HANGS_MM, _FROM_HAIR_MM = 7.0, 9.0
# It lies across the hair when more than this part of it does.
_INSIDE = 0.8
# Both sides are looked at so far away (mm); it differs from each by this part of its own strength.
_SIDE_MM, _BOTH = 0.42, 0.3
# Of so many mm around a single strand so much at most is a line, too.
_DENSE_MM, _DENSE = 2.4, 0.4
# Kept away from (mm).
_NOT = {
    "brows": 3.0, "lashes": 3.0, "eye_whites": 3.0, "irises": 3.0, "lips": 2.0, "teeth": 2.0,
    "beard": 1.0, "worn": 1.0, "glasses": 1.5, "lenses": 0.5, "clothing": 0.5,
}  # fmt: skip
# Half the width that is cleared, in pixels of what is looked at, and how exact its path is.
_HALF, _EXACT = 2.0, 0.35


@dataclass(frozen=True)
class Loose:
    """A loose strand: its path and half the width it takes up, pixels of the original."""

    path: Points
    radius: float


@dataclass(frozen=True)
class _Sight:
    """The hair of a person as it is looked at: ``rect`` of the original on a grid, pixels per mm of that."""

    zones: FaceZones
    face: Face
    rect: Rect
    shape: tuple[int, int]
    fine: float

    @property
    def k(self) -> float:
        """Pixels of the grid per pixel of the original."""
        return self.shape[1] / self.rect.width

    def cover(self, zone: str) -> Array:
        return self.zones.cover(zone, self.face.anchor, self.rect, self.shape)

    def away(self, mask: Mask) -> Array:
        """How far each place lies from a mask, mm; far where it is empty."""
        if not mask.any():
            return np.full(self.shape, 1e6, np.float32)
        far = cv2.distanceTransform((~mask).astype(np.uint8), cv2.DIST_L2, 3)
        return np.asarray(far / self.fine, np.float32)


def hair_outline(zones: FaceZones, n: int) -> list[Points]:
    """The smooth outline of a person's hair, without loose strands: closed lines, the largest first."""
    sight = _sight(zones, n)
    if sight is None:
        return []
    lines = outlines(
        _body(sight, _core(sight), _details(sight)[1]),
        sight.rect,
        (6 * sight.fine) ** 2,
        0.2 * sight.fine,
    )
    return sorted(lines, key=lambda p: -abs(cv2.contourArea(np.asarray(p, np.float32))))


def loose_strands(
    zones: FaceZones,
    n: int,
    outline: Sequence[Sequence[Point]] = (),
    read: Reader | None = None,
) -> list[Loose]:
    """Loose strands of a person's hair, the longest first.

    Parameters
    ----------
    n : int
        The person's number.
    outline : sequence of closed lines of (x, y), optional
        Pixels of the original; what lies inside belongs to the hair. None given: as found.
    read : callable, optional
        Gives working values of a rectangle on (rows, cols); without it those of the original.
    """
    sight = _sight(zones, n)
    if sight is None:
        return []
    lab, away = _details(sight, read)
    core = _core(sight)
    body = _filled(outline, sight) if outline else _body(sight, core, away)
    core &= body
    goes = _where(sight, body)
    may = goes & (sight.away(body) < _AROUND_MM)
    lies = _flow(lab[..., 0], sight.fine, sight.away(core) < _AROUND_MM)
    flow = np.where(sight.away(~core) > _DEEP_MM, lies, np.float32(np.nan)).astype(np.float32)
    half = max(2, round(_STRETCH_MM * sight.fine))
    own = np.sqrt((away * away).sum(-1))
    usually = _around(np.minimum(own, 10.0), 3 * sight.fine)
    report(0.4)
    strength, way = strongest(away, may & (own > _DIFFERS * usually), flow, half, _APART)
    report(0.6)
    usual = _usual(strength, may, core, sight)
    starts = middles(strength, way, usual, _SURE)
    lines = followed(away, goes, flow, half, _APART, usual, starts, _FAINT)
    report(0.8)
    far, skin = sight.away(body), sight.cover("skin")
    dense = density(strength > _SURE * usual, _DENSE_MM * sight.fine)
    told = [
        line
        for line in lines
        if _is_strand(line, lab, core, far, skin, lies, sight) and mean_along(dense, line) < _DENSE
    ]
    # Ends of the hair lie on the skin beside it: no strand goes on there.
    goes &= skin < 0.5

    def whole(line: Line) -> Line:
        ends = gone_on(away, goes, flow, half, _APART, usual, line, _FAINTER)
        side = max(2.0, _SIDE_MM * sight.fine)
        before, after = (
            end if len(end) > 1 and is_ridge(end, lab, side, _BOTH) else end[:0] for end in ends
        )
        return np.concatenate([before, line, after])

    told = [whole(line) for line in told]
    return [_on_original(line, sight) for line in sorted(told, key=length, reverse=True)]


def _sight(zones: FaceZones, n: int) -> _Sight | None:
    assert zones.analysis is not None
    face = zones.analysis.faces[n]
    mm = face.scale.px_per_mm
    bounds = zones.pyramid.picture.bounds
    size = max(1.0, mm)
    shape = (max(1, round(bounds.height / size)), max(1, round(bounds.width / size)))
    ys, xs = np.nonzero(zones.cover("hair", face.anchor, bounds, shape) > 0.5)
    if len(ys) < 100:
        return None
    around = _FOLLOWED_MM * mm
    rect = Rect(
        int(xs.min() * size - around), int(ys.min() * size - around),
        int((xs.max() + 1) * size + around), int((ys.max() + 1) * size + around),
    ).clip(bounds)  # fmt: skip
    k = min(1.0, _FINE / mm)
    shape = (max(8, round(rect.height * k)), max(8, round(rect.width * k)))
    return _Sight(zones, face, rect, shape, mm * k)


def _details(sight: _Sight, read: Reader | None = None) -> tuple[Array, Array]:
    """CIELAB of what is looked at, and how far each place is from what surrounds it."""
    lab = to_lab(np.clip((read or sight.zones.pyramid.sampled)(sight.rect, sight.shape), 0, 1))
    wide = cv2.GaussianBlur(lab, (0, 0), _WIDE_MM * sight.fine)
    return lab, np.asarray(cv2.GaussianBlur(lab, (0, 0), 0.6) - wide, np.float32)


def _core(sight: _Sight) -> Mask:
    """The hair without what is thin."""
    own = (sight.cover("hair") > 0.5).astype(np.uint8)
    own = cv2.morphologyEx(own, cv2.MORPH_CLOSE, disc(_GAP_MM * sight.fine))
    own = cv2.morphologyEx(own, cv2.MORPH_OPEN, disc(_THIN_MM * sight.fine))
    return own > 0


def _body(sight: _Sight, core: Mask, away: Array) -> Mask:
    """The hair with its soft edge, with a smooth outline."""
    own = core | (_edge(sight, core, away) > 0)
    smooth = cv2.GaussianBlur(own.astype(np.float32), (0, 0), _SMOOTH_MM * sight.fine)
    return np.asarray(smooth > 0.5)


def _edge(sight: _Sight, own: Mask, away: Array) -> NDArray[np.uint8]:
    """The soft edge of the hair, where curls and short hairs lie close: there most places differ from
    their surroundings, while beside single strands few do.
    """
    size = np.sqrt((away * away).sum(-1))
    ground = (sight.cover("background") > 0.5) & ~own
    off = sight.away(own)
    far = ground & (off > _EDGE_MM) & (off < _AROUND_MM)
    if not far.any():
        return np.zeros(sight.shape, np.uint8)
    grain = max(float(np.median(size[far])), 0.1)
    wide = 2 * max(1, round(_CLOSE_MM * sight.fine / 2)) + 1
    coded = np.minimum(size * (40 / grain), 255).astype(np.uint8)
    close = cv2.medianBlur(coded, wide) > 40 * _BUSY
    near = ground & close & (off < _EDGE_MM)
    return np.asarray(near, np.uint8)


def _filled(lines: Sequence[Sequence[Point]], sight: _Sight) -> Mask:
    inside = np.zeros(sight.shape, np.uint8)
    for line in lines:
        at = (np.asarray(line) - (sight.rect.x0, sight.rect.y0)) * sight.k - 0.5
        cv2.fillPoly(inside, [np.round(at).astype(np.int32)], 1)
    return inside > 0


def _where(sight: _Sight, body: Mask) -> Mask:
    """Where strands go: near the hair, on it, and on the face beside its features."""
    may = sight.away(body) < _FOLLOWED_MM
    for zone, mm in _NOT.items():
        may &= sight.away(sight.cover(zone) > 0.3) > mm
    # Ears, neck and shoulders have edges and ends of hair of their own.
    skin = sight.cover("skin") > 0.5
    return may & (~skin | body | _face(sight))


def _face(sight: _Sight) -> Mask:
    inside = np.zeros(sight.shape, np.uint8)
    at = (sight.face.points[list(lm.OVAL), :2] - (sight.rect.x0, sight.rect.y0)) * sight.k - 0.5
    cv2.fillConvexPoly(inside, cv2.convexHull(np.round(at).astype(np.int32)), 1)
    return inside > 0


def _flow(light: Array, fine: float, near: Mask) -> Array:
    """The direction in which the hair lies, radians 0..pi: across the gradients of a place.

    The structure tensor (J. Bigün, G. H. Granlund, *Optimal orientation detection of linear symmetry*,
    1987), strong edges counted as usual ones near the hair.
    """
    gx = cv2.Sobel(light, cv2.CV_32F, 1, 0)
    gy = cv2.Sobel(light, cv2.CV_32F, 0, 1)
    size = np.sqrt(gx * gx + gy * gy) + np.float32(1e-3)
    share = np.minimum(size, 2 * np.median(size[near])) / size
    gx, gy = gx * share, gy * share
    sigma = _FLOW_MM * fine
    xx, yy, xy = (_around(g, sigma) for g in (gx * gx, gy * gy, gx * gy))
    return np.asarray((0.5 * np.arctan2(2 * xy, xx - yy) + np.pi / 2) % np.pi, np.float32)


def _around(values: Array, sigma: float) -> Array:
    """The mean of what surrounds each place, worked out on cells of a quarter of its width."""
    h, w = values.shape
    cell = max(1, int(sigma / 4))
    small = cv2.resize(values, (max(1, w // cell), max(1, h // cell)), interpolation=cv2.INTER_AREA)
    soft = cv2.GaussianBlur(small, (0, 0), sigma / cell)
    return np.asarray(cv2.resize(soft, (w, h), interpolation=cv2.INTER_LINEAR), np.float32)


def _usual(strength: Array, may: Mask, core: Mask, sight: _Sight) -> Array:
    """What the strongest line is where there is no strand: by kind of ground, by place."""
    out = np.full(sight.shape, _GRAIN, np.float32)
    ground = sight.cover("background") > 0.5
    kinds = ((core, _STRONG), (~core & ground, _STRONG_GROUND), (~core & ~ground, _STRONG))
    for kind, strong in kinds:
        seen = kind & may & (strength > 0)
        if not seen.any():
            continue
        middle = float(np.median(strength[seen]))
        most = strong * middle
        weight = _around(seen.astype(np.float32), _USUAL_MM * sight.fine)
        mean = _around(np.minimum(strength, most) * seen, _USUAL_MM * sight.fine)
        # Where nothing was looked at it is as usual.
        mean = np.where(weight > 0.02, mean / np.maximum(weight, 0.02), middle)
        out[kind] = np.maximum(mean, _GRAIN)[kind]
    return out


def _is_strand(
    line: Line, lab: Array, core: Mask, far: Array, skin: Array, lies: Array, sight: _Sight
) -> bool:
    """Whether a line is a strand: long enough for where it lies, and no edge between two things."""
    mm = length(line) / sight.fine
    j, k = (np.clip(np.round(line[:, c]).astype(int), 0, sight.shape[c] - 1) for c in (0, 1))
    inside = core[j, k]
    away = far[j, k]
    # Ends of the hair lie on the skin beside it.
    on_skin = (skin[j, k] > 0.5)[~inside].mean() > 0.5 if not inside.all() else False
    if inside.mean() > _INSIDE:
        if mm < _ACROSS_MM or _along(line, lies):
            return False
    elif on_skin:
        if mm < _HANGS_MM or away.max() < _FROM_HAIR_MM:
            return False
    elif mm < _LONG_MM or away.max() < _OUT_MM:
        return False
    return is_ridge(line, lab, max(2.0, _SIDE_MM * sight.fine), _BOTH)


def _along(line: Line, lies: Array) -> bool:
    """Whether a line runs along the hair for the most part."""
    way = np.gradient(line, axis=0)
    j, k = np.round(line).astype(int).T
    apart = np.abs(np.arctan2(way[:, 0], way[:, 1]) - lies[j, k]) % np.pi
    return bool(np.median(np.minimum(apart, np.pi - apart)) < _APART)


def _on_original(line: Line, sight: _Sight) -> Loose:
    thin = cv2.approxPolyDP(line[:, None].astype(np.float32), _EXACT, False)[:, 0]
    whole = (thin[:, ::-1] + 0.5) / sight.k + (sight.rect.x0, sight.rect.y0)
    path = tuple((round(float(x), 1), round(float(y), 1)) for x, y in whole)
    return Loose(path, max(1.5, _HALF / sight.k))
