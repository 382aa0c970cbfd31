"""Sheets: what was done to a portrait, before and after, many on one sheet."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from ninja import Query, Router, Schema
from pydantic import Field

from retouch.geometry import Rect
from studio.errors import Problem
from studio.portraits.api.edit_schemas import Strict
from studio.portraits.api.schemas import DisclosureOut, Key, Message
from studio.portraits.services import delivering, library, papers

router = Router(tags=["papers"])

_PDF: dict[str, Any] = {"responses": {200: {"content": {"application/pdf": {}}}}}


class ContactIn(Strict):
    """Portraits on one sheet, in this order."""

    ids: Annotated[list[Key], Field(min_length=1, max_length=papers.MOST_ON_SHEET)]
    title: Annotated[str, Field(min_length=1, max_length=120)] = "Portraits"


def _file(data: bytes, kind: str, name: str, portrait: str = "") -> HttpResponse:
    out = HttpResponse(data, content_type=kind)
    ending = {"application/pdf": "pdf", "image/jpeg": "jpg"}[kind]
    told = delivering.named("{portrait}, " + name, portrait, "") if portrait else name
    out.headers["Content-Disposition"] = str(content_disposition_header(True, f"{told}.{ending}"))
    out.headers["Cache-Control"] = "no-store"
    return out


class SaidOut(Schema):
    """A piece of what a file says of its picture: what it is called, and its text."""

    title: str
    text: str


@router.get(
    "/portraits/{portrait_id}/said",
    response={200: list[SaidOut], 404: Message},
    operation_id="read_said",
)
def read_said(request: HttpRequest, portrait_id: str) -> list[SaidOut]:
    """What the portrait's own file says of it in words (XMP, IPTC); files made of it say so, too."""
    found = papers.described(library.find(request.user, portrait_id))
    return [SaidOut(title=t, text=x) for t, x in (found.words() if found else [])]


@router.get(
    "/portraits/{portrait_id}/disclosure",
    response={200: DisclosureOut, 404: Message},
    operation_id="read_disclosure",
)
def read_disclosure(request: HttpRequest, portrait_id: str) -> dict[str, object]:
    """What is done to the people in the portrait as it stands, in words and numbers."""
    return papers.told(library.find(request.user, portrait_id)).data()


@router.get(
    "/portraits/{portrait_id}/disclosure.pdf",
    operation_id="get_disclosure_sheet",
    openapi_extra=_PDF,
)
def get_disclosure_sheet(request: HttpRequest, portrait_id: str) -> HttpResponse:
    """The same as a sheet."""
    portrait = library.find(request.user, portrait_id)
    return _file(papers.told_sheet(portrait), "application/pdf", "what was done", portrait.name)


@router.get(
    "/portraits/{portrait_id}/natural.pdf", operation_id="get_natural_sheet", openapi_extra=_PDF
)
def get_natural_sheet(request: HttpRequest, portrait_id: str) -> HttpResponse:
    """The natural check as a sheet."""
    portrait = library.find(request.user, portrait_id)
    return _file(papers.checked_page(portrait), "application/pdf", "natural check", portrait.name)


@router.get(
    "/portraits/{portrait_id}/natural.json",
    response={200: dict[str, Any], 404: Message, 422: Message},
    operation_id="get_natural_data",
)
def get_natural_data(request: HttpRequest, portrait_id: str) -> dict[str, object]:
    """The natural check and what was done, as one JSON object."""
    return papers.checked_data(library.find(request.user, portrait_id))


@router.get("/portraits/{portrait_id}/compared", operation_id="get_compared", openapi_extra=_PDF)
def get_compared(
    request: HttpRequest,
    portrait_id: str,
    form: Literal["beside", "halves"] = "beside",
    file: Literal["jpeg", "pdf"] = "pdf",
    details: Annotated[str, Query(max_length=2000)] = "",
) -> HttpResponse:
    """Before and after on a sheet; ``details``: places of the framed picture as x,y,width,height, several
    divided by semicolons, shown at 1:1.
    """
    portrait = library.find(request.user, portrait_id)
    data = papers.compared(portrait, form, file, _places(details))
    kind = "image/jpeg" if file == "jpeg" else "application/pdf"
    return _file(data, kind, "before and after", portrait.name)


def _places(text: str) -> list[Rect]:
    out = []
    for one in filter(None, text.split(";")):
        try:
            x, y, width, height = (int(v) for v in one.split(","))
        except ValueError:
            raise Problem(
                422, "bad_details", "A detail is four whole numbers: x,y,width,height."
            ) from None
        if not (0 < width <= papers.MOST_DETAIL_PX and 0 < height <= papers.MOST_DETAIL_PX):
            raise Problem(
                422,
                "bad_details",
                f"A detail is 1 to {papers.MOST_DETAIL_PX} pixels wide and high.",
            )
        out.append(Rect(x, y, x + width, y + height))
    if len(out) > papers.MOST_DETAILS:
        raise Problem(422, "bad_details", f"A sheet holds {papers.MOST_DETAILS} details.")
    return out


@router.post("/contact-sheet", operation_id="make_contact_sheet", openapi_extra=_PDF)
def make_contact_sheet(request: HttpRequest, body: ContactIn) -> HttpResponse:
    """Portraits with their names on a PDF, four in a row."""
    return _file(
        papers.contact(request.user, body.title, body.ids), "application/pdf", "contact sheet"
    )
