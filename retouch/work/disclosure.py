"""What was done to the people in a picture, in plain words and numbers, for whoever has to tell."""

from __future__ import annotations

from collections import Counter
from dataclasses import asdict, dataclass
from typing import Any, Literal, get_args

from retouch.edit.model import Edit, Pass, Touch
from retouch.face import Analysis
from retouch.face.cover import FaceZones
from retouch.natural.moves import everything_moved
from retouch.natural.texture import readings
from retouch.passes import registry
from retouch.render import Renderer
from retouch.work.marks import cleared_of
from retouch.zone_names import ZONES

Group = Literal[
    "skin cleared", "hair and clothing", "skin evened", "features", "shape", "borrowed", "background", "light and colour"
]  # fmt: skip
_TITLES = {z.name: z.title for z in ZONES}
# Kinds of touches that take something away, and what they are in words (one, several).
_CLEARED = {
    "heal": ("place healed", "places healed"), "clone": ("place copied over", "places copied over"),
    "patch": ("area patched", "areas patched"), "fill": ("area filled", "areas filled"),
    "strands": ("loose strand cleared", "loose strands cleared"),
    "lint": ("thread or speck of lint cleared", "threads and specks of lint cleared"),
    "stain": ("stain cleared", "stains cleared"), "hairs": ("hair laid in", "hairs laid in"),
    "cast_shadow": ("cast shadow lifted", "cast shadows lifted"),
    "lens_light": ("reflection taken off a lens", "reflections taken off lenses"),
    "continued": ("piece of a brace taken off", "pieces of braces taken off"),
    "red_eye": ("red eye corrected", "red eyes corrected"),
    "blend": ("place blended", "places blended"),
}  # fmt: skip
# Those of them that are for one thing only, and where the others are found beside the skin.
_OF: dict[str, Group] = {
    "strands": "hair and clothing", "hairs": "hair and clothing", "lint": "hair and clothing",
    "stain": "hair and clothing", "lens_light": "features", "continued": "features", "red_eye": "features",
}  # fmt: skip
_REST: dict[str, Group] = dict.fromkeys(("hair", "beard", "worn", "clothing"), "hair and clothing")
# What is told of places that were cleared there.
_WHERE: dict[Group, str] = {
    "skin cleared": "", "hair and clothing": " in hair or clothing", "features": "", "background": " in the background",
}  # fmt: skip
# What becomes of a background, in words.
_BEHIND = {
    "blur": "blurred", "darken": "darkened", "recolour": "in another colour", "colour": "replaced by a colour",
    "gradient": "replaced by a gradient", "picture": "replaced by another picture", "transparent": "taken away",
}  # fmt: skip
_PARTS = ("body", "face", "hair", "clothing", "skin", "background", "picture")
_LIMITS = "This helps to tell; it is no legal advice."


@dataclass(frozen=True)
class Line:
    """One thing that was done: its group, a sentence, and its numbers by name."""

    group: Group
    said: str
    numbers: dict[str, float]


@dataclass(frozen=True)
class Rule:
    """A national rule on retouched pictures (from memory): whom it asks, whether it would ask here, why."""

    rule: str
    about: str
    asks: bool
    because: str


@dataclass(frozen=True)
class Disclosure:
    """All of it, with a caption that is offered; ``caption`` is empty where nothing has to be said."""

    lines: tuple[Line, ...]
    rules: tuple[Rule, ...]
    caption: str
    limits: str = _LIMITS

    @property
    def text(self) -> str:
        """In short, as one text."""
        return "; ".join(line.said for line in self.lines) or "Nothing was changed"

    def data(self) -> dict[str, Any]:
        """Plain data, ready for JSON."""
        return {**asdict(self), "text": self.text}


def disclosure(renderer: Renderer, edit: Edit, analysis: Analysis | None) -> Disclosure:
    """What an edit does to the people in a picture; passes that are off count for nothing."""
    acting = [p for p in edit.passes if p.acts and not registry.kind(p.kind).guide]
    zones = FaceZones(analysis, edit, renderer.pyramid) if analysis is not None else None
    lines = [
        *_cleared(acting, edit, analysis), *_evened(renderer, acting, edit, analysis),
        *_features(acting), *_moved(renderer, edit, zones), *_borrowed(acting), *_looks(acting),
    ]  # fmt: skip
    order = {group: n for n, group in enumerate(get_args(Group))}
    lines.sort(key=lambda line: order[line.group])
    rules = _rules(lines)
    caption = "Retouched photograph" if any(r.asks for r in rules) else ""
    return Disclosure(tuple(lines), rules, caption)


def _cleared(acting: list[Pass], edit: Edit, analysis: Analysis | None) -> list[Line]:
    """What was taken away, by where it was: of the skin, of hair and clothing, of what lies behind."""
    counts: dict[Group, Counter[str]] = {group: Counter() for group in _WHERE}
    for one in acting:
        if one.kind in _CLEARED:
            for touch in one.touches:
                if touch.enabled:
                    counts[_group(one.kind, touch, analysis)][one.kind] += 1
    out: list[Line] = []
    for group, where in _WHERE.items():
        for kind, (single, several) in _CLEARED.items():
            count = counts[group][kind]
            if count:
                # What a kind is for says where; of others it is told where it isn't the skin.
                said = f"{count} {single if count == 1 else several}"
                said += where if kind not in _OF else ""
                out.append(Line(group, said, {"count": count}))
        if group == "skin cleared":
            gone = _permanent_gone(edit, analysis)
            if gone:
                many = f"{len(gone)} permanent mark{'s' if len(gone) > 1 else ''} removed"
                said = f"{many}: {', '.join(gone)}"
                out.append(Line(group, said, {"permanent": len(gone)}))
    return out


