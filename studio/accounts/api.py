"""Signing in and out, and making an account."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib.auth import authenticate, get_user_model, login, logout
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.utils import check_csrf

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
    username: str
    password: str


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
    user = authenticate(request, username=body.username, password=body.password)
    if user is None:
        raise Problem(400, "wrong_credentials", "That name and password don't belong together.")
    login(request, user)
    request.session.pop(SIGNED_OUT, None)
    return _session(request)


@router.delete("/session", response=SessionOut, auth=None, operation_id="sign_out")
def sign_out(request: HttpRequest) -> SessionOut:
    """Sign out."""
    _guard(request)
    logout(request)
    request.session[SIGNED_OUT] = True
    return _session(request)


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
        with transaction.atomic():
            user = model.objects.create_user(username=name, password=body.password)
    except IntegrityError:
        raise Problem(400, "name_taken", "That name is taken; choose another.") from None
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    request.session.pop(SIGNED_OUT, None)
    return _session(request)
