"""The kinds of pass there are, with their declared settings."""

from __future__ import annotations

from dataclasses import asdict

from django.http import HttpRequest
from ninja import Router

from retouch.passes import registry
from retouch.passes.settings import Setting
from retouch.routines import ROUTINES
from studio.portraits.api.schemas import KindOut, RoutineOut, SettingOut

router = Router(tags=["kinds"])


def _settings(settings: tuple[Setting, ...]) -> list[SettingOut]:
    return [SettingOut(**asdict(s)) for s in settings]


@router.get("/kinds", response=list[KindOut], operation_id="list_kinds")
def list_kinds(request: HttpRequest) -> list[KindOut]:
    """Every kind of pass, in the order of the stages."""
    return [
        KindOut(
            name=k.name,
            title=k.title,
            meaning=k.meaning,
            stage=k.stage,
            guide=k.guide,
            settings=_settings(k.settings),
            touch_settings=_settings(k.touches.settings) if k.touches else None,
        )
        for k in registry.all_kinds()
    ]


@router.get("/routines", response=list[RoutineOut], operation_id="list_routines")
def list_routines(request: HttpRequest) -> list[RoutineOut]:
    """The routines that ship, the lightest first."""
    return [RoutineOut(name=r.name, title=r.title, meaning=r.meaning) for r in ROUTINES]
