"""Signing in the demo user, and the content security policy."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.contrib.sessions.exceptions import SessionInterrupted
from django.contrib.sessions.middleware import SessionMiddleware
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse, JsonResponse

DEMO_USER = "demo"
SIGNED_OUT = "signed_out"
# Pages of clients, who are nobody here.
CLIENTS = ("/showing/", "/api/showing/")

_Next = Callable[[HttpRequest], HttpResponse]
_LOOPBACK = ("127.0.0.1", "::1")

# Everything ships with the application: nothing may be loaded from elsewhere.
_POLICY = (
    "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; "
    "font-src 'self' data:; object-src 'none'; base-uri 'self'; form-action 'self'; "
    "frame-ancestors 'none'"
)


class DemoSignIn:
    """With the demo setting on, visitors from this machine are the demo user.

    Somebody who signed out, to try the sign-in page, stays signed out.
    """

    def __init__(self, get_response: _Next) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if (
            settings.DEMO
            and not request.user.is_authenticated
            and request.META.get("REMOTE_ADDR") in _LOOPBACK
            and not request.path.startswith(CLIENTS)
            and not request.session.get(SIGNED_OUT)
        ):
            user = get_user_model().objects.filter(username=DEMO_USER, is_active=True).first()
            if user is not None:
                login(request, user, backend="django.contrib.auth.backends.ModelBackend")
        return self.get_response(request)


class ContentSecurity:
    """Adds the content security policy to every answer, and answers to known hosts alone.

    It stands above what serves files, so that they are no exception.
    """

    def __init__(self, get_response: _Next) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.get_host()
        response = self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", _POLICY)
        return response


class Sessions(SessionMiddleware):
    """Django's sessions; one that can't be written (a full disk) is told in words."""

    def process_response(self, request: HttpRequest, response: HttpResponse) -> HttpResponse:
        try:
            return super().process_response(request, response)  # type: ignore[return-value]
        except (SessionInterrupted, DatabaseError):
            message = "There is no room left on the disk, or you were signed out meanwhile. Nothing was changed."
            return JsonResponse({"code": "no_room", "message": message}, status=507)
