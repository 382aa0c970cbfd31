"""The API of a user's own keys and brushes."""

from __future__ import annotations

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import AfterValidator, ConfigDict, Field

from retouch.plain import plain
from studio.accounts.models import Preferences
from studio.errors import Problem

router = Router(tags=["account"])

Name = Annotated[str, Field(min_length=1, max_length=40)]
Title = Annotated[str, Field(min_length=1, max_length=60), AfterValidator(plain)]
Text = Annotated[str, Field(max_length=400)]
Keys = Annotated[dict[Name, Annotated[list[Name], Field(max_length=4)]], Field(max_length=200)]


class Brush(Schema):
    """A brush setting saved by name; sizes in millimetres fit every face."""

    model_config = ConfigDict(extra="forbid")

    name: Title
    mode: Annotated[str, Field(max_length=20)]
    radius_mm: Annotated[float, Field(gt=0, le=2000)]
    softness: Annotated[float, Field(ge=0, le=100)]
    opacity: Annotated[float, Field(ge=0, le=100)]
    flow: Annotated[float, Field(ge=1, le=100)]
    edges: Annotated[float, Field(ge=0, le=100)] = 0


class Kept(Schema):
    """Settings of a pass saved by name; what its kind no longer knows is refused when it is used."""

    model_config = ConfigDict(extra="forbid")

    name: Title
    kind: Title
    settings: Annotated[dict[Name, float | bool | Text], Field(max_length=60)]


class CardBody(Schema):
    """Who makes the pictures: written into what is delivered."""

    model_config = ConfigDict(extra="forbid")

    creator: Annotated[str, Field(max_length=200)] = ""
    rights: Annotated[str, Field(max_length=400)] = ""
    email: Annotated[str, Field(max_length=200)] = ""
    website: Annotated[str, Field(max_length=400)] = ""
    title: Annotated[str, Field(max_length=200)] = ""


class Preset(Schema):
    """A way of delivering saved by name; what is delivered is checked when it is used."""

    model_config = ConfigDict(extra="forbid")

    name: Title
    wish: Annotated[dict[Name, float | bool | Text | None], Field(max_length=40)]


class LookStep(Schema):
    """A pass of a look."""

    model_config = ConfigDict(extra="forbid")

    kind: Name
    settings: Annotated[
        dict[Name, float | bool | Text | list[tuple[float, float]]], Field(max_length=60)
    ]
    strength: Annotated[float, Field(ge=0, le=100)]


class KeptLook(Schema):
    """A set of passes saved by name, to be used on other portraits."""

    model_config = ConfigDict(extra="forbid")

    name: Title
    steps: Annotated[list[LookStep], Field(min_length=1, max_length=40)]


Brushes = Annotated[list[Brush], Field(max_length=60)]


class PreferencesBody(Schema):
    """``keys``: actions with keys of the user's own, in place of the usual ones."""

    model_config = ConfigDict(extra="forbid")

    keys: Keys
    brushes: Brushes
    kept: Annotated[list[Kept], Field(max_length=200)] = []
    card: CardBody = CardBody()
    presets: Annotated[list[Preset], Field(max_length=40)] = []
    looks: Annotated[list[KeptLook], Field(max_length=60)] = []


class PreferencesChange(PreferencesBody):
    """What is given replaces what is stored; what is left out stays as it is."""

    keys: Keys = {}
    brushes: Brushes = []


def _user(request: HttpRequest) -> Any:
    return request.user


@router.get("/preferences", response=PreferencesBody, operation_id="get_preferences")
def get_preferences(request: HttpRequest) -> Any:
    """The user's own keys, brushes and settings of passes."""
    found = Preferences.objects.filter(user=_user(request)).first()
    return found or {"keys": {}, "brushes": [], "kept": [], "card": {}, "presets": [], "looks": []}


@router.patch("/preferences", response=PreferencesBody, operation_id="change_preferences")
def change_preferences(request: HttpRequest, body: PreferencesChange) -> Any:
    """Store the parts that are given; a key for two actions, or two of one name, are refused."""
    used = [key for keys in body.keys.values() for key in keys]
    twice = next((key for key in used if used.count(key) > 1), None)
    if twice is not None:
        raise Problem(422, "key_taken", f"The key {twice!r} can't be for two things.")
    for what, ones in (
        ("a brush", body.brushes),
        ("a setting", body.kept),
        ("a preset", body.presets),
        ("a look", body.looks),
    ):
        names = [b.name.casefold() for b in ones]
        if len(set(names)) != len(names):
            raise Problem(422, "name_taken", f"There is {what} with this name already.")
    data = body.model_dump(include=body.model_fields_set)
    found, _ = Preferences.objects.update_or_create(user=_user(request), defaults=data)
    return found
