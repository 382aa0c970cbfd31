"""The same original and the same edit give the same pixels in a delivery and on the command line."""

from __future__ import annotations

import io
import json
import tempfile
from contextlib import redirect_stderr
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from retouch.cli.render import main
from retouch.edit import Edit, Elsewhere
from retouch.forms.form import from_data, to_data
from retouch.passes import registry
from retouch.picture import read
from retouch.work import Bench, perform
from retouch.work.bench import bench_for
from retouch.work.operations import AddPass, AddTouch, ApplyRoutine, NewTouch
from retouch.work.ready import ready_routines
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk, gestures
from studio.tests.base import StudioTest
from studio.tests.test_analysis import demo_face


def every_kind(bench: Bench, content: str) -> Edit:
    """One pass of each kind that changes pixels, as a hand makes it."""
    edit = Edit()
    for kind in registry.all_kinds():
        if kind.guide:
            continue
        if kind.touches is None:
            strong: dict[str, Any] = {
                "amount": 40.0, "exposure_ev": 0.1, "contrast": 20.0, "middle": -30.0, "shade": 30.0,
                "peaks": -25.0, "temperature_k": 5400.0, "gentle": 30.0, "turn": 12.0,
                "lighter": 40.0, "darker": 40.0, "richer": 30.0, "veins": 50.0, "angle_deg": 4.0, "upright": 10.0,
                "mirror": True, "width_px": 700.0, "height_px": 820.0, "centre_x_px": 470.0,
                "centre_y_px": 600.0,
            }  # fmt: skip
            settings = {s.name: strong[s.name] for s in kind.settings if s.name in strong}
            if kind.name == "curves":
                settings["red"] = ((0.0, 0.0), (0.4, 0.45), (1.0, 1.0))
            if kind.name == "one_colour":
                settings["light"] = 2.0
            if kind.frame:
                # A place in it is turned like any other; whole quarters besides.
                settings["turn"] = "90"
            edit = perform(edit, AddPass(kind.name, settings=settings), bench).edit
            continue
        values: dict[str, Any] = {"radius_px": 14.0} if kind.least_points == 1 else {}
        path = ((330.0, 560.0),)
        if kind.least_points == 3:
            path = ((430.0, 540.0), (470.0, 545.0), (450.0, 585.0))
        elsewhere = None
        if kind.name == "borrow":
            # From its own file, as from any other.
            pins = ((0.0, 0.0, 20.0, 30.0), (100.0, 100.0, 120.0, 130.0))
            elsewhere = Elsewhere(content, pins)
        if kind.name == "lens_light":
            values["veil_red"] = 3.0
        touch = NewTouch(path, values=values, elsewhere=elsewhere)
        edit = perform(edit, AddTouch(kind.name, touch), bench).edit
    return edit


