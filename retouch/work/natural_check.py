"""The whole natural check of an edit: what its pixels, its moves and its decisions say."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator
from functools import partial

import numpy as np

from retouch.colour.difference import ciede2000
from retouch.edit.model import Edit
from retouch.face.analysis import Analysis
from retouch.geometry import Rect
from retouch.natural.check import fineness_of, of_codes, of_codes_of, of_pair, one_of
from retouch.natural.finding import PRACTICE, Finding
from retouch.natural.known import Known
from retouch.natural.pairs import Array, Pair, pair_of, pair_of_images
from retouch.natural.shaped import MOVES, of_moves
from retouch.processors import at_once
from retouch.render import Renderer
from retouch.work.marks import Decided, decided
from retouch.zone_names import SKIN_OF_FACE, ZONES

# A mark that is kept still has so much of its contrast (CIEDE2000 to the skin around it).
_KEPT_PART = 0.6
# What was this faint before can't be told; proposals of so sure marks count.
_LEAST_CONTRAST, _SURE = 3.0, 0.5
_TITLES = {z.name: z.title for z in ZONES}


def whole_check(
    renderer: Renderer,
    edit: Edit,
    analysis: Analysis | None,
    seen: Collection[str] = (),
    known: Known | None = None,
) -> tuple[Finding, ...]:
    """All readings of an edit; ``seen`` are the zones that the sweep has shown, as face and zone ("0-nose").

    With ``known`` only those of a face are worked out whose pixels changed since.
    """

    def of_face(face: int) -> Iterator[Finding]:
        assert analysis is not None
        pair = pair_of(renderer, edit, analysis, face)
        yield from of_pair(pair, known)
        yield from of_marks(pair, edit)

    parts: list[Callable[[], Iterable[Finding]]] = [
        *(partial(of_face, n) for n in range(len(analysis.faces) if analysis is not None else 0)),
        lambda: of_codes_of(renderer, edit),
        lambda: of_moves(renderer, edit, analysis),
    ]
    out = [f for found in at_once(lambda part: tuple(part()), parts) for f in found]
    if analysis is not None:
        out += of_sweep(analysis, seen)
    return tuple(out)


def check_of_images(
    before: Array, after: Array, analysis: Analysis, edit: Edit | None, renderer: Renderer | None
) -> tuple[Finding, ...]:
    """All readings of two pictures (h, w, 3) float32 of one size, working values 0..1; with an edit, those of its
    moves and marks too, by a ``renderer`` of the original.
    """
    out: list[Finding] = []
    for face in range(len(analysis.faces)):
        pair = pair_of_images(before, after, analysis, face)
        out += of_pair(pair)
        if edit is not None:
            out += of_marks(pair, edit)
    out += of_codes(before, after)
    if edit is not None and renderer is not None:
        out += of_moves(renderer, edit, analysis)
    return tuple(out)


def one_reading(
    renderer: Renderer,
    edit: Edit,
    analysis: Analysis | None,
    name: str,
    face: int | None,
    zone: str = "",
) -> Finding | None:
    """One reading of an edit, with no more worked out than it needs; None where there is none of that name.

    Of several that are called so the one furthest beyond its limit.
    """
    found: Iterable[Finding]
    if name in MOVES:
        found = (f for f in of_moves(renderer, edit, analysis) if f.face == face)
    elif face is None:
        found = of_codes_of(renderer, edit)
    elif analysis is None or face >= len(analysis.faces):
        return None
    else:
        pair = pair_of(renderer, edit, analysis, face, fineness_of(name))
        found = of_marks(pair, edit) if name.startswith("marks") else one_of(pair, name)
    own = [f for f in found if f.name == name]
    named = [f for f in own if f.zone == zone] or own
    return max(named, key=excess, default=None)


def excess(found: Finding | None) -> float:
    """How far a reading lies beyond its limit; 0: within."""
    if found is None or not found.amber:
        return 0.0
    if found.limit < 0:
        return found.value
    return found.value - found.limit if found.side == "most" else found.limit - found.value


def of_marks(pair: Pair, edit: Edit) -> Iterator[Finding]:
    """Readings of a face's marks: kept ones that changed, permanent ones that are gone, open ones."""
    face = pair.face
    own = [d for d in decided(pair.analysis, edit) if d.face == face]
    # What the person has and the user said nothing against.
    gone = [
        d
        for d in own
        if d.mark.proposal == "keep" and d.cleared and d.decision == "keep" and _surely(d)
    ]
    yield _count(
        "marks_gone",
        "Permanent marks gone",
        "Moles and freckles that were cleared though they are kept.",
        gone,
        face,
    )
    kept = [d for d in own if d.decision == "keep" and not d.cleared and _surely(d)]
    changed = [d for d in kept if _faded(pair, d)]
    yield _count(
        "marks_changed",
        "Kept marks faded",
        f"Kept marks that lost more than {100 - 100 * _KEPT_PART:.0f} % of their contrast.",
        changed,
        face,
    )
    asked = [d for d in own if d.decision == "ask" and not d.cleared and d.mark.confidence >= _SURE]
    if asked:
        yield Finding(
            "marks_open", "Marks to decide", "Marks that ask what is to become of them.", "", float(len(asked)), 0.0, "",
            "told", face, _place(asked[0]),
        )  # fmt: skip


