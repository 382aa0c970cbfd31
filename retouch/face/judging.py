"""What a blob on the skin is made of, whether it is a closed spot, and what to do about it.

Two pigments colour skin. Haemoglobin absorbs green and hardly red, melanin absorbs both: so a
rise of log(R/G) alone is blood (inflamed, temporary), a fall of log R with it is melanin (mole,
freckle, permanent). The indices are those of reflectance meters: J. B. Dawson et al., *A
theoretical and experimental study of light absorption and scattering by in vivo skin*, Phys.
Med. Biol. 25 (1980); B. L. Diffey, R. J. Oliver, P. M. Farr, *A portable instrument for
quantifying erythema*, Br. J. Dermatol. 111 (1984).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.face.blobs import LEAST_CONTRAST, ON_SKIN, Blob, certainty

Array = NDArray[np.float32]
Kind = Literal["red", "dark", "light", "raised"]
Decision = Literal["clear", "keep", "ask"]

# Share of blood in a mark's contrast: above is temporary, below permanent, between unsure.
_BLOOD, _PIGMENT = 0.6, 0.5
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
# Above this radius a place without colour of its own is a form of the face, lit or in shade.
_FORM_MM, _TINT = 1.7, 0.25
RIM_MM = 1.1
# A highlight lies on an inflamed spot if all around it so much redness is left (nat. logarithm).
_GLINT_RED = 0.06
# What is healed unasked is seen on at least so many pixels (radius), in at least so many per
# millimetre: below, a pore and a blemish are the same few pixels.
_LEAST_RADIUS, LEAST_SCALE = 1.4, 2.4
# Darker in green light than this (natural logarithm) are hairs and holes, unless it is so surely blood.
_DARKEST, _SURELY_BLOOD = 0.8, 0.7
# Sectors of the ring around a spot; the ring in its radii. A fold or an edge runs on in some of
# them; around a closed spot all are alike.
_SECTORS, _RING = 8, (1.3, 2.2)
# Confidence of an offer: a logistic curve over how far it stands out (logarithm of ten spreads),
# how much of it runs on in a sector of its ring, and its radius (logarithm of two pixels), fitted
# on the nine demo people and rounded. With each person left out in turn, offers said with a half and
# more were blemishes in 89 of 100 cases, with 0.9 and more in 98; the benchmark scores the same people.
_OFFER, _STANDS_OUT, _RUNS_ON, _SIZE = 1.65, 3.3, -1.25, 0.7


@dataclass(frozen=True)
class Mark:
    """A mark: centre and radii in pixels of the original (of the judged picture, in `judge`).

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


@compiled
def _runs_on(
    signal: Array, on: NDArray[np.bool_], x: float, y: float, r: float, inner: float, outer: float
) -> float:
    """The part of a core's height that the highest sector of its ring still has, 0..1.5.

    0 where the ring is even all around; 1 where a line or an area goes on as high as the core.
    """
    sums, counts = np.zeros(_SECTORS), np.zeros(_SECTORS)
    core, within = 0.0, 0
    h, w = signal.shape
    for i in range(max(int(y - outer * r), 0), min(int(y + outer * r) + 2, h)):
        for j in range(max(int(x - outer * r), 0), min(int(x + outer * r) + 2, w)):
            dx, dy = j + 0.5 - x, i + 0.5 - y
            d = np.sqrt(dx * dx + dy * dy)
            if d <= max(0.55 * r, 0.8):
                core += signal[i, j]
                within += 1
            if inner * r < d < outer * r and on[i, j]:
                at = (np.arctan2(dy, dx) / (2 * np.pi) + 1.0) * _SECTORS
                # A pixel counts in its sector and, at its border, in the next.
                for side in (-0.15, 0.15):
                    k = int(at + side + 0.5) % _SECTORS
                    sums[k] += signal[i, j]
                    counts[k] += 1
    low, high = np.inf, -np.inf
    for k in range(_SECTORS):
        if counts[k] >= 2:
            low = min(low, sums[k] / counts[k])
            high = max(high, sums[k] / counts[k])
    if within == 0 or low > high:
        return 1.5
    height = core / within - low
    if height < 1e-3:
        return 1.5
    return min(max((high - low) / height, 0.0), 1.5)


