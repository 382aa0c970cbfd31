"""A real browser on a live server: Debian's headless Chromium through Playwright."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path
from unittest import mock

import numpy as np
from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import LiveServerTestCase, tag
from playwright.sync_api import Locator, Page, expect, sync_playwright

from studio.portraits.models import Portrait
from studio.tests.base import DataFolder

PASSWORD = "an-invented-password"
DEMO = Path(settings.BASE_DIR) / "demo" / "portraits"
CHROMIUM = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
]
# How long a condition is waited for, in ms: what takes one second here takes twenty on a machine
# that has other work.
PATIENCE = 60_000
expect.set_options(timeout=PATIENCE)


@tag("browser")
class BrowserTest(DataFolder, LiveServerTestCase):
    """Each test starts signed in as ``mira``, in a fresh window of 1280x800."""

    @classmethod
    def setUpClass(cls) -> None:
        # Playwright runs an event loop in this thread; Django would refuse its own database calls.
        cls.enterClassContext(mock.patch.dict(os.environ, {"DJANGO_ALLOW_ASYNC_UNSAFE": "true"}))
        super().setUpClass()
        playwright = sync_playwright().start()
        cls.addClassCleanup(playwright.stop)
        cls.browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
        cls.addClassCleanup(cls.browser.close)

    def setUp(self) -> None:
        super().setUp()
        self.user = get_user_model().objects.create_user("mira", password=PASSWORD)
        self.problems: list[str] = []
        self.context = self.browser.new_context(
            viewport={"width": 1280, "height": 800}, accept_downloads=True
        )
        self.addCleanup(self.context.close)
        self.context.set_default_timeout(PATIENCE)
        self.client.force_login(self.user)
        cookie = self.client.cookies["sessionid"].value
        self.context.add_cookies(
            [{"name": "sessionid", "value": cookie, "url": self.live_server_url}]
        )
        self.page = self.window()

    def tearDown(self) -> None:
        self.assertEqual(self.problems, [], "errors in the browser")
        super().tearDown()

    def window(self) -> Page:
        page = self.context.new_page()
        page.on("pageerror", lambda error: self.problems.append(str(error)))
        return page

    def portrait(self, name: str, known: bool = True) -> Portrait:
        return self.demo_of(self.user, name, known)

    def in_features(self, name: str) -> None:
        """A demo portrait in the stage Features, its faces looked at."""
        self.one = self.portrait(name)
        self.open(self.one)
        expect(self.page.get_by_role("button", name="Sweep")).to_be_visible(timeout=90_000)
        stages = self.page.get_by_role("navigation", name="Stages")
        stages.get_by_role("button", name="Features").click()

    def open(self, portrait: Portrait, page: Page | None = None) -> Page:
        page = page or self.page
        page.goto(f"{self.live_server_url}/portraits/{portrait.id}")
        self.sharp(page)
        return page

    def picture(self, page: Page | None = None) -> Locator:
        return (page or self.page).get_by_role("application", name="Picture")

    def sharp(self, page: Page | None = None) -> None:
        expect(self.picture(page)).to_have_attribute("data-sharp", "true")

    def saved(self, page: Page | None = None) -> None:
        expect((page or self.page).get_by_role("status")).to_have_text("Saved")

    def add_pass(self, title: str, page: Page | None = None) -> None:
        """Add a pass of the stage from its menu."""
        page = page or self.page
        page.get_by_role("button", name="Pass", exact=True).click()
        menu = page.locator(".dropdown-menu.show")
        menu.get_by_role("button", name=title, exact=True).click()

    def at(self, x: float, y: float, page: Page | None = None) -> tuple[float, float]:
        """Where a place of the picture lies on the page."""
        box = self.picture(page).bounding_box()
        assert box is not None
        vx, vy, scale = self._view(page)
        return box["x"] + (x - vx) * scale, box["y"] + (y - vy) * scale

    def _view(self, page: Page | None = None) -> tuple[float, float, float]:
        text = self.picture(page).get_attribute("data-view") or ""
        x, y, scale = (float(v) for v in text.split())
        return x, y, scale

    def zoom_to(self, x: float, y: float, page: Page | None = None) -> None:
        """One to one, with the place in reach."""
        page = page or self.page
        page.mouse.move(*self.at(x, y, page))
        for _ in range(40):
            if self._view(page)[2] >= 1:
                break
            before = self._view(page)
            page.mouse.wheel(0, -240)
            page.wait_for_function(
                "([e, old]) => e.dataset.view !== old",
                arg=[self.picture(page).element_handle(), " ".join(f"{v}" for v in before)],
            )
        page.keyboard.press("1")
        expect(page.get_by_role("button", name="Zoom 100 %")).to_be_visible()
        self.sharp(page)

    def pixels(self, x: float, y: float, half: int = 4, page: Page | None = None) -> np.ndarray:
        """Painted pixels around a place of the picture, (2 half, 2 half, 3), as the screen has them."""
        vx, vy, scale = self._view(page)
        data = (
            self.picture(page)
            .locator("canvas")
            .evaluate(
                """(c, [x, y, h]) => Array.from(
                 c.getContext('2d').getImageData(x - h, y - h, 2 * h, 2 * h).data)""",
                [round((x - vx) * scale), round((y - vy) * scale), half],
            )
        )
        return np.asarray(data).reshape(2 * half, 2 * half, 4)[..., :3].astype(float)

    def until_painted(
        self, x: float, y: float, before: np.ndarray, page: Page | None = None
    ) -> np.ndarray:
        """Wait until the pixels around a place differ, sharp, from what they were.

        A coarser picture, scaled, may be shown for a moment: it differs without any change.
        """
        vx, vy, scale = self._view(page)
        half = len(before) // 2
        (page or self.page).wait_for_function(
            """([c, x, y, h, old]) => {
                 const d = c.getContext('2d').getImageData(x - h, y - h, 2 * h, 2 * h).data;
                 let sum = 0;
                 for (let i = 0; i < old.length; i++) sum += Math.abs(d[i] - old[i]);
                 const sharp = c.closest('[data-sharp]').dataset.sharp === 'true';
                 return sharp && sum > old.length;
               }""",
            arg=[
                self.picture(page).locator("canvas").element_handle(),
                round((x - vx) * scale),
                round((y - vy) * scale),
                half,
                np.dstack([before, np.full(before.shape[:2], 255)]).reshape(-1).tolist(),
            ],
        )
        return self.pixels(x, y, half, page)

    def until_like(
        self, x: float, y: float, wanted: np.ndarray, atol: float, page: Page | None = None
    ) -> None:
        """Wait until the pixels around a place are what they should be, each within ``atol``.

        What is shown first may be a coarser picture, scaled, until the sharp one is there.
        """
        vx, vy, scale = self._view(page)
        half = len(wanted) // 2
        (page or self.page).wait_for_function(
            """([c, x, y, h, wanted, atol]) => {
                 const d = c.getContext('2d').getImageData(x - h, y - h, 2 * h, 2 * h).data;
                 return wanted.every((w, i) => Math.abs(d[i] - w) <= atol);
               }""",
            arg=[
                self.picture(page).locator("canvas").element_handle(),
                round((x - vx) * scale),
                round((y - vy) * scale),
                half,
                np.dstack([wanted, np.full(wanted.shape[:2], 255)]).reshape(-1).tolist(),
                atol,
            ],
        )

    def brush(self, radius: float, page: Page | None = None) -> None:
        tray = (page or self.page).get_by_role("contentinfo", name="Hand tray")
        box = tray.get_by_role("textbox", name="Size, number")
        box.fill(str(radius))
        box.press("Enter")
        box.blur()

    def heal(self, x: float, y: float, page: Page | None = None) -> np.ndarray:
        """Click a spot and wait until it is painted; the pixels there now."""
        before = self.pixels(x, y, page=page)
        (page or self.page).mouse.click(*self.at(x, y, page))
        after = self.until_painted(x, y, before, page)
        self.saved(page)
        return after

    def download(self, **_: object) -> Path:
        """Press Deliver in the open dialog and keep the file."""
        dialog = self.page.get_by_role("dialog")
        with self.page.expect_download() as waiting:
            dialog.get_by_role("button", name="Deliver").click()
        path = Path(tempfile.mkdtemp()) / waiting.value.suggested_filename
        waiting.value.save_as(path)
        return path
