"""Every parameter of the API with values that nobody means: refused in words, never an error of this side."""

from __future__ import annotations

import json
import random
import re
from collections import Counter
from pathlib import Path
from typing import Any
from urllib.parse import quote

from django.conf import settings
from django.test import Client

from retouch.tests.fuzz import changed, seeds
from studio.api import api
from studio.portraits.models import Portrait
from studio.tests.base import StudioTest

# What is put in place of what a query or a path asks for.
TEXTS = (
    "", "nan", "inf", "-inf", "1e-320", "1e308", "1e400", "9" * 5000, "-1", "99", "0", "x", "\x00", "%00",
    "‮", "é" * 3000, "../../etc/passwd", "[]", "{}", "true", "null", "1e-5", "100000",
)  # fmt: skip
# And of what a body holds; lone surrogates and numbers without end come as JSON writes them.
VALUES = (
    "null", "true", '""', '"x"', '"\\ud800"', '"\\u0000"', '"' + "y" * 20_000 + '"', "NaN", "Infinity", "-Infinity",
    "1e-320", "1e308", "1e400", "9" * 400, "-1", "0", "99", "1e9", "0.5", "[]", "{}", "[[]]", '[null]',
    '{"a": 1}', "[" * 200 + "]" * 200, "[" + "1," * 5000 + "1]", '["\\ud800"]', "[[1e400, NaN]]", "[[1, 2]]",
    "[[0,0],[1e9,1e9]]",
)  # fmt: skip
_WRITTEN = "@@here@@"


