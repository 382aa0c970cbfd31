"""A user's own keys and brushes."""

from __future__ import annotations

from typing import Any

from studio.tests.base import StudioTest


class PreferencesTest(StudioTest):
    def put(self, keys: Any, brushes: Any = (), kept: Any = (), **more: Any) -> Any:
        body = {"keys": keys, "brushes": list(brushes), "kept": list(kept), **more}
        return self.send("PATCH", "/preferences", body)

    brush = {
        "name": "Teeth, gentle", "mode": "clone", "radius_mm": 1.5, "softness": 80,
        "opacity": 20, "flow": 30, "edges": 40,
    }  # fmt: skip

    def test_they_are_each_users_own(self) -> None:
        nobody = {"creator": "", "rights": "", "email": "", "website": "", "title": ""}
        empty = {"keys": {}, "brushes": [], "kept": [], "card": nobody, "presets": [],
                 "looks": []}  # fmt: skip
        self.assertEqual(self.send("GET", "/preferences").json(), empty)
        settings = {"yellow": 40.0, "beyond": False}
        wanted = {"keys": {"heal": ["y"], "undo": ["mod+u"]}, "brushes": [self.brush],
                  "kept": [{"name": "Ivory", "kind": "teeth", "settings": settings}],
                  "card": {**nobody, "creator": "Mira Vogt"},
                  "presets": [{"name": "Web", "wish": {"format": "webp", "longSide": None}}],
                  "looks": [{"name": "Mine", "steps": [{"kind": "mono", "settings": {"red": 50.0}, "strength": 40.0}]}]}  # fmt: skip
        self.assertEqual(self.put(**wanted).json(), wanted)
        self.assertEqual(self.send("GET", "/preferences").json(), wanted)
        plain = {k: v for k, v in self.brush.items() if k != "edges"}
        saved = self.put(wanted["keys"], (plain,)).json()
        self.assertEqual(saved["brushes"], [{**plain, "edges": 0}])
        self.client.force_login(self.other)
        self.assertEqual(self.send("GET", "/preferences").json(), empty)

    def test_what_is_left_out_stays(self) -> None:
        self.put({"heal": ["y"]}, (self.brush,), presets=[{"name": "Web", "wish": {"side": 2048}}])
        card = self.send("PATCH", "/preferences", {"card": {"creator": "Mira Vogt"}}).json()
        self.assertEqual((card["keys"], len(card["brushes"])), ({"heal": ["y"]}, 1))
        self.send("PATCH", "/preferences", {"brushes": []})
        now = self.send("GET", "/preferences").json()
        self.assertEqual((now["brushes"], now["card"]["creator"]), ([], "Mira Vogt"))
        self.assertEqual([p["name"] for p in now["presets"]], ["Web"])
        self.assertEqual(self.send("PATCH", "/preferences", {"keys": None}).status_code, 422)

    def test_conflicts_are_refused_and_nothing_is_changed(self) -> None:
        self.put({"heal": ["y"]})
        for keys, brushes, said in (
            ({"heal": ["u"], "clone": ["u"]}, (), "two things"),
            ({}, (self.brush, {**self.brush, "name": "teeth, GENTLE"}), "this name"),
        ):
            answer = self.put(keys, brushes)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, answer.json()["message"])
        self.assertEqual(self.put({}, ({**self.brush, "flow": 0},)).status_code, 422)
        one = {"name": "Ivory", "kind": "teeth", "settings": {"yellow": 40}}
        self.assertEqual(self.put({}, kept=(one, {**one, "name": "IVORY"})).status_code, 422)
        self.assertEqual(self.send("GET", "/preferences").json()["keys"], {"heal": ["y"]})
