"""Lines, small blemishes, and small light and dark: passes on the relief of skin."""

from __future__ import annotations

from retouch.colour.arrays import Working
from retouch.passes.on_skin import on_skin
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import FITTED, part, px_per_mm
from retouch.passes.ways import Array, Place, Values
from retouch.skin import blemish, lines
from retouch.skin.smooth import contrast_of

_LINES = (
    Setting("amount", "Amount", "How much of a line goes; a face without any looks empty.",
            default=40.0, unit="%"),
    Setting("width_mm", "Width up to", "Width of the widest lines.", low=0.2, high=6.0,
            default=1.2, step=0.1, unit="mm"),
    Setting("least", "From", "How much darker or lighter than its sides a line is.",
            low=0.1, high=10.0, default=1.1, step=0.1, unit="L*"),
)  # fmt: skip
_BLEMISHES = (
    Setting("amount", "Amount", "How much of a spot's contrast goes.", default=50.0, unit="%"),
    Setting("size_mm", "Size up to", "Diameter of the largest spots.", low=0.5, high=12.0,
            default=3.0, step=0.1, unit="mm"),
    Setting("variety", "Own variety", "Differences that belong to this skin and stay.",
            low=0.0, high=10.0, default=2.0, step=0.1),
)  # fmt: skip
_LEVEL = (
    Setting("amount", "Amount", "How far small light and dark places are evened.", default=30.0,
            unit="%"),
    Setting("size_mm", "Size up to", "Largest forms that are evened.", low=1.0, high=40.0,
            default=6.0, step=0.5, unit="mm"),
    Setting("guard", "Edge guard", "Keeps lashes, brows, lips and folds.", default=60.0,
            unit="%"),
)  # fmt: skip


def _of(settings: Values, name: str) -> float:
    return float(settings[name])


def _softened(image: Working, settings: Values, place: Place, scale: float) -> Array:
    return lines.softened(
        image, place.rect, scale, part(settings, "amount"), _of(settings, "width_mm"),
        _of(settings, "least"), inner=place.inner,
    )  # fmt: skip


def _concealed(image: Working, settings: Values, place: Place, scale: float) -> Array:
    return blemish.concealed(
        image, place.rect, scale, part(settings, "amount"), _of(settings, "size_mm"),
        _of(settings, "variety"), inner=place.inner,
    )  # fmt: skip


def _levelled(image: Working, settings: Values, place: Place, scale: float) -> Array:
    return blemish.levelled(
        image, place.rect, scale, part(settings, "amount"), _of(settings, "size_mm"),
        contrast_of(part(settings, "guard")), inner=place.inner,
    )  # fmt: skip


on_skin(
    "lines",
    "Lines",
    "Crow's feet, forehead and folds softened, not taken away.",
    _LINES,
    FITTED,
    _softened,
    reach=lambda s: lines.reach(px_per_mm(s), _of(s, "width_mm")),
    finds=True,
)
on_skin(
    "blemishes",
    "Soften blemishes",
    "Small faint spots made fainter; marks that stay are left alone.",
    _BLEMISHES,
    FITTED,
    _concealed,
    reach=lambda s: blemish.concealed_reach(px_per_mm(s), _of(s, "size_mm")),
    spares_marks=True,
    finds=True,
)
on_skin(
    "even_light",
    "Even light",
    "Small light and dark places evened, as dodging and burning would.",
    _LEVEL,
    FITTED,
    _levelled,
    reach=lambda s: blemish.levelled_reach(px_per_mm(s), _of(s, "size_mm")),
)
