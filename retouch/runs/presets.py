"""Ways to write a result, by name: those that ship, or a file of one's own."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path
from typing import Any

from retouch.errors import PictureError
from retouch.picture import Output
from retouch.picture.write import NAMES, SUFFIX
from retouch.runs.orders import Deliver
from retouch.runs.work import outcome_of, output_of

_OWN = ("output", "outcome")
# Web and proof as they are usually asked for: sRGB, sharpened for a screen (common practice).
PRESETS: dict[str, dict[str, dict[str, Any]]] = {
    "full": {"output": {"format": "jpeg", "quality": 95}},
    "print": {"output": {"format": "tiff"}, "outcome": {"sharpen": "print"}},
    "web": {
        "output": {"format": "jpeg", "quality": 85},
        "outcome": {"srgb": True, "long_side": 2048, "sharpen": "screen"},
    },
    "proof": {
        "output": {"format": "jpeg", "quality": 80},
        "outcome": {"srgb": True, "long_side": 1200, "sharpen": "screen"},
    },
}


class Preset:
    """How files are written: `Output` and `Outcome` as plain data."""

    def __init__(self, output: dict[str, Any], outcome: dict[str, Any]) -> None:
        self.output, self.outcome = output, outcome
        # Refused now, not with the first picture.
        made = output_of(output)
        if made.format not in NAMES:
            raise PictureError(f"There is no format {made.format!r}.")
        outcome_of(outcome)
        self.suffix = SUFFIX[made.format]

    def to(self, stem: Path) -> Deliver:
        """A file of a name without its ending."""
        return Deliver(str(stem) + self.suffix, self.output, self.outcome)

    @property
    def key(self) -> str:
        """All of it as text."""
        return json.dumps([asdict(output_of(self.output)), self.outcome], sort_keys=True)


def preset(name: str) -> Preset:
    """A preset that ships, or one in a JSON file with ``output`` and ``outcome``.

    Raises
    ------
    PictureError
        In plain words, where there is none, or it says what can't be.
    """
    data: Any = PRESETS.get(name)
    if data is None:
        try:
            data = json.loads(Path(name).read_text("utf-8"))
        except OSError:
            names = ", ".join(PRESETS)
            raise PictureError(
                f"There is no preset {name!r}. There are {names}, or a file."
            ) from None
        except ValueError:
            raise PictureError(f"{name!r} isn't valid JSON.") from None
    if not isinstance(data, dict) or any(
        k not in _OWN or not isinstance(v, dict) for k, v in data.items()
    ):
        raise PictureError(f"{name!r} is no preset: it has output and outcome.")
    return Preset(
        dict(data.get("output", {})) or {"format": Output("jpeg").format},
        dict(data.get("outcome", {})),
    )
