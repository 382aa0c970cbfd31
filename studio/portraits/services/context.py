"""What operations ask about a portrait: sources, the other side of a face, zones, other edits."""

from __future__ import annotations

from functools import partial
from typing import Any

from retouch.edit import Edit, Touch
from retouch.edit.form import from_data
from retouch.face import ALL_SKIN, SKIN_OF_FACE, ZONES, Analysis
from retouch.face.complexion import complexion
from retouch.face.mirror import mirrored_place
from retouch.guidance import avoidance, keep_to_zone, prepare, to_clear, to_keep
from retouch.render import Renderer, propose_source
from studio.errors import Problem
from studio.portraits.models import Portrait, Take
from studio.portraits.services import analysing, desk, finding
from studio.portraits.services.operations import Context

_TITLES = {z.name: z.title for z in ZONES}
# Without a face, sizes in millimetres are taken at this many pixels each.
_UNKNOWN_SCALE = 8.0


def context_of(portrait: Portrait, renderer: Renderer) -> Context:
    """The answers for a portrait, as far as its analysis is in memory already."""
    analysis = analysing.known(portrait)

    def choose(edit: Edit, pass_id: str, touch: Touch) -> list[tuple[int, int]]:
        avoid = avoidance(analysis, edit, touch) if analysis is not None else None
        return propose_source(renderer, edit, pass_id, touch, avoid=avoid)

    def prepared(kind: str, touch: Touch) -> Touch:
        if analysis is None:
            return touch
        if kind == "heal":
            return keep_to_zone(analysis, touch, renderer.pyramid.picture.bounds)
        return prepare(analysis, touch, renderer.pyramid) if kind == "fill" else touch

    return Context(
        choose,
        partial(_mirrored, analysis),
        partial(_elsewhere, portrait),
        partial(group_of, analysis),
        prepared,
        _scale(analysis) if analysis is not None else None,
        partial(_face, analysis, renderer),
        len(analysis.faces) if analysis is not None else 0,
        partial(_kept, analysis),
        partial(_spots, analysis),
    )


def _face(analysis: Analysis | None, renderer: Renderer, face: int) -> dict[str, float]:
    """What passes on a person's skin start with: the scale and the skin's own colour."""
    if analysis is None or not 0 <= face < len(analysis.faces):
        return {}
    scale = round(min(max(analysis.faces[face].scale.px_per_mm, 0.2), 300.0), 2)
    out = {"px_per_mm": scale}
    for what, zones in (("skin", SKIN_OF_FACE), ("lip", ("lip_upper", "lip_lower"))):
        colour = _complexion(analysis, renderer, face, zones)
        out |= {f"{what}_{c}": round(v, 1) for c, v in zip("lab", colour, strict=True)}
    return out


# By analysis and zones; a routine makes several passes from one.
_complexions: dict[tuple[str, int, tuple[str, ...]], tuple[float, float, float]] = {}
_MOST_COMPLEXIONS = 256


def _complexion(
    analysis: Analysis, renderer: Renderer, face: int, zones: tuple[str, ...]
) -> tuple[float, float, float]:
    key = (renderer.pyramid.picture.digest + analysis.key, face, zones)
    if key not in _complexions:
        if len(_complexions) >= _MOST_COMPLEXIONS:
            _complexions.clear()
        _complexions[key] = complexion(analysis, renderer.pyramid, face, zones)
    return _complexions[key]


def _kept(analysis: Analysis | None, edit: Edit) -> list[tuple[float, float, float]]:
    """Marks that are to stay."""
    return to_keep(analysis, edit) if analysis is not None else []


def _spots(
    analysis: Analysis | None, edit: Edit, face: int | None
) -> list[tuple[float, float, float]]:
    """Marks that are to go and aren't healed yet, with brushes that cover their halo."""
    return to_clear(analysis, edit, face) if analysis is not None else []


def _scale(analysis: Analysis | None) -> float:
    """Pixels per millimetre on the largest face."""
    if analysis is None or not analysis.faces:
        return _UNKNOWN_SCALE
    return analysis.faces[0].scale.px_per_mm


def _mirrored(
    analysis: Analysis | None, x: float, y: float
) -> tuple[float, float, float, float] | None:
    if analysis is None:
        return None
    face, _ = analysis.zone_at(x, y)
    return mirrored_place(analysis.faces[face], x, y) if face >= 0 else None


def middle(touch: Touch) -> tuple[float, float]:
    """The middle of a touch's extent."""
    xs, ys = [x for x, _ in touch.path], [y for _, y in touch.path]
    return (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2


def zone_title(analysis: Analysis | None, touch: Touch) -> str:
    """The zone that a touch lies in, in words; empty where no face is known."""
    if analysis is None or not analysis.faces:
        return ""
    face, zone = analysis.zone_at(*middle(touch))
    if zone == "brows" and face >= 0:
        return f"{_side(analysis, face, middle(touch)[0])} brow"
    return _TITLES[zone]


def _side(analysis: Analysis, face: int, x: float) -> str:
    """The person's own side that a place is on."""
    one = analysis.faces[face]
    nearer_right = abs(x - one.right_iris.x) < abs(x - one.left_iris.x)
    return "Right" if nearer_right else "Left"


def group_of(analysis: Analysis | None, touch: Touch) -> str:
    """What belongs into one pass: "skin" is one group, every other zone one of its own."""
    if analysis is None or not analysis.faces:
        return ""
    _, zone = analysis.zone_at(*middle(touch))
    return "skin" if zone in ALL_SKIN else zone_title(analysis, touch)


def _elsewhere(portrait: Portrait, name: str) -> tuple[Edit, float]:
    """The edit of a take of this portrait (``take:ID``) or of another portrait of its owner."""
    if name.startswith("take:"):
        take = take_of(portrait, name.removeprefix("take:"))
        return from_data(take.edit), _scale(analysing.known(portrait))
    other = finding.find(portrait.owner, name)
    return desk.edit_of(other), _scale(analysing.known(other))


def take_of(portrait: Portrait, take_id: str) -> Take:
    """A take of a portrait."""
    found: Any = Take.objects.filter(portrait=portrait, pk=take_id).first()
    if found is None:
        raise Problem(404, "no_such_take", "This take is gone; somebody deleted it.")
    return found  # type: ignore[no-any-return]
