"""How near a routine brings skin to the truth of the demo portraits, person by person.

Inside the true labels of skin, against the truth in which what is permanent is kept:

* difference: mean CIEDE2000 after both are blurred by a Gaussian of 3 px;
* bands from spots to blotches: root of the mean square of the band's difference in CIELAB;
* fine: root of the energy of what is finer than spots, against that of the truth, in per cent;
* outside: pixels labelled neither skin nor lips that change by more than one step of 255.

The colour difference is scikit-image's, so that the score doesn't rest on our own formula.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray
from skimage.color import deltaE_ciede2000, rgb2lab

from benchmarks.faces import labels, understand
from benchmarks.scoring import DEMO, PEOPLE, load
from retouch.bands.decompose import LIMITS_MM
from retouch.edit import Edit
from retouch.edit.form import from_data
from retouch.face import visible
from retouch.face.complexion import complexion
from retouch.face.cover import FaceZones
from retouch.passes import registry
from retouch.picture import Pyramid, read
from retouch.render import Renderer, propose_source
from retouch.routines import routine

Array = NDArray[np.float32]

BANDS = ("spots", "bumps", "blotches")
_SKIN = 1
_BLUR = 3.0


@dataclass(frozen=True)
class Score:
    """A picture of a person against the truth (see the module)."""

    difference: float
    bands: tuple[float, float, float]
    fine: float
    outside: float


@lru_cache(maxsize=len(PEOPLE))
def _renderer(name: str) -> Renderer:
    analysis = understand(name).analysis
    pyramid = Pyramid(read(DEMO / "portraits" / f"{name}.jpg"))
    return Renderer(pyramid, zones=lambda edit: FaceZones(analysis, edit, pyramid))


def automatic(name: str) -> dict[str, float]:
    """What the studio puts into new passes on skin: scale and colours of the face."""
    analysis, pyramid = understand(name).analysis, _renderer(name).pyramid
    out = {"px_per_mm": analysis.faces[0].scale.px_per_mm}
    for what, zones in (("skin", None), ("lip", ("lip_upper", "lip_lower"))):
        colour = (
            complexion(analysis, pyramid)
            if zones is None
            else complexion(analysis, pyramid, zones=zones)
        )
        out |= {f"{what}_{c}": v for c, v in zip("lab", colour, strict=True)}
    return out


def made(name: str, kind: str, strength: float = 100.0, **settings: object) -> dict[str, object]:
    """A pass as a routine makes it for a person."""
    declared = registry.kind(kind)
    own = automatic(name)
    filled = {s.name: own[s.auto] for s in declared.settings if s.auto in own}
    areas = [{"kind": "zone", "zone": z, "way": "add"} for z in declared.zones]
    return {"id": kind, "kind": kind, "strength": strength, "settings": {**filled, **settings},
            "mask": {"areas": areas}}  # fmt: skip


def healed(name: str) -> Edit:
    """The marks proposed for clearing healed, with brushes that cover their halo."""
    renderer = _renderer(name)
    marks = [m for of in understand(name).analysis.marks for m in visible(list(of), 50)]
    touches: list[dict[str, object]] = [
        {"id": f"t{n}", "path": [[m.x, m.y]], "values": {"radius_px": round(2.5 * m.reach) / 2}}
        for n, m in enumerate(m for m in marks if m.proposal == "clear")
    ]
    done: list[dict[str, object]] = []
    for touch in touches:
        edit = _heals([*done, touch | {"source": [0, 0]}])
        found = propose_source(renderer, _heals(done), "heal", edit.passes[0].touches[-1], 1)
        if found:
            done.append(touch | {"source": list(found[0])})
    return _heals(done)


def _heals(touches: list[dict[str, object]]) -> Edit:
    return from_data({"version": 1, "passes": [{"id": "heal", "kind": "heal", "touches": touches}]})


def everyday(name: str, which: str = "everyday") -> Edit:
    """A routine that ships, on a person."""
    steps = routine(which)
    assert steps is not None
    passes = [made(name, s.kind, s.strength, **s.settings) for s in steps.steps]
    return Edit(healed(name).passes + from_data({"version": 1, "passes": passes}).passes)


def rendered(name: str, edit: Edit) -> Array:
    """The whole picture with an edit."""
    renderer = _renderer(name)
    return renderer.render(edit, renderer.bounds)


def score(name: str, got: Array) -> Score:
    """A picture of a person against the truth."""
    truth, raw = load(name).keep, load(name).raw
    inside = labels(name) == _SKIN
    scale = understand(name).analysis.faces[0].scale.px_per_mm
    ours, theirs = rgb2lab(got).astype(np.float32), rgb2lab(truth).astype(np.float32)
    soft = [cv2.GaussianBlur(a, (0, 0), _BLUR) for a in (ours, theirs)]
    sigmas = [0.5 * mm * scale for mm in LIMITS_MM]
    off = _levels(ours - theirs, sigmas)
    bands = tuple(
        float(np.sqrt(((off[n] - off[n + 1]) ** 2).sum(-1)[inside].mean())) for n in (1, 2, 3)
    )
    fine = [a[..., 0] - cv2.GaussianBlur(a[..., 0], (0, 0), sigmas[1]) for a in (ours, theirs)]
    energies = [float(np.sqrt((f[inside] ** 2).mean())) for f in fine]
    other = ~np.isin(labels(name), (_SKIN, 2))
    changed = np.abs(got - raw).max(-1) > 1 / 255
    return Score(
        float(deltaE_ciede2000(soft[0], soft[1])[inside].mean()),
        bands,  # type: ignore[arg-type]
        100 * energies[0] / energies[1],
        float(changed[other].mean()),
    )


def _levels(lab: Array, sigmas: list[float]) -> list[Array]:
    return [cv2.GaussianBlur(lab, (0, 0), s) for s in sigmas]
