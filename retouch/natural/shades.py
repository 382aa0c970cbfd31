"""Colour and light of a face against the original: shift, class, greyness, form, under the eyes, neck."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from retouch.colour.difference import ciede2000
from retouch.natural.pairs import EACH, LEAST_PIXELS, Array, Mask, Pair, broad
from retouch.natural.tones import Skin, skin_of

# The form of a face: light over so many mm (sigma).
_FORM_MM = 5.0
# Ears count as the face's skin, and differ from it in life.
_OTHER_SKIN = ("neck", "other_skin", "ears")
# Small light lies this much (L*) above what is broad over so many mm (sigma); less than so much of it in the
# mean is none.
_SHINE_MM, _SHINE_L, _LEAST_SHINE = 6.0, 3.0, 0.04


def median(lab: Array, where: Mask) -> Array | None:
    """The median colour of marked pixels; None where there are too few."""
    if int(where.sum()) < LEAST_PIXELS:
        return None
    some = np.flatnonzero(where)[::EACH]
    return np.asarray(np.median(lab.reshape(-1, 3)[some], axis=0), np.float32)


def shift(pair: Pair) -> float | None:
    """CIEDE2000 between the medians of the face's skin."""
    both = [median(lab, pair.skin) for lab in pair.labs]
    if both[0] is None or both[1] is None:
        return None
    return float(ciede2000(both[0][None], both[1][None])[0])


def classes(pair: Pair) -> tuple[Skin, Skin] | None:
    """The skin's class by its typology angle, before and after."""
    both = [median(lab, pair.skin) for lab in pair.labs]
    if both[0] is None or both[1] is None:
        return None
    return skin_of(pair.face, both[0].astype(np.float64)), skin_of(
        pair.face, both[1].astype(np.float64)
    )


def greyness(pair: Pair) -> float | None:
    """Chroma of the face's skin in per cent of before."""
    both = [median(lab, pair.skin) for lab in pair.labs]
    if both[0] is None or both[1] is None:
        return None
    was, now = (float(np.hypot(b[1], b[2])) for b in both)  # type: ignore[index]
    return 100 * now / max(was, 1.0)


def apart(pair: Pair) -> Iterator[tuple[str, float]]:
    """By how much more the face differs than before from each kind of other skin that is seen: its zone, CIEDE2000."""
    first, last = (median(lab, pair.skin) for lab in pair.labs)
    if first is None or last is None:
        return
    for zone in _OTHER_SKIN:
        was, now = (median(lab, pair.inside(zone)) for lab in pair.labs)
        if was is not None and now is not None:
            gaps = [float(ciede2000(f[None], o[None])[0]) for f, o in ((first, was), (last, now))]
            yield zone, gaps[1] - gaps[0]


def form(pair: Pair) -> float | None:
    """The broad range of lightness over the face (95 % less 5 %), per cent of before."""
    skin = pair.skin
    if int(skin.sum()) < LEAST_PIXELS:
        return None
    sigma = _FORM_MM * pair.px_per_mm
    weight = np.maximum(broad(skin.astype(np.float32), sigma), np.float32(1e-3))
    ranges = []
    for lab in pair.labs:
        light = broad(lab[..., 0] * skin, sigma) / weight
        low, high = np.quantile(light[skin][::EACH], (0.05, 0.95))
        ranges.append(float(high - low))
    return 100 * ranges[1] / max(ranges[0], 1.0)


def shine(pair: Pair) -> float | None:
    """Small light on the face's skin in per cent of before; None where there was hardly any."""
    skin = pair.skin
    if int(skin.sum()) < LEAST_PIXELS:
        return None
    weight = np.maximum(
        broad(skin.astype(np.float32), _SHINE_MM * pair.px_per_mm), np.float32(1e-3)
    )
    sums = []
    for lab in pair.labs:
        # Grain is none of it.
        light = broad(lab[..., 0], 0.4 * pair.px_per_mm)
        form_of = broad(light * skin, _SHINE_MM * pair.px_per_mm) / weight
        sums.append(float(np.maximum(light - form_of - _SHINE_L, 0)[skin].mean()))
    return 100 * sums[1] / sums[0] if sums[0] > _LEAST_SHINE else None


def under_eyes(pair: Pair) -> tuple[float, Mask] | None:
    """How much lighter than the cheek beside it the lighter of both places under the eyes is, L*, and where;
    only where it got lighter.
    """
    found: list[tuple[float, Mask]] = []
    for side in ("right", "left"):
        eye, cheek = pair.inside(f"under_eye_{side}"), pair.inside(f"cheek_{side}")
        gaps = []
        for lab in pair.labs:
            one, other = median(lab, eye), median(lab, cheek)
            if one is None or other is None:
                break
            gaps.append(float(one[0] - other[0]))
        if len(gaps) == 2 and gaps[1] > gaps[0] + 0.5:
            found.append((gaps[1] - max(gaps[0], 0.0), eye))
    return max(found, key=lambda f: f[0]) if found else None
