"""The wall of portraits: upload, rename, delete, take back, before and after."""

from __future__ import annotations

from playwright.sync_api import expect

from studio.portraits.models import Portrait
from studio.tests.base import portrait_file
from studio.tests.browser.base import DEMO, BrowserTest


class Wall(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.page.goto(self.live_server_url)

    def choose(self, *files: object) -> None:
        with self.page.expect_file_chooser() as chooser:
            self.page.get_by_role("button", name="Add portraits").click()
        chooser.value.set_files(list(files))  # type: ignore[arg-type]

    def test_upload_several_and_a_bad_one(self) -> None:
        expect(self.page.get_by_text("No portraits yet")).to_be_visible()
        self.choose(
            {
                "name": "dan.jpg",
                "mimeType": "image/jpeg",
                "buffer": (DEMO / "dan.jpg").read_bytes(),
            },
            {"name": "small face.png", "mimeType": "image/png", "buffer": portrait_file()},
            {"name": "letter.jpg", "mimeType": "image/jpeg", "buffer": b"Dear aunt, " * 99},
        )
        wall = self.page.get_by_role("list", name="Portraits")
        expect(wall.get_by_role("listitem")).to_have_count(2)
        failed = self.page.get_by_role("list", name="Uploads").get_by_role("listitem")
        expect(failed).to_have_count(1)
        expect(failed).to_contain_text("isn't a picture that can be opened here")
        self.page.get_by_role("button", name="Dismiss letter.jpg").click()
        expect(failed).to_have_count(0)
        expect(wall.get_by_text("1500 × 1875 · 8 bit")).to_be_visible()
        self.assertEqual(Portrait.objects.count(), 2)

    def test_drag_and_drop(self) -> None:
        transfer = self.page.evaluate_handle(
            """bytes => {
                 const t = new DataTransfer();
                 t.items.add(new File([new Uint8Array(bytes)], "dropped.png", {type: "image/png"}));
                 return t;
               }""",
            list(portrait_file()),
        )
        self.page.get_by_role("main").dispatch_event("drop", {"dataTransfer": transfer})
        expect(self.page.get_by_role("link", name="Open dropped")).to_be_visible()

    def test_rename_delete_and_take_back(self) -> None:
        self.portrait("eli")
        self.page.reload()
        self.page.get_by_role("button", name="Rename eli").click()
        field = self.page.get_by_role("textbox", name="New name")
        field.fill("Eli, spring")
        field.press("Enter")
        link = self.page.get_by_role("link", name="Open Eli, spring")
        expect(link).to_be_visible()

        self.page.get_by_role("button", name="Delete Eli, spring").click()
        dialog = self.page.get_by_role("dialog")
        expect(dialog).to_contain_text("30 days")
        dialog.get_by_role("button", name="Keep it").click()
        expect(dialog).to_have_count(0)
        self.page.get_by_role("button", name="Delete Eli, spring").click()
        self.page.get_by_role("dialog").get_by_role("button", name="Delete").click()
        expect(link).to_have_count(0)
        self.page.get_by_role("button", name="Take it back").click()
        expect(link).to_be_visible()

        # Also later, from the list of deleted portraits.
        self.page.get_by_role("button", name="Delete Eli, spring").click()
        self.page.get_by_role("dialog").get_by_role("button", name="Delete").click()
        expect(link).to_have_count(0)
        self.page.reload()
        self.page.get_by_role("button", name="Show deleted portraits (1)").click()
        self.page.get_by_role("button", name="Take Eli, spring back").click()
        expect(link).to_be_visible()

    def test_before_and_after_on_hover(self) -> None:
        one = self.portrait("eli")
        self.open(one)
        self.zoom_to(983, 1106)
        self.heal(983, 1106)
        self.page.get_by_role("link", name="All portraits").click()
        link = self.page.get_by_role("link", name="Open eli")
        expect(link).to_contain_text("retouched")
        link.hover()
        expect(link).to_contain_text("original")
