"""The natural check against known damage at two strengths, and against careful retouches, per person."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.colour.lab import from_lab, to_lab
from retouch.edit import Edit
from retouch.face.analysis import Analysis
from retouch.geometry import Rect
from retouch.natural import shades
from retouch.natural.check import of_codes, one_of
from retouch.natural.finding import Finding
from retouch.natural.pairs import pair_of_images
from retouch.natural.shaped import MOVES
from retouch.picture import Pyramid, read
from retouch.work.bench import Bench, bench_for
from retouch.work.marks import decided
from retouch.work.natural_check import check_of_images, one_reading, whole_check
from retouch.work.operations import AddPass, AddTouches, ApplyRoutine, NewTouch, perform
from retouch.zone_names import SKIN_OF_FACE

Array = NDArray[np.float32]
PEOPLE = ("ana", "bela", "chi", "dan", "eli", "hana", "ivo", "kofi", "lia")


@dataclass(frozen=True)
class Person:
    """An original and what is known of it."""

    name: str
    image: Array
    analysis: Analysis

    def mask(self, *zones: str, soft: float = 2.0) -> Array:
        """Zones with a soft edge, (h, w, 1)."""
        h, w = self.image.shape[:2]
        cover = self.analysis.mask(zones, self.bounds, (h, w), 0)
        return np.asarray(cv2.GaussianBlur(cover, (0, 0), soft)[..., None], np.float32)

    @property
    def bounds(self) -> Rect:
        return Rect(0, 0, self.image.shape[1], self.image.shape[0])

    @property
    def mm(self) -> float:
        return self.analysis.faces[0].scale.px_per_mm


@cache
def person(name: str) -> Person:
    picture = read(DEMO / "portraits" / f"{name}.jpg")
    return Person(
        name,
        np.asarray(picture.pixels.astype(np.float32) / 255, np.float32),
        understand(name).analysis,
    )


def _in_lab(image: Array, change: Callable[[Array], Array], cover: Array) -> Array:
    lab = to_lab(image)
    made = np.clip(from_lab(change(lab)), 0, 1)
    return np.asarray(image + (made - image) * cover, np.float32)


def _c(lab: list[float]) -> Array:
    return np.array(lab, np.float32)


def _saved(image: Array) -> Array:
    """As an 8-bit file holds it."""
    return np.asarray(np.round(np.clip(image, 0, 1) * 255) / 255, np.float32)


def blurred(p: Person, much: float) -> Array:
    soft = cv2.GaussianBlur(p.image, (0, 0), max(much * p.mm, 0.05))
    return p.image + (soft - p.image) * p.mask(*SKIN_OF_FACE)


def tinted(p: Person, much: float) -> Array:
    return _in_lab(
        p.image, lambda lab: lab + _c([0, 0.4 * much, much]), p.mask("skin", *SKIN_OF_FACE)
    )


def greyed(p: Person, much: float) -> Array:
    return _in_lab(p.image, lambda lab: lab * _c([1, 1 - much, 1 - much]), p.mask(*SKIN_OF_FACE))


def masked(p: Person, much: float) -> Array:
    """The face alone in another colour than the neck."""
    return _in_lab(
        p.image, lambda lab: lab + _c([0.6 * much, 0, -0.5 * much]), p.mask(*SKIN_OF_FACE)
    )


def whitened(p: Person, much: float) -> Array:
    return _in_lab(p.image, lambda lab: lab + _c([much, 0, 0]), p.mask("eye_whites", soft=1.0))


def bleached(p: Person, much: float) -> Array:
    return _in_lab(p.image, lambda lab: lab + _c([0.6 * much, 0, -much]), p.mask("teeth", soft=1.0))


def flattened(p: Person, much: float) -> Array:
    cover = p.mask(*SKIN_OF_FACE)
    lab = to_lab(p.image)
    sigma = 5 * p.mm
    weight = cv2.GaussianBlur(cover[..., 0], (0, 0), sigma) + 1e-3
    broad = cv2.GaussianBlur(lab[..., 0] * cover[..., 0], (0, 0), sigma) / weight
    lab[..., 0] += much * (np.median(broad[cover[..., 0] > 0.8]) - broad)
    return p.image + (np.clip(from_lab(lab), 0, 1).astype(np.float32) - p.image) * cover


def lit_below(p: Person, much: float) -> Array:
    return _in_lab(
        p.image,
        lambda lab: lab + _c([much, 0, 0]),
        p.mask("under_eye_right", "under_eye_left", soft=3.0),
    )


def cloned(p: Person, much: float) -> Array:
    """A disc of skin copied onto the places around it."""
    out = p.image.copy()
    radius = max(1, int(much * p.mm))
    cover = p.analysis.mask(SKIN_OF_FACE, p.bounds, p.image.shape[:2], 0) > 0.8
    away = cv2.distanceTransform(cover.astype(np.uint8), cv2.DIST_L2, 5)
    y, x = np.unravel_index(int(away.argmax()), away.shape)
    disc = np.zeros((2 * radius + 1,) * 2, np.float32)
    cv2.circle(disc, (radius, radius), radius, 1.0, -1)
    disc = cv2.GaussianBlur(disc, (0, 0), max(0.15 * radius, 0.5))[..., None]
    area = p.image[y - radius : y + radius + 1, x - radius : x + radius + 1]
    far = int(2.3 * radius) + 2
    for turn in np.linspace(0, 2 * np.pi, 6, endpoint=False):
        ty, tx = int(y + far * np.sin(turn)), int(x + far * np.cos(turn))
        there = np.s_[ty - radius : ty + radius + 1, tx - radius : tx + radius + 1]
        if out[there].shape == area.shape:
            out[there] += (area + (out[there].mean((0, 1)) - area.mean((0, 1))) - out[there]) * disc
    return out


def _spots(p: Person, count: int, radius: float) -> list[tuple[int, int]]:
    """Middles of places on the face's skin that lie clear of its ends and of one another."""
    cover = (p.analysis.mask(SKIN_OF_FACE, p.bounds, p.image.shape[:2], 0) > 0.8).astype(np.uint8)
    out = []
    for _ in range(count):
        away = cv2.distanceTransform(cover, cv2.DIST_L2, 5)
        y, x = np.unravel_index(int(away.argmax()), away.shape)
        if away[y, x] < 2.2 * radius:
            break
        out.append((int(y), int(x)))
        cv2.circle(cover, (int(x), int(y)), int(4.5 * radius), 0, -1)
    return out