def _group(kind: str, touch: Touch, analysis: Analysis | None) -> Group:
    """What a touch that clears belongs to: by its kind, or by where it is."""
    own = _OF.get(kind)
    if own is not None or analysis is None or not analysis.faces:
        return own or "skin cleared"
    x, y = (sum(p[k] for p in touch.path) / len(touch.path) for k in (0, 1))
    zone = analysis.zone_at(x, y)[1]
    return "background" if zone == "background" else _REST.get(zone, "skin cleared")


def _permanent_gone(edit: Edit, analysis: Analysis | None) -> list[str]:
    """Marks that belong to the person and are cleared all the same, by kind and zone."""
    if analysis is None:
        return []
    out = []
    for marks in analysis.marks:
        for mark, gone in zip(marks, cleared_of(marks, edit), strict=True):
            if gone and mark.proposal == "keep":
                zone = analysis.zone_at(mark.x, mark.y)[1]
                out.append(f"{mark.kind}, {_TITLES[zone].lower()}")
    return out


def _evened(renderer: Renderer, acting: list[Pass], edit: Edit, analysis: Analysis | None) -> list[Line]:  # fmt: skip
    even = [p for p in acting if registry.kind(p.kind).stage == "even"]
    if not even:
        return []
    titles = ", ".join(dict.fromkeys(registry.kind(p.kind).title.lower() for p in even))
    out = [Line("skin evened", f"skin evened: {titles}", {})]
    for n in range(len(analysis.faces) if analysis is not None else 0):
        assert analysis is not None
        found = readings(renderer, edit, analysis, n)
        if found:
            least = min(found, key=lambda r: r.texture)
            whose = f" of person {n + 1}" if len(analysis.faces) > 1 else ""
            said = f"texture{whose} left: {least.texture:.0f} % at least ({_TITLES[least.zone].lower()})"
            out.append(
                Line("skin evened", said, {"least_texture_percent": round(least.texture, 1)})
            )
    return out


def _features(acting: list[Pass]) -> list[Line]:
    kinds = [
        p for p in acting
        if registry.kind(p.kind).stage == "features" and p.kind not in _CLEARED and p.kind != "borrow"
    ]  # fmt: skip
    return [
        Line("features", f"{p.title.lower()} at {100 * p.share:.0f} %", {"strength_percent": round(100 * p.share, 1)})
        for p in kinds
    ]  # fmt: skip


def _moved(renderer: Renderer, edit: Edit, zones: FaceZones | None) -> list[Line]:
    out = []
    for moved in everything_moved(renderer, edit, zones):
        far = f"{moved.most_px:.1f} px"
        numbers = {"most_px": round(moved.most_px, 1)}
        if moved.most_mm is not None and moved.of_head is not None:
            far = f"{moved.most_mm:.1f} mm, {moved.of_head:.1f} % of the face's height"
            numbers |= {"most_mm": round(moved.most_mm, 1), "of_head_percent": round(moved.of_head, 1)}  # fmt: skip
        what = f" ({'; '.join(moved.what)})" if moved.what else ""
        out.append(Line("shape", f"{moved.where} moved by up to {far}{what}", numbers))
    order = {p: n for n, p in enumerate(_PARTS)}
    return sorted(out, key=lambda line: order.get(line.said.split(",")[0].split(" ")[0], 99))


def _borrowed(acting: list[Pass]) -> list[Line]:
    out = []
    for one in acting:
        if one.kind == "borrow":
            count = sum(t.enabled for t in one.touches)
            own = all(t.elsewhere is not None and not t.elsewhere.picture for t in one.touches)
            said = "from the other side of the face" if own else "from another frame"
            out.append(Line("borrowed", f"{count} part{'s' if count != 1 else ''} borrowed {said}", {"count": count}))  # fmt: skip
    return out


def _looks(acting: list[Pass]) -> list[Line]:
    stages = ("look", "finish")
    kinds = [registry.kind(p.kind) for p in acting]
    behind = [_BEHIND[str(p.settings.get("way", "blur"))] for p in acting if p.kind == "background"]
    titles = dict.fromkeys(
        k.title.lower() for k in kinds
        if k.stage in stages and not k.single and not k.name.startswith("background")
    )  # fmt: skip
    out = [Line("background", f"background {said}", {}) for said in dict.fromkeys(behind)]
    if titles:
        out.append(Line("light and colour", f"light and colour: {', '.join(titles)}", {}))
    return out


def _rules(lines: list[Line]) -> tuple[Rule, ...]:
    """What two national rules would ask about, as remembered: they may have changed."""
    moved = [line for line in lines if line.group == "shape"]
    figure = any(line.said.startswith(("body", "clothing", "skin", "picture")) for line in moved)
    skin = any(line.group in ("skin cleared", "skin evened") for line in lines)
    shaped = [line for line in moved if not line.said.startswith(("hair", "background"))]
    return (
        Rule(
            "France, decree 2017-738 (commercial pictures of models)",
            "the figure made thinner or thicker",
            figure,
            "the body was moved" if figure else "the body's outline was not moved",
        ),
        Rule(
            "Norway, Marketing Act as of 1 July 2022 (advertising)",
            "body shape, size or skin changed",
            bool(shaped) or skin,
            "shape or skin was changed" if shaped or skin else "neither shape nor skin was changed",
        ),
    )
