"""Names that people give, without what can't be seen but changes what is."""

from __future__ import annotations

import unicodedata

# Joiners: they make letters and emoji of several signs, and change no direction.
_JOINERS = "\u200c\u200d"


def plain(name: str) -> str:
    """A name without control characters and those that turn the direction of writing, trimmed.

    Unicode's general categories Cc, Cs, Co and Cf (Unicode Standard Annex 44) but for joiners.
    """
    kept = [
        c for c in name
        if c in _JOINERS or unicodedata.category(c) not in ("Cc", "Cf", "Cs", "Co", "Zl", "Zp")
    ]  # fmt: skip
    return "".join(kept).strip()
