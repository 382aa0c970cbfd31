"""Raw development: how a raw file becomes a picture, as a pass of the edit that lies below all others."""

from __future__ import annotations

from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Develop, Values
from retouch.picture.raw import Development
from retouch.picture.working import WORKING


def development(values: Values) -> Development:
    """How the settings want a raw file developed."""
    return Development(str(values["highlights"]), float(values["noise"]), str(values["profile"]))  # type: ignore[arg-type]


DEVELOP = register(
    PassKind(
        name="develop",
        title="Raw development",
        meaning="Highlights, noise and colour profile of a raw file.",
        stage="look",
        settings=(
            Setting(
                "highlights", "Highlights", "What becomes of light that only some channels hold.",
                type="choice", default="blend", choices=("blend", "rebuild", "keep", "clip"),
            ),
            Setting(
                "noise", "Noise", "Finer differences than this are taken for noise.",
                high=1000.0, step=10.0,
            ),
            Setting(
                "profile", "Profile", "The working profile that the picture is delivered in.",
                type="choice", default="srgb", choices=tuple(WORKING),
            ),
        ),
        way=Develop(development),
    )
)  # fmt: skip
