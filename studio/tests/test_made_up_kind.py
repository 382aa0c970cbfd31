"""A kind of pass is one module and no other list: a made-up one goes through everything."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

import numpy as np

from retouch.cli.render import main
from retouch.forms.form import schema
from retouch.passes import registry
from retouch.passes.registry import PassKind
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Pixels, Place, Values
from retouch.picture import read
from studio.portraits.services import delivering
from studio.tests.base import StudioTest


def _swapped(image: Array, values: Values, place: Place) -> Array:
    """Red and blue change places, as far as is said."""
    own, part = place.own(image), np.float32(float(values["amount"]) / 100)
    return own + part * (own[..., ::-1] - own)


KIND = PassKind(
    name="made_up",
    title="Made up",
    meaning="Red and blue change places.",
    stage="finish",
    way=Pixels(_swapped),
    settings=(Setting("amount", "Amount", "How far they do.", default=0.0, unit="%"),),
)


class MadeUp(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        registry.register(KIND)
        self.addCleanup(registry._kinds.pop, KIND.name)

    def test_through_api_mask_history_export_and_command_line(self) -> None:
        kinds = {k["name"]: k for k in self.client.get("/api/kinds").json()}
        self.assertEqual(kinds["made_up"]["way"], "pixels")
        self.assertEqual(kinds["made_up"]["settings"][0]["title"], "Amount")
        self.assertIn("Made up", json.dumps(schema()))

        one = self.take_in()
        raw = self.pixels(one.id)
        outline = {"kind": "outline", "points": [[0, 0], [160, 0], [160, 240], [0, 240]]}
        made = self.gesture(one.id, 0, op="add_pass", kind="made_up", areas=[outline])
        self.assertEqual(made.status_code, 200, made.content)
        ident = made.json()["pass_id"]
        done = self.gesture(one.id, 1, op="change_pass", id=ident, settings={"amount": 100})
        self.assertEqual(done.json()["history"]["undo"], "Made up: Amount")
        got = self.pixels(one.id, revision=2)
        self.assertGreater(int(np.abs(got[:, :150] - raw[:, :150]).mean()), 20)
        np.testing.assert_array_equal(got[:, 176:], raw[:, 176:])

        refused = self.gesture(one.id, 2, op="change_pass", id=ident, settings={"amount": 101})
        self.assertIn("amount goes from 0 to 100", refused.json()["message"])
        self.step(one.id, 2, 1)
        np.testing.assert_array_equal(self.pixels(one.id, revision=3), raw)
        self.step(one.id, 3, 2)
        stroke = {"path": [[60, 60]], "radius_px": 30, "softness": 0}
        self.gesture(one.id, 4, op="paint_mask", pass_id=ident, stroke=stroke)

        ident = self.send("POST", f"/portraits/{one.id}/deliveries", {"format": "png"}).json()["id"]
        file = delivering.wait(self.user, ident, 30)
        self.assertEqual(file.state, "done", file.message)
        delivered, original = read(file.path).pixels, read(one.original).pixels
        np.testing.assert_array_equal(delivered[100, 30], original[100, 30, ::-1])
        np.testing.assert_array_equal(delivered[60, 60], original[60, 60])

        folder = Path(tempfile.mkdtemp())
        edit = self.send("GET", f"/portraits/{one.id}/edit").json()
        (folder / "edit.json").write_text(json.dumps(edit))
        arguments = [one.original, "--edit", folder / "edit.json", "--out", folder / "out.png"]
        self.assertEqual(main([str(a) for a in arguments]), 0)
        np.testing.assert_array_equal(read(folder / "out.png").pixels, delivered)
