"""Edits as data: the JSON form, its schema, and what is refused by name."""

from __future__ import annotations

import copy
import json
import unittest
from pathlib import Path

import jsonschema
from hypothesis import given, settings
from hypothesis import strategies as st

from retouch.colour.blend import MODES
from retouch.edit import Edit, Fit, Mask, Pass, Touch
from retouch.edit.mask import (
    GradientArea,
    MaskStroke,
    OutlineArea,
    RangeArea,
    ZoneArea,
)
from retouch.edit.model import Bound
from retouch.errors import EditError
from retouch.forms.form import dumps, from_data, loads, schema
from retouch.passes import registry
from retouch.plain import plain
from retouch.tests.areas import area
from retouch.zone_names import AREA_NAMES

PUBLISHED = Path(__file__).resolve().parents[2] / "docs" / "formats" / "edit.schema.json"

numbers = st.floats(-9999, 9999, allow_nan=False).map(lambda v: round(v, 3))
points = st.tuples(numbers, numbers)


def values_of(declared):
    def one(s):
        if s.type == "switch":
            return st.booleans()
        if s.type == "choice":
            return st.sampled_from(s.choices)
        if s.type == "curve":
            xs = st.lists(st.floats(0, 1), min_size=2, max_size=6, unique=True).map(sorted)
            return xs.flatmap(
                lambda x: st.tuples(*[st.tuples(st.just(v), st.floats(0, 1)) for v in x])
            )
        if s.type == "picture":
            return st.sampled_from(["", "0" * 64, "ab" * 32])
        return st.floats(s.low, s.high, allow_nan=False)

    return st.fixed_dictionaries({s.name: one(s) for s in declared})


outlines = st.lists(points, min_size=3, max_size=5).map(tuple)
strokes = st.builds(
    MaskStroke,
    st.lists(points, min_size=1, max_size=4).map(tuple),
    st.floats(0.5, 2000),
    st.floats(0, 100),
    st.floats(1, 100),
    st.booleans(),
    st.floats(0, 100),
)
limits = st.tuples(st.floats(0, 50), st.floats(50, 100))
shapes = (
    st.builds(ZoneArea, st.sampled_from(AREA_NAMES), st.none() | points | st.integers(0, 5))
    | st.builds(OutlineArea, outlines, st.floats(0, 2000))
    | st.builds(GradientArea, st.just((1.0, 2.0)), points.filter(lambda p: p != (1.0, 2.0)))
    | st.builds(
        RangeArea,
        st.lists(st.tuples(*[st.floats(-100, 100)] * 3), max_size=3).map(tuple),
        st.floats(0.5, 100),
        st.floats(0, 100),
        limits,
        limits,
    )
)
masks = st.builds(
    Mask,
    st.lists(
        st.builds(area, shapes, st.sampled_from(["add", "take", "cross"]), st.booleans()),
        max_size=3,
    ).map(tuple),
    st.booleans(),
    st.floats(-2000, 2000),
    st.floats(0, 2000),
    st.lists(strokes, max_size=2).map(tuple),
)


# As names are kept: without what turns the direction of writing.
names = st.text(max_size=20).map(plain)
bounds = st.builds(Bound, st.just("set"), names, st.floats(0, 100), st.booleans())


@st.composite
def edits(draw):
    count, passes = 0, []
    for n in range(draw(st.integers(0, 4))):
        kind = draw(st.sampled_from(registry.all_kinds()))
        touches = []
        if kind.holds_touches:
            for _ in range(draw(st.integers(0, 3))):
                count += 1
                source = st.none() | st.tuples(st.integers(-500, 500), st.integers(-500, 500))
                path = tuple(draw(st.lists(points, min_size=kind.least_points, max_size=5)))
                pressed = st.lists(st.floats(0, 1), min_size=len(path), max_size=len(path))
                touches.append(
                    Touch(
                        f"t{count}",
                        path,
                        draw(values_of(kind.touch_settings)),
                        draw(source),
                        draw(st.lists(outlines, max_size=2).map(tuple)),
                        draw(st.booleans()),
                        pressure=draw(st.just(()) | pressed.map(tuple)),
                    )
                )
        if kind.single and any(p.kind == kind.name for p in passes):
            continue
        passes.append(
            Pass(
                f"p{n}",
                kind.name,
                draw(names),
                draw(values_of(kind.settings)),
                draw(masks),
                draw(st.floats(0, 100)),
                draw(st.sampled_from(sorted(MODES))),
                draw(st.booleans()),
                draw(st.booleans()),
                Fit(draw(st.none() | points), draw(values_of(kind.fitted))),
                draw(st.none() | bounds),
                tuple(touches),
            )
        )
    return Edit(tuple(passes))


# The schema itself is checked once.
VALIDATOR = jsonschema.validators.validator_for(schema())(schema())


