"""What passes on features are given by a face: colours of whites, irises and teeth, and the irises' places."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import to_lab
from retouch.face.analysis import Analysis
from retouch.face.complexion import seen
from retouch.face.iris import Iris
from retouch.features.irises import IrisPlace, find_pupil, pattern_of
from retouch.geometry import Rect, union_all
from retouch.picture import Pyramid
from retouch.zone_names import REGION_TITLES, members

Lab = tuple[float, float, float]

# Fewer places than these say nothing of a zone's colour.
_LEAST = 12
# An iris is looked at up to so many of its radii from the middle.
_AROUND = 1.25
# The usual part of an iris that is pupil; in smaller irises (pixels) none can be told.
_PUPIL, _LEAST_RADIUS = 0.36, 4.0
# Catchlights lie within so much of the iris and are lighter than the whites by so much (L*); those that
# are neither dim (mirrors of what is around) nor clipped tell the light's colour.
_WITHIN, _GLINT, _CLIPPED = 0.85, 8.0, (84.0, 97.0)
# Hair is looked at with so many pixels across at most.
_SIDE = 400
# Surely within a zone, as a part and of 255.
_SURE, _SURELY = 0.6, 153


@dataclass(frozen=True)
class Whites:
    """``light`` is the lightness (L*) of most of the whites, ``neutral`` the a*, b* that they are to
    be brought to, ``catchlight`` the lightness of the catchlights.
    """

    light: float
    neutral: tuple[float, float]
    catchlight: float


def whites_of(analysis: Analysis, pyramid: Pyramid, face: int) -> Whites | None:
    """The whites of both eyes; None where too little of them is seen.

    Their neutral is that of the less red and yellow parts of both whites, half-way to the colour of the
    light where catchlights show it.
    """
    if not seen_in(analysis, face, ("eye_whites",)):
        return None
    lab, _ = seen(analysis, pyramid, face, ("eye_whites",))
    if len(lab) < _LEAST:
        return None
    low, high = np.quantile(lab[:, 0], (0.35, 0.95))
    clean = lab[(lab[:, 0] >= low) & (lab[:, 0] <= high)]
    own = np.quantile(clean[:, 1:], 0.3, axis=0)
    usual = float(np.quantile(lab[:, 0], 0.75))
    found = (_glint(pyramid, i, usual + _GLINT) for i in _irises(analysis, face))
    glints = [g for g in found if g is not None]
    lightest = max((g[0] for g in glints), default=100.0)
    true = [g[1:] for g in glints if _CLIPPED[0] < g[0] < _CLIPPED[1]]
    a, b = 0.5 * (own + np.mean(true, 0)) if true else own
    return Whites(usual, (float(a), float(b)), float(lightest))


def irises_of(analysis: Analysis, pyramid: Pyramid, face: int) -> tuple[IrisPlace | None, ...]:
    """The right and the left iris; None for one that isn't seen."""
    both = _irises(analysis, face)
    pupils = [_pupil(pyramid, i) for i in both]
    parts = [p[2] / i.radius for p, i in zip(pupils, both, strict=True) if p is not None]
    part = float(np.mean(parts)) if parts else _PUPIL
    out = []
    for iris, pupil in zip(both, pupils, strict=True):
        # Both have a middle; lids hide less of a pupil.
        x, y = (pupil[0], pupil[1]) if pupil is not None else (iris.x, iris.y)
        out.append(_iris(analysis, pyramid, face, replace(iris, x=x, y=y), part))
    return tuple(out)


def teeth_of(analysis: Analysis, pyramid: Pyramid, face: int) -> Lab | None:
    """The colour of a person's teeth; None where too little of them is seen."""
    if not seen_in(analysis, face, ("teeth",)):
        return None
    lab, _ = seen(analysis, pyramid, face, ("teeth",))
    if len(lab) < _LEAST:
        return None
    # The lighter half: the rest lies in the shade of lips and cheeks.
    lit = lab[lab[:, 0] >= np.quantile(lab[:, 0], 0.4)]
    light, a, b = np.median(lit, 0)
    return float(light), float(a), float(b)


