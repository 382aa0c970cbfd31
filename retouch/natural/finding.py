"""One reading of the natural check: a value beside its limit."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from retouch.geometry import Rect

# Whether a limit is a ceiling or a floor; "told" has none and is never beyond.
Side = Literal["most", "least", "told"]
PRACTICE = "Common practice."


@dataclass(frozen=True)
class Finding:
    """One reading.

    Attributes
    ----------
    name, title, meaning : str
        ``meaning`` says what is read and where the limit comes from.
    zone : str
        The zone it is about, or "".
    value, limit : float
    unit : str
    side : "most", "least" or "told"
        Whether the limit is a ceiling or a floor; "told": there is none.
    face : int or None
    place : Rect or None
        Where to look, in pixels of the original.
    words : str
        What to say beside the number, such as the class before and after.
    """

    name: str
    title: str
    meaning: str
    zone: str
    value: float
    limit: float
    unit: str
    side: Side = "most"
    face: int | None = None
    place: Rect | None = None
    words: str = ""

    @property
    def eases(self) -> bool:
        """Whether taking a pass back can bring it within its limit."""
        return self.side != "told" and not self.name.startswith("marks")

    @property
    def amber(self) -> bool:
        """Whether it lies beyond its limit."""
        if self.side == "told":
            return False
        return self.value > self.limit if self.side == "most" else self.value < self.limit
