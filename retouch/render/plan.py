"""An edit bound to a picture: its passes laid over one another, any rectangle at any level."""

from __future__ import annotations

import json
import weakref
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.curve import looked_up
from retouch.edit.mask import Mask, ZoneArea
from retouch.edit.model import Edit
from retouch.errors import Cancelled
from retouch.geometry import Rect, union_all
from retouch.masks import Zones
from retouch.passes.ways import Curve, Pixels, Place
from retouch.processors import PARTS, at_once, edges
from retouch.render.apart import Apart
from retouch.render.chain import ROOM, Chain
from retouch.render.framing import warp_of
from retouch.render.kept import kept_beside
from retouch.render.mixing import WORTH_PARTING, bend_into, blended, mix_into
from retouch.render.pieces import pieces
from retouch.render.previews import Preview
from retouch.render.rests import Sameness, Wanted
from retouch.render.shaping import covering_of, shape_of
from retouch.render.stock import AloneKey, BelowKey, Patch, Stock
from retouch.render.touching import Touching, View
from retouch.skin.smooth import Cells

Array = NDArray[np.float32]

# What lies below a changing pass is kept for views of so many pixels or more.
_WORTH_KEEPING = 60_000
# Results are kept for a slider to begin with up to so many pixels.
_MOST_KEPT = 4_000_000
# Strips that several passes work through at once have so many pixels, those of a large pass so many.
_SMALL_STRIP, _STRIP = 200_000, 700_000
# A large pass isn't cut into strips whose margins come to more than this part of it.
_MOST_MARGIN = 0.5
# … nor into more than two for each processor where strips were less than so many margins high.
_LEAST_HEIGHT = 8
# Where a pass that is cut looks for single hairs.
_HAIRY = Mask((ZoneArea("hair"), ZoneArea("beard")))


def _weakly(view: View) -> View:
    """A plan's view that doesn't keep the plan: each would keep its picture until a collection of cycles."""
    known = weakref.WeakMethod(view)

    def asked(*args: Any, **more: Any) -> Array:
        own = known()
        assert own is not None
        return own(*args, **more)

    return asked


