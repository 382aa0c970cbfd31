"""Where a new pass acts until the user says otherwise."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from retouch.passes.registry import PassKind

# A mark that stays is painted out with a soft brush so much larger than itself.
_SPARED, _SOFT = 1.75, 30


def usual_mask(
    kind: PassKind, kept: Sequence[tuple[float, float, float]], face: int | None = None
) -> dict[str, Any]:
    """The mask of a new pass, in its JSON form: the kind's zones, without marks that are to stay.

    Parameters
    ----------
    kept : sequence of (x, y, radius)
        Marks that are to stay, in pixels of the original; spared by kinds that spare marks.
    face : int, optional
        The one person it is for; otherwise everyone.
    """
    who = {} if face is None else {"face": face}
    areas = [{"kind": "zone", "zone": z, **who} for z in kind.zones]
    areas += [{"kind": "zone", "zone": z, "way": "take", **who} for z in kind.besides]
    strokes = [
        {"path": [[x, y]], "radius_px": max(_SPARED * radius, 1.0), "softness": _SOFT}
        for x, y, radius in (kept if kind.spares_marks else ())
    ]
    return {"areas": areas, "strokes": strokes}
