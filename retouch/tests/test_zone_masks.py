"""Zones in masks: joined as areas are, the same for every part, and drawn once for all masks that name them."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from retouch.colour.depth import to_integers
from retouch.edit.mask import Area, Face, Mask, OutlineArea, ZoneArea
from retouch.edit.values import Side
from retouch.geometry import Rect
from retouch.masks import Masks
from retouch.memory import Memory
from retouch.picture import Picture, Pyramid
from retouch.tests.areas import area
from retouch.tests.scenes import skin

W, H = 1000, 700
WHOLE = Rect(0, 0, W, H)
# Where each zone lies.
PLACES = {"skin": Rect(120, 60, 900, 640), "ears": Rect(100, 200, 180, 330), "lips": Rect(400, 480, 600, 560)}  # fmt: skip


class Ellipses:
    """Zones that are ellipses, soft at their rim; remembers what it was asked for."""

    def __init__(self, knows_extent: bool = True) -> None:
        self.key = "ellipses"
        self.asked: list[tuple[str, Rect]] = []
        self._knows_extent = knows_extent

    def cover(self, zone: str, face: Face, rect: Rect, shape: tuple[int, int]) -> np.ndarray:
        self.asked.append((zone, rect))
        place = PLACES[zone]
        ys = rect.y0 + (np.arange(shape[0]) + 0.5) * rect.height / shape[0]
        xs = rect.x0 + (np.arange(shape[1]) + 0.5) * rect.width / shape[1]
        middle = (place.x0 + place.x1) / 2, (place.y0 + place.y1) / 2
        far = np.hypot(
            2 * (xs - middle[0])[None] / place.width, 2 * (ys - middle[1])[:, None] / place.height
        )
        return np.clip(4 * (1 - far), 0, 1).astype(np.float32)

    def half(self, side: Side, face: Face, rect: Rect, shape: tuple[int, int]) -> np.ndarray:
        return np.full(shape, 0.5, np.float32)

    def knows(self, face: Face) -> bool:
        return True

    def extent(self, zone: str, face: Face) -> Rect | None:
        return PLACES[zone] if self._knows_extent else None


def masks() -> Masks:
    return Masks(Pyramid(Picture(to_integers(skin(H, W), 8))), Memory(100_000_000))


def joined(areas: tuple[Area, ...]) -> np.ndarray:
    """Areas over the whole picture, joined one after the other as the field's words say."""
    zones = Ellipses()
    out = np.zeros((H, W)) if areas[0].way == "add" else np.ones((H, W))
    for one in areas:
        assert isinstance(one, ZoneArea)
        part = zones.cover(one.zone, None, WHOLE, (H, W)) * (1 if one.side == "both" else 0.5)
        part = part * one.share / 100
        part = 1 - part if one.invert else part
        out = {"add": np.maximum(out, part), "cross": out * part, "take": out * (1 - part)}[one.way]
    return out


AREAS = st.builds(
    ZoneArea,
    zone=st.sampled_from(sorted(PLACES)),
    way=st.sampled_from(("add", "take", "cross")),
    invert=st.booleans(),
    side=st.sampled_from(("both", "left")),
    share=st.sampled_from((100.0, 60.0)),
)
PARTS = st.builds(
    lambda x, y, w, h: Rect(x, y, x + w, y + h),
    st.integers(0, W - 300), st.integers(0, H - 200), st.integers(1, 300), st.integers(1, 200),
)  # fmt: skip


class Joined(unittest.TestCase):
    @settings(deadline=None, max_examples=60)
    @given(st.lists(AREAS, min_size=1, max_size=4), PARTS, st.booleans(), st.booleans())
    def test_parts_are_those_of_the_whole(
        self, areas: list[ZoneArea], part: Rect, invert: bool, extents: bool
    ) -> None:
        mask = Mask(tuple(areas), invert=invert)
        expected = joined(mask.areas)
        expected = 1 - expected if invert else expected
        drawn = masks()
        for rect in (part, WHOLE):
            got = drawn.draw(mask, rect, 0, Ellipses(extents))
            assert got is not None
            np.testing.assert_allclose(got[..., 0], expected[rect.within(WHOLE)], atol=1e-5)

    def test_a_feather_looks_beyond_what_is_asked_for(self) -> None:
        mask = Mask((ZoneArea("lips"),), grow_px=6, feather_px=40)
        whole = masks().draw(mask, WHOLE, 0, Ellipses())
        rect = Rect(380, 500, 450, 530)
        part = masks().draw(mask, rect, 0, Ellipses())
        assert whole is not None
        assert part is not None
        np.testing.assert_allclose(part, whole[rect.within(WHOLE)], atol=1e-5)
        self.assertGreater(float(np.ptp(part)), 0.2)


