"""Needs in plain words find what serves them."""

from __future__ import annotations

import unittest
from pathlib import Path

from retouch.needs import ways_for
from retouch.needs.search import _declared
from retouch.passes import registry

_NEEDS = Path(__file__).parent / "needs.txt"
# Among so many, for so many of the needs.
_FIRST, _LEAST = 3, 0.95


def needs() -> list[tuple[str, set[str]]]:
    """What people need, and the ways that serve it."""
    lines = [
        line for line in _NEEDS.read_text("utf-8").splitlines() if "|" in line and line[0] != "#"
    ]
    return [(need.strip(), _ways(ways)) for need, ways in (line.split("|") for line in lines)]


def _ways(text: str) -> set[str]:
    known = {way.go for way, _ in _declared()}
    return {go for go in known if f" {go} " in f" {text.strip()} "}


class Needs(unittest.TestCase):
    def test_the_right_way_is_among_the_first_for_nearly_all(self) -> None:
        asked = needs()
        self.assertGreaterEqual(len(asked), 120)
        missed = []
        for need, serving in asked:
            self.assertTrue(serving, f"no way serves: {need}")
            found = [way.go for way in ways_for(need, _FIRST)]
            if not serving & set(found):
                missed.append(f"{need}: {found}")
        share = 1 - len(missed) / len(asked)
        self.assertGreaterEqual(share, _LEAST, "\n".join(missed))

    def test_a_title_finds_its_own(self) -> None:
        for kind in registry.all_kinds():
            ways = [w for w, _ in _declared() if w.go == f"pass:{kind.name}"]
            for way in ways:
                found = [w.title for w in ways_for(way.title, _FIRST)]
                self.assertIn(way.title, found)

    def test_slips_of_the_keyboard_are_forgiven(self) -> None:
        for typed, meant in (
            ("yelow teth", "pass:teeth"),
            ("rednes", "pass:redness"),
            ("wrinckles", "pass:lines"),
        ):
            self.assertIn(meant, [w.go for w in ways_for(typed, _FIRST)], typed)

    def test_what_means_nothing_finds_nothing(self) -> None:
        for need in ("", "   ", "the of and", "qqqqqqqq zzzzzzz", "日本語", "<script>"):
            self.assertEqual(ways_for(need), [], need)

    def test_every_way_leads_somewhere(self) -> None:
        for way, _ in _declared():
            what, _, name = way.go.partition(":")
            self.assertIn(what, ("pass", "hand", "panel", "routine", "action", "page"))
            self.assertTrue(way.title and way.meaning, way.go)
            if what == "pass":
                kind, _, setting = name.partition(".")
                found = registry.kind(kind)
                self.assertIn(way.stage, (str(found.stage),))
                self.assertTrue(not setting or setting in {s.name for s in found.settings}, way.go)