class Plan:
    """An edit bound to a picture; safe to use from several threads.

    Parameters
    ----------
    before : Plan, optional
        Of an edit that begins alike: what is known of it is taken over.
    standing : Plan, optional
        The edit that a slider began with: touches that are in both keep what they change there,
        and passes above the changing one add what they add there (see `previews`).
    """

    def __init__(
        self,
        stock: Stock,
        edit: Edit,
        before: Plan | None = None,
        zones: Zones | None = None,
        standing: Plan | None = None,
    ) -> None:
        self.stock = stock
        self.edit = edit
        self.zones = zones
        self.bounds = stock.bounds
        # What is moved, and the map from the framed picture to the original.
        covering = covering_of(stock, zones)
        self.shape = shape_of(edit, covering)
        self.warp = warp_of(edit, stock.bounds, covering)
        known = before if standing is None else standing
        chain = None if known is None else known.chain
        self.chain: Chain = Chain(edit, stock.digest, stock.bounds, zones, chain)
        self.passes = self.chain.passes
        # From pass ``upto`` on the edit differs from the known one: what lies below is worth
        # keeping; if it differs there only by its mask, what the pass itself makes is, too.
        self._same = Sameness(0) if known is None else self.chain.rests.take_over(known.chain.rests)
        self.standing = standing
        stood: Touching | None = standing.touching if standing is not None else None
        self.touching: Touching = Touching(self.chain, stock, _weakly(self.view), stood)
        self._apart = Apart(self)
        self._preview = None if standing is None else Preview.of(self, standing, self._same.upto)

    @property
    def trouble(self) -> str | None:
        """Why the result isn't whole, in words: what masks need of the faces is missing; or None."""
        if not self.edit.needs_faces:
            return None
        if self.zones is None:
            return "Some passes act on zones of the face, and the faces aren't known yet."
        for one in self.passes:
            for area in one.mask.areas:
                face = area.face if isinstance(area, ZoneArea) else None
                if face is not None and not self.zones.knows(face):
                    return (
                        f"{one.title} is for a person who isn't found in this picture any more. "
                        "Switch it off, delete it, or choose another mask."
                    )
        return None

    @property
    def reach(self) -> int:
        """Pixels of the original around a place that all passes together are given with it at full size."""
        return self.chain.margin(0)

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
        if upto is None and self._preview is not None and area >= _WORTH_KEEPING:
            return self._preview.view(rect, level, cancelled)
        keep = upto is None and self.standing is None and _WORTH_KEEPING <= area <= _MOST_KEPT
        if not (keep and self.chain.look_around(1)):
            return self.rendered(rect, level, cancelled, upto, around)

        def make() -> Patch:
            known = kept_beside(self, rect, level)
            self.stock.wholes.appendleft((rect, level))
            if known is None:
                image = self.rendered(rect, level, cancelled, upto, around)
                return Patch(rect, np.ascontiguousarray(image))
            # A window that moves shows most of what it showed before.
            out = np.empty((rect.height, rect.width, 3), np.float32)
            both = rect.clip(known.rect)
            out[both.within(rect)] = known.within(both)
            for part in rect.without(both):
                out[part.within(rect)] = self.rendered(part, level, cancelled, upto, around)
            return Patch(rect, out)

        # A slider that moves next begins with it, and what only moves parts of it needs no more.
        return self.stock.belows.get(self.below_key(len(self.chain), rect, level), make).change

    def expect(self, rect: Rect) -> None:
        """Say that all of a rectangle will be asked for at full size, part by part."""
        self._apart.expect(rect)

    def stands(self, rect: Rect, level: int) -> bool:
        """Whether a view is made at once of what is kept of the standing edit (see `previews`)."""
        if self._preview is None or rect.width * rect.height < _WORTH_KEEPING:
            return False
        standing = self._preview.standing
        return self.stock.belows.holds(standing.below_key(len(standing.chain), rect, level))

    def foreseen(self, rect: Rect, level: int, whole: Rect) -> Array:
        """A part of what `stands`, ``whole``: what changes computed, what the standing edit adds above it laid on."""
        assert self._preview is not None
        return self._preview.part(rect, level, whole)

    def rendered(
        self,
        rect: Rect,
        level: int,
        cancelled: Callable[[], bool],
        upto: int | None,
        around: Rect | None = None,
    ) -> Array:
        """All passes computed (see `view`), each from what is below it."""
        count = len(self.chain) if upto is None else upto
        wanted = self.touching.wanted(rect, level, count)
        rects = self.chain.rects(rect, level, count, wanted)
        wide = rects
        if around is not None:
            room = around.union(rect).grow(ROOM if wanted else 0)
            wide = self.chain.rects(room, level, count)
        start = min(self._same.upto, count)
        area = wide[-1].width * wide[-1].height
        if start and start < count and area >= _WORTH_KEEPING:
            image = self._kept_below(start, wide, level, cancelled).within(rects[start]).copy()
        else:
            image, start = self.stock.pyramid.crop(rects[0], level), 0
        return self._apply_all(image, start, count, rects, level, cancelled, wide, wanted)

    def go_on(self, image: Array, start: int, count: int, rects: list[Rect], level: int) -> Array:
        """Passes from ``start`` up to ``count`` laid over what is below them; ``rects`` as `Chain.rects` gives them."""
        return self._apply_all(image, start, count, rects, level, lambda: False, rects)

    def worth_parting(self, rect: Rect, level: int, count: int) -> bool:
        """Whether ``rect`` is done sooner in so many parts at once, for all that their margins cost."""
        if self.standing is not None:
            # In the same parts as the standing edit, whose parts are kept.
            return self.standing.worth_parting(rect, level, count)
        start, upto = min(self._same.upto, len(self.chain)), len(self.chain)
        if self.touching.wanted(rect, level, upto) is not None:
            # The touches are made on all cores anyway, and look at what lies beyond the edge.
            return False
        whole = self.chain.rects(rect, level, upto)[start]
        strip = Rect(rect.x0, rect.y0, rect.x1, rect.y0 + rect.height // count)
        part = self.chain.rects(strip, level, upto)[start]
        return count * part.height < (1 + _MOST_MARGIN) * whole.height

    def below_key(self, i: int, rect: Rect, level: int) -> BelowKey:
        """What the picture below pass ``i`` is kept under."""
        return BelowKey(self.chain.below_key(i, rect, level), rect, level)

    def _kept_below(
        self, i: int, rects: list[Rect], level: int, cancelled: Callable[[], bool]
    ) -> Patch:
        """The picture below pass ``i``, from memory while a slider of that pass moves."""
        rect = rects[i]

        def make() -> Patch:
            ground = self.stock.pyramid.crop(rects[0], level)
            below = self._apply_all(ground, 0, i, rects, level, cancelled, rects)
            return Patch(rect, np.ascontiguousarray(below))

        return self.stock.belows.get(self.below_key(i, rect, level), make)

    def _kept_alone(self, i: int, wide: list[Rect], level: int) -> Patch:
        """What pass ``i`` makes of the picture below it without its mask, over ``wide[1]``."""
        one = self.passes[i]
        ground, out = wide
        values = json.dumps(sorted(self.chain.values[i].items()))
        key = AloneKey(self.below_key(i, ground, level), one.kind, values, out)

        def make() -> Patch:
            rects = self.chain.rects(out, level, i + 1)
            below = self._kept_below(i, rects, level, lambda: False)
            image = below.within(ground)
            around = self._apart.around(i, out, level)
            return Patch(out, self._made(i, image, ground, ground, out, level, around))

        return self.stock.belows.get(key, make)

    def _apply_all(
        self,
        image: Working,
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
        i = start
        while i < count:
            if cancelled():
                raise Cancelled("The view is no longer wanted.")
            end = self._together(i, count, rects, wide)
            if end > i:
                self._apply_together(i, end, image, whole, rects, level, wide)
            else:
                self._apply(i, image, whole, rects[i : i + 2], level, wide[i : i + 2], wanted)
            i = max(end, i + 1)
        return image[rects[count].within(whole)]

    def _together(self, i: int, count: int, rects: list[Rect], wide: list[Rect]) -> int:
        """Where the run of passes ends that are worked through at once from pass ``i`` on.

        They look at nothing but the pixel itself, and the picture is large; else ``i``.
        """

        def alone(k: int) -> bool:
            return (
                self.chain.kinds[k].touches is not None
                or self.chain.looks_around(k)
                or self._worth_keeping(k, wide[k : k + 2])
            )

        if rects[i].width * rects[i].height < WORTH_PARTING:
            return i
        return next((k for k in range(i, count) if alone(k)), count)

    def _apply_together(
        self,
        start: int,
        end: int,
        image: Working,
        whole: Rect,
        rects: list[Rect],
        level: int,
        wide: list[Rect],
    ) -> None:
        """Apply passes that don't look around in place, all of them strip by strip.

        A strip stays in the processor's cache from one pass to the next.
        """
        full = rects[start]

        def work(rows: tuple[int, int]) -> None:
            strip = Rect(full.x0, rows[0], full.x1, rows[1])
            for i in range(start, end):
                here = [r.clip(strip) for r in rects[i : i + 2]]
                if not here[1].empty:
                    self._apply(i, image, whole, here, level, wide[i : i + 2], None)

        count = max(2 * PARTS, full.width * full.height // _SMALL_STRIP)
        at_once(work, edges(full.y0, full.y1, min(count, full.height)))

    def _apply(
        self,
        i: int,
        image: Working,
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
        one, kind = self.passes[i], self.chain.kinds[i]
        rect, out = rects
        around = wide[1]
        if kind.guide:
            return
        if kind.touches is None:
            # Beyond the mask's reach there is nothing to do, and no mask to draw.
            acting = self.chain.extent(i).reduced(level).grow(1)
            out, around = out.clip(acting), around.clip(acting)
            if out.empty:
                return
        cover = (
            None if kind.cut else self.stock.masks.draw(one.mask, out, level, self.zones, around)
        )
        share: Array | float = one.share
        if cover is not None:
            share = cover if share == 1.0 else share * cover
        if kind.touches is not None:
            if wanted is not None:
                missing = sorted(j for k, j in wanted.missing if k == i)
                self.touching.make_at_once(i, missing, image[rect.within(whole)], rect)
            only = None if wanted is None else wanted.touches[i]
            self._touch(i, image[out.within(whole)], out, level, share, only)
            return
        inner = [out]
        if not isinstance(share, float):
            # Only where the mask lets something through, with the margin that the pass needs.
            reach = -(-self.chain.margin_of(i, level) // (1 << level))
            inner = [r.shift(out.x0, out.y0) for r in pieces(share, reach)]
            if not inner:
                return
        shares = [share if isinstance(share, float) else share[r.within(out)] for r in inner]
        if isinstance(kind.way, Curve) and one.blend == "normal":
            table = kind.way.table(self.chain.values[i], self.stock.wide)
            if table is not None:
                for part, own in zip(inner, shares, strict=True):
                    bend_into(image, part.within(whole), table, own)
            return
        if self._worth_keeping(i, wide):
            kept = self._kept_alone(i, wide, level)
            made = [kept.within(part) for part in inner]
        else:
            # All of them first: each looks at what is around it as it was.
            seen = self._apart.around(i, union_all(inner), level)
            made = [self._made(i, image, whole, rect, part, level, seen) for part in inner]
        for part, above, own in zip(inner, made, shares, strict=True):
            mix_into(image, part.within(whole), above, one.blend, own)

    def _touch(
        self,
        i: int,
        image: Working,
        out: Rect,
        level: int,
        share: Array | float,
        only: set[int] | None,
    ) -> None:
        """Apply a pass of touches, or ``only`` some of them, in place to an image over ``out``."""
        one = self.passes[i]
        upto = len(one.touches)
        if one.blend == "normal":
            self.touching.add(i, upto, image, out, level, share, only)
            return
        above = self.touching.add(i, upto, image.copy(), out, level, 1.0, only)
        image += (blended(one.blend, image, above) - image) * share

    def _worth_keeping(self, i: int, wide: list[Rect]) -> bool:
        """Whether only the mask of pass ``i`` changes, over and over."""
        out = wide[1]
        return (
            self._same.mask_only
            and not self.chain.kinds[i].cut
            and i == self._same.upto
            and out.width * out.height >= _WORTH_KEEPING
        )

    def opacity(self, rect: Rect) -> Array | None:
        """How much of ``rect`` (pixels of the original) isn't made see-through, (h, w) 0..1; None: all of it."""
        out: Array | None = None
        for i, one in enumerate(self.passes):
            way = self.chain.kinds[i].way
            if not isinstance(way, Pixels) or way.opacity is None:
                continue
            values = self.chain.values[i]
            outer = rect.grow(self.chain.margin_of(i, 0)).clip(self.stock.bounds)
            place = self.place(i, outer, 0, rect, self._apart.whole(i))
            found = way.opacity(np.clip(self.view(outer, 0, upto=i), 0, 1), values, place)
            if found is not None:
                own = 1 - np.float32(one.share) * (1 - found)
                out = own if out is None else out * own
        return out

    def place(self, i: int, outer: Rect, level: int, inner: Rect, whole: Any = None) -> Place:
        """A place with what a pass that is cut is told: its mask, where hair is, and what it knows of the whole."""

        def drawn(mask: Mask) -> Array | None:
            found = self.stock.masks.draw(mask, outer, level, self.zones)
            return None if found is None else np.ascontiguousarray(found[..., 0])

        mask = self.passes[i].mask
        # A mask without zones is computed without the faces, then as later.
        hairy = drawn(_HAIRY) if mask.zones else None
        return Place(outer, level, inner, drawn(mask), hairy, self.stock.others, whole=whole)

    def _made(
        self, i: int, image: Working, whole: Rect, rect: Rect, inner: Rect, level: int,
        around: Cells | None,
    ) -> Array:  # fmt: skip
        """What a pass without touches makes of ``inner``, without its mask, strength and blending.

        Of the image over ``whole`` it looks at no more than ``rect``, and at what lies far ``around``.
        """
        way, values = self.chain.kinds[i].way, self.chain.values[i]
        if isinstance(way, Curve):
            table = way.table(values, self.stock.wide)
            own = image[inner.within(whole)]
            return own if table is None else looked_up(own, table)
        assert isinstance(way, Pixels)
        make = way.make
        reach = -(-self.chain.margin_of(i, level) // (1 << level))
        # Before it is cut into parts, which would wait for each other.
        learnt = self._apart.whole(i)

        def part(rows: tuple[int, int]) -> Array:
            strip = Rect(inner.x0, rows[0], inner.x1, rows[1])
            outer = strip.grow(reach).clip(rect)
            below = image[outer.within(whole)]
            place = (
                self.place(i, outer, level, strip, learnt)
                if way.cut
                else Place(outer, level, strip, others=self.stock.others, around=around)
            )
            if not self.stock.wide or way.open_ended:
                return make(below, values, place)
            # What lies beyond sRGB is moved as its nearest colour within is.
            inside = np.clip(below, 0, 1)
            return make(inside, values, place) + place.own(below - inside)

        margins = 2 * reach * (PARTS - 1)
        if inner.width * inner.height < WORTH_PARTING or margins > _MOST_MARGIN * inner.height:
            return part((inner.y0, inner.y1))
        # Strips that are small keep all processors busy and memory low, unless their margins cost more than that.
        most = inner.height // max(_LEAST_HEIGHT * reach, 1)
        wished = max(2 * PARTS, inner.width * inner.height // _STRIP)
        count = PARTS if most < 2 * PARTS else min(wished, most)
        out = np.empty((inner.height, inner.width, 3), np.float32)

        def fill(rows: tuple[int, int]) -> None:
            out[rows[0] - inner.y0 : rows[1] - inner.y0] = part(rows)

        at_once(fill, edges(inner.y0, inner.y1, count))
        return out
