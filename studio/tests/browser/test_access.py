"""Every page passes axe-core (Deque's open rules for WCAG 2 A and AA, and best practices), without exceptions; all of a
retouch can be done by keys."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import numpy as np
from django.conf import settings
from playwright.sync_api import Page, expect

from studio.clients.services import links
from studio.tests.browser.base import BrowserTest

STAGES = ("Look", "Clear", "Even", "Features", "Shape", "Finish")


@cache
def _axe() -> str:
    path = Path(settings.BASE_DIR) / "web" / "node_modules" / "axe-core" / "axe.min.js"
    return path.read_text("utf-8")


class Access(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        # What fades in is half there for a moment; who asks for less motion gets it at once.
        self.page.emulate_media(reduced_motion="reduce")

    def passes(self, what: str, page: Page | None = None) -> None:
        page = page or self.page
        page.evaluate(_axe())
        found = page.evaluate("axe.run(document, { resultTypes: ['violations'] })")["violations"]
        told = [
            f"{v['id']}: {v['help']}: {[n['html'][:200] for n in v['nodes'][:3]]}" for v in found
        ]
        self.assertEqual(told, [], what)

    def test_the_pages_around_the_bench(self) -> None:
        one, page = self.portrait("eli"), self.page
        _, token = links.make(self.user, [one.id], "For Ada", 7, phrase="blue sky")
        for path in ("/", "/runs", "/routines", "/links", "/help", "/nowhere"):
            page.goto(f"{self.live_server_url}{path}")
            expect(page.get_by_role("heading", level=1)).to_be_visible()
            expect(page.get_by_role("status")).to_have_count(0)
            self.passes(path)
        page.goto(self.live_server_url)
        page.get_by_role("checkbox", name="Pick eli").check()
        self.passes("picked portraits")
        page.get_by_role("button", name="Show to a client…").click()
        self.passes("showing to a client")
        own = self.browser.new_context()
        self.addCleanup(own.close)
        visitor = own.new_page()
        visitor.goto(f"{self.live_server_url}/showing/{token}")
        expect(visitor.get_by_label("Pass phrase")).to_be_visible()
        self.passes("a client's page, locked", visitor)
        visitor.get_by_label("Pass phrase").fill("blue sky")
        visitor.get_by_role("button", name="Look").click()
        visitor.get_by_role("button", name="Set a pin").click()
        self.passes("a client's page", visitor)
        visitor.goto(f"{self.live_server_url}/")
        expect(visitor.get_by_role("button", name="Sign in")).to_be_visible()
        self.passes("signing in", visitor)

    def test_the_bench_in_every_stage(self) -> None:
        self.in_features("eli")
        page = self.page
        stages = page.get_by_role("navigation", name="Stages")
        for stage in STAGES:
            stages.get_by_role("button", name=stage).click()
            expect(page.get_by_role("heading", name=stage, level=2)).to_be_visible()
            self.passes(stage)
        page.get_by_role("button", name="Thread", exact=True).click()
        expect(page.get_by_role("list", name="History")).to_be_visible()
        self.passes("the thread")
        page.get_by_role("button", name="Close the thread").click()
        page.get_by_role("button", name="Natural?").click()
        expect(page.get_by_text("readings within limits")).to_be_visible()
        self.passes("the natural check")
        page.get_by_role("button", name="Working light").click()
        page.get_by_role("switch", name="Panels dimmed").check()
        self.passes("dimmed panels")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Deliver", exact=True).click()
        expect(page.get_by_role("dialog", name="Deliver eli")).to_be_visible()
        self.passes("deliver")

    def test_a_dab_and_a_stroke_by_keys(self) -> None:
        self.one = self.portrait("eli")
        self.open(self.one)
        page = self.page
        before = self.pixels(800, 1000, half=20)
        # The cross comes with the first arrow; Space is the press, arrows the way, Space again the release.
        self.picture().focus()
        page.keyboard.press("ArrowRight")
        cross = page.get_by_role("img", name="Cross")
        expect(cross).to_be_visible()
        at = [float(v) for v in (cross.get_attribute("data-at") or "").split()]
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="Spot 1")).to_be_visible()
        self.saved()
        touch = self.one.passes.get().touches.get()
        np.testing.assert_allclose(touch.path[0], at, atol=1)
        page.keyboard.press("Shift+Enter")
        for _ in range(4):
            page.keyboard.press("ArrowDown")
        page.keyboard.press("Shift+Enter")
        expect(page.get_by_role("button", name="Stroke 2")).to_be_visible()
        self.saved()
        stroke = self.one.passes.get().touches.order_by("position").last()
        assert stroke is not None
        self.assertGreater(stroke.path[-1][1] - stroke.path[0][1], 20)
        self.assertEqual(before.shape, (40, 40, 3))
