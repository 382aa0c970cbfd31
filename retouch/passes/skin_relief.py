"""Lines, small blemishes, and small light and dark: passes on the relief of skin."""

from __future__ import annotations

from retouch.passes.registry import Array, PassKind, Place, Values, register
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import PX_PER_MM, px_per_mm
from retouch.skin import blemish, lines
from retouch.skin.smooth import contrast_of

_LINES = (
    Setting("amount", "Amount", "How much of a line goes; a face without any looks empty.",
            default=40.0, unit="%"),
    Setting("width_mm", "Width up to", "Width of the widest lines.", low=0.2, high=6.0,
            default=1.2, step=0.1, unit="mm"),
    Setting("least", "From", "How much darker or lighter than its sides a line is.",
            low=0.1, high=10.0, default=1.1, step=0.1, unit="L*"),
    PX_PER_MM,
)  # fmt: skip
_BLEMISHES = (
    Setting("amount", "Amount", "How much of a spot's contrast goes.", default=50.0, unit="%"),
    Setting("size_mm", "Size up to", "Diameter of the largest spots.", low=0.5, high=12.0,
            default=3.0, step=0.1, unit="mm"),
    Setting("variety", "Own variety", "Differences that belong to this skin and stay.",
            low=0.0, high=10.0, default=2.0, step=0.1),
    PX_PER_MM,
)  # fmt: skip
_LEVEL = (
    Setting("amount", "Amount", "How far small light and dark places are evened.", default=30.0,
            unit="%"),
    Setting("size_mm", "Size up to", "Largest forms that are evened.", low=1.0, high=40.0,
            default=6.0, step=0.5, unit="mm"),
    Setting("guard", "Edge guard", "Keeps lashes, brows, lips and folds.", default=60.0,
            unit="%"),
    PX_PER_MM,
)  # fmt: skip


def _of(settings: Values, name: str) -> float:
    return float(settings[name])


def _softened(image: Array, settings: Values, place: Place) -> Array:
    if not settings["amount"]:
        return place.own(image)
    return lines.softened(
        image, place.rect, px_per_mm(settings) * place.scale, _of(settings, "amount") / 100,
        _of(settings, "width_mm"), _of(settings, "least"),
        inner=place.inner,
    )  # fmt: skip


def _concealed(image: Array, settings: Values, place: Place) -> Array:
    if not settings["amount"]:
        return place.own(image)
    return blemish.concealed(
        image, place.rect, px_per_mm(settings) * place.scale, _of(settings, "amount") / 100,
        _of(settings, "size_mm"), _of(settings, "variety"),
        inner=place.inner,
    )  # fmt: skip


def _levelled(image: Array, settings: Values, place: Place) -> Array:
    if not settings["amount"]:
        return place.own(image)
    return blemish.levelled(
        image, place.rect, px_per_mm(settings) * place.scale, _of(settings, "amount") / 100,
        _of(settings, "size_mm"), contrast_of(_of(settings, "guard") / 100),
        inner=place.inner,
    )  # fmt: skip


register(
    PassKind(
        name="lines",
        title="Lines",
        meaning="Crow's feet, forehead and folds softened, not taken away.",
        stage="even",
        settings=_LINES,
        pixels=_softened,
        reach=lambda s: lines.reach(px_per_mm(s), _of(s, "width_mm")),
        zones=("skin",),
    )
)
register(
    PassKind(
        name="blemishes",
        title="Soften blemishes",
        meaning="Small faint spots made fainter; marks that stay are left alone.",
        stage="even",
        settings=_BLEMISHES,
        pixels=_concealed,
        reach=lambda s: blemish.concealed_reach(px_per_mm(s), _of(s, "size_mm")),
        zones=("skin",),
        spares_marks=True,
    )
)
register(
    PassKind(
        name="even_light",
        title="Even light",
        meaning="Small light and dark places evened, as dodging and burning would.",
        stage="even",
        settings=_LEVEL,
        pixels=_levelled,
        reach=lambda s: blemish.levelled_reach(px_per_mm(s), _of(s, "size_mm")),
        zones=("skin",),
    )
)
