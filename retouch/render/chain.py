"""The passes of an edit that act, in their order, and how far each has to look."""

from __future__ import annotations

import hashlib
import weakref
from dataclasses import replace

from retouch.edit.model import Edit, Pass
from retouch.geometry import Rect, union_all
from retouch.masks import Zones, extent
from retouch.passes import registry
from retouch.passes.ways import Broad
from retouch.render.rests import Rests, Wanted

# Touches to be made may look so many pixels beyond what is asked for and find it ready there …
ROOM = 128
# … unless that is more work than looking for each of them: as much as so many pixels, at least.
_LOOK = 20_000
# Passes that reduce the picture do so in cells; whole ones need no borders made up.
_CELLS = 8
# What a pass sees far around is made in rectangles of whole blocks of so many pixels of its level, so that
# parts that lie near each other find it ready.
_BLOCK = 64
# That level is so many coarser at least: else margins are less work.
COARSER = 2


class Chain:
    """The passes that act on a picture.

    Parameters
    ----------
    edit : Edit
        Passes and touches that are switched off are left out.
    digest : str
        Fingerprint of the picture.
    bounds : Rect
        The whole picture.
    zones : Zones, optional
        Of the faces, for masks that name some.
    before : Chain, optional
        Of another edit: what is known of passes that are the same is taken from it.
    """

    def __init__(
        self,
        edit: Edit,
        digest: str,
        bounds: Rect,
        zones: Zones | None,
        before: Chain | None = None,
    ) -> None:
        self.digest = digest
        self.bounds = bounds
        self.zones = zones
        self.passes = [_active(p) for p in acting(edit)]
        extent = weakref.WeakMethod(self.extent)

        def reaches(i: int) -> Rect:
            # Not held by it: both would stay, with their picture, until a collection of cycles.
            known = extent()
            assert known is not None
            return known(i)

        known = None if before is None else before.rests
        self.rests: Rests = Rests(digest, self.passes, bounds, key_of(zones), reaches, known)
        self.kinds = self.rests.kinds
        # All that each pass is computed with: set by hand, and what the face gave.
        self.values = self.rests.values
        self._extents: dict[int, Rect] = {}
        self._below_keys: dict[tuple[int, Rect, int], str] = {}

    def __len__(self) -> int:
        return len(self.passes)

    def margin_of(self, i: int, level: int) -> int:
        """Pixels of the original around a place that pass ``i`` is given with it on a level."""
        broad = self._broad(i, level)
        return self.kinds[i].margin(self.values[i]) if broad is None else broad.near

    def margin(self, level: int) -> int:
        """Pixels of the original around a place that all passes together are given with it on a level."""
        return sum(self.margin_of(i, level) for i in range(len(self)))

    def looks_around(self, i: int) -> bool:
        """Whether pass ``i`` looks further than the pixels it changes."""
        return self.kinds[i].reach(self.values[i]) > 0

    def look_around(self, start: int) -> bool:
        """Whether any pass from ``start`` on does."""
        return any(self.looks_around(i) for i in range(start, len(self)))

    def _broad(self, i: int, level: int) -> Broad | None:
        """How pass ``i`` sees what lies far around, where that is made apart on this level."""
        broad = self.kinds[i].broad(self.values[i])
        return broad if broad is not None and broad.level >= level + COARSER else None

    def around(self, i: int, rect: Rect, level: int) -> tuple[Rect, int] | None:
        """What pass ``i`` is given apart, to give ``rect`` of a level: a rectangle of a coarser level.

        It holds what passes above will be made of that look on the same level. None where the pass looks no
        further than its margins.
        """
        broad = self._broad(i, level)
        if broad is None:
            return None
        seen = self._apart(i, rect, level, broad.level)
        for k in range(i + 1, len(self)):
            above = self._broad(k, level)
            own = rect.clip(self.extent(k).reduced(level).grow(1))
            if above is not None and above.level == broad.level and not own.empty:
                apart = self._apart(k, own, level, broad.level)
                seen = seen.union(self.rects(apart, broad.level, k)[i])
        return seen, broad.level

    def _apart(self, i: int, rect: Rect, level: int, coarser: int) -> Rect:
        """What pass ``i`` looks at for ``rect`` of a level, in pixels of a coarser one."""
        full = self.full(rect, level).grow(self.kinds[i].reach(self.values[i]))
        whole = self.bounds.reduced(coarser)
        return full.clip(self.bounds).reduced(coarser).align(_BLOCK).clip(whole)

    def full(self, rect: Rect, level: int) -> Rect:
        """A rectangle of a level in pixels of the original."""
        size = 1 << level
        return Rect(*(n * size for n in rect.as_tuple()))

    def extent(self, i: int) -> Rect:
        """Where a pass can act, in pixels of the original."""
        if i not in self._extents:
            self._extents[i] = (
                self.bounds
                if self.kinds[i].cut
                else extent(self.passes[i].mask, self.bounds, self.zones)
            )
        return self._extents[i]

    @property
    def acting(self) -> Rect:
        """A rectangle outside of which no pass changes anything, in pixels of the original."""
        found = []
        for i, kind in enumerate(self.kinds):
            if kind.guide:
                continue
            own = self.extent(i)
            if kind.touches is not None and self.passes[i].blend == "normal":
                own = own.clip(self.rests.writes(i))
            found.append(own)
        return union_all(found)

    def rects(self, rect: Rect, level: int, count: int, wanted: Wanted | None = None) -> list[Rect]:
        """What each of the first ``count`` passes has to give, the original first.

        The ones above need margins. Where touches are ``wanted`` that have to be made, so does
        what they look at, up to `ROOM` beyond the rectangle, if that is less work than looking for
        each of them.
        """
        limits = self.bounds.reduced(level)
        rect = rect.clip(limits)
        plain = self._margins(rect, level, count, {})
        if wanted is None:
            return plain
        most = rect.grow(ROOM)
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
        """See `rects`; ``rooms`` is what passes have to be given in any case."""
        limits = self.bounds.reduced(level)
        out = [rect]
        for i in reversed(range(count)):
            reach = self.margin_of(i, level)
            above = out[-1]
            if reach:
                # Nothing is looked at where the mask lets nothing through.
                acting = self.extent(i).reduced(level).grow(1).clip(above)
                if not acting.empty:
                    looked_at = acting.grow(-(-reach // (1 << level))).align(_CELLS)
                    above = above.union(looked_at).clip(limits)
            out.append(above.union(rooms[i]) if i in rooms else above)
        out.reverse()
        return out

    def below_key(self, i: int, rect: Rect, level: int) -> str:
        """Fingerprint of all that makes the picture below pass ``i`` in a rectangle."""
        known = self._below_keys.get((i, rect, level))
        if known is not None:
            return known
        seen = self._seen(i, rect, level)
        parts: list[str] = [self.digest]
        for k in range(i):
            parts.append(self.rests.signatures[k])
            if self.kinds[k].touches is not None:
                upto = len(self.passes[k].touches)
                parts += [self.rests.key(k, j) for j in self.rests.meeting(k, upto, seen)]
        key = hashlib.blake2b("|".join(parts).encode(), digest_size=16).hexdigest()
        self._below_keys[i, rect, level] = key
        return key

    def _seen(self, i: int, rect: Rect, level: int) -> list[Rect]:
        """All of the original that the picture below pass ``i`` is made of in a rectangle, and apart for it."""
        rects = self.rects(rect, level, i)
        out = [self.full(rects[0], level)]
        for k in range(i):
            if self.kinds[k].whole is not None:
                out.append(self.bounds)
            apart = self.around(k, rects[k + 1], level)
            if apart is not None:
                out += self._seen(k, *apart)
        return out


def acting(edit: Edit) -> list[Pass]:
    """The passes that act one after the other on the original's pixels: not the development below
    them, nor what moves parts of them, the frame above and what acts on the framed picture.
    """

    def here(one: Pass) -> bool:
        kind = registry.kind(one.kind)
        return one.acts and not (kind.single or kind.framed or kind.shape)

    return [p for p in edit.passes if here(p)]


def _active(one: Pass) -> Pass:
    """The pass without the touches that are switched off."""
    if all(t.enabled for t in one.touches):
        return one
    return replace(one, touches=tuple(t for t in one.touches if t.enabled))


def key_of(zones: Zones | None) -> str:
    """Fingerprint of zones; empty for none."""
    return zones.key if zones is not None else ""
