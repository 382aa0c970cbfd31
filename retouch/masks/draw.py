"""Whole masks over any rectangle, from what is kept of their parts."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.edit.mask import Area, Mask, MaskStroke, OutlineArea, ZoneArea
from retouch.geometry import EMPTY, Rect, union_all
from retouch.masks.ground import Drawn, Zones, as_drawn, drawn_zone, ground, looked_at, reach_of
from retouch.masks.painted import TILE, Tile, laid_on, lay_into
from retouch.memory import USUAL_BUDGET, Memory, Part
from retouch.picture import Pyramid
from retouch.processors import PARTS, at_once, edges

Array = NDArray[np.float32]

# The most of the memory that masks may take, and that strokes on them may.
_SHARE = 0.15
# Masks of so many pixels or more are drawn in strips at the same time.
_WORTH_PARTING = 500_000
# So many tiles are painted at the same time.
_MANY_TILES = 4


@dataclass(frozen=True)
class _Key:
    """A mask over a rectangle of a level: fingerprints of picture, mask and zones.

    ``painted``: with its strokes.
    """

    digest: str
    mask: str
    zones: str
    rect: Rect
    level: int
    painted: bool = False


@dataclass(frozen=True)
class _ZoneKey:
    """What a zone covers on a level, of as much of it as was asked for last."""

    digest: str
    area: ZoneArea
    zones: str
    level: int


@dataclass(frozen=True)
class _TileKey:
    """A row of strokes over a tile of a level."""

    digest: str
    strokes: str
    rect: Rect
    level: int


@dataclass(frozen=True)
class _Kept:
    cover: Array

    @property
    def nbytes(self) -> int:
        return self.cover.nbytes


class Masks:
    """Draws masks of one picture; safe to use from several threads."""

    def __init__(self, pyramid: Pyramid, memory: Memory | None = None) -> None:
        memory = memory if memory is not None else Memory(USUAL_BUDGET)
        self.pyramid = pyramid
        self._digest = pyramid.picture.digest
        self._covers: Part[_Kept] = memory.part("masks", _SHARE)
        self._tiles: Part[Tile] = memory.part("tiles", _SHARE)
        self._areas: Part[Drawn] = memory.part("areas", _SHARE)

    def draw(
        self,
        mask: Mask,
        rect: Rect,
        level: int,
        zones: Zones | None = None,
        around: Rect | None = None,
    ) -> Array | None:
        """Coverage 0..1 of ``rect`` (pixels of ``level``), shape (h, w, 1); None: all of it.

        ``zones`` are needed where the mask names some; without them they cover nothing. What lies
        below the strokes is kept for all of ``around``, for other parts of it. The result isn't to
        be modified.
        """
        size = 1 << level
        strokes = mask.meeting(Rect(*(n * size for n in rect.as_tuple())))
        everywhere = not mask.areas and not mask.invert
        if everywhere and not strokes:
            return None
        cover = None if everywhere else self._ground(mask, around or rect, level, zones)
        if cover is not None and around is not None and around != rect:
            top, left = rect.y0 - around.y0, rect.x0 - around.x0
            cover = cover[top : top + rect.height, left : left + rect.width]
        if strokes:
            cover = self._covered(mask, strokes, cover, rect, level, zones)
        assert cover is not None
        return cover[..., None]

    def _ground(self, mask: Mask, rect: Rect, level: int, zones: Zones | None) -> Array:
        known = zones.key if zones is not None and mask.zones else ""
        key = _Key(self._digest, mask.ground_key, known, rect, level)

        def make() -> _Kept:
            wide = looked_at(mask, rect, level, self.pyramid)
            areas = {as_drawn(a) for a in mask.areas if isinstance(a, ZoneArea)}
            own = {a: self._zone(a, wide, level, zones) for a in areas if zones is not None}

            def part(strip: Rect) -> Array:
                return ground(mask, strip, level, self.pyramid, own)

            return _Kept(_in_strips(part, rect))

        return self._covers.get(key, make).cover

    def _zone(self, area: ZoneArea, rect: Rect, level: int, zones: Zones) -> Drawn:
        """What a zone covers of a rectangle, at least: several masks name the same ones."""
        here = reach_of(area, rect, level, zones)
        if here.empty:
            return Drawn(EMPTY, np.zeros((0, 0), np.float32))
        key = _ZoneKey(self._digest, area, zones.key, level)
        known = self._areas.peek(key)
        both = here.clip(known.rect) if known is not None else EMPTY
        if known is not None and both == here:
            return known
        # A window that moves needs a little more than there is.
        cover = np.empty((here.height, here.width), np.float32)
        if known is not None and not both.empty:
            cover[both.within(here)] = known.cover[both.within(known.rect)]
        for part in [here] if both.empty else here.without(both):
            cover[part.within(here)] = _in_strips(lambda r: drawn_zone(area, r, level, zones), part)
        found = Drawn(here, cover)
        self._areas.put(key, found)
        return found

    def _covered(
        self,
        mask: Mask,
        strokes: list[MaskStroke],
        under: Array | None,
        rect: Rect,
        level: int,
        zones: Zones | None,
    ) -> Array:
        """The painted mask; kept, for a slider asks for the same one again and again."""
        known = zones.key if zones is not None and mask.zones else ""

        def make() -> _Kept:
            ground = under if under is not None else np.ones((rect.height, rect.width), np.float32)
            return _Kept(self._painted(ground, strokes, rect, level))

        key = _Key(self._digest, mask.key, known, rect, level, painted=True)
        return self._covers.get(key, make).cover

    def _painted(self, under: Array, strokes: list[MaskStroke], rect: Rect, level: int) -> Array:
        out = under.copy()
        brushes = np.array([s.rect.reduced(level).as_tuple() for s in strokes], np.int64).T

        def lay(tile_rect: Rect) -> None:
            meets = (brushes[0] < tile_rect.x1) & (brushes[2] > tile_rect.x0)
            meets &= (brushes[1] < tile_rect.y1) & (brushes[3] > tile_rect.y0)
            if not meets.any():
                return
            tile = self._tile([strokes[n] for n in np.flatnonzero(meets)], tile_rect, level)
            both = tile_rect.clip(rect)
            lay_into(
                out[both.y0 - rect.y0 : both.y1 - rect.y0, both.x0 - rect.x0 : both.x1 - rect.x0],
                tile.kept,
                tile.laid,
                both.y0 - tile_rect.y0,
                both.x0 - tile_rect.x0,
            )

        tiles = list(_tiles(rect, self.pyramid.picture.bounds.reduced(level)))
        if len(tiles) >= _MANY_TILES:
            at_once(lay, tiles)
        else:
            for tile in tiles:
                lay(tile)
        return out

    def _tile(self, strokes: list[MaskStroke], rect: Rect, level: int) -> Tile:
        """The tile with these strokes: the one without the last is kept as a rule."""
        names = [s.key for s in strokes]
        key, before = (
            _TileKey(self._digest, _row_key(row), rect, level) for row in (names, names[:-1])
        )

        def make() -> Tile:
            if len(strokes) == 1:
                return laid_on(None, strokes[0], rect, level, self.pyramid)
            row = self._tiles.get(before, lambda: self._row(strokes[:-1], rect, level))
            return laid_on(row, strokes[-1], rect, level, self.pyramid)

        return self._tiles.get(key, make)

    def _row(self, strokes: list[MaskStroke], rect: Rect, level: int) -> Tile:
        tile = laid_on(None, strokes[0], rect, level, self.pyramid)
        for stroke in strokes[1:]:
            tile = laid_on(tile, stroke, rect, level, self.pyramid)
        return tile


def _in_strips(make: Callable[[Rect], Array], rect: Rect) -> Array:
    """What ``make`` gives for a rectangle, a large one in strips at the same time."""
    if rect.width * rect.height < _WORTH_PARTING:
        return make(rect)
    strips = [Rect(rect.x0, a, rect.x1, b) for a, b in edges(rect.y0, rect.y1, 2 * PARTS)]
    return np.concatenate(at_once(make, strips))


def _row_key(names: list[str]) -> str:
    """Fingerprint of a row of strokes."""
    return hashlib.blake2b("".join(names).encode(), digest_size=12).hexdigest()


def extent(mask: Mask, bounds: Rect, zones: Zones | None = None) -> Rect:
    """A rectangle outside of which the mask covers nothing, as far as its areas tell.

    Zones tell how far they reach only where ``zones`` are given.
    """
    if mask.invert or not mask.areas or mask.areas[0].way != "add":
        return bounds
    out = Rect(0, 0, 0, 0)
    for area in mask.areas:
        if area.way == "take":
            continue
        own = bounds if area.invert else _reaches(area, bounds, zones)
        out = out.union(own) if area.way == "add" else out.clip(own)
    wider = int(max(mask.grow_px, 0) + mask.feather_px)
    if wider and not out.empty:
        out = out.grow(wider + 2)
    return union_all([out, *(s.rect for s in mask.strokes if s.reveal)]).clip(bounds)


def _reaches(shape: Area, bounds: Rect, zones: Zones | None) -> Rect:
    """Where a shape can lie."""
    if isinstance(shape, OutlineArea):
        xs, ys = zip(*shape.points, strict=True)
        around = Rect(int(min(xs)), int(min(ys)), int(max(xs)) + 1, int(max(ys)) + 1)
        return around.grow(int(shape.feather_px) + 4)
    if isinstance(shape, ZoneArea) and zones is not None:
        return zones.extent(shape.zone, shape.face) or bounds
    return bounds


def _tiles(rect: Rect, limits: Rect) -> Iterator[Rect]:
    """The tiles of a fixed grid that a rectangle meets."""
    for y in range(rect.y0 // TILE * TILE, rect.y1, TILE):
        for x in range(rect.x0 // TILE * TILE, rect.x1, TILE):
            yield Rect(x, y, x + TILE, y + TILE).clip(limits)