class DrawnOnce(unittest.TestCase):
    def drawn(self, zones: Ellipses, zone: str) -> int:
        """So many pixels of a zone were drawn."""
        return sum(r.width * r.height for z, r in zones.asked if z == zone)

    def test_masks_that_name_the_same_zone_share_what_is_drawn(self) -> None:
        drawn, zones = masks(), Ellipses()
        least = PLACES["skin"].grow(2)
        skin_, others = (
            ZoneArea("skin"),
            (ZoneArea("ears", way="take"), ZoneArea("lips", way="take")),
        )
        drawn.draw(Mask((skin_,)), WHOLE, 0, zones)
        first = self.drawn(zones, "skin")
        # No more than where it reaches.
        self.assertLessEqual(first, least.width * least.height)
        # A narrower part of another mask, inverted and not, and joined another way.
        drawn.draw(Mask((skin_, *others)), Rect(100, 100, 900, 600), 0, zones)
        drawn.draw(Mask((area(skin_, invert=True), *others)), WHOLE, 0, zones)
        drawn.draw(Mask((ZoneArea("lips"), area(skin_, "cross"))), WHOLE, 0, zones)
        self.assertEqual(self.drawn(zones, "skin"), first)
        self.assertLess(self.drawn(zones, "lips"), 25_000)
        # Half of it, or another level, is another thing.
        drawn.draw(Mask((ZoneArea("skin", share=50.0),)), WHOLE, 0, zones)
        drawn.draw(Mask((skin_,)), WHOLE.reduced(1), 1, zones)
        self.assertGreater(self.drawn(zones, "skin"), 2 * first)

    def test_a_window_that_moves_has_only_the_rest_drawn(self) -> None:
        drawn, zones, mask = masks(), Ellipses(), Mask((ZoneArea("skin"),))
        window = Rect(200, 150, 700, 550)
        drawn.draw(mask, window, 0, zones)
        first = self.drawn(zones, "skin")
        for x, y in ((0, 20), (30, 20), (-10, -40)):
            cover = drawn.draw(mask, window.shift(x, y), 0, zones)
            fresh = masks().draw(mask, window.shift(x, y), 0, Ellipses())
            assert cover is not None
            assert fresh is not None
            np.testing.assert_allclose(cover, fresh, atol=1e-6)
        self.assertLess(self.drawn(zones, "skin"), 1.5 * first)

    def test_other_zones_are_drawn_anew(self) -> None:
        """What is corrected changes their key."""
        drawn, before, after = masks(), Ellipses(), Ellipses()
        after.key = "corrected"
        for zones in (before, after):
            drawn.draw(Mask((ZoneArea("lips"),)), WHOLE, 0, zones)
        self.assertEqual(self.drawn(before, "lips"), self.drawn(after, "lips"))

    def test_nothing_is_drawn_where_a_zone_does_not_reach(self) -> None:
        drawn, zones = masks(), Ellipses()
        cover = drawn.draw(Mask((ZoneArea("lips"),)), Rect(0, 0, 300, 300), 0, zones)
        assert cover is not None
        self.assertEqual((float(cover.max()), zones.asked), (0.0, []))
        box = OutlineArea(((10.0, 10.0), (90.0, 10.0), (90.0, 90.0), (10.0, 90.0)))
        cover = drawn.draw(
            Mask((box, ZoneArea("lips", way="take"))), Rect(0, 0, 300, 300), 0, zones
        )
        assert cover is not None
        self.assertEqual((float(cover[50, 50, 0]), zones.asked), (1.0, []))


if __name__ == "__main__":
    unittest.main()
