"""The API: every route, sign-in by session with CSRF, errors in plain words."""

from __future__ import annotations

import errno
import json
import logging
from typing import Any

from django.core.exceptions import (
    RequestDataTooBig,
    SuspiciousOperation,
    TooManyFieldsSent,
    TooManyFilesSent,
)
from django.db import DatabaseError
from django.http import Http404, HttpRequest, HttpResponse
from django.http.multipartparser import MultiPartParserError
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.security import django_auth

from retouch.errors import RetouchError
from retouch.forms.words import refused
from retouch.work import Refused
from studio.accounts.api import router as accounts
from studio.accounts.preferences import router as preferences
from studio.clients.api import router as clients
from studio.clients.showing import router as showing
from studio.errors import Problem
from studio.parsing import StrictParser
from studio.portraits.api.deliveries import router as deliveries
from studio.portraits.api.edits import router as edits
from studio.portraits.api.faces import router as faces
from studio.portraits.api.framing import router as framing
from studio.portraits.api.kinds import router as kinds
from studio.portraits.api.library import router as library
from studio.portraits.api.papers import router as papers
from studio.portraits.api.profiles import router as profiles
from studio.portraits.api.takes import router as takes
from studio.portraits.api.views import router as views
from studio.portraits.api.wall import router as wall
from studio.runs.api import router as runs

log = logging.getLogger(__name__)

api = NinjaAPI(
    title="Mellow Glass",
    version="1",
    description="Portraits, their passes and touches, views and deliveries. "
    "Coordinates are in pixels of the original, x right, y down, pixel centres at +0.5.",
    auth=django_auth,
    parser=StrictParser(),
    docs_url=None,
)
api.add_router("", accounts)
for router in (
    preferences,
    library,
    wall,
    edits,
    takes,
    views,
    faces,
    framing,
    deliveries,
    papers,
    profiles,
    kinds,
    runs,
    clients,
):
    api.add_router("", router)
api.add_router("/showing", showing)


def _answer(request: HttpRequest, status: int, body: dict[str, Any]) -> HttpResponse:
    return api.create_response(request, body, status=status)


@api.exception_handler(Problem)
def _problem(request: HttpRequest, error: Problem) -> HttpResponse:
    return _answer(request, error.status, error.body)


# What the core refuses because something isn't there.
_MISSING = (
    "no_such_pass",
    "no_such_touch",
    "no_such_face",
    "no_such_routine",
    "no_such_edit",
)


@api.exception_handler(Refused)
def _refused(request: HttpRequest, error: Refused) -> HttpResponse:
    status = 404 if error.code in _MISSING else 422
    return _answer(request, status, {"code": error.code, "message": str(error)})


@api.exception_handler(RetouchError)
def _retouch(request: HttpRequest, error: RetouchError) -> HttpResponse:
    return _answer(request, 422, {"code": "not_possible", "message": str(error)})


@api.exception_handler(AuthenticationError)
def _sign_in(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return _answer(request, 401, {"code": "sign_in", "message": "Sign in first."})


@api.exception_handler(HttpError)
def _http(request: HttpRequest, error: HttpError) -> HttpResponse:
    # Why a body couldn't be parsed (studio/parsing.py).
    if isinstance(error.__cause__, HttpError):
        error = error.__cause__
    return _answer(request, error.status_code, {"code": "refused", "message": str(error)})


@api.exception_handler(Http404)
def _missing(request: HttpRequest, error: Http404) -> HttpResponse:
    return _answer(request, 404, {"code": "not_found", "message": "There is nothing here."})


@api.exception_handler(SuspiciousOperation)
def _suspicious(request: HttpRequest, error: SuspiciousOperation) -> HttpResponse:
    too_much = isinstance(error, (RequestDataTooBig, TooManyFieldsSent, TooManyFilesSent))
    status, message = (
        (413, "This request holds more than can be sent here at once.")
        if too_much
        else (400, "This request can't be understood.")
    )
    return _answer(request, status, {"code": "refused", "message": message})


@api.exception_handler(MultiPartParserError)
def _multipart(request: HttpRequest, error: MultiPartParserError) -> HttpResponse:
    message = "The file didn't arrive whole. Send it again."
    return _answer(request, 400, {"code": "refused", "message": message})


@api.exception_handler(ValidationError)
def _invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    said = _in_words(request, error)
    if said is not None:
        return _answer(request, 422, {"code": "not_valid", "message": said})
    first = error.errors[0] if error.errors else {}
    where = ".".join(str(p) for p in first.get("loc", ())[1:] if p != "body")
    text = f"{where}: {first.get('msg', 'not valid')}." if where else "The request isn't valid."
    return _answer(request, 422, {"code": "not_valid", "message": text})


def _in_words(request: HttpRequest, error: ValidationError) -> str | None:
    """What is wrong with a JSON body, as the core says it; None for other requests."""
    depth = 2  # "body", and the name of the view's parameter
    found = [{**e, "loc": tuple(e["loc"])[depth:]} for e in error.errors]
    if not found or error.errors[0]["loc"][0] != "body" or not found[0]["loc"]:
        return None
    try:
        data = json.loads(request.body)
        return str(refused(found, data, ""))
    except (ValueError, KeyError, IndexError, TypeError, RecursionError):
        return None


# What the database says where nothing more can be written (SQLite's result codes FULL, IOERR, READONLY).
_NO_ROOM = ("is full", "disk i/o error")


def _no_room(error: Exception) -> str | None:
    """A sentence where the disk is full or can't be written to; None for all other errors."""
    if isinstance(error, OSError):
        if error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
            return (
                "There is no room left on the disk. Nothing was changed; make room and try again."
            )
        if error.errno == errno.EROFS:
            return "The data folder can't be written to now. Nothing was changed."
    if isinstance(error, DatabaseError):
        said = str(error).lower()
        if any(words in said for words in _NO_ROOM):
            return (
                "There is no room left on the disk. Nothing was changed; make room and try again."
            )
        if "readonly database" in said:
            return "The data folder can't be written to now. Nothing was changed."
        if "locked" in said:
            return "The studio is busy writing. Nothing was changed; try again."
    return None


@api.exception_handler(Exception)
def _unexpected(request: HttpRequest, error: Exception) -> HttpResponse:
    words = _no_room(error)
    if words is not None:
        log.error("%s: %s", request.path, error)
        return _answer(request, 507, {"code": "no_room", "message": words})
    log.exception("Unexpected error at %s", request.path)
    message = "Something went wrong on this side. Nothing that was saved is lost; try again."
    return _answer(request, 500, {"code": "internal", "message": message})