def _discs(p: Person, places: list[tuple[int, int]], radius: float, soft: float) -> Array:
    cover = np.zeros(p.image.shape[:2], np.float32)
    for y, x in places:
        cv2.circle(cover, (x, y), max(1, round(radius)), 1.0, -1)
    return np.asarray(cv2.GaussianBlur(cover, (0, 0), max(soft, 0.4))[..., None], np.float32)


def healed(p: Person, much: float) -> Array:
    """Spots taken out, their grain blurred by so many mm."""
    radius = 1.5 * p.mm
    cover = _discs(p, _spots(p, 12, radius), radius, 0.3 * p.mm)
    soft = cv2.GaussianBlur(p.image, (0, 0), max(much * p.mm, 0.05))
    smooth = p.image + (soft - p.image) * cover
    return _in_lab(smooth, lambda lab: lab + _c([5, -2, 0]), cover)


def seamed(p: Person, much: float) -> Array:
    """A piece of skin lightened through a mask, so hard (1) or soft (0)."""
    (y, x), *_ = _spots(p, 1, 4 * p.mm)
    cover = _discs(p, [(y, x)], 8 * p.mm, (1 - much) * 5 * p.mm + 0.6)
    return _in_lab(p.image, lambda lab: lab + _c([9, 0, 0]), cover)


def bright_irises(p: Person, much: float) -> Array:
    return _in_lab(p.image, lambda lab: lab + _c([much, 0, 0]), p.mask("irises", soft=1.0))


def vivid_irises(p: Person, much: float) -> Array:
    return _in_lab(
        p.image,
        lambda lab: lab * _c([1, 1 + much, 1 + much]) + _c([0, 0, 6 * much]),
        p.mask("irises", soft=1.0),
    )


def one_eye(p: Person, much: float) -> Array:
    """The white of one eye alone lighter."""
    middle = p.analysis.faces[0]
    x = (middle.right_iris.x + middle.left_iris.x) / 2
    side = (np.arange(p.image.shape[1]) > x)[None, :, None]
    return _in_lab(
        p.image, lambda lab: lab + _c([much, 0, 0]), p.mask("eye_whites", soft=1.0) * side
    )


def powdered(p: Person, much: float) -> Array:
    """So much of the small light on the skin taken away."""
    cover = p.mask(*SKIN_OF_FACE)
    lab = to_lab(p.image)
    sigma = 6 * p.mm
    weight = cv2.GaussianBlur(cover[..., 0], (0, 0), sigma) + 1e-3
    broad = cv2.GaussianBlur(lab[..., 0] * cover[..., 0], (0, 0), sigma) / weight
    lab[..., 0] -= much * np.maximum(
        cv2.GaussianBlur(lab[..., 0], (0, 0), 0.4 * p.mm) - broad - 2, 0
    )
    return p.image + (np.clip(from_lab(lab), 0, 1).astype(np.float32) - p.image) * cover


def haloed(p: Person, much: float) -> Array:
    soft = cv2.GaussianBlur(p.image, (0, 0), 0.8 * p.mm)
    return p.image + much * (p.image - soft)


