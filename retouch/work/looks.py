"""Looks that ship: passes of the stage Finish that go together under one strength."""

from __future__ import annotations

from dataclasses import dataclass

from retouch.edit.routine import RoutineStep


@dataclass(frozen=True)
class Look:
    """A ready look: its name in files and commands, its title, what it is in a sentence, its passes."""

    name: str
    title: str
    meaning: str
    steps: tuple[RoutineStep, ...]


# Grain is measured on the print: a look is the same on pictures of any size.
LOOKS = (
    Look("clean", "Clean", "Crisp eyes and hair, corners held back a little.", (
        RoutineStep("sharpen", {"amount": 35.0}),
        RoutineStep("vignette", {"amount": -12.0, "begins": 50.0}),
    )),
    Look("candle", "Candle", "Warm lights, brown shadows, a soft glow.", (
        RoutineStep("split_toning", {"lights_hue": 78.0, "lights_amount": 22.0, "shadows_hue": 55.0, "shadows_amount": 14.0}),
        RoutineStep("soft_look", {"glow": 30.0, "spread": 1.2, "above": 50.0}),
        RoutineStep("vignette", {"amount": -24.0, "begins": 40.0}),
    )),
    Look("harbour", "Harbour", "Cool shadows beside warm skin, matte blacks.", (
        RoutineStep("split_toning", {"lights_hue": 80.0, "lights_amount": 14.0, "shadows_hue": 235.0, "shadows_amount": 26.0, "balance": 10.0}),
        RoutineStep("finish_light", {"lift": 26.0, "contrast": 6.0}),
        RoutineStep("vignette", {"amount": -16.0}),
    )),
    Look("linen", "Linen", "Pale and matte, colours calmed, a breath of mist.", (
        RoutineStep("finish_colour", {"saturation": -18.0}),
        RoutineStep("finish_light", {"lift": 34.0, "exposure_ev": 0.12}),
        RoutineStep("soft_look", {"mist": 16.0, "spread": 0.8}),
    )),
    Look("silver", "Silver", "Black and white with light skin and fine grain.", (
        RoutineStep("mono", {"red": 50.0, "green": 42.0, "blue": 8.0}),
        RoutineStep("finish_light", {"contrast": 14.0}),
        RoutineStep("grain", {"amount": 16.0, "measured": "print", "size_mm": 0.15}),
        RoutineStep("vignette", {"amount": -18.0}),
    )),
    Look("sepia", "Sepia", "Black and white, toned brown, soft at the corners.", (
        RoutineStep("mono", {"red": 45.0, "green": 45.0, "blue": 10.0, "tone_hue": 72.0, "tone_amount": 38.0}),
        RoutineStep("soft_look", {"glow": 18.0, "spread": 1.0}),
        RoutineStep("vignette", {"amount": -28.0, "begins": 35.0}),
    )),
    Look("film", "Film", "Gentle contrast, grain with a little colour, warm lights.", (
        RoutineStep("finish_light", {"contrast": 10.0, "lift": 14.0}),
        RoutineStep("split_toning", {"lights_hue": 85.0, "lights_amount": 12.0, "shadows_hue": 190.0, "shadows_amount": 12.0}),
        RoutineStep("grain", {"amount": 24.0, "measured": "print", "size_mm": 0.2, "colour": 30.0}),
    )),
    Look("dusk", "Dusk", "Dark surroundings, the face in the light.", (
        RoutineStep("finish_colour", {"saturation": -8.0}),
        RoutineStep("vignette", {"amount": -58.0, "begins": 25.0, "form": 40.0, "spare": 10.0}),
        RoutineStep("split_toning", {"lights_hue": 70.0, "lights_amount": 10.0, "shadows_hue": 280.0, "shadows_amount": 18.0}),
    )),
)  # fmt: skip


def look(name: str) -> Look | None:
    """The look of that name."""
    return next((one for one in LOOKS if one.name == name), None)
