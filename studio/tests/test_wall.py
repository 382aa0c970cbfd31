"""The wall: sessions, pages, stars and flags, many at once, thousands of portraits."""

from __future__ import annotations

from typing import Any

from django.db import connection
from django.test.utils import CaptureQueriesContext

from studio.portraits.models import Portrait
from studio.portraits.services import analysing
from studio.tests.base import StudioTest, portrait_file


class Travelling(StudioTest):
    def test_what_is_decided_on_one_picture_is_known_on_the_sessions_others(self) -> None:
        one, two = self.demo("dan"), self.demo_of(self.user, "dan-blink")
        self.wait_until(lambda: analysing.status(two).state == "done", 120)
        session = self.send("POST", "/portrait-sessions", {"name": "Dan"}).json()["id"]
        self.send("POST", "/wall/arrange", {"ids": [one.id, two.id], "session": session})
        seen = self.client.get(f"/api/portraits/{two.id}/session-marks").json()
        on_both = [s for s in seen if s["seen_on"]]
        self.assertGreater(len(on_both), 20)
        self.assertEqual({(s["of"], s["decision"]) for s in seen}, {(1, "")})
        marks = self.client.get(f"/api/portraits/{one.id}/analysis").json()["marks"]
        touches = [{"path": [[m["x"], m["y"]]], "values": {"decision": "keep", "radius_px": m["radius"]}} for m in marks]  # fmt: skip
        self.gesture(one.id, 0, op="add_touches", kind="marks", touches=touches)
        kept = [s for s in self.client.get(f"/api/portraits/{two.id}/session-marks").json() if s["decision"] == "keep"]  # fmt: skip
        self.assertEqual(len(kept), len(on_both))
        # Who is who can be said by hand.
        told = self.client.get(f"/api/portraits/{two.id}/session-people").json()
        self.assertEqual([(p["id"], p["same"], p["said"]) for p in told], [(one.id, True, None)])
        told = self.send("POST", f"/portraits/{two.id}/session-people", {"portrait": one.id, "same": False}).json()  # fmt: skip
        self.assertEqual([(p["same"], p["said"]) for p in told], [(False, False)])
        self.assertEqual(self.client.get(f"/api/portraits/{two.id}/session-marks").json(), [])
        self.send("POST", f"/portraits/{one.id}/session-people", {"portrait": two.id, "same": None})
        self.assertEqual(
            len(self.client.get(f"/api/portraits/{two.id}/session-marks").json()), len(seen)
        )
        for other in (two.id, "nobody"):
            answer = self.send("POST", f"/portraits/{two.id}/session-people", {"portrait": other, "same": True})  # fmt: skip
            self.assertEqual(answer.status_code, 404)
        # Off by a switch, for nobody else, and without a session nothing is looked at.
        self.send("PATCH", f"/portrait-sessions/{session}", {"travel": False})
        self.assertEqual(self.client.get(f"/api/portraits/{two.id}/session-marks").json(), [])
        self.client.force_login(self.other)
        self.assertEqual(self.client.get(f"/api/portraits/{two.id}/session-marks").status_code, 404)


