"""Which touches are made together: what many of them look at is computed in one piece where that is less work."""

from __future__ import annotations

from retouch.geometry import Rect, union_all
from retouch.render.chain import Chain

# One piece has at most so many pixels.
_MOST = 6_000_000
# Each piece costs as much as so many pixels besides.
_PIECE = 20_000


def pieces_of(chain: Chain, i: int, touches: list[int]) -> list[tuple[Rect, list[int]]]:
    """Rectangles of the original in which some touches of pass ``i`` find all that they look at.

    Each comes with its touches, in their order. Touches are joined, one after the other, to the piece whose
    work grows least by them, all margins of the passes below counted, or begin one of their own.
    """
    pieces: list[tuple[Rect, list[int], int]] = []
    looks = {j: union_all(chain.rests.reads(i, j)) for j in touches}
    # Down the picture, so that neighbours come soon after each other.
    for j in sorted(touches, key=lambda j: (looks[j].y0, looks[j].x0)):
        own = looks[j]
        alone = _work(chain, i, own)
        best, least = -1, alone
        for n, (rect, _, work) in enumerate(pieces):
            both = rect.union(own)
            area = both.width * both.height
            # All passes are computed on at least that.
            if area > _MOST or _PIECE + (i + 1) * area - work >= least:
                continue
            more = _work(chain, i, both) - work
            if more < least:
                best, least = n, more
        if best < 0:
            pieces.append((own, [j], alone))
        else:
            rect, found, work = pieces[best]
            pieces[best] = rect.union(own), [*found, j], work + least
    return [(rect, sorted(found)) for rect, found, _ in pieces]


def _work(chain: Chain, i: int, rect: Rect) -> int:
    """Pixels that all passes below pass ``i`` are computed on to give a rectangle."""
    return _PIECE + sum(r.width * r.height for r in chain.rects(rect, 0, i))
