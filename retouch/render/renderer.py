"""The incremental renderer.

A touch is always computed at full size, from what lies below it there, and kept as the change it
adds. A reduced view adds the reduced change to the reduced picture: so every level agrees with
the full-size result, and a pass's strength only scales what is known already. What is kept is
filed under a key made of all that went in, so nothing stale can be shown and a change re-renders
only what depends on it.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from retouch.colour.blend import blend
from retouch.edit.form import pass_to_data
from retouch.edit.model import Edit, Pass, Touch
from retouch.errors import Cancelled
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.picture import Pyramid
from retouch.picture.pyramid import reduce
from retouch.render.cache import ByteCache
from retouch.render.mask import draw

Array = NDArray[np.float32]

DEFAULT_BUDGET = 512 * 1024 * 1024


@dataclass(frozen=True)
class Patch:
    """A touch's change over ``rect``, in pixels of its level."""

    rect: Rect
    change: Array

    @property
    def nbytes(self) -> int:
        return self.change.nbytes + 64


class Renderer:
    """Renders edits of one picture; safe to use from several threads.

    Parameters
    ----------
    pyramid : Pyramid
        The original.
    cache : ByteCache, optional
        Shared between renderers if wanted; keys contain the picture's fingerprint.
    """

    def __init__(self, pyramid: Pyramid, cache: ByteCache[Patch] | None = None) -> None:
        self.pyramid = pyramid
        self.cache: ByteCache[Patch] = cache if cache is not None else ByteCache(DEFAULT_BUDGET)

    @property
    def bounds(self) -> Rect:
        return self.pyramid.picture.bounds

    def plan(self, edit: Edit) -> Plan:
        """Prepare an edit for rendering; a plan can be used many times."""
        return Plan(self, edit)

    def render(self, edit: Edit, region: Rect, level: int = 0) -> Array:
        """The edited pixels of a region.

        Parameters
        ----------
        region : Rect
            In pixels of the original, inside the picture.
        level : int
            0 for full size, each further level halves.

        Returns
        -------
        ndarray (h, w, 3) float32
            Encoded 0..1 of ``region.reduced(level)``.
        """
        return self.plan(edit).view(region.clip(self.bounds).reduced(level), level)