class SameEverywhere(StudioTest):
    def deliver(self, one: Portrait) -> np.ndarray:
        answer = self.send("POST", f"/portraits/{one.id}/deliveries", {"format": "png"})
        self.assertEqual(answer.status_code, 202, answer.content)
        ident, state = answer.json()["id"], answer.json()
        while state["state"] in ("waiting", "working"):
            state = self.client.get(f"/api/deliveries/{ident}", {"wait": 10}).json()
        self.assertEqual(state["state"], "done", state["message"])
        file = self.client.get(f"/api/deliveries/{ident}/file")
        with tempfile.NamedTemporaryFile(suffix=".png") as kept:
            kept.write(b"".join(file.streaming_content))
            kept.flush()
            return read(kept.name).pixels

    def render(self, *arguments: object) -> tuple[int, str]:
        said = io.StringIO()
        with redirect_stderr(said):
            return main([str(a) for a in arguments]), said.getvalue()

    def test_every_kind_of_pass_and_every_routine(self) -> None:
        one = self.take_in(demo_face())
        analysis = analysing.waited_for(one, Edit(), 120)
        assert analysis is not None
        bench = bench_for(desk.renderer_of(one).pyramid, analysis)
        edits = {"every kind": every_kind(bench, one.sha256)}
        edits |= {
            r.name: perform(Edit(), ApplyRoutine(r.name), bench).edit
            for r in ready_routines()
            if not r.glasses
        }
        folder = Path(tempfile.mkdtemp())
        faces, out, saved = (folder / n for n in ("faces.npz", "out.png", "edit.json"))
        for name, edit in edits.items():
            with self.subTest(name):
                Portrait.objects.filter(pk=one.pk).update(revision=one.revision)
                desk.forget_all()
                desk.remember(one, edit)
                delivered = self.deliver(one)
                saved.write_text(json.dumps(to_data(edit)))
                known = ("--faces", faces) if faces.exists() else ("--save-faces", faces)
                other = ("--with", one.original)
                status, said = self.render(
                    one.original, "--edit", saved, "--out", out, *known, *other
                )
                self.assertEqual((status, said), (0, ""))
                np.testing.assert_array_equal(read(out).pixels, delivered)
                self.assertFalse(np.array_equal(delivered, read(one.original).pixels))
        # A routine by its name is the routine that the studio applies.
        status, said = self.render(
            one.original, "--routine", "light", "--faces", faces, "--out", out, "--save-edit", saved
        )
        self.assertEqual((status, said), (0, ""))
        made = from_data(json.loads(saved.read_text()))
        same = edits["light"]
        self.assertEqual(
            [(p.kind, p.settings, p.fit, p.mask) for p in made.passes],
            [(p.kind, p.settings, p.fit, p.mask) for p in same.passes],
        )
        self.assertEqual(made.analysis, same.analysis)

        # Without the faces nothing is left out in silence: it is refused, in words.
        saved.write_text(json.dumps(to_data(same)))
        out.unlink()
        status, said = self.render(one.original, "--edit", saved, "--faces", "off", "--out", out)
        self.assertEqual((status, out.exists()), (1, False))
        self.assertIn("faces aren't known", said)
        saved.write_text(json.dumps(to_data(replace(same, analysis="0123456789ab"))))
        status, said = self.render(one.original, "--edit", saved, "--out", out)
        self.assertEqual((status, out.exists()), (1, False))
        self.assertIn("another analysis of the faces", said)

    def test_touches_keep_what_they_spare_and_stay_switched_off(self) -> None:
        """On the command line as in the studio."""
        one = self.take_in()
        folder = Path(tempfile.mkdtemp())
        saved, out = folder / "edit.json", folder / "out.png"
        spare = [[[40, 40], [80, 40], [60, 70]]]
        touches = [
            {"id": "a", "path": [[60, 60]], "values": {"radius_px": 12}, "spare": spare},
            {"id": "b", "path": [[150, 90]], "values": {"radius_px": 12}, "enabled": False},
        ]
        data = {"version": 1, "passes": [{"id": "p", "kind": "heal", "touches": touches}]}
        (folder / "in.json").write_text(json.dumps(data))
        status, said = self.render(
            one.original, "--edit", folder / "in.json", "--out", out, "--save-edit", saved
        )
        self.assertEqual((status, said), (0, ""))
        first, second = from_data(json.loads(saved.read_text())).passes[0].touches
        self.assertEqual(len(first.spare), 1)
        self.assertIsNotNone(first.source)
        self.assertFalse(second.enabled)
        changed = (read(out).pixels != read(one.original).pixels).any(-1)
        self.assertTrue(changed[50:70, 50:70].any())
        self.assertFalse(changed[70:110, 130:170].any())


