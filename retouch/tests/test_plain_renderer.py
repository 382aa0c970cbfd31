"""The incremental renderer gives what a plain one gives, whatever is asked for in which order."""

from __future__ import annotations

import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from retouch.colour.depth import to_integers
from retouch.edit import Edit, Mask, Pass, Touch
from retouch.edit.mask import GradientArea, MaskStroke, OutlineArea, RangeArea, ZoneArea
from retouch.geometry import Rect
from retouch.masks.ground import ground
from retouch.passes import registry
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer, shows
from retouch.tests import plain
from retouch.tests.areas import area
from retouch.tests.scenes import skin, spot

W, H = 400, 320
WHOLE = Rect(0, 0, W, H)
# As many decimals of a value as 16 bits hold: sums of touching rectangles may be grouped
# differently by the processor's registers.
CLOSE = 0.4 / 65535


def picture() -> Picture:
    image = skin(H, W, grain=0.02, slope=0.4, seed=5)
    for x, y in ((90, 80), (210, 150), (300, 240)):
        spot(image, x, y, 10)
    image[:, 330:] *= np.float32(0.5)
    return Picture(to_integers(image, 16))


PICTURE = picture()


class HalfZone:
    """A stand-in of the face analysis: one zone with a soft rim."""

    key = "half"

    def extent(self, zone: str, face: object) -> Rect | None:
        return Rect(40, 30, 280, 260)

    def cover(self, zone: str, face: object, rect: Rect, shape: tuple[int, int]) -> np.ndarray:
        xs = rect.x0 + (np.arange(shape[1]) + 0.5) * rect.width / shape[1]
        ys = rect.y0 + (np.arange(shape[0]) + 0.5) * rect.height / shape[0]
        away = np.hypot((xs[None] - 160) / 110, (ys[:, None] - 145) / 105)
        return np.clip((1 - away) * 6, 0, 1).astype(np.float32)


coordinates = st.tuples(st.integers(20, W - 20), st.integers(20, H - 20)).map(
    lambda p: (float(p[0]) + 0.5, float(p[1]) + 0.25)
)
PIXELS = (
    "light",
    "redness",
    "shine",
    "shadows",
    "skin_bands",
    "even_colour",
    "lines",
    "blemishes",
    "tone",
    "white_balance",
    "colour",
)
TOUCHES = ("heal", "clone", "dodge_burn", "blend")


@st.composite
def masks(draw: st.DrawFn) -> Mask:
    shapes = st.one_of(
        st.just(ZoneArea("skin")),
        st.tuples(coordinates, coordinates, st.booleans())
        .filter(lambda p: p[0] != p[1])
        .map(lambda p: GradientArea(*p)),
        st.floats(30, 70).map(lambda low: RangeArea(light=(low, 100.0))),
        coordinates.map(
            lambda p: OutlineArea(
                (p, (p[0] + 90, p[1] + 10), (p[0] + 40, p[1] + 80)), feather_px=30.0
            )
        ),
    )
    ways = st.sampled_from(("add", "take", "cross"))
    areas = draw(st.lists(st.builds(area, shapes, ways, st.booleans()), max_size=2))
    strokes = draw(
        st.lists(
            st.builds(
                MaskStroke,
                st.lists(coordinates, min_size=1, max_size=2).map(tuple),
                st.sampled_from((6.0, 30.0, 90.0)),
                reveal=st.booleans(),
                flow=st.sampled_from((40.0, 100.0)),
                edges=st.sampled_from((0.0, 60.0)),
            ),
            max_size=3,
        )
    )
    grow, feather = draw(st.sampled_from(((0.0, 0.0), (5.0, 0.0), (-4.0, 24.0), (0.0, 160.0))))
    return Mask(tuple(areas), draw(st.booleans()), grow, feather, tuple(strokes))


@st.composite
def passes(draw: st.DrawFn, ident: str) -> Pass:
    kind = registry.kind(draw(st.sampled_from(PIXELS + TOUCHES)))
    values = {s.name: s.default for s in (*kind.settings, *kind.fitted)}
    for name, amount in (
        # The larger ones look so far that they see what is around on a coarser level.
        ("px_per_mm", draw(st.sampled_from((3.0, 9.0)))), ("exposure_ev", 0.4), ("middle", -30.0),
        ("long_px", draw(st.sampled_from((400.0, 2000.0)))),
        ("lit", -40.0), ("shade", 30.0), ("temperature_k", 5000.0), ("gentle", 30.0),
    ):  # fmt: skip
        if name in values:
            values[name] = amount
    touches = []
    for n in range(draw(st.integers(1, 4)) if kind.touches else 0):
        own = {s.name: s.default for s in kind.touches.settings}  # type: ignore[union-attr]
        own["radius_px"] = float(draw(st.sampled_from((6, 12, 30))))
        source = (draw(st.sampled_from((-45, 50))), draw(st.sampled_from((-10, 35))))
        touches.append(
            Touch(
                f"{ident}{n}", (draw(coordinates),), own, source, (), draw(st.booleans()) or n > 0
            )
        )
    return Pass(
        ident, kind.name, "", values, draw(masks()),
        draw(st.sampled_from((100.0, 60.0))),
        draw(st.sampled_from(("normal", "normal", "luminosity"))),
        touches=tuple(touches),
    )  # fmt: skip