def hair_of(analysis: Analysis, pyramid: Pyramid, face: int) -> Lab | None:
    """The colour of a person's hair, without its shine and its depths; None where too little is seen."""
    rects = [a.rect for a in analysis.layers if a.zone == "hair" and a.face == face]
    if not rects or not seen_in(analysis, face, ("hair",)):
        return None
    rect = union_all(rects).clip(pyramid.picture.bounds)
    scale = min(1.0, _SIDE / max(rect.width, rect.height))
    shape = (max(1, round(rect.height * scale)), max(1, round(rect.width * scale)))
    lab = to_lab(pyramid.sampled(rect, shape))[analysis.mask(("hair",), rect, shape, face) > _SURE]
    if len(lab) < _LEAST:
        return None
    low, high = np.quantile(lab[:, 0], (0.2, 0.8))
    light, a, b = np.median(lab[(lab[:, 0] >= low) & (lab[:, 0] <= high)], 0)
    return float(light), float(a), float(b)


def seen_in(analysis: Analysis, face: int, zones: tuple[str, ...]) -> bool:
    """Whether a person's zones hold something; regions of the mesh always do."""
    if any(z in REGION_TITLES for z in zones):
        return True
    parts = {part for z in zones for part in members(z)}
    return any(
        a.zone in parts and a.face == face and not a.rect.empty and int(a.mask.max()) > _SURELY
        for a in analysis.layers
    )


def _irises(analysis: Analysis, face: int) -> tuple[Iris, Iris]:
    one = analysis.faces[face]
    return one.right_iris, one.left_iris


def _around(iris: Iris, pyramid: Pyramid) -> Rect:
    r = _AROUND * iris.radius
    rect = Rect(int(iris.x - r), int(iris.y - r), int(iris.x + r) + 1, int(iris.y + r) + 1)
    return rect.clip(pyramid.picture.bounds)


def _away(rect: Rect, iris: Iris) -> NDArray[np.float32]:
    xs, ys = np.arange(rect.x0, rect.x1) + 0.5, np.arange(rect.y0, rect.y1) + 0.5
    out = np.hypot(xs[None] - iris.x, ys[:, None] - iris.y) / max(iris.radius, 0.5)
    return np.asarray(out, np.float32)


def _glint(pyramid: Pyramid, iris: Iris, least: float) -> NDArray[np.float32] | None:
    """CIELAB of an iris' catchlight, lighter than ``least`` (L*)."""
    rect = _around(iris, pyramid)
    if rect.empty:
        return None
    lab = to_lab(pyramid.crop(rect, 0))[_away(rect, iris) < _WITHIN]
    lit = lab[lab[:, 0] > least]
    return np.asarray(np.median(lit, 0), np.float32) if len(lit) else None


def _pupil(pyramid: Pyramid, iris: Iris) -> tuple[float, float, float] | None:
    """Middle and radius of a pupil in pixels of the original; None where none stands out."""
    rect = _around(iris, pyramid)
    if rect.empty or iris.radius < _LEAST_RADIUS:
        return None
    light = np.ascontiguousarray(to_lab(pyramid.crop(rect, 0))[..., 0])
    found = find_pupil(light, iris.x - rect.x0, iris.y - rect.y0, iris.radius)
    return None if found is None else (rect.x0 + found[0], rect.y0 + found[1], found[2])


def _iris(
    analysis: Analysis, pyramid: Pyramid, face: int, iris: Iris, pupil: float
) -> IrisPlace | None:
    rect = _around(iris, pyramid)
    if rect.empty or iris.radius < 1:
        return None
    inside = analysis.mask(("irises",), rect, (rect.height, rect.width), face) > _SURE
    if not inside.any():
        return None
    away = np.where(inside, _away(rect, iris), 9.0)
    lab = pattern_of(to_lab(pyramid.crop(rect, 0)), away, pupil)
    return None if lab is None else IrisPlace(iris.x, iris.y, iris.radius, pupil, lab)
