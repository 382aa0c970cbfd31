"""An edit bound to a picture: what each pass and touch gives, where and in which order."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.cache import making
from retouch.colour.blend import blend
from retouch.edit.model import Edit, Pass
from retouch.errors import Cancelled
from retouch.geometry import Rect, union_all
from retouch.masks import Zones, extent
from retouch.passes import registry
from retouch.picture.pyramid import reduce
from retouch.render.mixing import (
    CORES,
    WORTH_PARTING,
    add_into,
    at_once,
    bend_into,
    edges,
    mix_into,
)
from retouch.render.rests import Rests, Sameness, Wanted
from retouch.render.stock import LookedAt, Patch, Stock

Array = NDArray[np.float32]

# What lies below a changing pass is kept for views of so many pixels or more.
_WORTH_KEEPING = 60_000
# What was looked at for a source is kept up to so many pixels.
_MOST_LOOKED_AT = 1_000_000
# Results are kept for a slider to begin with up to so many pixels.
_MOST_KEPT = 4_000_000
# A large pass isn't cut into strips whose margins come to more than this part of it.
_MOST_MARGIN = 0.5
# So many touches to be made are made together. They may look so many pixels beyond what is asked
# for and find it ready there …
_SOME = 2
_ROOM = 128
# … unless that is more work than looking for each of them: as much as so many pixels, at least.
_LOOK = 20_000
# Makes touches; its workers ask caches, see `making`.
_makers = ThreadPoolExecutor(CORES, thread_name_prefix="touch")
# Passes that reduce the picture do so in cells; whole ones need no borders made up.
_CELLS = 8


class Plan:
    """An edit bound to a picture, with the keys of its touches worked out when needed."""

    def __init__(
        self,
        renderer: Stock,
        edit: Edit,
        before: Plan | None = None,
        zones: Zones | None = None,
        lenient: bool = False,
    ) -> None:
        self.renderer = renderer
        self.edit = edit
        self.zones = zones
        self.bounds = renderer.bounds
        self.passes = [_active(p) for p in edit.passes if p.on and p.strength > 0]
        digest = renderer.pyramid.picture.digest
        self.rests = Rests(digest, self.passes, self.bounds, key_of(zones))
        self._kinds = self.rests.kinds
        # The last answer of `_wanted`: it is asked for twice in a row.
        self._asked: tuple[tuple[Rect, int], Wanted] | None = None
        self._extents: dict[int, Rect] = {}
        # From pass ``upto`` on the edit differs from the one before: what lies below is worth
        # keeping; if it differs there only by its mask, what the pass itself makes is, too.
        self._same = Sameness(0) if before is None else self.rests.take_over(before.rests)
        self._standing = before if lenient else None
        self._stood = self._same_as(before) if lenient and before is not None else {}
        self._carries = self._standing is not None and self._changes_one(self._standing)

    def _same_as(self, before: Plan) -> dict[str, tuple[int, int]]:
        """Touches that another plan has, too, in a pass of the same settings: where there."""
        theirs = {p.id: (k, p) for k, p in enumerate(before.passes)}
        out: dict[str, tuple[int, int]] = {}
        for one in self.passes:
            k, other = theirs.get(one.id, (-1, None))
            if other is None or other.settings != one.settings:
                continue
            for m, (a, b) in enumerate(zip(other.touches, one.touches, strict=False)):
                if a is not b:
                    break
                out[b.id] = (k, m)
        return out

    def _changes_one(self, other: Plan) -> bool:
        """Whether just one pass differs from another plan's, with some above it."""
        i = self._same.upto
        return (
            i + 1 < len(self.passes) == len(other.passes)
            and self.passes[i].id == other.passes[i].id
            and self.rests.signatures[i + 1 :] == other.rests.signatures[i + 1 :]
            and self._looks_around(i + 1)
        )

    def _looks_around(self, start: int) -> bool:
        """Whether a pass from ``start`` on looks further than the pixels it changes."""
        above = zip(self._kinds[start:], self.passes[start:], strict=True)
        return any(kind.reach(one.settings) for kind, one in above)

    def view(
        self,
        rect: Rect,
        level: int,
        cancelled: Callable[[], bool] = lambda: False,
        upto: int | None = None,
        around: Rect | None = None,
    ) -> Array:
        """All passes over ``rect``, given in pixels of ``level``; only the first ``upto`` if set.

        ``around`` is a larger rectangle that parts are asked of one after the other, such as what
        a window shows: what doesn't change is kept for all of it, so that any part finds it.

        Raises `Cancelled` between passes once ``cancelled()`` says so.
        """
        area = rect.width * rect.height
        if upto is None and self._carries and area >= _WORTH_KEEPING:
            return self._carried(rect, level, cancelled)
        image = self._rendered(rect, level, cancelled, upto, around)
        keep = upto is None and self._standing is None and _WORTH_KEEPING <= area <= _MOST_KEPT
        if keep and self._looks_around(1):
            # A slider that moves next begins with it.
            image = np.ascontiguousarray(image)
            kept = Patch(rect, image)
            self.renderer.belows.get(self._ground_key(len(self.passes), rect, level), lambda: kept)
        return image

    def _carried(self, rect: Rect, level: int, cancelled: Callable[[], bool]) -> Array:
        """The changing pass, and on it what the passes above it add in the standing edit.

        They would look far around themselves at every move of a slider.
        """
        standing, n = self._standing, self._same.upto + 1
        assert standing is not None
        whole = standing._ground_key(len(standing.passes), rect, level)

        def make() -> Patch:
            kept = self.renderer.belows
            made = lambda: Patch(rect, standing._rendered(rect, level, cancelled, None))  # noqa: E731
            after = kept.get(whole, made).change
            return Patch(rect, after - standing._rendered(rect, level, cancelled, n))

        above = self.renderer.belows.get(f"{whole} above {n}", make).change
        own = self._rendered(rect, level, cancelled, n)
        return np.clip(own + above, 0, 1)

    def _rendered(
        self,
        rect: Rect,
        level: int,
        cancelled: Callable[[], bool],
        upto: int | None,
        around: Rect | None = None,
    ) -> Array:
        """All passes computed (see `view`), each from what is below it."""
        count = len(self.passes) if upto is None else upto
        wanted = self._wanted(rect, level, count)
        rects = self._rects(rect, level, count, wanted)
        wide = rects
        if around is not None:
            room = around.union(rect).grow(_ROOM if wanted else 0)
            wide = self._rects(room, level, count)
        start = min(self._same.upto, count)
        area = wide[-1].width * wide[-1].height
        if start and start < len(self.passes) and area >= _WORTH_KEEPING:
            below = self._kept_below(start, wide, level, cancelled)
            image = below[rects[start].within(wide[start])].copy()
        else:
            image, start = self.renderer.pyramid.crop(rects[0], level), 0
        image = self._apply_all(image, start, count, rects, level, cancelled, wide, wanted)
        return image

    def _wanted(self, rect: Rect, level: int, count: int) -> Wanted | None:
        """What takes part in a rectangle where some touches have to be made for it; else None."""
        if level or making():
            return None
        asked = (rect, count)
        if self._asked is None or self._asked[0] != asked:
            found = self.rests.wanted(self._rects(rect, level, count)[:count], self._has)
            self._asked = (asked, found)
        found = self._asked[1]
        missing = sum(not self._has(i, j) for i, j in found.missing)
        return found if missing >= _SOME else None

    def worth_parting(self, rect: Rect, level: int, count: int) -> bool:
        """Whether ``rect`` is done sooner in so many parts at once, for all that their margins cost."""
        if self._standing is not None:
            # In the same parts as the standing edit, whose parts are kept.
            return self._standing.worth_parting(rect, level, count)
        start, upto = min(self._same.upto, len(self.passes)), len(self.passes)
        if self._wanted(rect, level, upto) is not None:
            # The touches are made on all cores anyway, and look at what lies beyond the edge.
            return False
        whole = self._rects(rect, level, upto)[start]
        strip = Rect(rect.x0, rect.y0, rect.x1, rect.y0 + rect.height // count)
        part = self._rects(strip, level, upto)[start]
        return count * part.height < (1 + _MOST_MARGIN) * whole.height

    @property
    def reach(self) -> int:
        """Pixels of the original around a place that all passes together look at."""
        return sum(k.reach(p.settings) for k, p in zip(self._kinds, self.passes, strict=True))

    def _rects(
        self, rect: Rect, level: int, count: int, wanted: Wanted | None = None
    ) -> list[Rect]:
        """What each pass has to give, the original first: the ones above need margins.

        Where touches are ``wanted`` that have to be made, so does what they look at, up to `_ROOM`
        beyond the rectangle, if that is less work than looking for each of them.
        """
        limits = self.bounds.reduced(level)
        rect = rect.clip(limits)
        plain = self._margins(rect, level, count, {})
        if wanted is None:
            return plain
        most = rect.grow(_ROOM)
        rooms: dict[int, Rect] = {}
        alone = 0
        for i, j in wanted.missing:
            reads = self.rests.reads(i, j)
            room = union_all(reads)
            if room.clip(most) == room:
                rooms[i] = rooms.get(i, room).union(room)
                alone += sum(_LOOK + r.width * r.height for r in reads)
        roomy = self._margins(rect, level, count, rooms)
        more = roomy[0].width * roomy[0].height - plain[0].width * plain[0].height
        return roomy if more < alone else plain

    def _margins(self, rect: Rect, level: int, count: int, rooms: dict[int, Rect]) -> list[Rect]:
        """See `_rects`; ``rooms`` is what passes have to be given in any case."""
        limits = self.bounds.reduced(level)
        rects = [rect]
        for i in reversed(range(count)):
            reach = self._kinds[i].reach(self.passes[i].settings)
            above = rects[-1]
            if reach:
                # Nothing is looked at where the mask lets nothing through.
                acting = self._extent(i).reduced(level).grow(1).clip(above)
                if not acting.empty:
                    looked_at = acting.grow(-(-reach // (1 << level))).align(_CELLS)
                    above = above.union(looked_at).clip(limits)
            rects.append(above.union(rooms[i]) if i in rooms else above)
        rects.reverse()
        return rects

    def _extent(self, i: int) -> Rect:
        """Where a pass can act, in pixels of the original."""
        if i not in self._extents:
            self._extents[i] = extent(self.passes[i].mask, self.bounds, self.zones)
        return self._extents[i]

    def _kept_below(
        self, i: int, rects: list[Rect], level: int, cancelled: Callable[[], bool]
    ) -> Array:
        """The picture below pass ``i``, from memory while a slider of that pass moves."""
        rect = rects[i]

        def make() -> Patch:
            ground = self.renderer.pyramid.crop(rects[0], level)
            below = self._apply_all(ground, 0, i, rects, level, cancelled, rects)
            return Patch(rect, np.ascontiguousarray(below))

        return self.renderer.belows.get(self._ground_key(i, rect, level), make).change

    def _ground_key(self, i: int, rect: Rect, level: int) -> str:
        """Fingerprint of the picture below pass ``i``."""
        looked_at = self._rects(rect, level, i)[0]
        parts: list[str] = [self.renderer.pyramid.picture.digest, repr(rect.as_tuple()), str(level)]
        size = 1 << level
        full = Rect(*(n * size for n in looked_at.as_tuple()))
        for k in range(i):
            parts.append(self.rests.signatures[k])
            if self._kinds[k].touches is not None:
                upto = len(self.passes[k].touches)
                parts += [self.rests.key(k, j) for j in self.rests.meeting(k, upto, [full])]
        return hashlib.blake2b("|".join(parts).encode(), digest_size=16).hexdigest()

    def _kept_above(self, i: int, wide: list[Rect], level: int) -> Array:
        """What pass ``i`` makes of the picture below it without its mask, over ``wide[1]``."""
        one = self.passes[i]
        ground, out = wide
        key = f"{self._ground_key(i, ground, level)} {one.kind} {sorted(one.settings.items())}"

        def make() -> Patch:
            rects = self._rects(out, level, i + 1)
            image = self._kept_below(i, rects, level, lambda: False)
            return Patch(out, self._made(i, image, ground, ground, out, level))

        return self.renderer.belows.get(key, make).change

    def _apply_all(
        self,
        image: Array,
        start: int,
        count: int,
        rects: list[Rect],
        level: int,
        cancelled: Callable[[], bool],
        wide: list[Rect],
        wanted: Wanted | None = None,
    ) -> Array:
        """The passes from ``start`` on over an image of ``rects[start]``; see `view` for ``wide``.

        Touches ``wanted`` are made on the way.
        """
        whole = rects[start]
        image = np.ascontiguousarray(image)
        for i in range(start, count):
            if cancelled():
                raise Cancelled("The view is no longer wanted.")
            self._apply(i, image, whole, rects[i : i + 2], level, wide[i : i + 2], wanted)
        return image[rects[count].within(whole)]

    def _apply(
        self,
        i: int,
        image: Array,
        whole: Rect,
        rects: list[Rect],
        level: int,
        wide: list[Rect],
        wanted: Wanted | None,
    ) -> None:
        """Apply pass ``i`` in place to an image over ``whole``.

        ``rects`` are what it may look at and what it has to give; beyond the first the image isn't
        meant to be used any more. ``wide`` is what of both is worth keeping. Touches that are
        ``wanted`` are made first; others have no part in it.
        """
        one, kind = self.passes[i], self._kinds[i]
        rect, out = rects
        around = wide[1]
        if kind.touches is None:
            # Beyond the mask's reach there is nothing to do, and no mask to draw.
            acting = self._extent(i).reduced(level).grow(1)
            out, around = out.clip(acting), around.clip(acting)
            if out.empty:
                return
        cover = self.renderer.masks.draw(one.mask, out, level, self.zones, around)
        share: Array | float = one.strength / 100
        if cover is not None:
            share = cover if share == 1.0 else share * cover
        if kind.touches is not None:
            if wanted is not None:
                missing = sorted(j for k, j in wanted.missing if k == i)
                self._make_at_once(i, missing, image[rect.within(whole)], rect)
            only = None if wanted is None else wanted.touches[i]
            self._touch(i, image[out.within(whole)], out, level, share, only)
            return
        inner = out
        if not isinstance(share, float):
            # Only where the mask lets something through, with the margin that the pass needs.
            x, y, w, h = cv2.boundingRect((share[..., 0] > 0).view(np.uint8))
            if not w:
                return
            inner = Rect(out.x0 + x, out.y0 + y, out.x0 + x + w, out.y0 + y + h)
            share = share[inner.within(out)]
        if kind.curve is not None and one.blend == "normal":
            table = kind.curve(one.settings)
            if table is not None:
                bend_into(image, inner.within(whole), table, share)
            return
        if self._worth_keeping(i, wide):
            above = self._kept_above(i, wide, level)[inner.within(wide[1])]
        else:
            above = self._made(i, image, whole, rect, inner, level)
        mix_into(image, inner.within(whole), above, one.blend, share)

    def _touch(
        self,
        i: int,
        image: Array,
        out: Rect,
        level: int,
        share: Array | float,
        only: set[int] | None,
    ) -> None:
        """Apply a pass of touches, or ``only`` some of them, in place to an image over ``out``."""
        one = self.passes[i]
        upto = len(one.touches)
        if one.blend == "normal":
            self._add_changes(i, upto, image, out, level, share, only)
            return
        above = self._add_changes(i, upto, image.copy(), out, level, 1.0, only)
        above = np.clip(above, 0, 1, out=above)
        mixed = blend(one.blend, image, above)
        image += (mixed - image) * share

    def _worth_keeping(self, i: int, wide: list[Rect]) -> bool:
        """Whether only the mask of pass ``i`` changes, over and over."""
        out = wide[1]
        return (
            self._same.mask_only
            and i == self._same.upto
            and out.width * out.height >= _WORTH_KEEPING
        )

    def _made(
        self, i: int, image: Array, whole: Rect, rect: Rect, inner: Rect, level: int
    ) -> Array:
        """What a pass without touches makes of ``inner``, without its mask, strength and blending.

        Of the image over ``whole`` it looks at no more than ``rect``.
        """
        one, kind = self.passes[i], self._kinds[i]
        assert kind.pixels is not None
        make = kind.pixels
        reach = -(-kind.reach(one.settings) // (1 << level))

        def part(rows: tuple[int, int]) -> Array:
            strip = Rect(inner.x0, rows[0], inner.x1, rows[1])
            outer = strip.grow(reach).clip(rect)
            return make(
                image[outer.within(whole)], one.settings, registry.Place(outer, level, strip)
            )

        margins = 2 * reach * (CORES - 1)
        if inner.width * inner.height < WORTH_PARTING or margins > _MOST_MARGIN * inner.height:
            return part((inner.y0, inner.y1))
        # Two strips for each processor keep all busy, unless their margins cost more than that.
        count = CORES if inner.height < 8 * CORES * reach else 2 * CORES
        return np.concatenate(at_once(part, edges(inner.y0, inner.y1, count)))

    def _add_changes(
        self,
        i: int,
        upto: int,
        image: Array,
        rect: Rect,
        level: int,
        share: Array | float = 1.0,
        only: set[int] | None = None,
    ) -> Array:
        """Add the changes of the first ``upto`` touches of a pass, or ``only`` some, in place."""
        size = 1 << level
        full = Rect(rect.x0 * size, rect.y0 * size, rect.x1 * size, rect.y1 * size)
        meeting = self.rests.meeting(i, upto, [full])
        ground = None
        if only is not None:
            # Beside what is asked for the image isn't whole: nothing is to be made of it here.
            meeting = [j for j in meeting if j in only]
        elif level == 0 and any(not self._has(i, j) for j in meeting):
            # What the touches to be made look at is here already, as far as it lies within.
            ground = Patch(rect, image.copy())
        for j in meeting:
            patch = self._patch(i, j, level, ground)
            add_into(image, patch.change, patch.rect.y0 - rect.y0, patch.rect.x0 - rect.x0, share)
        return image

    def _make_at_once(self, i: int, missing: list[int], image: Array, rect: Rect) -> None:
        """Have those of some touches made, on all cores, that look at no more than is here."""
        within = [j for j in missing if self._reads_within(i, j, rect)]
        if not within:
            return
        ground = Patch(rect, image.copy())
        for row in self.rests.in_rows(i, within):
            if len(row) > 1:
                list(_makers.map(lambda j: self._patch(i, j, 0, ground), row))
            else:
                self._patch(i, row[0], 0, ground)

    def _has(self, i: int, j: int) -> bool:
        """Whether a touch's change is known."""
        if self.passes[i].touches[j].id in self._stood:
            return True
        return self.renderer.cache.holds((self.rests.key(i, j), 0))

    def _patch(self, i: int, j: int, level: int, ground: Patch | None = None) -> Patch:
        stood = self._stood.get(self.passes[i].touches[j].id)
        if stood is not None and self._standing is not None:
            return self._standing._patch(*stood, level)
        key = self.rests.key(i, j)
        cache = self.renderer.cache
        if level > 0:
            return cache.get((key, level), lambda: self._reduced(i, j, level))
        if ground is not None and self._reads_within(i, j, ground.rect):
            return cache.get((key, 0), lambda: self._make(i, j, ground))
        if not cache.holds((key, 0)):
            # What it reads first, the lowest first: so making never nests deeply, however long
            # the chain of touches that read each other.
            for k, m in self.rests.below(i, j, lambda k, m: cache.holds((self.rests.key(k, m), 0))):
                cache.get((self.rests.key(k, m), 0), lambda k=k, m=m: self._make(k, m))  # type: ignore[misc]
        return cache.get((key, 0), lambda: self._make(i, j))

    def _reads_within(self, i: int, j: int, rect: Rect) -> bool:
        return all(r.clip(rect) == r for r in self.rests.reads(i, j))

    def _make(self, i: int, j: int, ground: Patch | None = None) -> Patch:
        """A touch's change; ``ground`` is what lies below its pass, where that is known."""
        kind = self._kinds[i].touches
        assert kind is not None
        touch = self.passes[i].touches[j]
        writes = kind.writes(touch, self.bounds)
        shelf = self.renderer.shelf if kind.slow else None
        kept = shelf.get(self.rests.key(i, j)) if shelf else None
        if kept is not None and kept.shape == (writes.height, writes.width, 3):
            return Patch(writes, kept)
        change = kind.render(
            lambda rect: self.below(i, j, rect, ground), touch, self.passes[i].settings, self.bounds
        )
        if shelf:
            shelf.put(self.rests.key(i, j), change)
        return Patch(writes, change)

    def _reduced(self, i: int, j: int, level: int) -> Patch:
        full = self._patch(i, j, 0)
        wide = full.rect.align(1 << level)
        padded = np.zeros((wide.height, wide.width, 3), np.float32)
        top, left = full.rect.y0 - wide.y0, full.rect.x0 - wide.x0
        padded[top : top + full.rect.height, left : left + full.rect.width] = full.change
        return Patch(full.rect.reduced(level), reduce(padded, level))

    def below(self, i: int, j: int, rect: Rect, ground: Patch | None = None) -> Array:
        """What the touch ``j`` of pass ``i`` sees in ``rect``, at full size."""
        if ground is not None and rect.clip(ground.rect) == rect:
            image = ground.change[rect.within(ground.rect)].copy()
        else:
            looked_at = self._looked_at(i, j, rect)
            if looked_at is not None:
                return looked_at
            image = self.view(rect, 0, upto=i)
        image = self._add_changes(i, j, image, rect, 0)
        return np.clip(image, 0, 1, out=image)

    def _looked_at(self, i: int, j: int, rect: Rect) -> Array | None:
        """`below`, if the rectangle was looked at last and nothing has changed there."""
        known = self.renderer.looked_at
        if known is None or rect.clip(known.rect) != rect:
            return None
        if known.key != self.rests.ground_key(i, j, known.rect):
            return None
        return known.pixels[rect.within(known.rect)].copy()

    def look(self, i: int, j: int, rect: Rect) -> Array:
        """`below`, remembered: a touch that is made next looks there again."""
        pixels = self.below(i, j, rect)
        if rect.width * rect.height <= _MOST_LOOKED_AT:
            key = self.rests.ground_key(i, j, rect)
            self.renderer.looked_at = LookedAt(key, rect, pixels.copy())
        return pixels


def _active(one: Pass) -> Pass:
    """The pass without the touches that are switched off."""
    if all(t.enabled for t in one.touches):
        return one
    return replace(one, touches=tuple(t for t in one.touches if t.enabled))


def key_of(zones: Zones | None) -> str:
    return zones.key if zones is not None else ""