def stepped(p: Person, much: float) -> Array:
    return np.asarray(np.round(p.image * much) / much, np.float32)


def lifted(p: Person, much: float) -> Array:
    return p.image * np.float32(1 + much)


# What is done, the reading that has to tell it, and a strength above and one below its limit.
DAMAGE: tuple[tuple[str, Callable[[Person, float], Array], str, float, float], ...] = (
    ("blurred", blurred, "texture", 0.35, 0.04),
    ("tinted", tinted, "shift", 9.0, 1.5),
    ("greyed", greyed, "grey", 0.35, 0.06),
    ("face alone", masked, "apart", 9.0, 1.0),
    ("whitened", whitened, "whites_lifted", 18.0, 3.0),
    ("bleached", bleached, "teeth", 16.0, 2.0),
    ("flattened", flattened, "form", 0.55, 0.1),
    ("under the eyes", lit_below, "under_eyes", 12.0, 1.0),
    ("cloned", cloned, "repeats", 6.0, 0.6),
    ("healed flat", healed, "healed", 0.6, 0.02),
    ("a hard mask", seamed, "seams", 1.0, 0.0),
    ("irises lit", bright_irises, "irises", 20.0, 3.0),
    ("irises coloured", vivid_irises, "irises_richer", 3.0, 0.15),
    ("one eye alone", one_eye, "sides", 13.0, 1.5),
    ("powdered", powdered, "shine", 0.98, 0.15),
    ("haloed", haloed, "halo", 1.2, 0.08),
    ("banded", stepped, "banded", 28.0, 200.0),
    ("clipped", lifted, "clipped", 0.5, 0.01),
)  # fmt: skip


def ambers(findings: tuple[Finding, ...]) -> set[str]:
    """The names of readings beyond their limit."""
    return {f.name for f in findings if f.amber}


def applies(p: Person, name: str) -> bool:
    """Whether a person shows enough of what a reading is about."""
    zones = {
        "whites_lifted": "eye_whites",
        "teeth": "teeth",
        "apart": "neck",
        "repeats": "cheek_right",
        "irises": "irises",
        "irises_richer": "irises",
        "sides": "eye_whites",
    }
    zone = zones.get(name)
    if zone is None:
        return True
    return int((p.analysis.mask((zone,), p.bounds, p.image.shape[:2], 0) > 0.8).sum()) > 2000


# Skin darker than this typology angle (degrees) counts as dark: brown and dark of the six classes.
_DARK = 10.0


def dark(p: Person) -> bool:
    """Whether a person's skin is brown or dark (A. Chardon and others, 1991; see retouch/natural/tones.py)."""
    both = shades.classes(pair_of_images(p.image, p.image, p.analysis, 0))
    return both is not None and both[0].ita < _DARK


def read_of(p: Person, made: Array, name: str) -> list[Finding]:
    """The readings of a name of a damaged picture."""
    after = _saved(made)
    if name in ("clipped", "banded"):
        return [f for f in of_codes(p.image, after) if f.name == name]
    pair = pair_of_images(p.image, after, p.analysis, 0)
    return [f for f in one_of(pair, name) if f.name == name]


def _moved(**settings: float) -> Callable[[Bench, Person], Edit]:
    def make(bench: Bench, p: Person) -> Edit:
        face = p.analysis.faces[0].anchor
        return perform(
            Edit(), AddPass("proportions", settings=dict(settings), face=face), bench
        ).edit

    return make


def _mole_healed(wished: bool) -> Callable[[Bench, Person], Edit]:
    """A mark that is to be kept healed, without a word or because it was wished."""

    def make(bench: Bench, p: Person) -> Edit:
        sure = [d for d in decided(p.analysis, Edit()) if d.face == 0 and d.mark.confidence > 0.5]
        at = np.array([(d.mark.x, d.mark.y) for d in sure])
        away = np.hypot(*(at[:, None] - at[None]).T) + 1e9 * np.eye(len(at))
        # By itself, so that nothing else goes with it.
        kept = [n for n, d in enumerate(sure) if d.decision == "keep"]
        mark = sure[max(kept, key=lambda n: float(away[n].min()))].mark
        heal = NewTouch(((mark.x, mark.y),), values={"radius_px": 1.3 * mark.reach})
        edit = perform(Edit(), AddTouches("heal", (heal,)), bench).edit
        if not wished:
            return edit
        wish = NewTouch(((mark.x, mark.y),), values={"decision": "clear", "radius_px": mark.radius})
        return perform(edit, AddTouches("marks", (wish,)), bench).edit

    return make


def _flat(contrast: float) -> Callable[[Bench, Person], Edit]:
    def make(bench: Bench, p: Person) -> Edit:
        return perform(Edit(), AddPass("light", settings={"contrast": contrast}), bench).edit

    return make


