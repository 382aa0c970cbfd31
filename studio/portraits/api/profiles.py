"""Colour profiles: what there is to choose from, a user's own ones."""

from __future__ import annotations

from typing import Literal

from django.http import HttpRequest
from ninja import File, Router, Schema, Status
from ninja.files import UploadedFile

from studio.errors import Problem
from studio.portraits.api.schemas import Message
from studio.portraits.services import profiles

router = Router(tags=["profiles"])


class ProfileOut(Schema):
    """A colour profile; pictures are delivered in those of RGB, the others are for looking at."""

    id: str
    title: str
    space: Literal["RGB", "CMYK", "GRAY"]
    own: bool


@router.get("/profiles", response=list[ProfileOut], operation_id="list_profiles")
def list_profiles(request: HttpRequest) -> list[profiles.Known]:
    """Those that ship, then the user's own."""
    return profiles.known(request.user)


@router.post("/profiles", response={201: ProfileOut, 422: Message}, operation_id="add_profile")
def add_profile(request: HttpRequest, file: File[UploadedFile]) -> Status[profiles.Known]:
    """Keep an ICC profile."""
    if (file.size or 0) > profiles.MOST_BYTES:
        most = profiles.MOST_BYTES // 1_000_000
        raise Problem(422, "too_large", f"A colour profile has {most} MB at most.")
    return Status(201, profiles.add(request.user, file.read()))


@router.delete(
    "/profiles/{profile_id}", response={204: None, 404: Message}, operation_id="delete_profile"
)
def delete_profile(request: HttpRequest, profile_id: str) -> Status[None]:
    """Forget a profile of one's own."""
    profiles.delete(request.user, profile_id)
    return Status(204, None)
