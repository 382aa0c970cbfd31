"""White balance: the light's temperature and tint, and plain warmer or cooler."""

from __future__ import annotations

from functools import lru_cache

from retouch.colour.arrays import Working
from retouch.colour.linear import through
from retouch.colour.white import COOLEST, WARMEST, Light, Matrix, adaptation, warmed
from retouch.passes.of_picture import CONES, OWN_LIGHT, cones, own_light
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Pixels, Place, Values

# A step of tint in Duv.
TINT = 0.001


def taken_light(values: Values) -> Light:
    """The light that the settings say the picture was taken in."""
    kelvin, tint, warmth = (float(values[n]) for n in ("temperature_k", "tint", "warmth"))
    own = own_light(values)
    if warmth:
        kelvin = warmed(kelvin, warmth / 100)
    return Light(kelvin, own.duv + TINT * tint)


@lru_cache(maxsize=64)
def _matrix(taken: Light, own: Light, flat: tuple[float, ...]) -> Matrix:
    return adaptation(taken, own, cones(dict(zip((s.name for s in CONES), flat, strict=True))))


def _balanced(image: Working, values: Values, place: Place) -> Array:
    taken, own = taken_light(values), own_light(values)
    if taken == own:
        return place.own(image)
    flat = tuple(float(values[s.name]) for s in CONES)
    return through(place.own(image), _matrix(taken, own, flat))


WHITE_BALANCE = register(
    PassKind(
        name="white_balance",
        title="White balance",
        meaning="The colour of the light that the picture was taken in, taken out.",
        stage="look",
        settings=(
            Setting(
                "temperature_k", "Kelvin",
                "The light's temperature: a higher one makes the picture warmer.",
                low=WARMEST, high=COOLEST, default=6500.0, step=10.0, unit="K",
            ),
            Setting(
                "tint", "Tint", "Of the light: above 0 it was greenish, below 0 pinkish.",
                low=-50.0, high=50.0, step=0.5,
            ),
            Setting("warmth", "Warmer", "Plainly warmer, or cooler below 0.", low=-100.0, unit="%"),
        ),
        fitted=(*OWN_LIGHT, *CONES),
        begins=lambda fit: {"temperature_k": fit["own_kelvin"]},
        way=Pixels(_balanced, open_ended=True),
    )
)  # fmt: skip