def _median(values: Array) -> float:
    """The middle value of a few: `numpy.median` takes ten times as long."""
    middle = len(values) // 2
    return float(np.partition(values, middle)[middle])


def _medians(colours: Array) -> Array:
    middle = len(colours) // 2
    return np.asarray(np.partition(colours, middle, axis=0)[middle], np.float32)


def offer_confidence(sureness: float, runs_on: float, radius_px: float) -> float:
    """How surely a red spot is a blemish, 0..1: of those said with 0.9, nine in ten are."""
    z = (
        _OFFER
        + _STANDS_OUT * np.log(max(sureness, 1e-3) / 10)
        + _RUNS_ON * runs_on
        + _SIZE * np.log(min(max(radius_px, 0.9), 4.0) / 2)
    )
    return float(1 / (1 + np.exp(-z)))


def _glinting(
    redness: Array, d: Array, on: NDArray[np.bool_], r: float, calm: float, grain: float
) -> float | None:
    """The radius of the red spot around a highlight on it; None where there is none.

    What is raised and moist mirrors the light: an inflamed spot may show it in its middle.
    """
    found: float | None = None
    for t in np.arange(1.3, 3.6, 0.3):
        band = (d >= (t - 0.25) * r) & (d < (t + 0.25) * r) & on
        if band.sum() < 8:
            continue
        values = redness[band]
        if float(np.quantile(values, 0.2)) - calm > max(_GLINT_RED, grain):
            found = float(t + 0.25) * r
        elif found is not None:
            return found
    return None


def _reach(blood: Array, d: Array, around: float, height: float, grain: float) -> float:
    """How far a mark's redness goes, in its radii: to where it can't be told from the skin.

    An inflamed spot has a halo twice as wide as itself; a brush that leaves its rim out leaves a
    red ring.
    """
    steps = np.arange(0.7, _FARTHEST_HALO, 0.2)
    least = max(_HALO_PART * max(height, 1e-3), 0.012)
    order = np.argsort(d, axis=None)
    outwards, values = d.ravel()[order], blood.ravel()[order]
    begins, ends = (np.searchsorted(outwards, steps + by) for by in (-0.15, 0.15))
    ended: float | None = None
    for t, begin, end in zip(steps, begins, ends, strict=True):
        band = values[begin:end]
        if len(band) < 4:
            continue
        sure = max(least, 2 * grain / float(np.sqrt(len(band))))
        calm = _median(band) - around < sure
        # Two calm rings, not one: a highlight on a raised spot looks calm as well.
        if calm and ended is not None:
            return ended
        ended = float(t) if calm else None
    return ended if ended is not None else float(steps[-1])


