"""What may come in, decided from a request's head alone: before a byte of its body is kept."""

from __future__ import annotations

import json
from collections.abc import Callable
from http.cookies import CookieError, SimpleCookie
from importlib import import_module
from typing import Any

from django.conf import settings
from django.contrib.auth import SESSION_KEY
from waitress.parser import HTTPRequestParser
from waitress.utilities import Error

# What else than photographs comes as a file; all other bodies are JSON.
_PROFILE = ("POST", "/api/profiles")
_PHOTOGRAPH = ("POST", "/api/portraits")
_PROFILE_BYTES = 33_000_000
# Without a sign-in nothing longer is asked for.
STRANGERS_BYTES = 16_384
_LOOPBACK = ("127.0.0.1", "::1")


class Told(Error):
    """A refusal in words, as the API tells them."""

    def __init__(self, code: int, reason: str, name: str, message: str) -> None:
        super().__init__(message)
        self.code, self.reason, self._name = code, reason, name

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        body = json.dumps({"code": self._name, "message": self.body}).encode()
        return f"{self.code} {self.reason}", [("Content-Type", "application/json")], body


def limit_of(method: str, path: str) -> int:
    """How many bytes the body of a request may have."""
    asked = method, path.split("?", 1)[0].rstrip("/")
    if asked == _PHOTOGRAPH:
        # Some more for what frames the file.
        return int(settings.UPLOAD_BYTES) + 100_000
    if asked == _PROFILE:
        return _PROFILE_BYTES
    return int(settings.DATA_UPLOAD_MAX_MEMORY_SIZE)


def with_files(method: str, path: str, query: str) -> bool:
    """Whether a request brings or fetches a file, or waits for one: that takes long."""
    file = "/deliveries" in path or "/api/showing/" in path or "wait=" in query
    return file or (method, path.rstrip("/")) == _PHOTOGRAPH


def too_large(most: int) -> Told:
    size = f"{most // 1_000_000} MB" if most >= 1_000_000 else f"{most // 1000} kB"
    return Told(
        413, "Content Too Large", "too_large", f"This is too large; up to {size} can be sent here."
    )


def signed_in(headers: dict[str, str], address: str) -> bool:
    """Whether a request's cookie names a session of somebody; in the demo, visitors from this machine are."""
    if settings.DEMO and address in _LOOPBACK and "X_FORWARDED_FOR" not in headers:
        return True
    try:
        cookie = SimpleCookie(headers.get("COOKIE", "")).get(settings.SESSION_COOKIE_NAME)
    except CookieError:
        return False
    if cookie is None:
        return False
    store: Any = import_module(settings.SESSION_ENGINE).SessionStore(cookie.value)
    return bool(store.get(SESSION_KEY))


class Parser(HTTPRequestParser):
    """A request as it arrives; refused as soon as its head says that it can't be taken."""

    error: Any

    def __init__(
        self, adj: Any, address: str = "", known: Callable[[dict[str, str], str], bool] = signed_in
    ) -> None:
        super().__init__(adj)
        self._address, self._known = address, known
        self._most = 0

    def received(self, data: bytes) -> int:
        fresh = not self.headers_finished
        consumed = super().received(data)
        if self.error is None and self.headers_finished and not self.empty:
            if fresh:
                self._most = self._allowed()
            if max(self.content_length, self.body_bytes_received) > self._most:
                strange = self._most == STRANGERS_BYTES
                self.error = _SIGN_IN if strange else too_large(self._most)
                self.completed = True
        return int(consumed)

    def _allowed(self) -> int:
        most = limit_of(self.command, self.path)
        long = self.chunked or self.content_length > STRANGERS_BYTES
        if long and not self._known(self.headers, self._address):
            return STRANGERS_BYTES
        return most


_SIGN_IN = Told(401, "Unauthorized", "sign_in", "Sign in first.")
