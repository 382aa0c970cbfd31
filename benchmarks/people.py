"""The same people in two framings: are they told to be the same, are their permanent marks matched?

The second framing is the first turned, reduced, in a little perspective, in other light and with noise of its own; so
each truth is known in both. Faces and marks are found anew in each.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.face import Analysis, analyse
from retouch.face.judging import Mark
from retouch.face.people import SAME_MM, form_of, likeness, matched
from retouch.picture import Picture, read

NAMES = ("ana", "bela", "chi", "dan", "eli", "hana", "ivo", "kofi", "lia")
# What stays with a person.
PERMANENT = ("mole", "agespot", "freckle")
# A mark that is found lies so near to the truth, mm.
_FOUND_MM = 1.2


@dataclass(frozen=True)
class Twice:
    """Both analyses of a person, and the map (3, 3) from the first picture to the second."""

    first: Analysis
    second: Analysis
    map: NDArray[np.float64]

    def there(self, places: NDArray[np.floating[Any]]) -> NDArray[np.float64]:
        """Where places (n, 2) of the first picture lie in the second."""
        moved = cv2.perspectiveTransform(np.asarray(places, np.float64)[None], self.map)
        return np.asarray(moved[0], np.float64)


@lru_cache(maxsize=16)
def framings(name: str) -> Twice:
    """A demo person, framed twice."""
    rng = np.random.default_rng(sum(map(ord, name)))
    pixels = np.asarray(read(DEMO / "portraits" / f"{name}.jpg").pixels)
    h, w = pixels.shape[:2]
    size = float(rng.uniform(0.6, 0.8))
    turn = cv2.getRotationMatrix2D((w / 2, h / 2), float(rng.uniform(-9, 9)), size)
    shift = np.array(
        [
            [1, 0, -w * (1 - size) * 0.4],
            [0, 1, -h * (1 - size) * 0.4],
            [*rng.uniform(-4e-5, 4e-5, 2), 1],
        ]
    )
    way = shift @ np.vstack([turn, [0, 0, 1]])
    laid = cv2.warpPerspective(
        pixels, way, (int(w * size * 1.1), int(h * size * 1.1)), flags=cv2.INTER_AREA,
        borderMode=cv2.BORDER_REPLICATE,
    ).astype(np.float64)  # fmt: skip
    lit = (laid / 255) ** 0.92 * 255 * rng.uniform(0.85, 1.08, 3) + rng.normal(0, 2.5, laid.shape)
    second = analyse(Picture(np.clip(lit, 0, 255).astype(np.uint8)))
    return Twice(understand(name).analysis, second, way)


def found_at(marks: tuple[Mark, ...], place: NDArray[np.float64], px_per_mm: float) -> int | None:
    """The number of the mark that was found at a place."""
    if not marks:
        return None
    away = [float(np.hypot(m.x - place[0], m.y - place[1])) for m in marks]
    best = int(np.argmin(away))
    return best if away[best] < _FOUND_MM * px_per_mm else None


def permanent(name: str) -> list[NDArray[np.float64]]:
    """Where the marks of a demo person lie that stay with them."""
    truth = json.loads((DEMO / "truth" / f"{name}.json").read_text())
    return [np.array([b["x"], b["y"]]) for b in truth["blemishes"] if b["kind"] in PERMANENT]


def table() -> str:
    """Each person: how alike both framings and the nearest other person are, and the marks matched."""
    lines = [
        "| the same person in two framings | form apart, mm | nearest other person | permanent marks seen in both | matched rightly | wrongly |",
        "|---|---|---|---|---|---|",
    ]
    totals = np.zeros(3, int)
    forms = {n: form_of(framings(n).first.faces[0]) for n in NAMES}
    for name in NAMES:
        both = framings(name)
        here, there = form_of(both.first.faces[0]), form_of(both.second.faces[0])
        other = min(likeness(there, forms[n]) for n in NAMES if n != name)
        pairs = {
            i: j for i, j, _ in matched(both.first.marks[0], here, both.second.marks[0], there)
        }
        right = wrong = seen = 0
        for place in permanent(name):
            i = found_at(both.first.marks[0], place, here.px_per_mm)
            j = found_at(both.second.marks[0], both.there(place[None])[0], there.px_per_mm)
            if i is None or j is None:
                continue
            seen += 1
            right += pairs.get(i) == j
            wrong += i in pairs and pairs[i] != j
        totals += (seen, right, wrong)
        lines.append(
            f"| {name} | {likeness(here, there):.2f} | {other:.2f} | {seen} | {right} | {wrong} |"
        )
        print(lines[-1], flush=True)
    seen, right, wrong = (int(v) for v in totals)
    lines.append(
        f"| **all** (one person below {SAME_MM} mm, by the marks up to 3) | | | {seen} | recall {right / max(seen, 1):.2f} | "
        f"precision {right / max(right + wrong, 1):.2f} |"
    )
    return "\n".join(lines)
