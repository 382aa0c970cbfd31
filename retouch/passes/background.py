"""Background: what lies behind the person blurred, darkened, recoloured or replaced, cut hair by hair."""

from __future__ import annotations

import numpy as np

from retouch.colour.arrays import Working
from retouch.colour.lab import from_lab
from retouch.colour.linear import decoded, encoded
from retouch.finish import behind, matte
from retouch.geometry import Rect
from retouch.passes.of_picture import HEIGHT, LONG_SIDE, WIDTH
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import PX_PER_MM, lab_of, px_per_mm
from retouch.passes.ways import Array, Pixels, Place, Values, Whole
from retouch.processors import PARTS, at_once, edges

WAYS = ("blur", "darken", "recolour", "colour", "gradient", "picture", "transparent")
# Stops of light at full amount.
_MOST_STOPS = 4.0
_WALL = (
    Setting("wall_l", "Wall L*", "Lightness of the background, as found.", default=50.0, step=0.1, auto="wall_l"),
    Setting("wall_a", "Wall a*", "Its place between green and red.", low=-100.0, step=0.1, auto="wall_a"),
    Setting("wall_b", "Wall b*", "Its place between blue and yellow.", low=-100.0, step=0.1, auto="wall_b"),
)  # fmt: skip


def _for(*ways: str) -> tuple[str, tuple[str, ...]]:
    return "way", ways


def _band(values: Values) -> float:
    return float(values["hair_mm"]) * px_per_mm(values)


def _radius(values: Values) -> float:
    return (
        float(values["long_px"]) * float(values["radius"]) / 100 if values["way"] == "blur" else 0.0
    )


def _reach(values: Values) -> int:
    radius = _radius(values)
    return behind.reach(radius) if radius >= behind.LEAST else 0


def _level(values: Values, bounds: Rect) -> int:
    return matte.level_of(_band(values), (bounds.width, bounds.height))


def _learnt(image: Working, values: Values, place: Place) -> matte.Matte:
    # Where nothing is said to be the person, all of it lies behind.
    cover = place.cover
    person = np.zeros(image.shape[:2], np.float32) if cover is None else 1 - cover
    band = _band(values) * place.scale
    return matte.matte(image, person, band, place.level, place.hairy, place.hand)


def _plain(own: Array, values: Values, place: Place, part: Rect) -> Array:
    """What is shown behind the person in a part, of the ways that look at nothing around."""
    way = values["way"]
    if way == "transparent":
        return np.ones_like(own)
    if way == "darken":
        light = decoded(np.clip(own, 0, 1).astype(np.float32))
        return encoded(light * np.float32(2.0 ** (-_MOST_STOPS * float(values["darker"]) / 100)))
    if way == "picture":
        return _backdrop(values, place, part)
    hue, chroma = float(values["hue"]), float(values["chroma"])
    if way == "recolour":
        return behind.recoloured(own, float(values["light"]), hue, chroma, lab_of(values, "wall"))
    top, low = float(values["light"]), float(values["light_below"])
    if way == "colour":
        low = top
    # Of the original, so that it is the same in every view.
    tall = max(float(values["tall_px"]) * place.scale, 1.0)
    y = (np.arange(part.height, dtype=np.float32) + np.float32(part.y0 + 0.5)) / np.float32(tall)
    light = top + (low - top) * np.clip(y, 0, 1)
    angle = np.radians(hue)
    lab = np.zeros((part.height, 1, 3), np.float32)
    lab[..., 0] = light[:, None]
    lab[..., 1], lab[..., 2] = chroma * np.cos(angle), chroma * np.sin(angle)
    return np.asarray(np.broadcast_to(from_lab(lab), own.shape))


def _backdrop(values: Values, place: Place, part: Rect) -> Array:
    """A part of another picture that covers all of this one, its middle on this one's."""
    assert place.others is not None
    other = place.others(str(values["picture"]))
    size = (float(values["wide_px"]), float(values["tall_px"]))
    return behind.covering(other, size, part, place.scale)


