"""Links for clients: who may see what, for how long, how many pixels, and what becomes of their wishes."""

from __future__ import annotations

import io
import json
from datetime import timedelta
from typing import Any

import numpy as np
from axes.models import AccessAttempt
from django.conf import settings
from django.core.cache import cache
from django.test import Client
from django.utils import timezone
from PIL import Image

from retouch.papers.watermark import watermarked
from studio.clients.models import ClientLink, Pin, ShownPortrait
from studio.clients.services import links, pictures, visits
from studio.portraits.models import Portrait, Take
from studio.tests.base import StudioTest


class Clients(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        cache.clear()
        self.one = self.take_in()
        # Nobody signed in.
        self.visitor = Client()

    def show(self, portraits: list[Portrait] | None = None, **wish: Any) -> str:
        """The token of a new link, once its pictures are there."""
        body = {"portraits": [p.id for p in portraits or [self.one]], **wish}
        made = self.send("POST", "/links", body)
        self.assertEqual(made.status_code, 201, made.content)
        self.link = ClientLink.objects.get(pk=made.json()["link"]["id"])
        self.ready()
        return str(made.json()["token"])

    def ready(self) -> None:
        self.wait_until(lambda: not self.link.shown.filter(state="waiting").exists())

    def visit(self, token: str, what: str = "", method: str = "GET", body: Any = None) -> Any:
        return self.visitor.generic(
            method, f"/api/showing/{token}{what}",
            data="" if body is None else json.dumps(body), content_type="application/json",
        )  # fmt: skip

    def pin(self, token: str, **changes: Any) -> Any:
        body = {"kind": "change", "words": "softer here", "x": 0.5, "y": 0.25, **changes}
        return self.visit(token, "/1/pins", "POST", body)

    def picture(self, answer: Any) -> np.ndarray:
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(answer["Content-Type"], "image/jpeg")
        return np.asarray(Image.open(io.BytesIO(answer.content)))


class Seeing(Clients):
    def test_a_stranger_sees_the_result_as_it_was_shown(self) -> None:
        token = self.show(title="For Ada")
        self.assertNotIn(token, json.dumps(list(ClientLink.objects.values()), default=str))
        seen = self.visit(token)
        self.assertEqual(seen["Cache-Control"], "no-store")
        self.assertEqual(seen.json()["title"], "For Ada")
        before = self.picture(self.visit(token, "/1/result/large"))
        # What is done later isn't shown until it is shown anew.
        self.heal(self.one.id, 0, 60, 60)
        np.testing.assert_array_equal(self.picture(self.visit(token, "/1/result/large")), before)
        self.assertEqual(self.send("POST", f"/links/{self.link.pk}/show").status_code, 200)
        self.ready()
        after = self.picture(self.visit(token, "/1/result/large"))
        self.assertGreater(np.abs(after.astype(int) - before)[50:70, 50:70].mean(), 5)
        original = self.picture(self.visit(token, "/1/original/large"))
        np.testing.assert_array_equal(original, before)
        self.link.refresh_from_db()
        self.assertEqual(self.link.opened, 1)
        # What was shown can be gone back to.
        self.assertEqual(Take.objects.filter(portrait=self.one, name="Shown: For Ada").count(), 2)

    def test_no_picture_has_more_pixels_than_allowed(self) -> None:
        token = self.show()
        # Smaller than can be asked for, as this portrait is.
        ClientLink.objects.update(long_side=100)
        links.show_anew(self.link)
        self.ready()
        for side in ("result", "original"):
            for size in ("screen", "large"):
                made = self.picture(self.visit(token, f"/1/{side}/{size}"))
                self.assertEqual(max(made.shape[:2]), 100)
        told = self.visit(token).json()["pictures"][0]
        self.assertEqual((told["width"], told["height"]), (100, 75))

    def test_without_comparing_the_original_stays_here(self) -> None:
        token = self.show(compare=False)
        self.assertEqual(self.visit(token, "/1/original/large").status_code, 404)
        self.assertFalse(list(pictures.folder().glob(f"{self.link.shown.get().pk}-*original*")))

    def test_a_watermark_lies_over_all_pictures(self) -> None:
        plain = self.picture(self.visit(self.show(), "/1/result/large")).astype(int)
        marked = self.show(watermark="PROOF")
        for side in ("result", "original"):
            changed = np.abs(self.picture(self.visit(marked, f"/1/{side}/large")) - plain).max(-1)
            self.assertGreater((changed > 20).mean(), 0.01)
        # Its words reach all parts of a picture, and no words change nothing.
        grey = np.full((400, 300, 3), 128, np.uint8)
        over = watermarked(grey, "PROOF") != 128
        self.assertTrue(
            all(p.any() for half in np.split(over, 2) for p in np.split(half, 2, axis=1))
        )
        np.testing.assert_array_equal(watermarked(grey, "  "), grey)

    def test_pictures_that_got_lost_are_made_again(self) -> None:
        token = self.show()
        for path in pictures.folder().glob("*"):
            path.unlink()
        lost = self.visit(token, "/1/result/large")
        self.assertEqual((lost.status_code, lost.json()["code"]), (409, "not_ready"))
        self.ready()
        self.picture(self.visit(token, "/1/result/large"))

    def test_what_a_stop_cut_short_is_made_and_what_is_over_is_deleted(self) -> None:
        token = self.show()
        ShownPortrait.objects.update(state="waiting")
        stray = pictures.folder() / "99999-1-result-large.jpg"
        stray.write_bytes(b"")
        links.sweep()
        self.ready()
        self.picture(self.visit(token, "/1/result/large"))
        self.assertFalse(stray.exists())

    def test_the_same_picture_is_not_sent_twice(self) -> None:
        token = self.show()
        tag = self.visit(token, "/1/result/screen")["ETag"]
        again = self.visitor.get(
            f"/api/showing/{token}/1/result/screen", headers={"if-none-match": tag}
        )
        self.assertEqual((again.status_code, again.content), (304, b""))


class Keeping(Clients):
    def test_unknown_expired_and_withdrawn_links_are_told_alike(self) -> None:
        token = self.show()
        unknown = self.visit("A" * 43)
        ClientLink.objects.update(expires_at=timezone.now() - timedelta(seconds=1))
        expired = self.visit(token)
        ClientLink.objects.update(expires_at=timezone.now() + timedelta(days=1))
        self.assertEqual(self.visit(token).status_code, 200)
        self.assertEqual(self.send("DELETE", f"/links/{self.link.pk}").status_code, 200)
        for answer in (
            unknown,
            expired,
            self.visit(token),
            self.visit(token, "/1/result/large"),
            self.pin(token),
        ):
            self.assertEqual((answer.status_code, answer.content), (404, unknown.content))
        self.assertFalse(list(pictures.folder().glob(f"{self.link.shown.get().pk}-*")))
        anew = self.send("POST", f"/links/{self.link.pk}/show")
        self.assertEqual((anew.status_code, anew.json()["code"]), (409, "withdrawn"))

    def test_a_new_address_closes_the_old_one(self) -> None:
        old = self.show()
        new = self.send("POST", f"/links/{self.link.pk}/token").json()["token"]
        self.assertEqual([self.visit(t).status_code for t in (old, new)], [404, 200])

    def test_guessing_addresses_ends(self) -> None:
        token = self.show()
        codes = [self.visit(f"{n:043}").status_code for n in range(40)]
        self.assertEqual(codes, [404] * 30 + [429] * 10)
        # So does this one from there, and nobody else's.
        self.assertEqual(self.visit(token).status_code, 429)
        self.visitor = Client(REMOTE_ADDR="192.0.2.7")
        self.assertEqual(self.visit(token).status_code, 200)

    def test_a_pass_phrase_keeps_everything_back(self) -> None:
        token = self.show(title="Secret title", phrase="blue sky")
        locked = self.visit(token)
        self.assertTrue(locked.json()["locked"])
        self.assertNotIn(b"Secret", locked.content)
        self.assertEqual(self.visit(token, "/1/result/large").status_code, 403)
        self.assertEqual(self.pin(token).status_code, 403)
        self.assertEqual(self.visit(token, "/state").status_code, 403)
        wrong = self.visit(token, "/phrase", "POST", {"phrase": "red sky"})
        self.assertEqual((wrong.status_code, wrong.json()["code"]), (400, "wrong_phrase"))
        right = self.visit(token, "/phrase", "POST", {"phrase": " blue sky "})
        self.assertEqual(right.json()["title"], "Secret title")
        cookie = right.cookies[f"showing_{self.link.pk}"]
        self.assertTrue(cookie["httponly"] and cookie["samesite"] == "Strict")
        self.assertEqual(cookie["path"], f"/api/showing/{token}")
        self.picture(self.visit(token, "/1/result/large"))
        # Another phrase, and it has to be given again.
        self.send("PATCH", f"/links/{self.link.pk}", {"phrase": "green sky"})
        self.assertEqual(self.visit(token, "/1/result/large").status_code, 403)
        short = self.send("PATCH", f"/links/{self.link.pk}", {"phrase": "a"})
        self.assertEqual((short.status_code, short.json()["code"]), (422, "short"))
        self.send("PATCH", f"/links/{self.link.pk}", {"phrase": ""})
        self.assertFalse(self.visit(token).json()["locked"])

    def test_guessing_a_pass_phrase_has_to_wait(self) -> None:
        self.addCleanup(AccessAttempt.objects.all().delete)
        token = self.show(phrase="blue sky")
        tried = [
            self.visit(token, "/phrase", "POST", {"phrase": f"{n}"}).status_code for n in range(7)
        ]
        self.assertEqual(tried, [400] * 5 + [429] * 2)
        waiting = self.visit(token, "/phrase", "POST", {"phrase": "blue sky"})
        self.assertEqual(waiting.status_code, 429)
        self.assertIn("Wait", waiting.json()["message"])

    def test_nothing_else_of_the_studio_is_within_reach(self) -> None:
        hidden = self.take_in(name="hidden.png")
        token = self.show()
        for path in (
            f"/api/portraits/{self.one.id}/desk", f"/api/portraits/{hidden.id}/view?x=0&y=0&scale=1&width=9&height=9",
            "/api/wishes", "/api/links", f"/api/portraits/{self.one.id}/pins",
        ):  # fmt: skip
            self.assertEqual(self.visitor.get(path).status_code, 401, path)
        self.assertEqual(self.visit(token, "/2/result/large").status_code, 404)
        self.assertEqual(self.visit(token, "/1/../../x").status_code, 404)
        for side, size in (("edit", "large"), ("result", "huge")):
            self.assertEqual(self.visit(token, f"/1/{side}/{size}").status_code, 422)
        seen = self.visit(token).content.decode()
        for secret in (self.one.id, self.one.sha256, self.one.file_name, "mira"):
            self.assertNotIn(secret, seen)
        # A session of the studio isn't needed, and none is made.
        self.assertNotIn(settings.SESSION_COOKIE_NAME, self.visitor.cookies)

    def test_links_belong_to_who_made_them(self) -> None:
        self.show()
        self.client.force_login(self.other)
        self.assertEqual(self.send("GET", "/links").json(), [])
        for method, path in (("GET", ""), ("DELETE", ""), ("POST", "/show"), ("POST", "/token")):
            self.assertEqual(self.send(method, f"/links/{self.link.pk}{path}").status_code, 404)
        taken = self.send("POST", "/links", {"portraits": [self.one.id]})
        self.assertEqual(taken.status_code, 404)

    def test_a_deleted_portrait_is_no_longer_shown(self) -> None:
        token = self.show([self.one, self.take_in(name="two.png")])
        self.send("DELETE", f"/portraits/{self.one.id}")
        self.assertEqual([p["number"] for p in self.visit(token).json()["pictures"]], [2])
        self.assertEqual(self.visit(token, "/1/result/large").status_code, 404)

    def test_the_page_tells_nobody_its_address(self) -> None:
        page = self.visitor.get("/showing/whatever")
        self.assertEqual(page["Referrer-Policy"], "no-referrer")
        self.assertIn("noindex", page["X-Robots-Tag"])
        self.assertIn("default-src 'self'", page["Content-Security-Policy"])
        self.assertEqual(self.visitor.get("/robots.txt").content, b"User-agent: *\nDisallow: /\n")


class Wishing(Clients):
    def test_pins_follow_their_place_when_it_is_shown_anew(self) -> None:
        token = self.show()
        self.pin(token, x=0.25, y=0.5)
        pin = Pin.objects.get()
        np.testing.assert_allclose((pin.x_px, pin.y_px), (80, 120), atol=0.2)
        self.gesture(self.one.id, 0, op="add_pass", kind="frame")
        self.gesture(
            self.one.id, 1, op="change_pass", id=self.desk(self.one.id)["passes"][0]["id"],
            settings={"mirror": True},
        )  # fmt: skip
        links.show_anew(self.link)
        self.ready()
        told = self.visit(token).json()["pictures"][0]["pins"][0]
        np.testing.assert_allclose((told["x"], told["y"]), (0.75, 0.5), atol=0.002)

    def test_words_are_kept_as_words_and_bad_pins_refused(self) -> None:
        token = self.show()
        markup = '<img src=x onerror="alert(1)"> {{ 7 }}'
        self.assertEqual(self.pin(token, words=markup + "\u202e\x07").json()["words"], markup)
        for wrong in (
            {"x": 1.2},
            {"y": -0.1},
            {"kind": "burn"},
            {"words": "x" * 501},
            {"x": "nan"},
        ):
            self.assertEqual(self.pin(token, **wrong).status_code, 422, wrong)
        silent = self.pin(token, words="  ")
        self.assertEqual((silent.status_code, silent.json()["code"]), (422, "no_words"))
        self.assertEqual(self.pin(token, kind="keep", words="").status_code, 201)
        self.assertEqual(Pin.objects.count(), 2)

    def test_ten_thousand_pins_are_not_taken(self) -> None:
        token = self.show()
        codes = [self.pin(token).status_code for _ in range(visits.MOST_AT_ONCE + 2)]
        self.assertEqual(codes, [201] * visits.MOST_AT_ONCE + [429] * 2)
        Pin.objects.update(created_at=timezone.now() - timedelta(hours=1))
        shown, first = self.link.shown.get(), Pin.objects.first()
        more = visits.MOST_PINS - Pin.objects.count()
        Pin.objects.bulk_create(
            [Pin(shown=shown, kind="keep", x_px=1, y_px=1, u=0, v=0) for _ in range(more)]
        )
        Pin.objects.update(created_at=timezone.now() - timedelta(hours=1))
        self.assertEqual(self.pin(token).json()["code"], "too_many")
        assert first is not None
        self.assertEqual(self.visit(token, f"/pins/{first.pk}", "DELETE").status_code, 204)
        self.assertEqual(self.pin(token).status_code, 201)

    def test_from_looking_to_signing_off(self) -> None:
        two = self.take_in(name="two.png")
        token = self.show([self.one, two])
        self.pin(token)
        self.visit(token, "/1/verdict", "PUT", {"verdict": "change"})
        self.visit(token, "/2/verdict", "PUT", {"verdict": "fine"})
        early = self.visit(token, "/answer", "POST", {"name": "Ada"})
        self.assertEqual((early.status_code, early.json()["code"]), (422, "not_all_fine"))
        self.assertTrue(self.visit(token, "/answer", "POST", {}).json()["answered"])
        told = self.send("GET", f"/links/{self.link.pk}").json()
        self.assertEqual((told["fine"], told["change"], told["open_pins"]), (1, 1, 1))
        wishes = {w["portrait"]: w for w in self.send("GET", "/wishes").json()}
        self.assertEqual(
            (wishes[self.one.id]["fresh"], wishes[self.one.id]["verdict"]), (1, "change")
        )
        self.assertEqual((wishes[two.id]["open"], wishes[two.id]["verdict"]), (0, "fine"))
        # The retoucher sees and fulfils it, and shows it anew: what was said is asked for again.
        self.send("POST", f"/portraits/{self.one.id}/pins/seen")
        pin = self.send("GET", f"/portraits/{self.one.id}/pins").json()[0]
        self.assertFalse(pin["fresh"])
        self.send("PUT", f"/pins/{pin['id']}/done", {"done": True})
        self.send("POST", f"/links/{self.link.pk}/show")
        self.ready()
        seen = self.visit(token).json()
        self.assertEqual(
            (seen["answered"], [p["verdict"] for p in seen["pictures"]]), (False, ["", ""])
        )
        self.assertTrue(seen["pictures"][0]["pins"][0]["done"])
        stays = self.visit(token, f"/pins/{pin['id']}", "DELETE")
        self.assertEqual((stays.status_code, stays.json()["code"]), (409, "done"))
        for n in (1, 2):
            self.visit(token, f"/{n}/verdict", "PUT", {"verdict": "fine"})
        self.assertEqual(
            self.visit(token, "/answer", "POST", {"name": "Ada"}).json()["signed_by"], "Ada"
        )
        for late in (
            self.pin(token),
            self.visit(token, "/1/verdict", "PUT", {"verdict": "change"}),
            self.visit(token, "/answer", "POST", {}),
        ):
            self.assertEqual((late.status_code, late.json()["code"]), (409, "signed_off"))
        self.assertTrue(
            {w["portrait"]: w["signed"] for w in self.send("GET", "/wishes").json()}[two.id]
        )

    def test_a_wish_to_keep_is_kept_on_the_bench_and_can_be_undone(self) -> None:
        ana = self.demo("ana")
        marks = self.send("GET", f"/portraits/{ana.id}/analysis").json()["marks"]
        spot = next(m for m in marks if m["decision"] == "clear")
        token = self.show([ana])
        place = {"x": (spot["x"] + 3) / ana.width, "y": spot["y"] / ana.height}
        self.pin(token, kind="keep", words="", **place)
        other = self.send("POST", f"/portraits/{ana.id}/pins/heed", {"revision": 7})
        self.assertEqual(other.status_code, 409)
        heeded = self.send("POST", f"/portraits/{ana.id}/pins/heed", {"revision": 0}).json()
        self.assertEqual(heeded, {"count": 1, "revision": 1})

        def decision() -> str:
            marks = self.send("GET", f"/portraits/{ana.id}/analysis").json()["marks"]
            return str(next(m for m in marks if m["id"] == spot["id"])["decision"])

        self.assertEqual(decision(), "keep")
        # Once: what is undone on the bench stays undone.
        self.step(ana.id, 1, 0)
        again = self.send("POST", f"/portraits/{ana.id}/pins/heed", {"revision": 2}).json()
        self.assertEqual((again["count"], decision()), (0, "clear"))