class Form(unittest.TestCase):
    def test_the_schema_is_one(self) -> None:
        VALIDATOR.check_schema(schema())

    @given(edits())
    @settings(max_examples=150, deadline=None)
    def test_every_edit_comes_back_as_it_was_and_fits_the_schema(self, edit) -> None:
        text = dumps(edit)
        self.assertEqual(loads(text), edit)
        VALIDATOR.validate(json.loads(text))

    @given(st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(max_size=8),
        lambda c: st.lists(c, max_size=4) | st.dictionaries(
            st.sampled_from(["version", "passes", "id", "kind", "touches", "path", "x"]), c),
        max_leaves=12))  # fmt: skip
    @settings(max_examples=200, deadline=None)
    def test_nonsense_is_refused_with_a_sentence(self, data) -> None:
        try:
            from_data(data)
        except EditError as error:
            self.assertTrue(str(error).endswith("."))
        else:
            self.assertEqual(set(data), {"version", "passes"})

    def test_published_schema_is_current(self) -> None:
        self.assertEqual(json.loads(PUBLISHED.read_text()), schema())


class Refusals(unittest.TestCase):
    GOOD = {
        "version": 2,
        "passes": [
            {
                "id": "p",
                "kind": "heal",
                "touches": [{"id": "t", "path": [[1, 2]], "values": {"radius_px": 5}}],
            },
            {"id": "q", "kind": "light", "settings": {"exposure_ev": 1}},
        ],
    }

    def _refused(self, change, *parts) -> None:
        data = copy.deepcopy(self.GOOD)
        change(data)
        with self.assertRaises(EditError) as caught:
            from_data(data)
        for part in parts:
            self.assertIn(part, str(caught.exception))
        with self.assertRaises(jsonschema.ValidationError):
            VALIDATOR.validate(data)

    def test_the_example_is_good(self) -> None:
        edit = from_data(self.GOOD)
        self.assertEqual(edit.passes[0].touches[0].values["softness"], 20)
        VALIDATOR.validate(self.GOOD)

    def test_by_name(self) -> None:
        def touch(d):
            return d["passes"][0]["touches"][0]

        self._refused(lambda d: d["passes"][0].update(kind="sparkle"), "sparkle")
        self._refused(lambda d: d["passes"][0].update(blend="dissolve"), "dissolve")
        self._refused(lambda d: d["passes"][0].update(strength=101), "strength", "100 at most")
        self._refused(lambda d: d["passes"][0].update(colour=1), "colour")
        self._refused(lambda d: d["passes"][0].update(enabled="yes"), "enabled")
        self._refused(lambda d: d["passes"][0].update(id="a b"), "id")
        self._refused(lambda d: d["passes"][1].update(touches=[{}]), "no touches")
        self._refused(lambda d: d["passes"][1]["settings"].update(gamma=1), "gamma")
        self._refused(lambda d: touch(d)["values"].update(radius_px=-1), "radius_px", "0.5 to")
        self._refused(lambda d: touch(d)["values"].update(radius_px="big"), "radius_px", "number")
        self._refused(lambda d: touch(d).update(source=[1.5, 2]), "source", "whole")
        self._refused(lambda d: touch(d).update(path=[]), "path", "1 point")
        zone = {"kind": "zone", "zone": "skin", "face": -2}
        self._refused(lambda d: d["passes"][1].update(mask={"areas": [zone]}), "face", "-2")
        self._refused(lambda d: d.update(version=3), "version")
        self._refused(lambda d: d.pop("passes"), "passes")

    def test_numbers_that_are_none(self) -> None:
        for bad in ("NaN", "Infinity", "-Infinity", "1e999"):
            text = json.dumps(self.GOOD).replace('"exposure_ev": 1', f'"exposure_ev": {bad}')
            with self.assertRaisesRegex(EditError, "exposure_ev has to be a finite number"):
                loads(text)

    def test_two_of_the_same_id(self) -> None:
        data = copy.deepcopy(self.GOOD)
        data["passes"][1]["id"] = "p"
        with self.assertRaisesRegex(EditError, "same id"):
            from_data(data)

    def test_text_that_is_no_json(self) -> None:
        for text in ("", "{", "[" * 100_000):
            with self.assertRaisesRegex(EditError, "valid JSON"):
                loads(text)


class Kinds(unittest.TestCase):
    def test_every_declared_setting_has_a_good_default_and_a_meaning(self) -> None:
        for kind in registry.all_kinds():
            for s in (*kind.settings, *kind.fitted, *kind.touch_settings):
                with self.subTest(kind=kind.name, setting=s.name):
                    self.assertEqual(s.check(s.default, kind.name), s.default)
                    self.assertTrue(s.meaning.endswith("."))
