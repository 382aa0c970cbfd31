"""Runs in the window: a routine kept, a run with a broken file among its portraits, review, a ZIP."""

from __future__ import annotations

import io
import tempfile
import zipfile
from pathlib import Path

from playwright.sync_api import expect

from studio.accounts.models import Preferences
from studio.portraits.models import Portrait
from studio.portraits.services import desk, library
from studio.runs.models import Run
from studio.runs.services import running
from studio.tests.browser.base import BrowserTest
from studio.tests.test_runs import small


class RunsInTheWindow(BrowserTest):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.addClassCleanup(running.runner.stop)

    def test_a_routine_is_kept_from_a_portrait(self) -> None:
        wish = {"format": "webp", "quality": 80}
        Preferences.objects.create(
            user=self.user, keys={}, brushes=[], presets=[{"name": "Gallery", "wish": wish}]
        )
        self.in_features("ana")
        page = self.page
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Even").click()
        card = page.get_by_role("region", name="Routines", exact=True)
        card.get_by_role("button", name="Light", exact=True).click()
        panel = page.get_by_role("complementary", name="Passes")
        expect(panel.get_by_role("switch", name="Redness on or off")).to_be_visible()
        self.saved()
        card.get_by_role("button", name="Keep as a routine…").click()
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_role("list", name="Not in the routine")).to_contain_text("by hand")
        dialog.get_by_label("Shine", exact=True).uncheck()
        dialog.get_by_label("Name", exact=True).fill("Mine")
        dialog.get_by_label("Gallery", exact=True).check()
        dialog.get_by_role("button", name="Keep", exact=True).click()
        expect(dialog).to_have_count(0)
        own = card.get_by_role("button", name="Mine", exact=True)
        expect(own).to_be_visible()
        # Told before it acts, at half the strength.
        own.focus()
        expect(card.get_by_text("Spots healed")).to_be_visible()
        number = card.get_by_role("textbox", name="Strength, number")
        number.fill("50")
        number.press("Enter")
        own.click()
        expect(page.get_by_role("listitem", name="Set Mine")).to_be_visible()
        self.saved()
        page.goto(f"{self.live_server_url}/routines")
        mine = page.get_by_role("listitem", name="Mine", exact=True)
        expect(mine).not_to_contain_text("Shine")
        expect(mine).to_contain_text("delivered by Gallery")
        mine.get_by_role("button", name="Delete Mine").click()
        expect(mine).to_have_count(0)
        page.get_by_role("button", name="Take it back").click()
        expect(mine).to_be_visible()
        # The results of its runs are offered for that.
        page.goto(self.live_server_url)
        page.get_by_label("Pick ana", exact=True).check()
        page.get_by_role("button", name="Run a routine…").click()
        dialog.get_by_label("Routine", exact=True).select_option(label="Mine (own)")
        dialog.get_by_role("button", name="Start").click()
        results = page.get_by_role("list", name="Results")
        expect(results.get_by_role("listitem", name="ana", exact=True)).to_be_visible()
        expect(page.get_by_label("Progress", exact=True)).to_contain_text("1 of 1 done")
        page.get_by_role("button", name="Accept all").click()
        with page.expect_download() as waiting:
            page.get_by_role("button", name="Deliver 1 accepted").click()
            page.get_by_role("button", name="Gallery named by the routine").click()
        path = Path(tempfile.mkdtemp()) / "mine.zip"
        waiting.value.save_as(path)
        with zipfile.ZipFile(path) as file:
            self.assertEqual([Path(n).suffix for n in file.namelist()], [".webp"])

    def test_six_portraits_with_a_broken_one_are_run_reviewed_and_delivered(self) -> None:
        names = ("eli", "kofi", "ana", "bela", "dan", "hana")
        for name in names:
            data = small(name)
            library.take_in(self.user, io.BytesIO(data), f"{name}.png", len(data))
        Portrait.objects.get(name="bela").original.write_bytes(b"broken")
        page = self.page
        page.goto(self.live_server_url)
        for name in names:
            page.get_by_label(f"Pick {name}", exact=True).check()
        picked = page.get_by_role("region", name="Picked portraits")
        expect(picked).to_contain_text("6 picked")
        picked.get_by_role("button", name="Run a routine…").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Routine", exact=True).select_option("light")
        dialog.get_by_role("button", name="Start").click()
        progress = page.get_by_label("Progress", exact=True)
        expect(progress).to_contain_text("5 of 6 done, 1 failed", timeout=120_000)
        results = page.get_by_role("list", name="Results")
        failed = results.get_by_role("listitem", name="bela", exact=True)
        expect(failed).to_contain_text("changed")
        # By keys: accept, to the next one, undo.
        eli = results.get_by_role("listitem", name="eli", exact=True)
        eli.focus()
        page.keyboard.press("a")
        expect(eli).to_contain_text("accepted")
        kofi = results.get_by_role("listitem", name="kofi", exact=True)
        kofi.get_by_role("button", name="Undo the run on kofi").click()
        expect(kofi).to_contain_text("taken back")
        desk.forget_all()
        self.assertEqual(desk.edit_of(Portrait.objects.get(name="kofi")).passes, ())
        page.get_by_role("button", name="Ease all to look at").click()
        expect(page.get_by_text("3 eased to 60 %")).to_be_visible()
        page.get_by_role("button", name="Accept all").click()
        expect(progress).to_contain_text("4 accepted")
        with page.expect_download() as waiting:
            page.get_by_role("button", name="Deliver 4 accepted").click()
            page.get_by_role("button", name="JPEG, full size").click()
        path = Path(tempfile.mkdtemp()) / "all.zip"
        waiting.value.save_as(path)
        with zipfile.ZipFile(path) as file:
            self.assertIsNone(file.testzip())
            self.assertEqual(
                sorted(file.namelist()),
                [f"{n} retouched.jpg" for n in ("ana", "dan", "eli", "hana")],
            )
        self.assertEqual(Run.objects.get().state, "done")
