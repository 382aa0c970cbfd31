"""The kinds of pass there are, with their declared settings."""

from __future__ import annotations

from dataclasses import asdict
from functools import lru_cache
from typing import Annotated, Literal

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router
from pydantic import TypeAdapter

from retouch.needs import ways_for
from retouch.passes import registry
from retouch.passes.settings import Setting
from retouch.passes.ways import Curve, Develop, Frame, Framed, Guide, Pixels, Shape, Touches
from retouch.work.looks import LOOKS
from studio.portraits.api.schemas import KindOut, LookOut, SettingOut, WayOut

router = Router(tags=["kinds"])

_WAYS: dict[
    type, Literal["touches", "guide", "pixels", "curve", "frame", "develop", "framed", "shape"]
] = {
    Touches: "touches",
    Guide: "guide",
    Pixels: "pixels",
    Curve: "curve",
    Frame: "frame",
    Develop: "develop",
    Framed: "framed",
    Shape: "shape",
}


def _settings(settings: tuple[Setting, ...]) -> list[SettingOut]:
    return [SettingOut(**{**asdict(s), "choices": list(s.choices)}) for s in settings]


@router.get("/kinds", response=list[KindOut], operation_id="list_kinds")
def list_kinds(request: HttpRequest) -> HttpResponse:
    """Every kind of pass, in the order of the stages."""
    return HttpResponse(
        _told(tuple(registry.all_kinds())), content_type="application/json; charset=utf-8"
    )


@lru_cache(maxsize=1)
def _told(kinds: tuple[registry.PassKind, ...]) -> bytes:
    """Put in words once, as every window asks before it shows anything."""
    told = [
        KindOut(
            name=k.name,
            title=k.title,
            meaning=k.meaning,
            stage=k.stage,
            way=_WAYS[type(k.way)],
            guide=k.guide,
            sourced=k.touches is not None and k.touches.propose is not None,
            finds=k.finds,
            reads=k.reads is not None or k.shape,
            meshed=k.meshed,
            by_side=k.by_side,
            fitted=[s.name for s in k.fitted],
            settings=_settings(k.settings),
            touch_settings=_settings(k.touch_settings) if k.holds_touches else None,
        )
        for k in kinds
    ]
    return TypeAdapter(list[KindOut]).dump_json(told)


@router.get("/looks", response=list[LookOut], operation_id="list_looks")
def list_looks(request: HttpRequest) -> list[LookOut]:
    """The ready looks that ship."""
    return [LookOut(name=one.name, title=one.title, meaning=one.meaning) for one in LOOKS]


@router.get("/ways", response=list[WayOut], operation_id="find_ways")
def find_ways(request: HttpRequest, need: Annotated[str, Query(max_length=200)]) -> list[WayOut]:
    """What serves a need that is said in plain words, the best first."""
    return [WayOut(**asdict(w)) for w in ways_for(need)]
