"""What studio tests share: a data folder of their own, people, portraits, calls."""

from __future__ import annotations

import atexit
import io
import shutil
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TransactionTestCase, override_settings

from retouch.colour.depth import to_integers
from retouch.picture import Output, Picture, encode, read_bytes
from retouch.tests.scenes import skin, spot
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk, library

SPOTS = [(60, 60), (150, 90), (250, 180)]

DEMO = Path(__file__).resolve().parents[2] / "demo" / "portraits"

# What was found about the faces of a demo portrait, kept for the tests that come after.
_FOUND = Path(tempfile.mkdtemp())
atexit.register(shutil.rmtree, _FOUND, ignore_errors=True)


def portrait_file(form: str = "png", bits: int = 8) -> bytes:
    """A small invented portrait: skin with three red spots."""
    image = skin(240, 320, slope=0.2)
    for x, y in SPOTS:
        spot(image, x, y, 9)
    return encode(Picture(to_integers(image, bits)), Output(form))  # type: ignore[arg-type]


class DataFolder:
    """Gives each test class a data folder that goes away afterwards. Put it before the TestCase."""

    @classmethod
    def setUpClass(cls) -> None:
        folder = Path(tempfile.mkdtemp())
        settings = override_settings(
            # Fast on purpose; the real hasher takes half a second for every made-up person.
            PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"],
            DATA_DIR=folder,
            ORIGINALS_DIR=folder / "originals",
            CACHE_DIR=folder / "cache",
            ANALYSES_DIR=folder / "analyses",
        )
        settings.enable()
        cls.addClassCleanup(shutil.rmtree, folder, ignore_errors=True)  # type: ignore[attr-defined]
        cls.addClassCleanup(settings.disable)  # type: ignore[attr-defined]
        cls.addClassCleanup(analysing.stop)  # type: ignore[attr-defined]
        super().setUpClass()  # type: ignore[misc]

    def setUp(self) -> None:
        super().setUp()  # type: ignore[misc]
        desk.forget_all()

    def tearDown(self) -> None:
        for one in Portrait.objects.all():
            for file in (settings.ANALYSES_DIR / one.id).glob("*.npz"):
                kept = _FOUND / one.sha256 / file.name
                kept.parent.mkdir(exist_ok=True)
                if not kept.exists():
                    shutil.copy(file, kept)
        super().tearDown()  # type: ignore[misc]

    def demo_of(self, user: Any, name: str, known: bool = True) -> Portrait:
        """A demo portrait; where ``known``, with what an earlier test had found about its faces."""
        path = DEMO / f"{name}.jpg"
        with open(path, "rb") as file:
            one = library.take_in(user, file, path.name, path.stat().st_size)
        if known and (_FOUND / one.sha256).is_dir():
            shutil.copytree(_FOUND / one.sha256, settings.ANALYSES_DIR / one.id)
        return one


class StudioTest(DataFolder, TransactionTestCase):
    """Calls to the API as a signed-in user."""

    def setUp(self) -> None:
        super().setUp()
        users = get_user_model().objects
        self.user = users.create_user("mira", password="a-long-invented-one")
        self.other = users.create_user("noa", password="another-invented-one")
        self.client.force_login(self.user)

    def take_in(
        self, data: bytes | None = None, name: str = "face.png", user: Any = None
    ) -> Portrait:
        data = portrait_file() if data is None else data
        return library.take_in(user or self.user, io.BytesIO(data), name, len(data))

    def demo(self, name: str) -> Portrait:
        """A demo portrait, its faces looked at."""
        one = self.demo_of(self.user, name)
        self.wait_until(lambda: analysing.status(one).state == "done", 120)
        return one

    def upload(self, data: bytes, name: str) -> Any:
        return self.client.post("/api/portraits", {"file": SimpleUploadedFile(name, data)})

    def send(self, method: str, path: str, body: Any = None) -> Any:
        return self.client.generic(
            method, f"/api{path}", data=_json(body), content_type="application/json"
        )

    def gesture(self, portrait_id: str, revision: int, /, **operation: Any) -> Any:
        return self.send(
            "POST",
            f"/portraits/{portrait_id}/gestures",
            {"revision": revision, "operation": operation},
        )

    def heal(self, portrait_id: str, revision: int, x: float, y: float, radius: float = 15) -> Any:
        touch = {"path": [[x, y]], "values": {"radius_px": radius}}
        return self.gesture(portrait_id, revision, op="add_touch", kind="heal", touch=touch)

    def step(self, portrait_id: str, revision: int, to: int) -> Any:
        return self.send(
            "POST", f"/portraits/{portrait_id}/history", {"revision": revision, "to": to}
        )

    def wait_until(self, ready: Callable[[], bool], seconds: float = 30) -> None:
        """Return once a condition holds."""
        end = time.monotonic() + seconds
        while not ready():
            self.assertLess(time.monotonic(), end, "it never came")
            time.sleep(0.02)

    def desk(self, portrait_id: str) -> Any:
        return self.send("GET", f"/portraits/{portrait_id}/desk").json()

    def pixels(self, portrait_id: str, **query: Any) -> np.ndarray:
        view = {"x": 0, "y": 0, "scale": 1, "width": 320, "height": 240, **query}
        response = self.client.get(f"/api/portraits/{portrait_id}/view", view)
        assert response.status_code == 200, response.content
        return read_bytes(response.content).pixels.astype(int)


def _json(body: Any) -> str:
    import json

    return "" if body is None else json.dumps(body)