@st.composite
def edits(draw: st.DrawFn) -> list[Edit]:
    """An edit, then the same changed one gesture at a time."""
    edit = Edit(tuple(draw(passes(f"p{n}")) for n in range(draw(st.integers(1, 4)))))
    out = [edit]
    for n in range(draw(st.integers(0, 2))):
        at = draw(st.integers(0, len(edit.passes) - 1))
        one = edit.passes[at]
        how = draw(st.sampled_from(("strength", "stroke", "enabled")))
        if how == "strength":
            one = replace(one, strength=35.0 + n)
        elif how == "stroke":
            more = MaskStroke((draw(coordinates),), 50.0, flow=50.0)
            one = replace(one, mask=replace(one.mask, strokes=(*one.mask.strokes, more)))
        else:
            one = replace(one, enabled=not one.enabled)
        edit = Edit((*edit.passes[:at], one, *edit.passes[at + 1 :]))
        out.append(edit)
    return out


@st.composite
def parts(draw: st.DrawFn) -> tuple[Rect, int]:
    level = draw(st.integers(0, 2))
    limits = WHOLE.reduced(level)
    x, y = draw(st.integers(0, limits.width - 9)), draw(st.integers(0, limits.height - 9))
    width, height = draw(st.integers(8, limits.width)), draw(st.integers(8, limits.height))
    return Rect(x, y, x + width, y + height).clip(limits), level


class AgainstAPlainOne(unittest.TestCase):
    @settings(
        max_examples=25, deadline=None, suppress_health_check=list(HealthCheck), derandomize=True
    )
    @given(edits(), st.lists(parts(), min_size=2, max_size=5), st.integers(1, 4))
    def test_any_part_in_any_order(self, states, asked, threads) -> None:
        pyramid = Pyramid(PICTURE)
        renderer = Renderer(pyramid, zones=lambda edit: HalfZone())
        for edit in states:
            want = plain.rendered(pyramid, edit, HalfZone())
            plan = renderer.plan(edit)
            with ThreadPoolExecutor(threads) as pool:
                found = list(pool.map(lambda a: plan.view(*a), asked))  # noqa: B023
            for (rect, level), got in zip(asked, found, strict=True):
                expected = want[level][rect.y0 : rect.y1, rect.x0 : rect.x1]
                np.testing.assert_allclose(got, expected, rtol=0, atol=CLOSE)


class Panned(unittest.TestCase):
    def test_a_view_panned_by_a_pixel_after_a_stroke_on_a_mask(self) -> None:
        """What is kept for one place isn't cut as if it were of another."""
        values = {s.name: s.default for s in registry.kind("skin_bands").settings}
        bands = Pass("b", "skin_bands", settings={**values, "middle": -80.0, "px_per_mm": 4.0})
        light = Pass("l", "light", settings={"exposure_ev": -0.4})
        renderer = Renderer(Pyramid(PICTURE))
        edit = Edit((light, bands))
        at = shows.grid_of(renderer.plan(edit), 24, 16, 1.0, 320, 256)
        shows.seen(renderer.plan(edit), at, around=at)
        for n in range(2):
            stroke = MaskStroke(((150.0 + 20 * n, 100.0),), 40.0, flow=40.0)
            top = edit.passes[1]
            mask = replace(top.mask, strokes=(*top.mask.strokes, stroke))
            edit = Edit((light, replace(top, mask=mask)))
            shows.seen(renderer.plan(edit), at, around=at)
        want = shows.seen(Renderer(Pyramid(PICTURE)).plan(edit), at)
        for by in range(1, 10):
            grid = shows.grid_of(renderer.plan(edit), 24 + by, 16, 1.0, 320, 256)
            got = shows.seen(renderer.plan(edit), grid, around=grid)
            np.testing.assert_array_equal(got[:, : 320 - by], want[:, by:], f"panned by {by}")


class WideFeathers(unittest.TestCase):
    def test_no_value_depends_on_the_rectangle_asked_for(self) -> None:
        pyramid = Pyramid(PICTURE)
        outline = OutlineArea(((120.0, 60.0), (300.0, 90.0), (200.0, 250.0)), feather_px=170.0)
        for mask in (
            Mask((area(outline),)),
            Mask((area(replace(outline, feather_px=0.0)),), feather_px=160.0, grow_px=12.0),
            Mask((area(RangeArea(light=(40.0, 80.0))),), feather_px=90.0, invert=True),
        ):
            for level in (0, 1):
                whole = ground(mask, WHOLE.reduced(level), level, pyramid, {})
                for rect in (Rect(37, 41, 151, 133), Rect(3, 5, 90, 150), Rect(99, 14, 190, 121)):
                    part = ground(mask, rect, level, pyramid, {})
                    off = np.abs(part - whole[rect.y0 : rect.y1, rect.x0 : rect.x1])
                    self.assertLess(float(off.max()), CLOSE)


if __name__ == "__main__":
    unittest.main()
