"""Marks: spots on the skin, what they are made of, and whether they are likely to stay.

Two pigments colour skin. Haemoglobin absorbs green and hardly red, melanin absorbs both: so a
rise of log(R/G) alone is blood (inflamed, temporary), a fall of log R with it is melanin (mole,
freckle, permanent). The indices are those of reflectance meters: J. B. Dawson et al., *A
theoretical and experimental study of light absorption and scattering by in vivo skin*, Phys.
Med. Biol. 25 (1980); B. L. Diffey, R. J. Oliver, P. M. Farr, *A portable instrument for
quantifying erythema*, Br. J. Dermatol. 111 (1984). Blobs are found in scale space: T. Lindeberg,
*Feature detection with automatic scale selection*, IJCV 30 (1998).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.depth import to_float
from retouch.colour.transfer import to_linear
from retouch.geometry import Rect

Array = NDArray[np.float32]
Pixels = NDArray[np.uint8]
Kind = Literal["red", "dark", "light", "raised"]
Decision = Literal["clear", "keep", "ask"]

# Radii looked for, millimetres.
LEAST_MM, MOST_MM = 0.3, 8.0
_STEP = 1.26
# The picture is judged at no more than this many pixels per millimetre.
_WORKING_PX_PER_MM = 5.0
# Share of blood in a mark's contrast: above is temporary, below permanent, between unsure.
_BLOOD, _PIGMENT = 0.63, 0.5
# Marks less sure than this are never told apart from texture.
LEAST_CONFIDENCE = 0.05
_LEAST_CONTRAST = 0.055
# A blob falls off to all sides: the ratio of its second derivatives is above this.
_ROUND = 0.03
_NOISE = 4.0
_LEAST_SPREAD = 0.006
# Over this distance (one sigma) texture is compared.
_AROUND_MM = 6.0
_DARK = 0.004
# A dark core so red (natural logarithms of R/G), with so much redness left between one and a half
# and two of its radii, is an inflamed spot: a mole ends where its pigment ends.
_RED_CORE, _RED_HALO, _CORE_MM = 0.3, 0.1, 1.2
# Where light changes by this part of a mark's contrast around it, one that isn't darker in red
# light (that blood lets pass) can be the rim of a nostril, or hair.
_UNEVEN, _ONLY_RED = 0.75, 0.97
# Halos are looked for as far as this (radii), and end at this part of the spot's own redness.
_FARTHEST_HALO, _HALO_PART = 4.6, 0.06
# A spot that is healed away is at most so large, and so is its halo (radii, millimetres).
_LARGEST_SPOT_MM, _LARGEST_HALO_MM = 2.0, 4.2
# Redness that goes on further than this is a flush (an ear, a lid), unless a core stands out so far.
_FLUSH_MM, _CORE = 4.8, 0.25
# So much of a mark's surroundings has to be skin.
_ON_SKIN = 0.8
# Above this radius a place without colour of its own is a form of the face, lit or in shade.
_FORM_MM, _TINT = 1.7, 0.25
_RIM_MM = 1.1


@dataclass(frozen=True)
class Mark:
    """A mark: centre and radii in pixels of the original.

    ``radius`` is the spot itself, ``reach`` what a brush has to cover (its halo too); ``contrast``
    in natural logarithms of light; ``blood`` the share of haemoglobin in it, 0..1;
    ``confidence`` 0..1; ``proposal`` what is suggested.
    """

    x: float
    y: float
    radius: float
    reach: float
    kind: Kind
    contrast: float
    blood: float
    confidence: float
    proposal: Decision


def find_marks(picture: Pixels, rect: Rect, skin: Array, px_per_mm: float) -> list[Mark]:
    """Marks on the skin inside a rectangle, the clearest first.

    Parameters
    ----------
    picture : ndarray (h, w, 3) uint8
        sRGB at full size.
    rect : Rect
        Part of the picture, inside it.
    skin : ndarray (rows, cols) float32
        Mask of the skin over ``rect``, any size, 0..1.
    px_per_mm : float
        Of the original.

    Returns
    -------
    list of Mark
        All there are; `visible` thins them by sensitivity.
    """
    scale = min(1.0, _WORKING_PX_PER_MM / px_per_mm)
    part = picture[rect.y0 : rect.y1, rect.x0 : rect.x1]
    size = (max(1, round(rect.width * scale)), max(1, round(rect.height * scale)))
    if scale < 1:
        part = cv2.resize(part, size, interpolation=cv2.INTER_AREA)
    mask = cv2.resize(skin, size, interpolation=cv2.INTER_LINEAR)
    unit = px_per_mm * scale
    # The rim of the skin is no place for marks: hairs, lids and lips begin there.
    size_rim = 2 * max(1, round(_RIM_MM * unit)) + 1
    rim = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size_rim, size_rim))
    mask = cv2.erode(np.clip(mask * 1.4 - 0.3, 0, 1), rim)
    if mask.max() < 0.5 or unit < 0.8:
        return []
    logs = np.log(to_linear(to_float(part)) + np.float32(_DARK))
    logs = cv2.GaussianBlur(logs, (0, 0), max(0.12 * unit, 0.5))
    red, green = logs[..., 0], logs[..., 1]
    blood = np.ascontiguousarray(red - green)
    found = _blobs(blood, np.ascontiguousarray(green), mask, unit)
    marks = []
    for x, y, r, strength in _apart(sorted(found, key=lambda b: -b[3])):
        one = _judge(logs, mask, x, y, r, strength, unit)
        if one is not None:
            marks.append(one)
    back = rect.width / size[0]
    placed = [
        Mark(
            m.x * back + rect.x0, m.y * back + rect.y0, m.radius * back, m.reach * back,
            m.kind, m.contrast, m.blood, m.confidence, m.proposal,
        )
        for m in marks
    ]  # fmt: skip
    return sorted(
        (m for m in placed if m.confidence >= LEAST_CONFIDENCE), key=lambda m: -m.confidence
    )


def visible(marks: list[Mark], sensitivity: float) -> list[Mark]:
    """The marks that count at a sensitivity of 0..100; 50 is the default."""
    least = 1 - min(max(sensitivity, 0.0), 100.0) / 100
    return [m for m in marks if m.confidence >= max(least, LEAST_CONFIDENCE)]


def _blobs(
    blood: Array, green: Array, mask: Array, unit: float
) -> list[tuple[float, float, float, float]]:
    """Red, dark and light blobs on the skin: x, y, radius in pixels, sureness."""
    steps = int(np.log(MOST_MM / LEAST_MM) / np.log(_STEP)) + 1
    radii = [LEAST_MM * unit * _STEP**k for k in range(steps)]
    radii = [r for r in radii if r >= 0.8 and r < max(mask.shape) / 6]
    on = mask > 0.8
    if len(radii) < 3 or not on.any():
        return []
    searches = [
        _Search(0, 1.0, mask.shape),
        _Search(1, -1.0, mask.shape),
        _Search(1, 1.0, mask.shape),
    ]
    weighted = cv2.merge([blood * mask, green * mask, mask])
    smooth = []
    for k, r in enumerate(radii):
        answers, inner = _answer(weighted, r)
        smooth.append(inner)
        spreads = [_spread(a, mask, unit) for a in answers]
        for search in searches:
            answer = answers[search.channel]
            search.take(k, -answer if search.sign < 0 else answer, spreads[search.channel])
    out = []
    for search in searches:
        for x, y, k, top, sureness in search.peaks():
            # What can't become a mark isn't looked at; a blob's answer is below its contrast.
            if _confidence(sureness, 1.6 * top, radii[k] / unit) < LEAST_CONFIDENCE:
                continue
            level = smooth[k][search.channel]
            if _is_round(level, search.sign, x, y, radii[k], mask.shape):
                out.append((x + 0.5, y + 0.5, radii[k], sureness))
    return out


class _Search:
    """The clearest blob at each place so far, in one channel and one direction."""

    def __init__(self, channel: int, sign: float, shape: tuple[int, ...]) -> None:
        self.channel, self.sign = channel, sign
        self.sureness = np.zeros(shape, np.float32)
        self.top = np.zeros(shape, np.float32)
        self.best = np.zeros(shape, np.uint8)

    def take(self, k: int, answer: Array, spread: Array) -> None:
        sureness = answer / spread
        better = sureness > self.sureness
        np.copyto(self.sureness, sureness, where=better)
        np.copyto(self.top, answer, where=better)
        self.best[better] = k

    def peaks(self) -> list[tuple[int, int, int, float, float]]:
        """x, y, number of the radius, answer and sureness of each clear maximum."""
        enough = (self.top > 0.6 * _LEAST_CONTRAST) & (self.sureness > _NOISE)
        at = (self.sureness == cv2.dilate(self.sureness, np.ones((5, 5), np.uint8))) & enough
        return [
            (
                int(x),
                int(y),
                int(self.best[y, x]),
                float(self.top[y, x]),
                float(self.sureness[y, x]),
            )
            for y, x in np.argwhere(at)
        ]


def _spread(answer: Array, mask: Array, unit: float) -> Array:
    """What the skin's own texture answers around each place: a mark has to stand out from it.

    Pores are coarser on a nose, and the rim of a cheek is rougher than its middle.
    """
    factor = max(1, round(1.5 * unit))
    size = (max(4, answer.shape[1] // factor), max(4, answer.shape[0] // factor))
    on = cv2.resize(mask, size, interpolation=cv2.INTER_AREA)
    # Strong answers are marks themselves; they count no more than a middling one.
    level = np.abs(answer)
    most = 4 * float(np.median(level[mask > 0.8][::97])) + _LEAST_SPREAD
    rough = cv2.resize(np.minimum(level, most) * mask, size, interpolation=cv2.INTER_AREA)
    sigma = _AROUND_MM * unit / factor
    local = cv2.GaussianBlur(rough, (0, 0), sigma) / (cv2.GaussianBlur(on, (0, 0), sigma) + 1e-3)
    # Of normal values, the mean absolute is 0.8 of the standard deviation.
    spread = np.maximum(1.25 * local, _LEAST_SPREAD).astype(np.float32)
    return cv2.resize(spread, (answer.shape[1], answer.shape[0]), interpolation=cv2.INTER_LINEAR)


def _answer(weighted: Array, radius: float) -> tuple[list[Array], list[Array]]:
    """How much each place is a blob of that radius, per channel, and the channels smoothed.

    ``weighted`` holds the channels times the mask of the skin, and the mask as the last channel:
    what isn't skin counts for nothing (normalised convolution), so that no lip or brow makes a
    blob of its rim. Blobs of radius r answer most to a pair of blurs of 0.62 r and 1.7 times
    that. Large radii are judged on a reduced picture; the smoothed channels stay reduced.
    """
    factor = max(1, int(radius // 3.5))
    size = (weighted.shape[1], weighted.shape[0])
    small = weighted
    if factor > 1:
        shape = (max(8, size[0] // factor), max(8, size[1] // factor))
        small = cv2.resize(weighted, shape, interpolation=cv2.INTER_AREA)
    sigma = 0.62 * radius / factor
    a = cv2.split(cv2.GaussianBlur(small, (0, 0), sigma))
    b = cv2.split(cv2.GaussianBlur(small, (0, 0), 1.7 * sigma))
    near, far = 1 / (a[-1] + np.float32(1e-4)), 1 / (b[-1] + np.float32(1e-4))
    held = ((a[-1] > 0.5) & (b[-1] > _ON_SKIN)) * np.float32(1.9)
    inner = [c * near for c in a[:-1]]
    answers = [(i - c * far) * held for i, c in zip(inner, b[:-1], strict=True)]
    if factor > 1:
        answers = [cv2.resize(c, size, interpolation=cv2.INTER_LINEAR) for c in answers]
    return answers, inner


def _is_round(
    smooth: Array, sign: float, x: int, y: int, radius: float, shape: tuple[int, ...]
) -> bool:
    """Whether the smoothed channel falls off to all sides of a place (given at full size)."""
    h, w = smooth.shape
    kx, ky = w / shape[1], h / shape[0]
    x, y = int(x * kx), int(y * ky)
    step = max(1, round(0.7 * radius * kx))
    if not (step <= x < w - step and step <= y < h - step):
        return False
    c = smooth[y, x]
    xx = float(smooth[y, x + step] + smooth[y, x - step] - 2 * c)
    yy = float(smooth[y + step, x] + smooth[y - step, x] - 2 * c)
    xy = float(
        smooth[y + step, x + step] + smooth[y - step, x - step]
        - smooth[y + step, x - step] - smooth[y - step, x + step]
    ) / 4  # fmt: skip
    root = np.sqrt((xx - yy) ** 2 + 4 * xy * xy)
    both = sign * (xx + yy)
    weak, strong = (both + root) / 2, (both - root) / 2
    # Strands of hair and creases answer in bits; the smaller, the rounder a mark has to be.
    needed = _ROUND + 0.15 * float(np.clip(4 - radius, 0, 2))
    return bool(strong < 0 and weak < 0 and weak / strong > needed)


def _reach(blood: Array, d: Array, around: float, height: float, grain: float) -> float:
    """How far a mark's redness goes, in its radii: to where it can't be told from the skin.

    An inflamed spot has a halo twice as wide as itself; a brush that leaves its rim out leaves a
    red ring.
    """
    steps = np.arange(0.7, _FARTHEST_HALO, 0.2)
    least = max(_HALO_PART * max(height, 1e-3), 0.012)
    ended: float | None = None
    for t in steps:
        band = blood[(d >= t - 0.15) & (d < t + 0.15)]
        if len(band) < 4:
            continue
        sure = max(least, 2 * grain / float(np.sqrt(len(band))))
        calm = float(np.median(band)) - around < sure
        # Two calm rings, not one: a highlight on a raised spot looks calm as well.
        if calm and ended is not None:
            return ended
        ended = float(t) if calm else None
    return ended if ended is not None else float(steps[-1])


def _confidence(sureness: float, contrast: float, radius_mm: float) -> float:
    """How surely a blob is a mark and no texture, 0..1: a logistic curve, 0.5 at the default.

    It has to stand out from the skin's own texture, to be seen, and not to be as small as pores.
    """
    z = (
        1.3
        + 4.8 * np.log(max(sureness, 1e-3) / 10)
        + 1.6 * np.log(max(contrast, 1e-3) / 0.2)
        + 4.0 * np.log(min(max(radius_mm, 0.1), 1.2) / 0.5)
    )
    return float(1 / (1 + np.exp(-z)))


def _apart(
    blobs: list[tuple[float, float, float, float]],
) -> list[tuple[float, float, float, float]]:
    """The strongest of blobs that lie in one another."""
    out: list[tuple[float, float, float, float]] = []
    for blob in blobs:
        if all(np.hypot(blob[0] - o[0], blob[1] - o[1]) > 0.9 * max(blob[2], o[2]) for o in out):
            out.append(blob)
    return out


def _judge(
    logs: Array, mask: Array, x: float, y: float, r: float, strength: float, unit: float
) -> Mark | None:
    """What a blob is: measured between its core and the skin around it."""
    half = int(np.ceil((_FARTHEST_HALO + 0.4) * r)) + 2
    x0, y0 = max(int(x) - half, 0), max(int(y) - half, 0)
    cut = np.s_[y0 : int(y) + half + 1, x0 : int(x) + half + 1]
    patch, on = logs[cut], mask[cut] > 0.5
    ys, xs = np.mgrid[: patch.shape[0], : patch.shape[1]]
    d = np.hypot(xs + x0 + 0.5 - x, ys + y0 + 0.5 - y)
    core, ring = d <= max(0.55 * r, 0.8), (d > 1.6 * r) & (d < 2.6 * r) & on
    if ring.sum() < 12 or not core.any() or on[d < 1.6 * r].mean() < _ON_SKIN:
        return None
    around = np.median(patch[ring], 0)
    off = np.median(patch[core], 0) - around
    grain = 1.48 * np.median(np.abs(patch[ring] - around), 0)
    blood, pigment = float(off[0] - off[1]), float(-off[0])
    contrast = max(blood, 0.8 * float(-off[1]), 0.55 * float(off[1]))
    noise = float(np.hypot(grain[0], grain[1])) / np.sqrt(max(core.sum(), 1))
    bright = float(off[1]) > 0.03 and blood < 0.06
    if contrast < max(_LEAST_CONTRAST, 1.5 * noise):
        return None
    share = float(np.clip(blood / (abs(blood) + max(pigment, 0) + 1e-6), 0, 1))
    # An inflamed spot may carry a highlight or a crust in its middle: its red disc tells.
    rim = (d > 0.5 * r) & (d < 1.25 * r)
    disc = patch[rim].mean(0) - around if rim.any() else off
    flush = float(disc[0] - disc[1])
    if flush > 0.07:
        wide = flush / (flush + max(float(-disc[0]), 0) + 1e-6)
        if wide > share:
            share, contrast, bright = wide, max(contrast, flush), False
    redness = patch[..., 0] - patch[..., 1]
    far = (d > 3.4 * r) & on
    calm = float(np.median(redness[far if far.sum() > 12 else ring]))
    noise_red = 1.48 * float(np.median(np.abs(redness[ring] - np.median(redness[ring]))))
    reach = _reach(redness, d / r, calm, max(blood, flush), noise_red)
    left, right = (patch[..., 1][(d < 1.3 * r) & side] for side in (xs + x0 < x, xs + x0 >= x))
    up, down = (patch[..., 1][(d < 1.3 * r) & side] for side in (ys + y0 < y, ys + y0 >= y))
    tilt = max(
        abs(float(np.mean(a)) - float(np.mean(b))) if len(a) and len(b) else 0.0
        for a, b in ((left, right), (up, down))
    )
    kind: Kind = "light" if bright else "red" if share > _BLOOD else "dark"
    halo = redness[(d >= 1.5 * r) & (d < 2 * r) & on]
    inflamed = (
        len(halo) > 3
        and float(np.median(halo)) - calm > _RED_HALO
        and float(np.median(redness[core])) - calm > _RED_CORE
    )
    if kind == "dark" and inflamed and r < _CORE_MM * unit:
        kind = "red"
    if kind != "red" and tilt > 0.8 * contrast and tilt > 0.06:
        kind = "raised"
    # Light and shadow of the face's own forms change brightness alone; pigments change colour.
    tint = float(np.hypot(off[0] - off[1], off[0] - off[2]))
    if r > _FORM_MM * unit and (kind in ("light", "raised") or tint < _TINT * contrast):
        return None
    certainty = _confidence(strength, contrast, r / unit)
    proposal: Decision
    if kind == "red":
        # A larger red place is a flush: to be calmed, not to be healed away.
        ends = reach * r < _FLUSH_MM * unit or contrast > _CORE
        uneven = share > _ONLY_RED and float(patch[ring][:, 1].std()) > _UNEVEN * contrast
        spot = r < _LARGEST_SPOT_MM * unit and ends and not uneven
        proposal = "clear" if contrast > 0.1 and spot else "ask"
    elif kind == "dark":
        proposal = "keep" if share < _PIGMENT else "ask"
    else:
        proposal = "ask"
    # The rim that was taken off the skin is skin; beyond it a brush would drag something else in.
    edge = float(d[~on].min()) + _RIM_MM * unit if not on.all() else np.inf
    return Mark(
        x,
        y,
        r,
        max(1.3 * r, min(reach * r, _LARGEST_HALO_MM * unit, edge)),
        kind,
        contrast,
        share,
        certainty,
        proposal,
    )