class Wall(StudioTest):
    def session(self, name: str = "Monday") -> str:
        answer = self.send("POST", "/portrait-sessions", {"name": name})
        self.assertEqual(answer.status_code, 201, answer.content)
        return str(answer.json()["id"])

    def wall(self, **query: Any) -> list[str]:
        answer = self.client.get("/api/wall", query)
        self.assertEqual(answer.status_code, 200, answer.content)
        return [p["name"] for p in answer.json()["portraits"]]

    def test_portraits_are_put_into_sessions_starred_flagged_and_found(self) -> None:
        one, two, three = (self.take_in(name=f"{n}.png") for n in ("Ana", "Bela", "Chi"))
        monday = self.session()
        body = {"ids": [one.id, two.id], "session": monday, "flag": "again"}
        self.assertEqual(self.send("POST", "/wall/arrange", body).json(), {"count": 2})
        self.send("POST", "/wall/arrange", {"ids": [two.id], "star": True})
        self.assertEqual(sorted(self.wall(session=monday)), ["Ana", "Bela"])
        self.assertEqual(self.wall(session="none"), ["Chi"])
        self.assertEqual(self.wall(starred=True), ["Bela"])
        self.assertEqual(self.wall(flag="again", sort="name"), ["Ana", "Bela"])
        self.assertEqual(self.wall(flag=""), ["Chi"])
        self.assertEqual(self.wall(search="h"), ["Chi"])
        self.assertEqual(self.wall(sort="added")[0], "Chi")
        listed = self.client.get("/api/portrait-sessions").json()
        self.assertEqual([(s["name"], s["count"]) for s in listed], [("Monday", 2)])
        renamed = self.send(
            "PATCH", f"/portrait-sessions/{monday}", {"name": "Tuesday", "travel": False}
        ).json()
        self.assertEqual(
            (renamed["name"], renamed["travel"], renamed["count"]), ("Tuesday", False, 2)
        )
        answer = self.client.post(f"/api/portraits?session={monday}", {"file": self.file()})
        self.assertEqual(answer.json()["session"], monday)
        # A session that goes leaves its portraits.
        self.assertEqual(self.send("DELETE", f"/portrait-sessions/{monday}").status_code, 204)
        self.assertEqual(len(self.wall(session="none")), 4)
        three.refresh_from_db()

    def file(self) -> Any:
        from django.core.files.uploadedfile import SimpleUploadedFile

        return SimpleUploadedFile("new.png", portrait_file())

    def test_nothing_of_another_user_is_touched(self) -> None:
        theirs = self.take_in(user=self.other)
        monday = self.session()
        self.assertEqual(
            self.send("POST", "/wall/arrange", {"ids": [theirs.id], "star": True}).json(),
            {"count": 0},
        )
        self.client.force_login(self.other)
        for method, path, body in (
            ("PATCH", f"/portrait-sessions/{monday}", {"name": "x"}), ("DELETE", f"/portrait-sessions/{monday}", None),
            ("POST", "/wall/arrange", {"ids": [theirs.id], "session": monday}), ("GET", f"/wall?session={monday}", None),
        ):  # fmt: skip
            self.assertEqual(self.send(method, path, body).status_code, 404, path)
        answer = self.client.post(f"/api/portraits?session={monday}", {"file": self.file()})
        self.assertEqual(answer.status_code, 404)
        theirs.refresh_from_db()
        self.assertFalse(theirs.star)

    def test_what_cannot_be_meant_is_refused(self) -> None:
        for name in ("", "  ", "x" * 121):
            self.assertEqual(
                self.send("POST", "/portrait-sessions", {"name": name}).status_code, 422
            )
        for body in ({"ids": []}, {"ids": ["a"], "flag": "red"}, {"ids": ["a"], "colour": 1}):
            self.assertEqual(self.send("POST", "/wall/arrange", body).status_code, 422)
        self.assertEqual(self.client.get("/api/wall?sort=size").status_code, 422)

    def test_five_thousand_portraits_are_paged_with_a_few_queries(self) -> None:
        Portrait.objects.bulk_create(
            [Portrait(owner=self.user, name=f"P{n:05}", file_name="o.png", sha256="0" * 64, size_bytes=1, width=9,
                      height=9, bits=8, format="png", profile="sRGB") for n in range(5000)], batch_size=500,
        )  # fmt: skip
        with CaptureQueriesContext(
            connection,
        ) as queries:
            answer = self.client.get("/api/wall?sort=name&start=4960&count=60").json()
        self.assertEqual((answer["count"], len(answer["portraits"])), (5000, 40))
        self.assertEqual(answer["portraits"][-1]["name"], "P04999")
        self.assertLess(len(queries), 8)