def of_sweep(analysis: Analysis, seen: Collection[str]) -> Iterator[Finding]:
    """The zones that the sweep hasn't shown yet, if it was begun."""
    if not seen:
        return
    for face in range(len(analysis.faces)):
        there = {layer.zone for layer in analysis.layers if layer.face == face}
        left = [z for z in SKIN_OF_FACE if z in there and f"{face}-{z}" not in seen]
        if left:
            yield Finding(
                "unseen", "Not looked at", "Zones that the sweep hasn't shown.", "", float(len(left)), 0.0, "", "told", face,
                words=", ".join(_TITLES[z].lower() for z in left),
            )  # fmt: skip


def _surely(one: Decided) -> bool:
    return one.touch_id is not None or one.mark.confidence >= _SURE


def _count(name: str, title: str, meaning: str, which: list[Decided], face: int) -> Finding:
    place = _place(which[0]) if which else None
    return Finding(
        name, title, f"{meaning} {PRACTICE}", "", float(len(which)), 0.0, "", "most", face, place
    )


def _place(one: Decided) -> Rect:
    reach = 4 * max(one.mark.reach, 4.0)
    x, y = one.mark.x, one.mark.y
    return Rect(int(x - reach), int(y - reach), int(x + reach), int(y + reach))


def _faded(pair: Pair, one: Decided) -> bool:
    """Whether a mark lost much of its contrast to the skin in a ring around it."""
    mark = one.mark
    scale = pair.before.shape[1] / pair.rect.width
    x, y = (mark.x - pair.rect.x0) * scale, (mark.y - pair.rect.y0) * scale
    radius, reach = mark.radius * scale, mark.reach * scale
    outer = int(np.ceil(2 * reach + 4))
    rows, columns = (slice(max(int(v) - outer, 0), int(v) + outer + 1) for v in (y, x))
    at = x - columns.start, y - rows.start
    was, now = (_contrast(lab[rows, columns], *at, radius, reach) for lab in pair.labs)
    return was >= _LEAST_CONTRAST and now < _KEPT_PART * was


def _contrast(lab: np.ndarray, x: float, y: float, radius: float, reach: float) -> float:
    gy, gx = np.mgrid[: lab.shape[0], : lab.shape[1]] + 0.5
    away = np.hypot(gx - x, gy - y)
    core, ring = away <= max(radius, 1.0), (away > reach + 1) & (away <= 2 * reach + 4)
    if not core.any() or not ring.any():
        return 0.0
    one, other = (np.median(lab[m], axis=0)[None] for m in (core, ring))
    return float(ciede2000(one, other)[0])
