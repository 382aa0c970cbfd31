"""An edit bound to a picture: what each pass and touch gives, where and in which order."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.blend import blend
from retouch.edit.model import Edit, Pass
from retouch.errors import Cancelled
from retouch.geometry import Rect
from retouch.masks import Zones, extent
from retouch.passes import registry
from retouch.picture.pyramid import reduce
from retouch.render.mixing import CORES, WORTH_PARTING, at_once, edges, mix_into
from retouch.render.stock import Patch, Stock

Array = NDArray[np.float32]

# What lies below a changing pass is kept for views of so many pixels or more.
_WORTH_KEEPING = 60_000
# Results are kept for a slider to begin with up to so many pixels.
_MOST_KEPT = 4_000_000
# A large pass isn't cut into strips whose margins come to more than this part of it.
_MOST_MARGIN = 0.5
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
        self._kinds = [registry.kind(p.kind) for p in self.passes]
        self._keys: dict[tuple[int, int], str] = {}
        self._reading: dict[tuple[int, int], list[list[int]]] = {}
        self._signatures = [_signature(p, key_of(zones)) for p in self.passes]
        self._extents: dict[int, Rect] = {}
        self._writes: list[NDArray[np.int64] | None] = [None] * len(self.passes)
        # From this pass on the edit differs from the one before: what lies below is worth keeping.
        self._fresh_from = 0
        # … and there only by its mask, so that what the pass itself makes is worth keeping, too.
        self._mask_only = False
        self._standing = before if lenient else None
        self._stood: dict[str, tuple[int, int]] = {}
        if before is not None:
            self._take_over(before)
            if lenient:
                self._stood = self._same_as(before)
        self._carries = self._standing is not None and self._changes_one(self._standing)

    def _take_over(self, before: Plan) -> None:
        """Keys and rectangles that can't differ: of equal passes and touches at the bottom."""
        for i, (old, new) in enumerate(zip(before.passes, self.passes, strict=False)):
            self._fresh_from = i
            same = 0
            for a, b in zip(old.touches, new.touches, strict=False):
                if a is not b:
                    break
                same += 1
            if old.settings == new.settings and old.kind == new.kind:
                for j in range(same):
                    if (i, j) in before._keys:
                        self._keys[i, j] = before._keys[i, j]
            if same < max(len(old.touches), len(new.touches)):
                return
            self._writes[i] = before._writes[i]
            if before._signatures[i] != self._signatures[i]:
                self._mask_only = old.settings == new.settings and old.kind == new.kind
                return
        self._fresh_from = min(len(before.passes), len(self.passes))

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
        i = self._fresh_from
        return (
            i + 1 < len(self.passes) == len(other.passes)
            and self.passes[i].id == other.passes[i].id
            and self._signatures[i + 1 :] == other._signatures[i + 1 :]
            and self._looks_around(i + 1)
        )

    def _looks_around(self, start: int) -> bool:
        """Whether a pass from ``start`` on looks further than the pixels it changes."""
        above = zip(self._kinds[start:], self.passes[start:], strict=True)
        return any(kind.reach(one.settings) for kind, one in above)

    def _written(self, i: int) -> NDArray[np.int64]:
        """What each touch of a pass writes: rows of x0, y0, x1, y1."""
        known = self._writes[i]
        if known is None:
            kind = self._kinds[i].touches
            assert kind is not None
            rects = [kind.writes(t, self.bounds).as_tuple() for t in self.passes[i].touches]
            known = self._writes[i] = np.array(rects, np.int64).reshape(-1, 4)
        return known

    def _meeting(self, i: int, upto: int, rects: list[Rect]) -> list[int]:
        """Which of the first ``upto`` touches of a pass write into any of the rectangles."""
        written = self._written(i)[:upto]
        found = np.zeros(len(written), np.bool_)
        for r in rects:
            found |= (
                (written[:, 0] < r.x1)
                & (written[:, 2] > r.x0)
                & (written[:, 1] < r.y1)
                & (written[:, 3] > r.y0)
            )
        return [int(j) for j in np.flatnonzero(found)]

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
            kept = Patch(rect, np.ascontiguousarray(image))
            self.renderer.belows.get(self._ground_key(len(self.passes), rect, level), lambda: kept)
            return image.copy()
        return image

    def _carried(self, rect: Rect, level: int, cancelled: Callable[[], bool]) -> Array:
        """The changing pass, and on it what the passes above it add in the standing edit.

        They would look far around themselves at every move of a slider.
        """
        standing, n = self._standing, self._fresh_from + 1
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
        rects = self._rects(rect, level, count)
        wide = rects if around is None else self._rects(around.union(rect), level, count)
        start = min(self._fresh_from, count)
        area = wide[-1].width * wide[-1].height
        if start and start < len(self.passes) and area >= _WORTH_KEEPING:
            below = self._kept_below(start, wide, level, cancelled)
            image = below[rects[start].within(wide[start])].copy()
        else:
            image, start = self.renderer.pyramid.crop(rects[0], level), 0
        return self._apply_all(image, start, count, rects, level, cancelled, wide)

    def worth_parting(self, rect: Rect, level: int, count: int) -> bool:
        """Whether ``rect`` is done sooner in so many parts at once, for all that their margins cost."""
        if self._standing is not None:
            # In the same parts as the standing edit, whose parts are kept.
            return self._standing.worth_parting(rect, level, count)
        start, upto = min(self._fresh_from, len(self.passes)), len(self.passes)
        whole = self._rects(rect, level, upto)[start]
        strip = Rect(rect.x0, rect.y0, rect.x1, rect.y0 + rect.height // count)
        part = self._rects(strip, level, upto)[start]
        return count * part.height < (1 + _MOST_MARGIN) * whole.height

    @property
    def reach(self) -> int:
        """Pixels of the original around a place that all passes together look at."""
        return sum(k.reach(p.settings) for k, p in zip(self._kinds, self.passes, strict=True))

    def _rects(self, rect: Rect, level: int, count: int) -> list[Rect]:
        """What each pass has to give, the original first: the ones above need margins."""
        limits = self.bounds.reduced(level)
        rects = [rect.clip(limits)]
        for i in reversed(range(count)):
            reach = self._kinds[i].reach(self.passes[i].settings)
            above = rects[-1]
            if reach:
                # Nothing is looked at where the mask lets nothing through.
                acting = self._extent(i).reduced(level).grow(1).clip(above)
                if not acting.empty:
                    looked_at = acting.grow(-(-reach // (1 << level))).align(_CELLS)
                    above = above.union(looked_at).clip(limits)
            rects.append(above)
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
            parts.append(self._signatures[k])
            if self._kinds[k].touches is not None:
                upto = len(self.passes[k].touches)
                parts += [self._key(k, j) for j in self._meeting(k, upto, [full])]
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
    ) -> Array:
        """The passes from ``start`` on over an image of ``rects[start]``; see `view` for ``wide``."""
        whole = rects[start]
        image = np.ascontiguousarray(image)
        for i in range(start, count):
            if cancelled():
                raise Cancelled("The view is no longer wanted.")
            self._apply(i, image, whole, rects[i : i + 2], level, wide[i : i + 2])
        return image[rects[count].within(whole)]

    def _apply(
        self, i: int, image: Array, whole: Rect, rects: list[Rect], level: int, wide: list[Rect]
    ) -> None:
        """Apply pass ``i`` in place to an image over ``whole``.

        ``rects`` are what it may look at and what it has to give; beyond the first the image isn't
        meant to be used any more. ``wide`` is what of both is worth keeping.
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
            self._touch(i, image[rect.within(whole)], rect, level, share)
            return
        inner = out
        if not isinstance(share, float):
            # Only where the mask lets something through, with the margin that the pass needs.
            x, y, w, h = cv2.boundingRect((share[..., 0] > 0).view(np.uint8))
            if not w:
                return
            inner = Rect(out.x0 + x, out.y0 + y, out.x0 + x + w, out.y0 + y + h)
            share = share[inner.within(out)]
        if self._worth_keeping(i, wide):
            above = self._kept_above(i, wide, level)[inner.within(wide[1])]
        else:
            above = self._made(i, image, whole, rect, inner, level)
        mix_into(image, inner.within(whole), above, one.blend, share)

    def _touch(self, i: int, image: Array, rect: Rect, level: int, share: Array | float) -> None:
        """Apply a pass of touches in place to an image over ``rect``."""
        one = self.passes[i]
        if one.blend == "normal":
            self._add_changes(i, len(one.touches), image, rect, level, share)
            return
        above = self._add_changes(i, len(one.touches), image.copy(), rect, level)
        above = np.clip(above, 0, 1, out=above)
        mixed = blend(one.blend, image, above)
        image += (mixed - image) * share

    def _worth_keeping(self, i: int, wide: list[Rect]) -> bool:
        """Whether only the mask of pass ``i`` changes, over and over."""
        out = wide[1]
        return (
            self._mask_only and i == self._fresh_from and out.width * out.height >= _WORTH_KEEPING
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
    ) -> Array:
        """Add the changes of the first ``upto`` touches of a pass, in place."""
        size = 1 << level
        full = Rect(rect.x0 * size, rect.y0 * size, rect.x1 * size, rect.y1 * size)
        meeting = self._meeting(i, upto, [full])
        ground = None
        if level == 0 and any(not self._has(i, j) for j in meeting):
            # What the touches to be made look at is here already, as far as it lies within.
            ground = Patch(rect, image.copy())
        for j in meeting:
            patch = self._patch(i, j, level, ground)
            both = patch.rect.clip(rect)
            if both.empty:
                continue
            here = np.s_[
                both.y0 - rect.y0 : both.y1 - rect.y0, both.x0 - rect.x0 : both.x1 - rect.x0
            ]
            change = patch.change[
                both.y0 - patch.rect.y0 : both.y1 - patch.rect.y0,
                both.x0 - patch.rect.x0 : both.x1 - patch.rect.x0,
            ]
            if isinstance(share, float):
                image[here] += change if share == 1.0 else change * np.float32(share)
            else:
                image[here] += change * share[here]
        return image

    def _has(self, i: int, j: int) -> bool:
        """Whether a touch's change is known."""
        if self.passes[i].touches[j].id in self._stood:
            return True
        return self.renderer.cache.holds((self._key(i, j), 0))

    def _patch(self, i: int, j: int, level: int, ground: Patch | None = None) -> Patch:
        stood = self._stood.get(self.passes[i].touches[j].id)
        if stood is not None and self._standing is not None:
            return self._standing._patch(*stood, level)
        key = self._key(i, j)
        cache = self.renderer.cache
        if level > 0:
            return cache.get((key, level), lambda: self._reduced(i, j, level))
        if ground is not None and self._reads_within(i, j, ground.rect):
            return cache.get((key, 0), lambda: self._make(i, j, ground))
        if not cache.holds((key, 0)):
            # What it reads first, the lowest first: so making never nests deeply, however long
            # the chain of touches that read each other.
            for k, m in self._below(i, j, lambda k, m: cache.holds((self._key(k, m), 0))):
                cache.get((self._key(k, m), 0), lambda k=k, m=m: self._make(k, m))  # type: ignore[misc]
        return cache.get((key, 0), lambda: self._make(i, j))

    def _reads_within(self, i: int, j: int, rect: Rect) -> bool:
        kind = self._kinds[i].touches
        assert kind is not None
        reads = kind.reads(self.passes[i].touches[j], self.passes[i].settings, self.bounds)
        return all(r.clip(rect) == r for r in reads)

    def _make(self, i: int, j: int, ground: Patch | None = None) -> Patch:
        """A touch's change; ``ground`` is what lies below its pass, where that is known."""
        kind = self._kinds[i].touches
        assert kind is not None
        touch = self.passes[i].touches[j]
        writes = kind.writes(touch, self.bounds)
        shelf = self.renderer.shelf if kind.slow else None
        kept = shelf.get(self._key(i, j)) if shelf else None
        if kept is not None and kept.shape == (writes.height, writes.width, 3):
            return Patch(writes, kept)
        change = kind.render(
            lambda rect: self.below(i, j, rect, ground), touch, self.passes[i].settings, self.bounds
        )
        if shelf:
            shelf.put(self._key(i, j), change)
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
            image = self.view(rect, 0, upto=i)
        image = self._add_changes(i, j, image, rect, 0)
        return np.clip(image, 0, 1, out=image)

    def _direct(self, i: int, j: int) -> list[list[int]]:
        """Touches that a touch reads, per pass from its own down to the lowest."""
        known = self._reading.get((i, j))
        if known is not None:
            return known
        kind = self._kinds[i].touches
        assert kind is not None
        reads = kind.reads(self.passes[i].touches[j], self.passes[i].settings, self.bounds)
        out: list[list[int]] = []
        for k in range(i, -1, -1):
            if self._kinds[k].touches is None:
                reach = self._kinds[k].reach(self.passes[k].settings)
                reads = [r.grow(reach) for r in reads] if reach else reads
                out.append([])
            else:
                upto = j if k == i else len(self.passes[k].touches)
                out.append(self._meeting(k, upto, reads))
        self._reading[i, j] = out
        return out

    def _below(self, i: int, j: int, done: Callable[[int, int], bool]) -> list[tuple[int, int]]:
        """All touches that a touch rests on, lowest first, without those that are done."""
        found: set[tuple[int, int]] = set()
        open_ones = [(i, j)]
        while open_ones:
            a, b = open_ones.pop()
            for k, touches in zip(range(a, -1, -1), self._direct(a, b), strict=True):
                for m in touches:
                    if (k, m) not in found and not done(k, m):
                        found.add((k, m))
                        open_ones.append((k, m))
        return sorted(found)

    def _key(self, i: int, j: int) -> str:
        """Fingerprint of everything that can influence a touch's change."""
        known = self._keys.get((i, j))
        if known is not None:
            return known
        for k, m in self._below(i, j, lambda k, m: (k, m) in self._keys):
            self._keys[k, m] = self._fingerprint(k, m)
        key = self._keys[i, j] = self._fingerprint(i, j)
        return key

    def _fingerprint(self, i: int, j: int) -> str:
        touch = self.passes[i].touches[j]
        below: list[Any] = []
        for k, touches in zip(range(i, -1, -1), self._direct(i, j), strict=True):
            if k < i and (touches or self._kinds[k].touches is None):
                below.append(self._signatures[k])
            below.append([self._keys[k, m] for m in touches])
        parts = [
            self.renderer.pyramid.picture.digest,
            self.passes[i].kind,
            dict(self.passes[i].settings),
            touch.path,
            dict(touch.values),
            touch.source,
            touch.spare,
            below,
        ]
        text = json.dumps(parts, separators=(",", ":"))
        return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()


def _active(one: Pass) -> Pass:
    """The pass without the touches that are switched off."""
    if all(t.enabled for t in one.touches):
        return one
    return replace(one, touches=tuple(t for t in one.touches if t.enabled))


def key_of(zones: Zones | None) -> str:
    return zones.key if zones is not None else ""


def _signature(one: Pass, zones: str) -> str:
    parts = [
        one.kind,
        dict(one.settings),
        one.mask.key,
        zones if one.mask.zones else "",
        one.strength,
        one.blend,
    ]
    return json.dumps(parts, sort_keys=True)
