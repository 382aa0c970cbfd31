"""Irises, and both sides of a face, against the original."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from retouch.natural.pairs import Array, Mask, Pair

_LEAST = 60
# Features that come in pairs, told apart by the middle line of the face.
_PAIRED = (("eye_whites", "eye whites"), ("irises", "irises"), ("brows", "brows"))


def irises(pair: Pair) -> Iterator[tuple[str, str, str, float, float, str, Mask]]:
    """What was done to the irises: name, title, meaning, value, limit, unit and where; only what got more.

    Lightness is the median's, as a catchlight added is none of the iris.
    """
    where = pair.inside("irises")
    if int(where.sum()) < _LEAST:
        return
    light = [float(np.median(lab[..., 0][where])) for lab in pair.labs]
    chroma = [float(np.median(np.hypot(lab[..., 1], lab[..., 2])[where])) for lab in pair.labs]
    if light[1] > light[0] + 0.5:
        yield (
            "irises", "Irises lifted", "By how much their median got lighter, L*; the eye lies in the shade of the brow.",
            light[1] - light[0], 10.0, "L*", where,
        )  # fmt: skip
    if chroma[1] > chroma[0] + 0.5:
        yield (
            "irises_richer", "Irises' colour", "Chroma of their median, by how much more than before.",
            chroma[1] - chroma[0], 14.0, "C*", where,
        )  # fmt: skip


def sides(pair: Pair) -> tuple[float, str, Mask] | None:
    """By how much further apart the sides of a feature are than before (L*), which one, and where; the worst."""
    right, left = (
        pair.analysis.faces[pair.face].right_iris,
        pair.analysis.faces[pair.face].left_iris,
    )
    # Which side of the face's middle line each pixel is on.
    h, w = pair.before.shape[:2]
    kx, ky = pair.rect.width / w, pair.rect.height / h
    middle = ((right.x + left.x) / 2, (right.y + left.y) / 2)
    along = (left.x - right.x, left.y - right.y)
    x = (np.arange(w) + 0.5) * kx + pair.rect.x0 - middle[0]
    y = (np.arange(h) + 0.5) * ky + pair.rect.y0 - middle[1]
    on_left = x[None] * along[0] + y[:, None] * along[1] > 0
    found: list[tuple[float, str, Mask]] = []
    for zone, title in _PAIRED:
        where = pair.inside(zone)
        both = (where & on_left, where & ~on_left)
        if min(int(one.sum()) for one in both) < _LEAST:
            continue
        gaps = [_gap(lab, both) for lab in pair.labs]
        if gaps[1] > gaps[0] + 0.5:
            found.append((gaps[1] - gaps[0], title, where))
    return max(found, key=lambda one: one[0]) if found else None


def _gap(lab: Array, both: tuple[Mask, Mask]) -> float:
    one, other = (float(np.median(lab[..., 0][m])) for m in both)
    return abs(one - other)
