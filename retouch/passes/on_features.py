"""How passes on features are declared: what they share is said once."""

from __future__ import annotations

from collections.abc import Callable

from retouch.edit.model import Pass
from retouch.passes.on_skin import Make, acting
from retouch.passes.readings import Reads
from retouch.passes.registry import PassKind, Stage, register
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import PX_PER_MM
from retouch.passes.ways import Broad, Pixels, Values

BEYOND = Setting(
    "beyond", "Beyond the ceiling", "Lets the pass go further than what looks natural.",
    type="switch", default=False,
)  # fmt: skip


def amount(name: str, title: str, meaning: str, low: float = 0.0) -> Setting:
    """A setting in per cent that begins at 0."""
    return Setting(name, title, meaning, low=low, unit="%")


def ceiling(default: float, meaning: str, unit: str = "L*") -> Setting:
    """The setting that holds a pass back; `BEYOND` lets go of it."""
    return Setting("ceiling", "Ceiling", meaning, low=40.0, high=100.0, default=default, unit=unit)


def on_features(
    name: str,
    title: str,
    meaning: str,
    settings: tuple[Setting, ...],
    fitted: tuple[Setting, ...],
    make: Make,
    acts: tuple[str, ...],
    zones: tuple[str, ...],
    reach: Callable[[Values], int],
    reads: Reads,
    broad: Callable[[Values], Broad | None] = lambda values: None,
    last: bool = False,
    lacks: Callable[[Values], str | None] | None = None,
    upset_by: Callable[[Pass], str | None] | None = None,
    stage: Stage = "features",
) -> PassKind:
    """Register a pass on a feature, hair or cloth.

    With all of the settings ``acts`` at 0 it changes nothing, bit for
    bit. The rest is as in `PassKind`.
    """

    return register(
        PassKind(
            name=name,
            title=title,
            meaning=meaning,
            stage=stage,
            settings=settings,
            fitted=(PX_PER_MM, *fitted),
            way=Pixels(acting(acts, make), reach, broad),
            zones=zones,
            finds=True,
            reads=reads,
            by_side=True,
            last=last,
            lacks=lacks,
            upset_by=upset_by,
        )
    )
