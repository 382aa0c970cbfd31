"""Signing in and out, and making an account."""

from __future__ import annotations

from importlib import import_module
from typing import Annotated, Any

from axes.handlers.proxy import AxesProxyHandler
from django.conf import settings
from django.contrib.auth import SESSION_KEY, authenticate, get_user_model, login, logout
from django.contrib.auth.password_validation import validate_password
from django.contrib.sessions.models import Session
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.http import HttpRequest
from django.middleware.csrf import get_token
from django.utils import timezone
from ninja import Router, Schema
from ninja.utils import check_csrf
from pydantic import Field

from studio.accounts import tries
from studio.accounts.middleware import SIGNED_OUT
from studio.errors import Problem

router = Router(tags=["account"])


class SessionOut(Schema):
    """Who is signed in, and what this installation offers."""

    user: str | None
    demo: bool
    sign_up_open: bool
    csrf_token: str


class Credentials(Schema):
    """Django's own names have 150 characters at most; a longer password than that isn't hashed."""

    username: Annotated[str, Field(max_length=150)]
    password: Annotated[str, Field(max_length=1000)]


def _guard(request: HttpRequest) -> None:
    """These routes work without a sign-in, so the token has to be asked for here."""
    if check_csrf(request) is not None:
        raise Problem(403, "csrf", "This page is out of date. Load it again.")


def _session(request: HttpRequest) -> SessionOut:
    user: Any = request.user
    return SessionOut(
        user=user.get_username() if user.is_authenticated else None,
        demo=settings.DEMO,
        sign_up_open=settings.SIGN_UP_OPEN,
        csrf_token=get_token(request),
    )


@router.get("/session", response=SessionOut, auth=None, operation_id="get_session")
def get_session(request: HttpRequest) -> SessionOut:
    """Who is signed in."""
    return _session(request)


@router.post("/session", response=SessionOut, auth=None, operation_id="sign_in")
def sign_in(request: HttpRequest, body: Credentials) -> SessionOut:
    """Sign in with a name and a password."""
    _guard(request)
    request.sign_in_name = body.username  # type: ignore[attr-defined]
    if not AxesProxyHandler.is_allowed(request, {"username": body.username}):
        raise Problem(429, "wait", tries.in_words(tries.waiting_time(request)))
    with tries.few_at_once():
        user = authenticate(request, username=body.username, password=body.password)
    if user is None:
        raise Problem(400, "wrong_credentials", "That name and password don't belong together.")
    login(request, user)
    request.session.pop(SIGNED_OUT, None)
    return _session(request)


@router.delete("/session", response=SessionOut, auth=None, operation_id="sign_out")
def sign_out(request: HttpRequest) -> SessionOut:
    """Sign out, in all windows and on all machines."""
    _guard(request)
    if request.user.is_authenticated:
        _end_sessions(request.user.pk)
    logout(request)
    request.session[SIGNED_OUT] = True
    return _session(request)


def _end_sessions(user_id: Any) -> None:
    store: Any = import_module(settings.SESSION_ENGINE).SessionStore
    for session in Session.objects.filter(expire_date__gte=timezone.now()).iterator():
        if session.get_decoded().get(SESSION_KEY) == str(user_id):
            store(session.session_key).delete()


@router.post("/users", response=SessionOut, auth=None, operation_id="sign_up")
def sign_up(request: HttpRequest, body: Credentials) -> SessionOut:
    """Make an account, where the installation allows it, and sign in."""
    _guard(request)
    if not settings.SIGN_UP_OPEN:
        raise Problem(403, "sign_up_closed", "New accounts can't be made here. Ask who runs it.")
    model = get_user_model()
    name = body.username.strip()
    try:
        model._meta.get_field("username").run_validators(name)
        validate_password(body.password, model(username=name))
    except ValidationError as error:
        raise Problem(400, "not_accepted", " ".join(error.messages)) from None
    if not name:
        raise Problem(400, "not_accepted", "Choose a name.")
    try:
        with tries.few_at_once(), transaction.atomic():
            user = model.objects.create_user(username=name, password=body.password)
    except IntegrityError:
        raise Problem(400, "name_taken", "That name is taken; choose another.") from None
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    request.session.pop(SIGNED_OUT, None)
    return _session(request)