def judge(logs: Array, mask: Array, blob: Blob, unit: float) -> Mark | None:
    """What a blob is: measured between its core and the skin around it.

    Parameters
    ----------
    logs : ndarray (h, w, 3) float32
        Natural logarithms of linear light.
    mask : ndarray (h, w) float32, 0..1
        The skin.
    unit : float
        Pixels per millimetre.
    """
    x, y, r, strength = blob
    half = int(np.ceil((_FARTHEST_HALO + 0.4) * r)) + 2
    x0, y0 = max(int(x) - half, 0), max(int(y) - half, 0)
    cut = np.s_[y0 : int(y) + half + 1, x0 : int(x) + half + 1]
    patch, on = logs[cut], mask[cut] > 0.5
    ys, xs = np.mgrid[: patch.shape[0], : patch.shape[1]]
    d = np.hypot(xs + x0 + 0.5 - x, ys + y0 + 0.5 - y)
    core, ring = d <= max(0.55 * r, 0.8), (d > 1.6 * r) & (d < 2.6 * r) & on
    if ring.sum() < 12 or not core.any() or on[d < 1.6 * r].mean() < ON_SKIN:
        return None
    beside = patch[ring]
    around = _medians(beside)
    off = _medians(patch[core]) - around
    grain = 1.48 * _medians(np.abs(beside - around))
    blood, pigment = float(off[0] - off[1]), float(-off[0])
    contrast = max(blood, 0.8 * float(-off[1]), 0.55 * float(off[1]))
    noise = float(np.hypot(grain[0], grain[1])) / np.sqrt(max(core.sum(), 1))
    bright = float(off[1]) > 0.03 and blood < 0.06
    if contrast < max(LEAST_CONTRAST, 1.5 * noise):
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
    calm = _median(redness[far if far.sum() > 12 else ring])
    red = redness[ring]
    noise_red = 1.48 * _median(np.abs(red - _median(red)))
    reach = _reach(redness, d / r, calm, max(blood, flush), noise_red)
    left, right = (patch[..., 1][(d < 1.3 * r) & side] for side in (xs + x0 < x, xs + x0 >= x))
    up, down = (patch[..., 1][(d < 1.3 * r) & side] for side in (ys + y0 < y, ys + y0 >= y))
    tilt = max(
        abs(float(np.mean(a)) - float(np.mean(b))) if len(a) and len(b) else 0.0
        for a, b in ((left, right), (up, down))
    )
    if bright and (ring_r := _glinting(redness, d, on, r, calm, noise_red)) is not None:
        # The rest is measured over the spot that carries the highlight.
        inner = (d > 1.2 * r) & (d < ring_r) & on
        disc = patch[inner].mean(0) - np.median(patch[(d > 1.2 * ring_r) & on], 0)
        blood = float(disc[0] - disc[1])
        share = float(np.clip(blood / (abs(blood) + max(float(-disc[0]), 0) + 1e-6), 0, 1))
        contrast, bright = max(blood, 0.8 * float(-disc[1])), False
        reach, r = 1.6, ring_r
    kind: Kind = "light" if bright else "red" if share > _BLOOD else "dark"
    halo = redness[(d >= 1.5 * r) & (d < 2 * r) & on]
    inflamed = (
        len(halo) > 3
        and _median(halo) - calm > _RED_HALO
        and _median(redness[core]) - calm > _RED_CORE
    )
    if kind == "dark" and inflamed and r < _CORE_MM * unit:
        kind = "red"
    if kind != "red" and tilt > 0.8 * contrast and tilt > 0.06:
        kind = "raised"
    # Light and shadow of the face's own forms change brightness alone; pigments change colour.
    tint = float(np.hypot(off[0] - off[1], off[0] - off[2]))
    if r > _FORM_MM * unit and (kind in ("light", "raised") or tint < _TINT * contrast):
        return None
    confidence = certainty(strength, contrast, r / unit)
    proposal: Decision
    if kind == "red":
        green = np.ascontiguousarray(-patch[..., 1])
        runs_on = _runs_on(green, on, x - x0, y - y0, r, *_RING)
        confidence = min(confidence, offer_confidence(strength, runs_on, r))
        # A larger red place is a flush: to be calmed, not to be healed away.
        ends = reach * r < _FLUSH_MM * unit or contrast > _CORE
        uneven = share > _ONLY_RED and float(patch[ring][:, 1].std()) > _UNEVEN * contrast
        bloody = float(-off[1]) < _DARKEST or share > _SURELY_BLOOD
        seen = r >= _LEAST_RADIUS and bloody
        spot = r < _LARGEST_SPOT_MM * unit and ends and not uneven and seen
        proposal = "clear" if contrast > 0.1 and spot else "ask"
    elif kind == "dark":
        proposal = "keep" if share < _PIGMENT else "ask"
    else:
        proposal = "ask"
    # The rim that was taken off the skin is skin; beyond it a brush would drag something else in.
    edge = float(d[~on].min()) + RIM_MM * unit if not on.all() else np.inf
    reach = max(1.3 * r, min(reach * r, _LARGEST_HALO_MM * unit, edge))
    return Mark(x, y, r, reach, kind, contrast, share, confidence, proposal)
