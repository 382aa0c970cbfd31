"""Skin bands: what lies between pores and large forms softened or strengthened, by size."""

from __future__ import annotations

import math

import numpy as np

from retouch.colour.arrays import Working
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import FITTED, px_per_mm
from retouch.passes.ways import Array, Pixels, Place, Values
from retouch.skin.grain import fresh_grain, grain_reach
from retouch.skin.smooth import (
    LEAST_SIGMA,
    Cells,
    blurred_cells,
    contrast_of,
    factor_of,
    fitted,
    reach_of,
    reduced,
    soft,
    with_band,
)

SETTINGS = (
    Setting("fine", "Fine", "Pores and fine hairs: below 0 softer, above stronger.",
            low=-100.0, high=100.0, default=0.0, unit="%"),
    Setting("middle", "Middle", "Bumps and small unevenness: below 0 softer, above stronger.",
            low=-100.0, high=100.0, default=-20.0, unit="%"),
    Setting("broad", "Broad", "Blotches: below 0 softer, above stronger.",
            low=-100.0, high=100.0, default=-10.0, unit="%"),
    Setting("fine_mm", "Fine up to", "Largest size that counts as fine.",
            low=0.1, high=2.0, default=0.6, step=0.05, unit="mm"),
    Setting("middle_mm", "Middle up to", "Largest size that counts as middle.",
            low=0.5, high=10.0, default=3.5, step=0.1, unit="mm"),
    Setting("broad_mm", "Broad up to", "Largest size that is changed at all.",
            low=2.0, high=40.0, default=12.0, step=0.5, unit="mm"),
    Setting("guard", "Edge guard", "Keeps lashes, brows, lips and strands sharp: 50 where deep "
            "lines are to be softened too, higher otherwise.", default=70.0, unit="%"),
    Setting("keep_texture", "Keep texture", "Puts back the fine band as it was.", type="switch",
            default=True),
    Setting("fresh", "Fresh texture", "New fine texture where there is less of it than around, "
            "like that of the neighbouring skin.", default=0.0, unit="%"),
    Setting("seed", "Grain", "Another number gives another grain.", low=0.0, high=9999.0,
            default=0.0),
)  # fmt: skip

# A form of some size is halved by a blur with this part of the size as its sigma.
_SIGMA_OF_SIZE = 0.5


def _sigmas(settings: Values) -> tuple[float, float, float]:
    """Blurs that part the bands, at full size; each wider than the one before."""
    sizes = [float(settings[f"{b}_mm"]) for b in ("fine", "middle", "broad")]
    scale = _SIGMA_OF_SIZE * px_per_mm(settings)
    fine, middle = sizes[0], max(sizes[1], 1.2 * sizes[0])
    return fine * scale, middle * scale, max(sizes[2], 1.2 * middle) * scale


def reach(settings: Values) -> int:
    """Pixels around a place that count."""
    sigmas = list(_sigmas(settings))
    while len(sigmas) > 1 and not settings[("fine", "middle", "broad")[len(sigmas) - 1]]:
        sigmas.pop()
    grain = grain_reach(sigmas[0]) if settings["fresh"] else 0
    return max(math.ceil(sum(reach_of(s) for s in sigmas)), grain)


def pixels(image: Working, settings: Values, place: Place) -> Array:
    amounts = [float(settings[b]) / 100 for b in ("fine", "middle", "broad")]
    if settings["keep_texture"]:
        amounts[0] = 0.0
    fresh = float(settings["fresh"]) / 100
    out = place.own(image)
    if not any(amounts) and not fresh:
        return out
    contrast = contrast_of(float(settings["guard"]) / 100)
    smoothed = _Smoothed(image, place)
    upper = out
    for n, (sigma, amount) in enumerate(zip(_sigmas(settings), amounts, strict=True)):
        if not any(amounts[n:]):
            break
        # The finest band is parted plainly: within it nothing is large enough to be an edge.
        lower = smoothed.wider(sigma * place.scale, contrast if n else None)
        if amount:
            out = with_band(out, upper, lower, np.float32(amount))
        upper = lower
    if fresh:
        grain = fresh_grain(
            image, place.rect, place.level, _sigmas(settings)[0], int(float(settings["seed"]))
        )
        out = out + np.float32(fresh) * place.own(grain)[..., None]
    return np.clip(np.asarray(out, np.float32), 0, 1)


class _Smoothed:
    """A picture smoothed wider and wider: of what lies around the wanted part its cells are enough."""

    def __init__(self, image: Working, place: Place) -> None:
        self._image, self._rect, self._inner = image, place.rect, place.inner or place.rect
        self._own = place.own(image)
        self._plainly = 0.0
        self._cells = Cells(image, place.rect, 1)

    def wider(self, sigma: float, contrast: float | None) -> Array:
        """The wanted part of what is smoothed so far, smoothed over ``sigma`` pixels more: up to edges of a
        ``contrast``, or plainly, which comes first.
        """
        if sigma < LEAST_SIGMA:
            return self._own
        if contrast is None:
            self._plainly = sigma
            self._own = soft(self._image, self._rect, sigma, self._inner)
            return self._own
        known, factor = self._cells, factor_of(sigma)
        small, cells = reduced(known.image, known.rect, factor // known.factor)
        if self._plainly:
            # Cells blurred are as good as cells of what is blurred.
            small = blurred_cells(small, self._plainly, factor)
            self._plainly = 0.0
        lines = fitted(small, sigma / factor, contrast)
        self._own = lines.at(self._own, cells, self._inner, factor)
        self._cells = Cells(lines.of_cells(small), cells, factor)
        return self._own


SKIN_BANDS = register(
    PassKind(
        name="skin_bands",
        title="Skin bands",
        meaning="Skin softened or strengthened by size; pores stay.",
        stage="even",
        settings=SETTINGS,
        fitted=FITTED,
        way=Pixels(pixels, reach),
        zones=("skin",),
    )
)