# What an edit does, the reading that tells it, and one beyond and one within its limit.
EDITS = (
    ("chin longer by 8 mm; by 1", "moved", _moved(face_chin=8.0), _moved(face_chin=1.0)),
    ("face and nose at the ends of their widths; 1 %", "stretched", _moved(face_width=10.0, nose_width=8.0), _moved(face_width=1.0)),
    ("a mole healed; because it was wished", "marks_gone", _mole_healed(False), _mole_healed(True)),
    ("contrast -100; -10", "marks_changed", _flat(-100.0), _flat(-10.0)),
)  # fmt: skip


def of_edits() -> list[str]:
    """Readings of moves and marks on every person."""
    lines = [
        "",
        "| done, reading | beyond: told | within: not told | told by |",
        "|---|---|---|---|",
    ]
    for title, name, beyond, within in EDITS:
        told = {True: 0, False: 0}
        missed = []
        for n in PEOPLE:
            p = person(n)
            bench = bench_for(Pyramid(read(DEMO / "portraits" / f"{n}.jpg")), p.analysis)
            for strong, make in ((True, beyond), (False, within)):
                face = None if name in MOVES and name != "stretched" else 0
                found = one_reading(bench.renderer, make(bench, p), p.analysis, name, face)
                if (found is not None and found.amber) == strong:
                    told[strong] += 1
                else:
                    missed.append(f"{n}{'' if strong else ' (within)'}")
        lines.append(
            f"| {title}, *{name}* | {told[True]} of {len(PEOPLE)} | {told[False]} of {len(PEOPLE)} | {', '.join(missed) or 'all'} |"
        )
    return lines


def table() -> str:
    lines = [
        "| damage, reading | above its limit: told | below: not told | told by | values above; below |", "|---|---|---|---|---|",
    ]  # fmt: skip
    tones = {True: [0, 0], False: [0, 0]}
    tone_of = {n: dark(person(n)) for n in PEOPLE}
    for title, make, name, above, below in DAMAGE:
        people = [person(n) for n in PEOPLE if applies(person(n), name)]
        told = {True: 0, False: 0}
        missed: list[str] = []
        values: dict[bool, list[float]] = {True: [], False: []}
        for p in people:
            for strong, much in ((True, above), (False, below)):
                found = read_of(p, make(p, much), name)
                own = [f.value for f in found]
                least = bool(found) and found[0].side == "least"
                values[strong] += [min(own) if least else max(own)] if own else []
                rightly = any(f.amber for f in found) == strong
                tones[tone_of[p.name]][0] += rightly
                tones[tone_of[p.name]][1] += 1
                if rightly:
                    told[strong] += 1
                else:
                    missed.append(f"{p.name}{'' if strong else ' (below)'}")
        spread = "; ".join(f"{min(v):.2g} to {max(v):.2g}" if v else "–" for v in values.values())
        lines.append(
            f"| {title}, *{name}* | {told[True]} of {len(people)} | {told[False]} of {len(people)} "
            f"| {', '.join(missed) or 'all'} | {spread} |"
        )
    lines += ["", "| skin | people | told rightly |", "|---|---|---|"]
    for is_dark, words in ((False, "light and intermediate"), (True, "brown and dark")):
        right, asked = tones[is_dark]
        who = [n for n in PEOPLE if tone_of[n] == is_dark]
        lines.append(
            f"| {words} | {', '.join(who)} | {right} of {asked} ({100 * right / max(asked, 1):.1f} %) |"
        )
    lines += of_edits()
    lines += ["", "| careful: spots gone, all else kept (truth) | amber |", "|---|---|"]
    for n in PEOPLE:
        kept = read(DEMO / "truth" / f"{n}_keep.jpg").pixels.astype(np.float32) / 255
        p = person(n)
        careful = check_of_images(p.image, np.asarray(kept, np.float32), p.analysis, None, None)
        said = ", ".join(f"{f.name} {f.value:.2f}" for f in careful if f.amber) or "none"
        lines.append(f"| {n} | {said} |")
    lines += ["", "| careful: the everyday routine | amber | seconds |", "|---|---|---|"]
    for n in PEOPLE:
        picture = read(DEMO / "portraits" / f"{n}.jpg")
        bench = bench_for(Pyramid(picture), understand(n).analysis)
        for routine in ("everyday", "strong"):
            edit = perform(Edit(), ApplyRoutine(routine), bench).edit
            bench.renderer.plan(edit).view(bench.renderer.bounds, 0)
            start = time.perf_counter()
            checked = whole_check(bench.renderer, edit, bench.analysis)
            said = (
                ", ".join(f"{f.name} {f.words} {f.value:.2f}" for f in checked if f.amber) or "none"
            )
            lines.append(f"| {n}, {routine} | {said} | {time.perf_counter() - start:.1f} |")
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


if __name__ == "__main__":
    table()
