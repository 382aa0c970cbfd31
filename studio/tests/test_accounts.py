"""Signing in, demo sign-in, CSRF, hosts, settings for production."""

from __future__ import annotations

import io
import json
import os
import subprocess
import sys
import tempfile
from contextlib import ExitStack
from datetime import timedelta
from pathlib import Path

from axes.models import AccessAttempt, AccessFailureLog
from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.hashers import PBKDF2PasswordHasher
from django.test import Client, override_settings
from django.utils import timezone

from studio.accounts import tries
from studio.secret import secret_key
from studio.tests.base import StudioTest

GOOD = {"username": "rosa", "password": "quiet-green-lamp-42"}


class SignIn(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.client.logout()

    def post(self, path: str, body: dict[str, str]) -> object:
        return self.client.post(path, json.dumps(body), content_type="application/json")

    def test_in_and_out(self) -> None:
        self.assertIsNone(self.client.get("/api/session").json()["user"])
        self.assertEqual(self.client.get("/api/portraits").status_code, 401)
        wrong = self.post("/api/session", {"username": "mira", "password": "no"})
        self.assertEqual(wrong.status_code, 400)
        right = {"username": "mira", "password": "a-long-invented-one"}
        self.assertEqual(self.post("/api/session", right).json()["user"], "mira")
        self.assertEqual(self.client.get("/api/portraits").status_code, 200)
        self.assertIsNone(self.client.delete("/api/session").json()["user"])
        self.assertEqual(self.client.get("/api/portraits").status_code, 401)

    def test_wrong_tries_make_one_wait_longer_each_time(self) -> None:
        right = {"username": "mira", "password": "a-long-invented-one"}
        for _ in range(5):
            self.assertEqual(
                self.post("/api/session", {**right, "password": "no"}).status_code, 400
            )
        # The right one, too, and another name from the same address.
        for body in (right, {"username": "somebody", "password": "no"}):
            answer = self.post("/api/session", body)
            self.assertEqual(answer.status_code, 429)
            self.assertIn("Wait 30 seconds", answer.json()["message"])
        # Another name from another address may.
        get_user_model().objects.create_user("nils", password="a-long-invented-one")
        away = Client(REMOTE_ADDR="192.0.2.9")
        nils = json.dumps({**right, "username": "nils"})
        self.assertEqual(
            away.post("/api/session", nils, content_type="application/json").status_code, 200
        )
        # After the wait it may be tried again; a second row of wrong ones takes twice as long.
        for model in (AccessAttempt, AccessFailureLog):
            model.objects.update(attempt_time=timezone.now() - timedelta(seconds=31))
        for _ in range(5):
            self.assertEqual(
                self.post("/api/session", {**right, "password": "no"}).status_code, 400
            )
        self.assertIn("Wait 60 seconds", self.post("/api/session", right).json()["message"])
        for model in (AccessAttempt, AccessFailureLog):
            model.objects.update(attempt_time=timezone.now() - timedelta(seconds=61))
        self.assertEqual(self.post("/api/session", right).status_code, 200)

    def test_the_session_is_another_one_after_signing_in_and_ends_everywhere(self) -> None:
        body = json.dumps({"username": "mira", "password": "a-long-invented-one"})
        windows = [Client(), Client()]
        for window in windows:
            window.get("/api/session")
            before = window.session.session_key
            window.post("/api/session", body, content_type="application/json")
            self.assertNotEqual(window.session.session_key, before)
            self.assertEqual(window.get("/api/portraits").status_code, 200)
        windows[0].delete("/api/session")
        for window in windows:
            self.assertEqual(window.get("/api/portraits").status_code, 401)

    def test_hashing_leaves_threads_to_others(self) -> None:
        """With as many checks as may be at once under way, one more is told to come again."""
        with ExitStack() as under_way:
            for _ in range(3):
                under_way.enter_context(tries.few_at_once())
            answer = self.post("/api/session", {"username": "mira", "password": "x"})
            self.assertEqual((answer.status_code, answer.json()["code"]), (429, "busy"))
        made = tries.QuietHasher().encode("quiet", "salt" * 6, 1000)
        # The same as Django's own, so that older accounts go on.
        self.assertEqual(made, PBKDF2PasswordHasher().encode("quiet", "salt" * 6, 1000))

    def test_sign_up_only_where_it_is_open(self) -> None:
        self.assertEqual(self.post("/api/users", GOOD).status_code, 403)
        with override_settings(SIGN_UP_OPEN=True):
            for bad in ({"username": "rosa", "password": "123"}, {"username": "", "password": "quiet-green-lamp-42"},
                        {"username": "mira", "password": "quiet-green-lamp-42"}):  # fmt: skip
                self.assertEqual(self.post("/api/users", bad).status_code, 400, bad)
            self.assertEqual(self.post("/api/users", GOOD).json()["user"], "rosa")

    def test_writes_need_the_csrf_token(self) -> None:
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.user)
        body = json.dumps(GOOD)
        for method, path in (("POST", "/api/portraits"), ("PATCH", "/api/portraits/x"),
                             ("POST", "/api/session"), ("DELETE", "/api/session"),
                             ("POST", "/api/users")):  # fmt: skip
            with self.assertLogs("django.security.csrf"):
                answer = strict.generic(method, path, data=body, content_type="application/json")
            self.assertEqual(answer.status_code, 403, f"{method} {path}")
        token = strict.get("/api/session").json()["csrf_token"]
        answer = strict.delete("/api/session", headers={"X-CSRFToken": token})
        self.assertEqual(answer.status_code, 200)


