"""Patterns of names and titles, in which words in braces stand for what they name."""

from __future__ import annotations

import re


def filled(pattern: str, **told: str) -> str:
    """A pattern with its {words} in place; others stay, and so does what looks like one in what is told."""
    # All at once: a portrait may be called "{date}".
    return re.sub(r"\{(\w+)\}", lambda m: told.get(m[1], m[0]), pattern)
