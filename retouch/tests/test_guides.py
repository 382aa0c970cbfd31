"""Guide passes: what the user says about the picture is data like all else, and no pixel moves."""

from __future__ import annotations

import unittest

import numpy as np

from retouch.colour.depth import to_integers
from retouch.edit import Edit, Pass, Touch
from retouch.errors import EditError
from retouch.forms.form import dumps, loads, schema
from retouch.geometry import Rect
from retouch.memory import Memory
from retouch.passes import registry
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer, changed_region, propose_source
from retouch.tests.scenes import skin, spot

BOUNDS = Rect(0, 0, 320, 240)
GUIDES = ("zones", "marks", "faces", "straight_lines", "hair_outline")
PATHS = {
    "straight_lines": ((60.0, 60.0), (90.0, 200.0)),
    "hair_outline": ((60.0, 60.0), (120.0, 60.0), (90.0, 200.0)),
}


def edit(*passes: Pass) -> Edit:
    return loads(dumps(Edit(passes)))


def guide(kind: str) -> Pass:
    values = {"zones": {"zone": "hair"}, "marks": {"decision": "keep"}, "faces": {"what": "none"}}
    path = PATHS.get(kind, ((60.0, 60.0),))
    return Pass(f"g-{kind}", kind, touches=(Touch(f"t-{kind}", path, values.get(kind, {})),))


class Guides(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        image = skin(240, 320, slope=0.2)
        spot(image, 60, 60, 9)
        cls.renderer = Renderer(Pyramid(Picture(to_integers(image, 16))), Memory(1 << 26))
        cls.heal = Pass(
            "h", "heal", touches=(Touch("t", ((60.0, 60.0),), {"radius_px": 14.0}, (40, 10)),)
        )

    def test_there_are_four(self) -> None:
        self.assertEqual({k.name for k in registry.all_kinds() if k.guide}, set(GUIDES))

    def test_no_pixel_changes(self) -> None:
        plain = self.renderer.render(edit(), BOUNDS)
        for level in (0, 1):
            with_guides = self.renderer.render(edit(*map(guide, GUIDES)), BOUNDS, level)
            np.testing.assert_array_equal(with_guides, self.renderer.render(edit(), BOUNDS, level))
        healed = self.renderer.render(edit(self.heal), BOUNDS)
        between = self.renderer.render(edit(guide("zones"), self.heal, guide("marks")), BOUNDS)
        np.testing.assert_array_equal(between, healed)
        self.assertGreater(np.abs(healed - plain).max(), 0.02)

    def test_nothing_is_painted_again(self) -> None:
        before = edit(guide("zones"), self.heal)
        for after in (edit(self.heal), edit(guide("zones"), self.heal, guide("marks"))):
            self.assertTrue(changed_region(before, after, BOUNDS).empty)

    def test_no_source_is_looked_for(self) -> None:
        one = edit(guide("marks"))
        self.assertEqual(
            propose_source(self.renderer, one, "g-marks", one.passes[0].touches[0]), []
        )

    def test_the_form_refuses_by_name(self) -> None:
        for kind, values, word in (
            ("zones", {"zone": "halo"}, "zone"),
            ("zones", {"way": "magic"}, "way"),
            ("zones", {"tolerance": 0}, "tolerance"),
            ("marks", {"decision": "perhaps"}, "decision"),
            ("faces", {"what": "cat"}, "what"),
            ("faces", {"radius_px": float("nan")}, "radius_px"),
        ):
            bad = Pass("p", kind, touches=(Touch("t", ((1.0, 1.0),), values),))
            with self.subTest(values), self.assertRaises((EditError, ValueError)) as caught:
                edit(bad)
            if isinstance(caught.exception, EditError):
                self.assertIn(word, str(caught.exception))

    def test_the_published_schema_knows_them(self) -> None:
        kinds = schema()["properties"]["passes"]["items"]["oneOf"]
        named = {k["properties"]["kind"]["const"] for k in kinds}
        self.assertTrue({*GUIDES, "heal", "clone", "light"} <= named)


class Avoiding(unittest.TestCase):
    """A source that may not lie somewhere lies elsewhere; where nothing is left, it still is one."""

    @classmethod
    def setUpClass(cls) -> None:
        image = skin(300, 400)
        spot(image, 200, 150, 9)
        cls.renderer = Renderer(Pyramid(Picture(to_integers(image, 8))), Memory(1 << 26))
        cls.one = edit(Pass("h", "heal"))
        cls.touch = Touch(
            "t", ((200.0, 150.0),), {"radius_px": 14.0, "softness": 20.0, "opacity": 100.0}
        )

    def propose(self, avoid: registry.Avoid | None) -> list[tuple[int, int]]:
        return propose_source(self.renderer, self.one, "h", self.touch, 6, avoid)

    def test_one_side_is_forbidden(self) -> None:
        def right_half(rect: Rect) -> np.ndarray:
            columns = np.arange(rect.x0, rect.x1) > 195
            return np.broadcast_to(columns, (rect.height, rect.width)).astype(np.uint8)

        found = self.propose(right_half)
        self.assertGreater(len(found), 0)
        self.assertTrue(all(dx <= -14 for dx, _ in found))

    def test_everything_is_forbidden(self) -> None:
        everywhere = self.propose(lambda r: np.ones((r.height, r.width), np.uint8))
        self.assertEqual(everywhere, self.propose(None))
        self.assertGreater(len(everywhere), 0)