class Demo(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        get_user_model().objects.create_user("demo")
        self.client.logout()

    def test_only_with_the_setting_and_only_from_this_machine(self) -> None:
        self.assertIsNone(self.client.get("/api/session").json()["user"])
        with override_settings(DEMO=True):
            away = Client(REMOTE_ADDR="192.0.2.7").get("/api/session").json()
            self.assertIsNone(away["user"])
            self.assertEqual(self.client.get("/api/session").json()["user"], "demo")
            self.assertIsNone(self.client.delete("/api/session").json()["user"])
            self.assertIsNone(self.client.get("/api/session").json()["user"], "stays signed out")


class Safety(StudioTest):
    def test_foreign_host_names_are_refused(self) -> None:
        for host in ("evil.example", "127.0.0.1.evil.example", "192.0.2.1"):
            with self.assertLogs("django.security.DisallowedHost"):
                answer = self.client.get("/api/session", headers={"Host": host})
            self.assertEqual(answer.status_code, 400)
        for host in ("127.0.0.1:8000", "localhost"):
            self.assertEqual(
                self.client.get("/api/session", headers={"Host": host}).status_code, 200
            )

    def test_pages_load_nothing_from_elsewhere(self) -> None:
        answer = self.client.get("/api/session")
        self.assertIn("default-src 'self'", answer["Content-Security-Policy"])
        self.assertEqual(answer["X-Frame-Options"], "DENY")

    def test_secret_key_is_made_once_and_is_private(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            first = secret_key(Path(folder))
            self.assertEqual(secret_key(Path(folder)), first)
            self.assertGreaterEqual(len(first), 64)
            self.assertEqual(os.stat(Path(folder) / "secret-key").st_mode & 0o077, 0)
            # One that was cut off is made anew, and nothing is left beside it.
            for cut in ("", first[:20]):
                (Path(folder) / "secret-key").write_text(cut)
                made = secret_key(Path(folder))
                self.assertGreaterEqual(len(made), 64)
                self.assertNotEqual(made, first)
            self.assertEqual([p.name for p in Path(folder).iterdir()], ["secret-key"])

    def test_production_settings_pass_the_deployment_check(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            environment = {
                **os.environ,
                "MELLOW_GLASS_PRODUCTION": "1",
                "MELLOW_GLASS_DATA": folder,
            }
            done = subprocess.run(
                [sys.executable, "manage.py", "check", "--deploy", "--fail-level", "INFO"],
                cwd=settings.BASE_DIR, env=environment, capture_output=True, text=True, check=False,
            )  # fmt: skip
        self.assertEqual(done.returncode, 0, done.stderr)

    def test_unexpected_errors_are_told_plainly(self) -> None:
        from unittest import mock

        with (
            mock.patch("studio.portraits.services.library.visible", side_effect=RuntimeError("x")),
            self.assertLogs("studio.api", "ERROR"),
        ):
            answer = self.client.get("/api/portraits")
        self.assertEqual(answer.status_code, 500)
        self.assertEqual(answer.json()["code"], "internal")
        self.assertNotIn("RuntimeError", answer.content.decode())

    def test_unknown_addresses(self) -> None:
        self.assertEqual(self.client.get("/api/nothing").status_code, 404)


class Formats(StudioTest):
    def test_published_forms_are_current(self) -> None:
        from studio.portraits.management.commands.write_formats import forms

        for name, text in forms().items():
            path = Path(settings.BASE_DIR) / "docs" / "formats" / name
            self.assertEqual(path.read_text(), text, f"{name}: run ./run formats")

    def test_demo_data_load_once(self) -> None:
        from django.core.management import call_command

        from studio.portraits.models import Portrait

        call_command("load_demo", verbosity=0, stdout=io.StringIO())
        call_command("load_demo", verbosity=0, stdout=io.StringIO())
        self.assertEqual(
            sorted(Portrait.objects.values_list("name", flat=True)),
            [
                "Ana",
                "Ana, flash",
                "Ana, loose strands",
                "Bela",
                "Bela, glasses",
                "Bela, lint",
                "Chi",
                "Dan",
                "Dan, eyes closed",
                "Eli",
                "Hana",
                "Ivo",
                "Kofi",
                "Kofi, raw",
                "Lia",
            ],
        )