class WithoutAnAnalysis(StudioTest):
    """A delivery waits for the faces, or says why it can't be made."""

    def deliver(self, one: Portrait) -> Any:
        # What tells the time of a delivery is left out: files are compared byte by byte.
        wish = {"format": "png", "tell": False}
        ident = self.send("POST", f"/portraits/{one.id}/deliveries", wish).json()["id"]
        state: Any = {"state": "waiting"}
        while state["state"] in ("waiting", "working"):
            state = self.client.get(f"/api/deliveries/{ident}", {"wait": 10}).json()
        return ident, state

    def file(self, ident: str) -> bytes:
        return b"".join(self.client.get(f"/api/deliveries/{ident}/file").streaming_content)

    def test_it_is_waited_for_after_it_was_deleted(self) -> None:
        one = self.take_in(demo_face())
        self.assertIsNotNone(analysing.waited_for(one, Edit(), 120))
        area = [{"kind": "zone", "zone": "face_skin"}]
        self.gesture(one.id, 0, op="add_pass", kind="light", areas=area,
                     settings={"exposure_ev": 1.0})  # fmt: skip
        ident, state = self.deliver(one)
        self.assertEqual(state["state"], "done", state["message"])
        want = self.file(ident)
        after = self.client.get(f"/api/portraits/{one.id}/thumbnail", {"side": "after"}).content
        folder = Path(analysing._path(one.id, analysing.hints_of(Edit()))).parent
        for file in folder.iterdir():
            file.unlink()
        analysing.stop()
        desk.forget_all()
        # What is drawn meanwhile is neither kept nor passed off as whole.
        small = self.client.get(f"/api/portraits/{one.id}/thumbnail", {"side": "after"})
        self.assertEqual(small["Cache-Control"], "no-cache")
        self.assertNotEqual(small.content, after)
        ident, state = self.deliver(one)
        self.assertEqual(state["state"], "done", state["message"])
        self.assertEqual(self.file(ident), want)
        again = self.client.get(f"/api/portraits/{one.id}/thumbnail", {"side": "after"})
        self.assertEqual(again.content, after)

    def test_where_it_fails_the_delivery_says_so(self) -> None:
        one = self.take_in()
        area = [{"kind": "zone", "zone": "face_skin", "face": [60, 60]}]
        self.gesture(one.id, 0, op="add_pass", kind="light", areas=area,
                     settings={"exposure_ev": 1.0})  # fmt: skip
        _, state = self.deliver(one)
        self.assertEqual(state["state"], "failed")
        self.assertIn("isn't found in this picture any more", state["message"])
        # Switched off, it stands in nobody's way.
        ident = self.desk(one.id)["passes"][0]["id"]
        self.gesture(one.id, 1, op="change_pass", id=ident, enabled=False)
        _, state = self.deliver(one)
        self.assertEqual(state["state"], "done", state["message"])

    def test_views_are_kept_only_under_the_analysis_they_were_made_with(self) -> None:
        one = self.take_in(demo_face())
        analysis = analysing.waited_for(one, Edit(), 120)
        assert analysis is not None
        self.gesture(one.id, 0, op="add_pass", kind="redness")
        one.refresh_from_db()
        self.assertEqual(one.analysis, analysis.key)
        view = {"x": 0, "y": 0, "scale": 0.2, "width": 100, "height": 100, "revision": 1}
        url = f"/api/portraits/{one.id}/view"
        for faces, lasting in ((analysis.key, True), ("", False), ("another", False)):
            answer = self.client.get(url, {**view, "faces": faces})
            self.assertEqual("max-age" in answer["Cache-Control"], lasting, faces)
        # A correction asks for another analysis; its name is known when it is there.
        face = analysis.faces[0]
        touch = {"path": [list(face.anchor), [face.anchor[0] + 3, face.anchor[1]]],
                 "values": {"what": "nudge"}}  # fmt: skip
        self.gesture(one.id, 1, op="add_touch", kind="faces", touch=touch)
        one.refresh_from_db()
        self.assertEqual(one.analysis, "")
        edit = desk.edit_of(one)
        again = analysing.waited_for(one, edit, 120)
        assert again is not None
        self.assertNotEqual(again.key, analysis.key)
        self.wait_until(lambda: desk.edit_of(self.fresh(one)).analysis == again.key)
        self.step(one.id, 2, 1)
        self.assertEqual(self.fresh(one).analysis, analysis.key, "undo finds the earlier one again")

    def fresh(self, one: Portrait) -> Portrait:
        return Portrait.objects.get(pk=one.pk)

    def test_the_folder_of_analyses_stays_small(self) -> None:
        one = self.take_in()
        self.assertIsNotNone(analysing.waited_for(one, Edit(), 120))
        for n in range(analysing._MOST_FILES + 3):
            touch = {"path": [[20 + n, 20]], "values": {"what": "none"}}
            self.gesture(one.id, n, op="add_touch", kind="faces", touch=touch)
            edit = gestures.desk.edit_of(self.fresh(one))
            self.assertIsNotNone(analysing.waited_for(one, edit, 120))
        folder = analysing._path(one.id, analysing.hints_of(Edit())).parent
        self.assertLessEqual(len(list(folder.glob("*.npz"))), analysing._MOST_FILES)
