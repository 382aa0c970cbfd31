"""What options of the command line say about the size, the profile and the border of what is written."""

from __future__ import annotations

import argparse
import math
from pathlib import Path

from retouch.errors import EditError
from retouch.picture.proof import BUILT_IN, Conversion, about, built_in
from retouch.render.delivered import LEAST_SIDE, Border, Outcome, printed_side


def outcome_of(options: argparse.Namespace) -> tuple[Outcome, float | None]:
    """What becomes of the rendered picture, and its pixels per inch, if they are to be noted.

    Raises
    ------
    EditError, PictureError
        With a plain sentence where an option asks for what can't be.
    """
    long_side = options.long_side
    if long_side is not None and long_side < LEAST_SIDE:
        raise EditError(f"--long-side has to be {LEAST_SIDE} pixels or more.")
    for name, low, high in (
        ("megapixels", 0.01, 1000.0), ("print_cm", 0.5, 2000.0), ("per_inch", 10.0, 2400.0),
        ("border", 0.1, 50.0),
    ):  # fmt: skip
        value = getattr(options, name)
        if value is not None and not (math.isfinite(value) and low <= value <= high):
            raise EditError(f"--{name.replace('_', '-')} goes from {low:g} to {high:g}.")
    per_inch = None
    if options.print_cm is not None:
        per_inch = options.per_inch
        printed = printed_side(options.print_cm, per_inch)
        long_side = printed if long_side is None else min(long_side, printed)
    convert = None
    if options.profile not in ("keep", "srgb"):
        convert = Conversion(_profile(options.profile), options.intent, not options.no_black_point)
    border = None if options.border is None else Border(options.border)
    outcome = Outcome(
        options.profile == "srgb", long_side, options.sharpen, convert, options.megapixels, border
    )
    return outcome, per_inch


def _profile(name: str) -> bytes:
    known = built_in(name)
    if known is not None:
        return known
    try:
        icc = Path(name).read_bytes()
    except OSError as error:
        names = ", ".join(BUILT_IN)
        raise EditError(
            f"--profile {name!r}: {error.strerror}. It is keep, {names} or a file."
        ) from None
    about(icc)
    return icc