def _strips(part: Rect) -> list[Rect]:
    """A part in rows that are worked out at the same time."""
    count = max(1, min(4 * PARTS, part.height // 32))
    return [Rect(part.x0, y0, part.x1, y1) for y0, y1 in edges(part.y0, part.y1, count)]


def _opacity(image: Working, values: Values, place: Place) -> Array | None:
    if values["way"] != "transparent":
        return None

    def tell(part: Rect) -> Array:
        return _alpha(image, place, part)

    return np.concatenate(at_once(tell, _strips(place.wanted)))


def _alpha(image: Working, place: Place, part: Rect) -> Array:
    found: matte.Matte = place.whole
    return found.alpha(image[part.within(place.rect)], part, place.level)


def _made(image: Working, values: Values, place: Place) -> Array:
    if values["way"] == "picture" and not values["picture"]:
        # None is chosen yet.
        return place.own(image)
    found: matte.Matte = place.whole
    radius = _radius(values) * place.scale
    # A lens looks around: it is told how much lies behind wherever it does.
    looked = place.wanted.grow(behind.reach(radius)).clip(place.rect)
    alpha = np.empty((looked.height, looked.width), np.float32)

    def tell(part: Rect) -> None:
        alpha[part.within(looked)] = _alpha(image, place, part)

    at_once(tell, _strips(looked))
    blurred = values["way"] == "blur"
    lens: behind.Lens | None = None
    if blurred and radius >= behind.LEAST:
        image_there = image[looked.within(place.rect)]
        tall = max(float(values["tall_px"]) * place.scale, 1.0)
        lens = behind.lens(
            image_there, 1 - alpha, looked, radius, float(values["nearer"]) / 100, tall
        )
    out = np.empty((place.wanted.height, place.wanted.width, 3), np.float32)

    def lay(part: Rect) -> None:
        own = np.asarray(image[part.within(place.rect)], np.float32)
        a = alpha[part.within(looked)]
        if a.min() >= 1 or (blurred and lens is None):
            out[part.within(place.wanted)] = own
            return
        back = _plain(own, values, place, part) if lens is None else lens.over(own, part)
        colours, share = found.own(own, a, part, place.level), a[..., None]
        laid = share * colours + (1 - share) * back
        out[part.within(place.wanted)] = np.where(share >= 1, own, laid)

    at_once(lay, _strips(place.wanted))
    return out


BACKGROUND = register(
    PassKind(
        name="background",
        title="Background",
        meaning="Behind the person: out of focus, darker, recoloured, or one colour; cut hair by hair.",
        stage="finish",
        settings=(
            Setting("way", "Becomes", "What becomes of the background.", type="choice", default="blur", choices=WAYS),
            Setting("radius", "Blur", "Radius of the lens's disc, as part of the picture's longer side.", low=0.05,
                    high=3.0, default=0.8, step=0.05, unit="%", when=_for("blur")),
            Setting("nearer", "Nearer", "How much less it is blurred at the bottom of the picture, where floors and "
                    "shoulders are nearer.", unit="%", when=_for("blur")),
            Setting("darker", "Darker", "Less light behind the person.", default=30.0, unit="%", when=_for("darken")),
            Setting("picture", "Picture", "One of the portraits, laid behind so that it covers all.", type="picture",
                    default="", when=_for("picture")),
            Setting("light", "Lightness", "Of the colour, at the top of a gradient.", default=60.0, unit="L*",
                    when=_for("recolour", "colour", "gradient")),
            Setting("light_below", "Below", "Lightness at the bottom of a gradient.", default=30.0, unit="L*",
                    when=_for("gradient")),
            Setting("hue", "Colour", "In CIELAB: 0 pink, 60 brown, 90 yellow, 150 green, 250 blue, 310 violet.",
                    high=360.0, default=250.0, unit="°", when=_for("recolour", "colour", "gradient")),
            Setting("chroma", "Its strength", "Chroma of the colour; 0 is grey.", high=80.0, default=12.0, unit="C*",
                    when=_for("recolour", "colour", "gradient")),
            Setting("hair_mm", "Hair", "How far from the outline hair is looked for.", low=0.5, high=30.0,
                    default=6.0, step=0.5, unit="mm"),
        ),
        fitted=(PX_PER_MM, LONG_SIDE, *_WALL, HEIGHT, WIDTH),
        zones=("background",),
        way=Pixels(_made, _reach, cut=True, opacity=_opacity, whole=Whole(_level, _learnt)),
    )
)  # fmt: skip