class Walk(StudioTest):
    """A portrait with a pass, a touch, a take, a session, a delivery and a routine, asked about everything."""

    def setUp(self) -> None:
        super().setUp()
        self.schema = api.get_openapi_schema()
        one = self.take_in()
        self.heal(one.id, 0, 60, 60)
        light = self.gesture(one.id, 1, op="add_pass", kind="light").json()
        bench = self.client.get(f"/api/portraits/{one.id}/desk").json()
        heal = next(p for p in bench["passes"] if p["kind"] == "heal")
        take = self.send("POST", f"/portraits/{one.id}/takes", {"name": "first"}).json()
        session = self.send("POST", "/portrait-sessions", {"name": "s"}).json()
        own = self.send("POST", f"/portraits/{one.id}/learn", {"title": "Own", "note": ""}).json()
        # Refused at the door, as one that was asked for would be; who signs out is gone.
        self.skipped = {"sign_out", "sign_in", "sign_up", "delete_portrait", "upload_portrait", "add_profile", "add_routine"}  # fmt: skip
        self.ids: dict[str, Any] = {
            "portrait_id": one.id, "pass_id": light["pass_id"], "touch_id": heal["touches"][0]["id"],
            "take_id": take["id"], "session_id": session["id"], "name": own["name"],
        }  # fmt: skip
        self.client = Client(raise_request_exception=False)
        self.client.force_login(self.user)
        self.said: list[str] = []

    def ask(self, method: str, path: str, body: str | None = None) -> None:
        kind = "application/json" if body is not None else "application/octet-stream"
        answer = self.client.generic(method, path, (body or "").encode("utf-8", "replace"), content_type=kind)  # fmt: skip
        if answer.status_code >= 500 and answer.status_code != 507:
            self.said.append(f"{answer.status_code} {method} {path[:200]} {(body or '')[:300]}")

    def test_no_value_of_any_parameter_is_an_error_of_this_side(self) -> None:
        with self.assertNoLogs("studio.api", "ERROR"):
            for path, operations in self.schema["paths"].items():
                for method, one in operations.items():
                    if one.get("operationId") not in self.skipped:
                        self.walk(method.upper(), path, one)
        self.assertEqual(self.said, [])

    def walk(self, method: str, path: str, one: dict[str, Any]) -> None:
        parameters = one.get("parameters", [])
        places = [p for p in parameters if p["in"] == "path"]
        queries = [p for p in parameters if p["in"] == "query"]
        usual = {p["name"]: self.sample(p["schema"], p["name"]) for p in queries if p.get("required")}  # fmt: skip

        def address(at: dict[str, Any], query: dict[str, Any]) -> str:
            out = path
            for p in places:
                value = at.get(p["name"], self.ids.get(p["name"], self.sample(p["schema"], "")))
                out = out.replace("{" + p["name"] + "}", quote(str(value), safe=""))
            asked = "&".join(f"{k}={quote(str(v))}" for k, v in query.items())
            return out + (f"?{asked}" if asked else "")

        body = self.body_of(one)
        plain = json.dumps(body) if body is not None else None
        for p in places:
            for text in TEXTS:
                if text not in ("", "../../etc/passwd"):
                    self.ask(method, address({p["name"]: text}, usual), plain)
        for p in queries:
            for text in TEXTS:
                self.ask(method, address({}, {**usual, p["name"]: text}), plain)
        if body is not None:
            for made in self.broken(body):
                self.ask(method, address({}, usual), made)
        if body is None and method in ("POST", "PUT", "PATCH"):
            for raw in ("", "{", "[]", "null", '"x"', "\x00", "[" * 100_000):
                self.ask(method, address({}, usual), raw)

    def body_of(self, one: dict[str, Any]) -> Any:
        content = one.get("requestBody", {}).get("content", {})
        if "application/json" not in content:
            return None
        return self.sample(content["application/json"]["schema"], "")

    def broken(self, body: Any) -> list[str]:
        """The body with each of its parts replaced by each value, and left out."""
        out = ["", "{", "null", "[]", "3", "[" * 100_000, '{"a":' * 5000, "\x00"]
        for way in self.ways(body):
            for value in VALUES:
                text = json.dumps(self.replaced(body, way, _WRITTEN))
                out.append(text.replace(f'"{_WRITTEN}"', value, 1))
        return out

    def ways(self, value: Any, so_far: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
        parts = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()  # fmt: skip
        out = [so_far] if so_far else []
        for key, part in list(parts)[:30]:
            out += self.ways(part, (*so_far, key))
        return out

    def replaced(self, value: Any, way: tuple[Any, ...], by: Any) -> Any:
        if not way:
            return by
        copy = dict(value) if isinstance(value, dict) else list(value)
        copy[way[0]] = self.replaced(copy[way[0]], way[1:], by)
        return copy

    def sample(self, schema: dict[str, Any], name: str, deep: int = 0) -> Any:
        """A value that a schema allows."""
        if name in self.ids:
            return self.ids[name]
        if "$ref" in schema:
            return self.sample(self.schema["components"]["schemas"][schema["$ref"].rsplit("/", 1)[-1]], name, deep)  # fmt: skip
        for many in ("anyOf", "oneOf", "allOf"):
            if many in schema:
                chosen = [s for s in schema[many] if s.get("type") != "null"]
                return self.sample(chosen[0], name, deep)
        if "const" in schema or "enum" in schema:
            return schema.get("const", schema.get("enum", [None])[0])
        kind = schema.get("type")
        if kind == "object":
            own = schema.get("properties", {})
            if deep > 4:
                return {}
            return {k: self.sample(s, k, deep + 1) for k, s in own.items()}
        if kind == "array":
            if "prefixItems" in schema:
                return [self.sample(s, "", deep + 1) for s in schema["prefixItems"]]
            return [self.sample(schema.get("items", {}), "", deep + 1) for _ in range(max(schema.get("minItems", 1), 1))]  # fmt: skip
        if kind in ("number", "integer"):
            low = schema.get("minimum", schema.get("exclusiveMinimum", 1))
            return max(low, 1) if low < 1 <= schema.get("maximum", 1) else low
        return {"boolean": False, "string": "a" if not re.search("id$", name) else "none"}.get(kind)  # fmt: skip


class EachOperation(Walk):
    """Gestures: each operation there is, with each of its fields broken."""

    def test_no_value_of_any_parameter_is_an_error_of_this_side(self) -> None:
        """Left to the others."""

    def test_no_field_of_a_gesture_is_an_error_of_this_side(self) -> None:
        schemas = self.schema["components"]["schemas"]
        operations = schemas["GestureIn"]["properties"]["operation"]["discriminator"]["mapping"]
        portrait = self.ids["portrait_id"]
        self.ids["id"] = self.ids["pass_id"]
        revision = self.client.get(f"/api/portraits/{portrait}/desk").json()["portrait"]["revision"]
        with self.assertNoLogs("studio.api", "ERROR"):
            for ref in operations.values():
                body = {"revision": revision, "operation": self.sample({"$ref": ref}, "")}
                for way in self.ways(body):
                    for value in VALUES:
                        text = json.dumps(self.replaced(body, way, _WRITTEN))
                        self.ask(
                            "POST", f"/api/portraits/{portrait}/gestures", text.replace(f'"{_WRITTEN}"', value, 1)
                        )  # fmt: skip
        self.assertEqual(self.said, [])


class Uploads(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.client = Client(raise_request_exception=False)
        self.client.force_login(self.user)

    def test_broken_files_are_taken_or_refused_in_words(self) -> None:
        rng = random.Random(9)
        whole = [data for name, data in seeds() if name != "raw"]
        said: Counter[int] = Counter()
        with self.assertNoLogs("studio.api", "ERROR"):
            for n in range(120):
                answer = self.upload(changed(whole[n % len(whole)], rng), "a.png")
                said[answer.status_code] += 1
                self.assertTrue(answer.json().get("message") or answer.json().get("id"))
        self.assertEqual(set(said) - {201, 422}, set())
        self.assertGreater(said[422], 20)
        # Of what was refused nothing is kept.
        kept = [p.name for p in Path(settings.ORIGINALS_DIR).iterdir()]
        self.assertEqual(len(kept), Portrait.objects.count())

    def test_broken_multipart_is_refused_in_words(self) -> None:
        head = "multipart/form-data; boundary=x"
        part = b'--x\r\nContent-Disposition: form-data; name="file"; filename="a.png"\r\n\r\nabc'
        field = b'--x\r\nContent-Disposition: form-data; name="f%d"\r\n\r\n1\r\n'
        many = b"".join(field % n for n in range(5000)) + b"--x--\r\n"
        files = b"".join(
            b'--x\r\nContent-Disposition: form-data; name="f%d"; filename="a"\r\n\r\n1\r\n' % n
            for n in range(300)
        )
        with self.assertNoLogs("studio.api", "ERROR"):
            for kind, body in (
                (head, b""), (head, b"abc"), (head, part), (head, part + b"\r\n--x"), (head, many),
                (head, files + b"--x--\r\n"), ("multipart/form-data", part), ("multipart/form-data; boundary=" + "y" * 300, part),
                ("multipart/form-data; boundary=\u00e9", part), (head, part.replace(b"a.png", b"\xff\xfe" * 3000)),
                (head, part.replace(b'"file"', b'"file\0"')), ("application/json", b"[" * 50_000),
            ):  # fmt: skip
                answer = self.client.generic("POST", "/api/portraits", body, content_type=kind)
                self.assertIn(answer.status_code, (400, 413, 422), (kind, body[:60]))
                self.assertTrue(answer.json()["message"])


class Limits(StudioTest):
    def test_every_list_and_text_of_the_api_says_how_long_it_may_be(self) -> None:
        schema = api.get_openapi_schema()
        known = schema["components"]["schemas"]
        seen: set[str] = set()
        endless: list[str] = []

        def walk(one: dict[str, Any], where: str) -> None:
            if "$ref" in one:
                name = one["$ref"].rsplit("/", 1)[-1]
                if name not in seen:
                    seen.add(name)
                    walk(known[name], name)
                return
            for many in ("anyOf", "oneOf", "allOf", "prefixItems"):
                for part in one.get(many, []):
                    walk(part, where)
            kind, keys = one.get("type"), set(one)
            if kind == "array" and "maxItems" not in keys:
                endless.append(f"{where}: list")
            file = one.get("format") == "binary"
            if (
                kind == "string"
                and not file
                and not keys & {"maxLength", "enum", "const", "pattern"}
            ):
                endless.append(f"{where}: text")
            more = one.get("additionalProperties")
            if kind == "object" and isinstance(more, dict):
                if "maxProperties" not in keys:
                    endless.append(f"{where}: object")
                walk(more, where)
            if isinstance(one.get("items"), dict):
                walk(one["items"], f"{where}[]")
            for name, part in one.get("properties", {}).items():
                walk(part, f"{where}.{name}")

        for operations in schema["paths"].values():
            for one in operations.values():
                for parameter in one.get("parameters", []):
                    if parameter["in"] == "query":
                        walk(parameter["schema"], f"{one['operationId']}?{parameter['name']}")
                for content in one.get("requestBody", {}).get("content", {}).values():
                    walk(content["schema"], one["operationId"])
        self.assertGreater(len(seen), 60)
        self.assertEqual(endless, [])

    def test_what_no_text_or_number_can_mean_is_said(self) -> None:
        one = self.take_in()
        for body, words in (
            ('{"name": "\\ud800"}', "characters that can't be stored"),
            ('{"name": "a\\u0000"}', "characters that can't be stored"),
            ('{"name": NaN}', "NaN is no number"), ('{"name": ' + "9" * 500 + "}", "400 digits"),
            ('{"name": ' + "[" * 100_000 + "]" * 100_000 + "}", "nested too deeply"),
            ("{", "isn't valid JSON"),
        ):  # fmt: skip
            answer = self.client.generic(
                "PATCH", f"/api/portraits/{one.id}", body, content_type="application/json"
            )
            self.assertIn(answer.status_code, (400, 422))
            self.assertIn(words, answer.json()["message"])

    def test_views_are_bounded(self) -> None:
        one = self.take_in()
        for wrong, words in (
            ({"scale": 1e-5}, "smaller than 16 pixels"), ({"width": 70_000, "height": 1}, "8192"),
            ({"show": "band", "of": "tone", "px_per_mm": 300, "divide_mm": 20}, "1500 pixels"),
            ({"width": 6000, "height": 6000}, "33 million"), ({"x": 1e9}, "too far"),
        ):  # fmt: skip
            view = {"x": 0, "y": 0, "scale": 1, "width": 20, "height": 20, **wrong}
            answer = self.client.get(f"/api/portraits/{one.id}/view", view)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["message"])
