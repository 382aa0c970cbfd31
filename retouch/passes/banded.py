"""Touches that work in one band of detail and leave the others as they are."""

from __future__ import annotations

from retouch.bands import BANDS, PARTS, Sizes, band, margin
from retouch.geometry import Rect
from retouch.passes.elsewhere import Both
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import PX_PER_MM
from retouch.passes.ways import Reader, Values

# Bands around 0 are lifted to the middle of the range while they are worked on.
_MIDDLE = 0.5

SETTINGS = (
    Setting("band", "Works in", "The whole picture, one band of detail by size, or its tone or "
            "detail alone; the rest stays as it is.", type="choice", default="all",
            choices=("all", *BANDS, *PARTS)),
    Setting("divide_mm", "Divide at", "Size at which tone and detail divide.", low=0.1, high=20.0,
            default=1.0, step=0.1, unit="mm"),
)  # fmt: skip
FITTED = (PX_PER_MM,)


def sizes_of(settings: Values) -> Sizes:
    """The sizes that a pass's settings name."""
    return Sizes(float(settings["px_per_mm"]), float(settings["divide_mm"]))


def banded(read: Reader, settings: Values, bounds: Rect) -> Reader:
    """A reader of the band that a pass works in; ``read`` itself where it works in all."""
    name = str(settings.get("band", "all"))
    if name == "all":
        return read
    sizes = sizes_of(settings)
    lift = 0.0 if name in ("light", "tone") else _MIDDLE

    def of_band(whole: Reader) -> Reader:
        return lambda rect: band(whole, rect, bounds, name, sizes) + lift

    if isinstance(read, Both):
        return Both(of_band(read), of_band(read.other))
    return of_band(read)


def banded_reads(rects: list[Rect], settings: Values, bounds: Rect) -> list[Rect]:
    """What has to be read to know the band over rectangles."""
    name = str(settings.get("band", "all"))
    if name == "all":
        return rects
    # Reduced grids are aligned, so a little more than the margin.
    by = 2 * margin(name, sizes_of(settings))
    return [r.grow(by).clip(bounds) for r in rects]
