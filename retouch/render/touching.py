"""The touches of a plan: which are known, making those that aren't, adding what they change."""

from __future__ import annotations

import threading
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.geometry import Rect
from retouch.passes.elsewhere import reader_of
from retouch.picture.pyramid import reduce
from retouch.processors import at_once
from retouch.render.chain import Chain
from retouch.render.mixing import add_into
from retouch.render.rests import Wanted
from retouch.render.stock import LookedAt, Patch, Stock, TouchKey
from retouch.render.together import pieces_of

Array = NDArray[np.float32]

# What was looked at for a source is kept up to so many pixels.
_MOST_LOOKED_AT = 1_000_000
# So many touches to be made are made together.
_SOME = 2


class View(Protocol):
    """Gives the picture below pass ``upto`` over a rectangle at full size."""

    def __call__(self, rect: Rect, level: int, *, upto: int) -> Array: ...


class Touching:
    """Makes and adds the touches of a chain of passes; safe to use from several threads.

    Parameters
    ----------
    view : View
        The plan's own, for what touches see below their pass.
    standing : Touching, optional
        Of the edit that a slider began with: touches that both have are taken from it as they are.
    """

    def __init__(
        self, chain: Chain, stock: Stock, view: View, standing: Touching | None = None
    ) -> None:
        self.chain = chain
        self.stock = stock
        self._view = view
        self._standing = standing
        self._stood = {} if standing is None else _shared(standing.chain, chain)
        self._together = threading.Lock()

    def wanted(self, rect: Rect, level: int, count: int) -> Wanted | None:
        """What takes part in a rectangle where some touches have to be made for it; else None."""
        if level:
            return None
        found = self.chain.rests.wanted(self.chain.rects(rect, level, count)[:count], self.has)
        return found if len(found.missing) >= _SOME else None

    def has(self, i: int, j: int) -> bool:
        """Whether a touch's change is known."""
        if self.chain.passes[i].touches[j].id in self._stood:
            return True
        return self.stock.changes.holds(TouchKey(self.chain.rests.key(i, j), 0))

    def patch(self, i: int, j: int, level: int, ground: Patch | None = None) -> Patch:
        """A touch's change at a level, made if need be.

        ``ground`` is what lies below its pass, where that is known already.
        """
        stood = self._stood.get(self.chain.passes[i].touches[j].id)
        if stood is not None and self._standing is not None:
            return self._standing.patch(*stood, level)
        rests, changes = self.chain.rests, self.stock.changes
        key = TouchKey(rests.key(i, j), level)
        if level > 0:
            return changes.get(key, lambda: self._reduced(i, j, level))
        if ground is not None and self._reads_within(i, j, ground.rect):
            return changes.get(key, lambda: self._make(i, j, ground))
        if not changes.holds(key):
            # What it reads first, the lowest first: so making never nests deeply, however long
            # the chain of touches that read each other.
            for k, m in rests.below(i, j, lambda k, m: changes.holds(TouchKey(rests.key(k, m), 0))):
                changes.get(TouchKey(rests.key(k, m), 0), lambda k=k, m=m: self._make(k, m))  # type: ignore[misc]
        return changes.get(key, lambda: self._make(i, j))

    def make_at_once(self, i: int, missing: list[int], image: Working, rect: Rect) -> None:
        """Have those of some touches made, on all cores, that look at no more than is here."""
        within = [j for j in missing if self._reads_within(i, j, rect)]
        if not within:
            return
        ground = Patch(rect, image.copy())
        for row in self.chain.rests.in_rows(i, within):
            at_once(lambda j: self.patch(i, j, 0, ground), row)

    def _make_together(self, i: int, meeting: list[int], level: int) -> None:
        """Have those of some touches made that are missing, with what they look at computed in pieces."""
        rests = self.chain.rests
        # Reduced ones may be known though those at full size had to make room.
        missing = {
            j for j in meeting
            if not self.has(i, j) and not self.stock.changes.holds(TouchKey(rests.key(i, j), level))
        }  # fmt: skip
        for j in list(missing):
            missing |= {m for k, m in rests.below(i, j, lambda k, m: self.has(k, m)) if k == i}
        missing = {j for j in missing if not self._taken_from_shelf(i, j)}
        if len(missing) < _SOME:
            return
        with self._together:
            # Another view may have waited for the same ones.
            missing = {j for j in missing if not self.has(i, j)}
            for rect, touches in pieces_of(self.chain, i, sorted(missing)):
                if len(touches) < _SOME:
                    continue
                self.make_at_once(i, touches, self._view(rect, 0, upto=i), rect)
                # Before others take their place in memory.
                for j in touches:
                    self.patch(i, j, level)

    def _taken_from_shelf(self, i: int, j: int) -> bool:
        kept = self._kept(i, j)
        if kept is not None:
            self.stock.changes.get(TouchKey(self.chain.rests.key(i, j), 0), lambda: kept)
        return kept is not None

    def _kept(self, i: int, j: int) -> Patch | None:
        """A touch's change that was kept beyond this process."""
        kind, shelf = self.chain.kinds[i].touches, self.stock.shelf
        if kind is None or not kind.slow or shelf is None:
            return None
        kept = shelf.get(self.chain.rests.key(i, j))
        writes = kind.writes(self.chain.passes[i].touches[j], self.chain.bounds)
        if kept is None or kept.shape != (writes.height, writes.width, 3):
            return None
        return Patch(writes, kept)

    def add(
        self,
        i: int,
        upto: int,
        image: Working,
        rect: Rect,
        level: int,
        share: Array | float = 1.0,
        only: set[int] | None = None,
    ) -> Array:
        """Add the changes of the first ``upto`` touches of a pass, or ``only`` some, in place."""
        size = 1 << level
        full = Rect(rect.x0 * size, rect.y0 * size, rect.x1 * size, rect.y1 * size)
        meeting = self.chain.rests.meeting(i, upto, [full])
        ground = None
        if only is not None:
            # Beside what is asked for the image isn't whole: nothing is to be made of it here.
            meeting = [j for j in meeting if j in only]
        elif level == 0 and any(not self.has(i, j) for j in meeting):
            # What the touches to be made look at is here already, as far as it lies within.
            ground = Patch(rect, image.copy())
        elif level > 0:
            self._make_together(i, meeting, level)
        for j in meeting:
            patch = self.patch(i, j, level, ground)
            add_into(image, patch.change, patch.rect.y0 - rect.y0, patch.rect.x0 - rect.x0, share)
        return image

    def _reads_within(self, i: int, j: int, rect: Rect) -> bool:
        return all(r.clip(rect) == r for r in self.chain.rests.reads(i, j))

    def _make(self, i: int, j: int, ground: Patch | None = None) -> Patch:
        """A touch's change; ``ground`` is what lies below its pass, where that is known."""
        kind = self.chain.kinds[i].touches
        assert kind is not None
        one, key = self.chain.passes[i], self.chain.rests.key(i, j)
        kept = self._kept(i, j)
        if kept is not None:
            return kept
        shelf = self.stock.shelf if kind.slow else None
        touch = one.touches[j]
        writes = kind.writes(touch, self.chain.bounds)

        def read(rect: Rect) -> Array:
            return self.below(i, j, rect, ground)

        change = kind.render(
            reader_of(read, touch, self.stock.others),
            touch,
            self.chain.values[i],
            self.chain.bounds,
        )
        if shelf:
            shelf.put(key, change)
        return Patch(writes, change)

    def _reduced(self, i: int, j: int, level: int) -> Patch:
        full = self.patch(i, j, 0)
        wide = full.rect.align(1 << level)
        padded = np.zeros((wide.height, wide.width, 3), np.float32)
        top, left = full.rect.y0 - wide.y0, full.rect.x0 - wide.x0
        padded[top : top + full.rect.height, left : left + full.rect.width] = full.change
        return Patch(full.rect.reduced(level), reduce(padded, level))

    def below(self, i: int, j: int, rect: Rect, ground: Patch | None = None) -> Array:
        """What the touch ``j`` of pass ``i`` sees in ``rect``, at full size, 0..1."""
        if ground is not None and rect.clip(ground.rect) == rect:
            image = ground.within(rect).copy()
        else:
            looked_at = self._looked_at(i, j, rect)
            if looked_at is not None:
                return looked_at
            image = self._view(rect, 0, upto=i)
        image = self.add(i, j, image, rect, 0)
        return np.clip(image, 0, 1, out=image)

    def _looked_at(self, i: int, j: int, rect: Rect) -> Array | None:
        """`below`, if the rectangle was looked at last and nothing has changed there."""
        known = self.stock.looked_at
        if known is None or rect.clip(known.rect) != rect:
            return None
        if known.key != self.chain.rests.ground_key(i, j, known.rect):
            return None
        return known.pixels[rect.within(known.rect)].copy()

    def look(self, i: int, j: int, rect: Rect) -> Array:
        """`below`, remembered: a touch that is made next looks there again."""
        pixels = self.below(i, j, rect)
        if rect.width * rect.height <= _MOST_LOOKED_AT:
            key = self.chain.rests.ground_key(i, j, rect)
            self.stock.looked_at = LookedAt(key, rect, pixels.copy())
        return pixels


def _shared(before: Chain, now: Chain) -> dict[str, tuple[int, int]]:
    """Touches that another chain has, too, in a pass of the same settings: where there."""
    theirs = {p.id: (k, p) for k, p in enumerate(before.passes)}
    out: dict[str, tuple[int, int]] = {}
    for n, one in enumerate(now.passes):
        k, other = theirs.get(one.id, (-1, None))
        if other is None or before.values[k] != now.values[n]:
            continue
        for m, (a, b) in enumerate(zip(other.touches, one.touches, strict=False)):
            if a is not b:
                break
            out[b.id] = (k, m)
    return out
