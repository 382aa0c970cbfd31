"""How passes on skin are declared: what they share is said once."""

from __future__ import annotations

from collections.abc import Callable

from retouch.colour.arrays import Working
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import px_per_mm
from retouch.passes.ways import Array, Broad, Pixels, Place, Values

# (image, settings, place, pixels in a millimetre at the place's level) -> the wanted part.
Make = Callable[[Array, Values, Place, float], Array]


def acting(acts: tuple[str, ...], make: Make) -> Callable[[Array, Values, Place], Array]:
    """Pixels of a pass whose settings ``acts`` at 0 change nothing, bit for bit; ``make`` gives the
    wanted part.
    """

    def pixels(image: Working, values: Values, place: Place) -> Array:
        if not any(values[n] for n in acts):
            return place.own(image)
        return make(image, values, place, px_per_mm(values) * place.scale)

    return pixels


def on_skin(
    name: str,
    title: str,
    meaning: str,
    settings: tuple[Setting, ...],
    fitted: tuple[Setting, ...],
    make: Make,
    reach: Callable[[Values], int] = lambda settings: 0,
    broad: Callable[[Values], Broad | None] = lambda settings: None,
    acts: tuple[str, ...] = ("amount",),
    zones: tuple[str, ...] = ("skin",),
    besides: tuple[str, ...] = (),
    spares_marks: bool = False,
    finds: bool = False,
) -> PassKind:
    """Register a pass of the stage Even.

    With all of the settings ``acts`` at 0 it changes nothing, bit for bit. The rest is as in
    `PassKind`.
    """
    return register(
        PassKind(
            name=name,
            title=title,
            meaning=meaning,
            stage="even",
            settings=settings,
            fitted=fitted,
            way=Pixels(acting(acts, make), reach, broad),
            zones=zones,
            besides=besides,
            spares_marks=spares_marks,
            finds=finds,
        )
    )