class Plan:
    """An edit bound to a picture, with the keys of its touches worked out when needed."""

    def __init__(self, renderer: Renderer, edit: Edit) -> None:
        self.renderer = renderer
        self.passes = [p for p in edit.passes if p.enabled and p.strength > 0]
        self._kinds = [registry.kind(p.kind) for p in self.passes]
        self._keys: dict[tuple[int, int], str] = {}
        self._signatures = [_signature(p) for p in self.passes]

    @property
    def bounds(self) -> Rect:
        return self.renderer.bounds

    def view(
        self,
        rect: Rect,
        level: int,
        cancelled: Callable[[], bool] = lambda: False,
        upto: int | None = None,
    ) -> Array:
        """All passes over ``rect``, given in pixels of ``level``; only the first ``upto`` if set.

        Raises `Cancelled` between passes once ``cancelled()`` says so.
        """
        count = len(self.passes) if upto is None else upto
        limits = self.bounds.reduced(level)
        # From the top down: how much margin the passes above need of those below.
        rects = [rect.clip(limits)]
        for i in reversed(range(count)):
            reach = self._kinds[i].reach(self.passes[i].settings)
            rects.append(rects[-1].grow(-(-reach // (1 << level))).clip(limits))
        rects.reverse()
        image = self.renderer.pyramid.crop(rects[0], level)
        for i in range(count):
            if cancelled():
                raise Cancelled("The view is no longer wanted.")
            image = self._apply(i, image, rects[i], level)
            inner, outer = rects[i + 1], rects[i]
            if inner != outer:
                image = image[
                    inner.y0 - outer.y0 : inner.y1 - outer.y0,
                    inner.x0 - outer.x0 : inner.x1 - outer.x0,
                ]
        return image

    def _apply(self, i: int, image: Array, rect: Rect, level: int) -> Array:
        one, kind = self.passes[i], self._kinds[i]
        if kind.touches is not None:
            change = self._changes(i, len(one.touches), rect, level)
            if change is None:
                return image
            plain = one.blend == "normal"
            above = None if plain else np.clip(image + change, 0, 1)
        else:
            assert kind.pixels is not None
            plain, above = False, kind.pixels(image, one.settings, level)
            change = None
        share: Array | float = one.strength / 100
        cover = draw(one.mask, rect, level)
        if cover is not None:
            share = share * cover
        if plain and change is not None:
            return image + change * np.float32(share) if cover is None else image + change * share
        assert above is not None
        mixed = above if one.blend == "normal" else blend(one.blend, image, above)
        if isinstance(share, float) and share == 1.0:
            return mixed
        return np.asarray(image + (mixed - image) * share, np.float32)

    def _changes(self, i: int, upto: int, rect: Rect, level: int) -> Array | None:
        """Sum of the changes of the first ``upto`` touches of a pass; None where there is none."""
        touches = self.passes[i].touches
        kind = self._kinds[i].touches
        assert kind is not None
        total: Array | None = None
        for j in range(upto):
            writes = kind.writes(touches[j], self.bounds)
            if writes.empty or not writes.reduced(level).meets(rect):
                continue
            patch = self._patch(i, j, level)
            if total is None:
                total = np.zeros((rect.height, rect.width, 3), np.float32)
            both = patch.rect.clip(rect)
            total[both.y0 - rect.y0 : both.y1 - rect.y0, both.x0 - rect.x0 : both.x1 - rect.x0] += (
                patch.change[
                    both.y0 - patch.rect.y0 : both.y1 - patch.rect.y0,
                    both.x0 - patch.rect.x0 : both.x1 - patch.rect.x0,
                ]
            )
        return total

    def _patch(self, i: int, j: int, level: int) -> Patch:
        key = self._key(i, j)
        if level == 0:
            return self.renderer.cache.get((key, 0), lambda: self._make(i, j))
        return self.renderer.cache.get((key, level), lambda: self._reduced(i, j, level))

    def _make(self, i: int, j: int) -> Patch:
        kind = self._kinds[i].touches
        assert kind is not None
        touch = self.passes[i].touches[j]
        writes = kind.writes(touch, self.bounds)
        change = kind.render(
            lambda rect: self.below(i, j, rect), touch, self.passes[i].settings, self.bounds
        )
        return Patch(writes, change)

    def _reduced(self, i: int, j: int, level: int) -> Patch:
        full = self._patch(i, j, 0)
        wide = full.rect.align(1 << level)
        padded = np.zeros((wide.height, wide.width, 3), np.float32)
        top, left = full.rect.y0 - wide.y0, full.rect.x0 - wide.x0
        padded[top : top + full.rect.height, left : left + full.rect.width] = full.change
        return Patch(full.rect.reduced(level), reduce(padded, level))

    def below(self, i: int, j: int, rect: Rect) -> Array:
        """What the touch ``j`` of pass ``i`` sees in ``rect``, at full size."""
        image = self.view(rect, 0, upto=i)
        change = self._changes(i, j, rect, 0)
        return image if change is None else np.clip(image + change, 0, 1)

    def _key(self, i: int, j: int) -> str:
        """Fingerprint of everything that can influence a touch's change."""
        known = self._keys.get((i, j))
        if known is not None:
            return known
        kind = self._kinds[i].touches
        assert kind is not None
        touch = self.passes[i].touches[j]
        reads = kind.reads(touch, self.bounds)
        parts: list[Any] = [
            self.renderer.pyramid.picture.digest,
            self.passes[i].kind,
            dict(self.passes[i].settings),
            touch.path,
            dict(touch.values),
            touch.source,
        ]
        margin = 0
        below: list[Any] = []
        for k in range(i, -1, -1):
            keys = self._keys_meeting(k, j if k == i else None, reads, margin)
            if k < i:
                if self._kinds[k].touches is None:
                    below.append(self._signatures[k])
                    margin += self._kinds[k].reach(self.passes[k].settings)
                elif keys:
                    below.append(self._signatures[k])
            below.append(keys)
        parts.append(below)
        text = json.dumps(parts, separators=(",", ":"))
        key = hashlib.blake2b(text.encode(), digest_size=16).hexdigest()
        self._keys[i, j] = key
        return key

    def _keys_meeting(self, k: int, upto: int | None, reads: list[Rect], margin: int) -> list[str]:
        kind = self._kinds[k].touches
        if kind is None:
            return []
        touches = self.passes[k].touches[:upto]
        wide = [r.grow(margin) for r in reads] if margin else reads
        return [
            self._key(k, m)
            for m, t in enumerate(touches)
            if any(r.meets(kind.writes(t, self.bounds)) for r in wide)
        ]


def _signature(one: Pass) -> str:
    data = pass_to_data(one, with_touches=False)
    del data["id"], data["name"]
    return json.dumps(data, sort_keys=True)


def propose_source(
    renderer: Renderer, edit: Edit, pass_id: str, touch: Touch, most: int = 6
) -> list[tuple[int, int]]:
    """Sources for a touch that is about to be added on top of a pass's touches, best first.

    A touch with the same id that is there already is looked past, with all after it.
    """
    plan = renderer.plan(edit)
    # A pass that is switched off still takes touches; they see what lies below it.
    order = [p.id for p in edit.passes]
    active = [p.id for p in plan.passes]
    one = edit.passes[order.index(pass_id)]
    kind = registry.kind(one.kind).touches
    assert kind is not None
    below = sum(p in active for p in order[: order.index(pass_id)])
    names = [t.id for t in one.touches]
    upto = names.index(touch.id) if touch.id in names else len(names)

    def read(rect: Rect) -> Array:
        if pass_id in active:
            return plan.below(below, upto, rect)
        return plan.view(rect, 0, upto=below)

    return kind.propose(read, touch, one.settings, renderer.bounds, most)
