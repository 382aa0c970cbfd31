"""Passes of the last look: split toning, mono, soft looks, sharpening, vignette, grain; light, curves
and colour once more, above all that was retouched.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from retouch.colour.arrays import Working
from retouch.finish import grain, sharpen, soft, tones, vignette
from retouch.passes.colour import COLOUR
from retouch.passes.curves import CURVES
from retouch.passes.light import LIGHT
from retouch.passes.of_picture import LONG_SIDE
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Framed, FramePlace, Pixels, Place, Values

_HUE = "In CIELAB: 0 pink, 35 peach, 60 brown, 90 yellow, 150 green, 250 blue, 310 violet."
# What a soft look leaves clear, and by how much (per cent; common practice).
_CLEAR = (("eyes", 100.0), ("lashes", 100.0), ("brows", 80.0), ("nose", 80.0), ("lips", 100.0),
          ("teeth", 100.0), ("hair", 50.0), ("other_skin", 50.0))  # fmt: skip


def _hue(name: str, title: str, default: float) -> Setting:
    return Setting(name, title, _HUE, high=360.0, default=default, unit="°")


def _part(values: Values, name: str) -> float:
    return float(values[name]) / 100


def _tint(values: Values, name: str) -> tones.Tint:
    return tones.Tint(float(values[f"{name}_hue"]), _part(values, f"{name}_amount"))


def _split(image: Working, values: Values, place: Place) -> Array:
    lights, shadows = _tint(values, "lights"), _tint(values, "shadows")
    own = place.own(image)
    if not (lights.amount or shadows.amount):
        return own
    return tones.split_toned(own, lights, shadows, _part(values, "balance"))


def _mono(image: Working, values: Values, place: Place) -> Array:
    weights = tuple(_part(values, c) for c in ("red", "green", "blue"))
    by_hue = {name: _part(values, name) for name in tones.HUES}
    return tones.mono(place.own(image), weights, by_hue, _tint(values, "tone"))  # type: ignore[arg-type]


def _spread(values: Values) -> float:
    return soft.sigma_of(float(values["long_px"]), float(values["spread"]))


def _soft(image: Working, values: Values, place: Place) -> Array:
    return soft.softened(
        image, place.rect, place.wanted, _spread(values) * place.scale, _part(values, "glow"),
        _part(values, "mist"), _part(values, "above"),
    )  # fmt: skip


def _sharpened(image: Working, values: Values, place: Place) -> Array:
    amount = _part(values, "amount")
    radius = float(values["radius_px"]) * place.scale
    # What is finer than a pixel of the view isn't seen in it.
    if not amount or radius < 0.2:
        return place.own(image)
    out = sharpen.sharpened(
        image, amount, radius, float(values["threshold"]), _part(values, "halo")
    )
    return place.own(out)


def _axes(image: Working, place: FramePlace) -> tuple[Array, Array]:
    h, w = image.shape[:2]
    xs = place.x + (np.arange(w, dtype=np.float32) + np.float32(0.5)) / np.float32(place.scale)
    ys = place.y + (np.arange(h, dtype=np.float32) + np.float32(0.5)) / np.float32(place.scale)
    return xs, ys


def _vignetted(image: Working, values: Values, place: FramePlace) -> Array:
    one = vignette.Vignette(
        *(_part(values, n) for n in ("amount", "begins", "softness", "form", "x", "y", "spare"))
    )
    if not one.amount:
        return image
    share = vignette.weight(one, *_axes(image, place), place.width, place.height)
    return vignette.laid(image, one, share)


def _grain_px(values: Values, place: FramePlace) -> float:
    """The size of a grain in pixels of the framed picture."""
    if values["measured"] == "pixels":
        return float(values["size_px"])
    per_mm = max(place.width, place.height) / (10 * float(values["print_cm"]))
    return float(values["size_mm"]) * per_mm


def _grained(image: Working, values: Values, place: FramePlace) -> Array:
    return grain.grained(
        image, (place.x, place.y), place.scale, _part(values, "amount"), _grain_px(values, place),
        _part(values, "colour"), _part(values, "tones"), int(float(values["seed"])),
    )  # fmt: skip


SPLIT = register(
    PassKind(
        name="split_toning",
        title="Split toning",
        meaning="A colour for the lights and one for the shadows; lightness stays.",
        stage="finish",
        settings=(
            _hue("lights_hue", "Lights", 75.0),
            Setting("lights_amount", "In the lights", "How much of it.", unit="%"),
            _hue("shadows_hue", "Shadows", 250.0),
            Setting("shadows_amount", "In the shadows", "How much of it.", unit="%"),
            Setting("balance", "Balance", "Above 0 the lights' colour reaches further down.",
                    low=-100.0),
        ),
        way=Pixels(_split),
    )
)  # fmt: skip
MONO = register(
    PassKind(
        name="mono",
        title="Mono",
        meaning="Without colour: by channels, lighter or darker by colours, toned.",
        stage="finish",
        settings=(
            # More red than eyes see: skin comes out light and calm (common practice).
            Setting("red", "Red", "Part of the red channel.", low=-100.0, high=200.0, default=45.0, unit="%"),
            Setting("green", "Green", "Part of the green channel.", low=-100.0, high=200.0, default=45.0, unit="%"),
            Setting("blue", "Blue", "Part of the blue channel.", low=-100.0, high=200.0, default=10.0, unit="%"),
            *(
                Setting(name, name.capitalize(), f"What is {name.removesuffix('s')} lighter or darker.", low=-100.0)
                for name in tones.HUES
            ),
            _hue("tone_hue", "Tone", 75.0),
            Setting("tone_amount", "Toned", "How much of the tone is laid over it.", unit="%"),
        ),
        way=Pixels(_mono),
    )
)  # fmt: skip
SOFT = register(
    PassKind(
        name="soft_look",
        title="Soft look",
        meaning="Light that spreads around what is bright, or mist; eyes and mouth stay clear.",
        stage="finish",
        settings=(
            Setting("glow", "Glow", "How much lights spread.", unit="%"),
            Setting("mist", "Mist", "Everything softer and paler.", unit="%"),
            Setting("spread", "Spread", "How far, as part of the picture's longer side.", low=0.1, high=4.0,
                    default=1.0, step=0.05, unit="%"),
            Setting("above", "From", "What is brighter than this glows.", default=45.0, unit="%"),
        ),
        fitted=(LONG_SIDE,),
        clears=_CLEAR,
        way=Pixels(_soft, lambda values: soft.reach(_spread(values))),
    )
)  # fmt: skip
SHARPEN = register(
    PassKind(
        name="sharpen",
        title="Sharpening",
        meaning="Eyes, lashes, brows, lips, hair and what is worn sharper, without halos; skin stays as it is.",
        stage="finish",
        settings=(
            Setting("amount", "Amount", "How much.", default=40.0, unit="%"),
            Setting("radius_px", "Radius", "How fine.", low=0.3, high=8.0, default=1.0, step=0.1, unit="px"),
            Setting("threshold", "Threshold", "What differs less is left alone.", high=10.0, default=0.5,
                    step=0.1, unit="L*"),
            Setting("halo", "Halo", "How far edges may go beyond what lies beside them.", high=50.0,
                    default=8.0, unit="%"),
        ),
        zones=("eyes", "lashes", "brows", "lips", "hair", "beard", "worn"),
        way=Pixels(_sharpened, lambda values: sharpen.reach(float(values["radius_px"]))),
    )
)  # fmt: skip
VIGNETTE = register(
    PassKind(
        name="vignette",
        title="Vignette",
        meaning="Darker or lighter towards the corners of the framed picture.",
        stage="finish",
        settings=(
            Setting("amount", "Amount", "Darker below 0, lighter above.", low=-100.0, default=-30.0),
            Setting("begins", "Size", "Where it begins, from the middle to the corner.", default=45.0,
                    unit="%"),
            Setting("softness", "Softness", "How slowly it grows.", default=80.0, unit="%"),
            Setting("form", "Form", "From a circle to the frame's own form.", default=60.0, unit="%"),
            Setting("x", "Across", "Where its middle lies in the frame.", default=50.0, step=0.5, unit="%"),
            Setting("y", "Down", "Where its middle lies in the frame.", default=50.0, step=0.5, unit="%"),
            Setting("spare", "Lights kept", "How much of it bright places are spared.", default=30.0,
                    unit="%"),
        ),
        way=Framed(_vignetted),
    )
)  # fmt: skip
GRAIN = register(
    PassKind(
        name="grain",
        title="Grain",
        meaning="Film-like grain over the framed picture.",
        stage="finish",
        settings=(
            Setting("amount", "Amount", "How strong.", default=20.0, unit="%"),
            Setting("measured", "Measured", "In pixels, or on the print: alike on prints of one size, whatever the picture's.",
                    type="choice", default="pixels", choices=("pixels", "print")),
            Setting("size_px", "Size", "Of a grain, in pixels of the framed picture.", low=0.5, high=20.0,
                    default=1.6, step=0.1, unit="px", when=("measured", ("pixels",))),
            Setting("size_mm", "Size", "Of a grain on the print.", low=0.02, high=2.0, default=0.15, step=0.01,
                    unit="mm", when=("measured", ("print",))),
            Setting("print_cm", "Print", "Its longer side.", low=5.0, high=300.0, default=30.0, step=1.0,
                    unit="cm", when=("measured", ("print",))),
            Setting("colour", "Colour", "Coloured grain beside that of light alone.", unit="%"),
            Setting("tones", "Tones", "More in the shadows below 0, in the lights above.", low=-100.0,
                    default=-20.0),
            Setting("seed", "Pattern", "Another number, another pattern of grains.", high=9999.0, default=1.0),
        ),
        way=Framed(_grained),
    )
)  # fmt: skip
# Look's passes once more, to be set last: warmth, matte blacks, mood.
for _kind, _meaning in (
    (LIGHT, "Exposure, contrast and matte blacks over everything retouched."),
    (CURVES, "Curves over everything retouched."),
    (COLOUR, "Saturation over everything retouched."),
):
    register(replace(_kind, name=f"finish_{_kind.name}", meaning=_meaning, stage="finish"))
