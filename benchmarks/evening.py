"""How near a routine brings skin to the truth of the demo portraits, person by person.

Inside the true labels of skin, against the truth in which what is permanent is kept:

* difference: mean CIEDE2000 after both are blurred by a Gaussian of 3 px;
* bands from spots to blotches: root of the mean square of the band's difference in CIELAB;
* fine: root of the energy of what is finer than spots, against that of the truth, in per cent;
* outside: pixels labelled neither skin nor lips that change by more than one step of 255;
* lit: mean change of L* against the truth over the half of the face's skin that is lit more.

The colour difference is scikit-image's, so that the score doesn't rest on our own formula.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from skimage.color import deltaE_ciede2000, rgb2lab

from benchmarks.faces import labels, understand
from benchmarks.scoring import DEMO, EVERYONE, load
from benchmarks.speed import large_portrait
from retouch.bands.decompose import LIMITS_MM
from retouch.colour.depth import to_integers
from retouch.edit import Edit
from retouch.face import Analysis, analyse
from retouch.face.analysis import save
from retouch.forms.form import to_data
from retouch.picture import Output, Picture, Pyramid, read, write
from retouch.work import Bench, perform
from retouch.work.bench import bench_for
from retouch.work.operations import ApplyRoutine

Array = NDArray[np.float32]

BANDS = ("spots", "bumps", "blotches")
# Labels of skin, of face and of body; lips may change with it.
_SKIN, _LIPS = (1, 11), 2
_BLUR = 3.0
_LIGHT_MM = 8.0


@dataclass(frozen=True)
class Score:
    """A picture of a person against the truth (see the module)."""

    difference: float
    bands: tuple[float, float, float]
    fine: float
    outside: float
    lit: float


def sitting(picture: Picture, analysis: Analysis) -> Bench:
    """A portrait ready for routines: its renderer and what is known of its faces."""
    return bench_for(Pyramid(picture), analysis)


@lru_cache(maxsize=1)
def of_person(name: str) -> Bench:
    """A demo person's portrait."""
    return sitting(read(DEMO / "portraits" / f"{name}.jpg"), understand(name).analysis)


def everyday(one: Bench, which: str = "everyday") -> Edit:
    """A routine that ships, fitted to a portrait."""
    return perform(Edit(), ApplyRoutine(which), one).edit


def score(name: str, got: Array) -> Score:
    """A picture of a person against the truth."""
    truth, raw = load(name).keep, load(name).raw
    inside = np.isin(labels(name), _SKIN)
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
    other = ~np.isin(labels(name), (*_SKIN, _LIPS))
    changed = np.abs(got - raw).max(-1) > 1 / 255
    return Score(
        float(deltaE_ciede2000(soft[0], soft[1])[inside].mean()),
        bands,  # type: ignore[arg-type]
        100 * energies[0] / energies[1],
        float(changed[other].mean()),
        _lit(ours, theirs, labels(name) == 1, scale),
    )


def _lit(ours: Array, theirs: Array, skin: NDArray[np.bool_], scale: float) -> float:
    """Mean change of L* on the more lit half of the face, told at the scale of the light."""
    sigma = _LIGHT_MM * scale
    on = skin.astype(np.float32)
    level = cv2.GaussianBlur(theirs[..., 0] * on, (0, 0), sigma)
    level /= cv2.GaussianBlur(on, (0, 0), sigma) + 1e-6
    half = skin & (level > np.median(level[skin]))
    return float((ours[..., 0] - theirs[..., 0])[half].mean())


def _levels(lab: Array, sigmas: list[float]) -> list[Array]:
    return [cv2.GaussianBlur(lab, (0, 0), s) for s in sigmas]


def table() -> str:
    """The routine per person, and its time on 24 megapixels."""
    lines = [
        "| everyday routine: as photographed → evened | " + " | ".join(EVERYONE) + " |",
        "|---" * (len(EVERYONE) + 1) + "|",
    ]
    scores, evened, strong = {}, [], []
    for name in EVERYONE:
        one = of_person(name)
        whole = everyday(one)
        result = one.renderer.render(whole, one.renderer.bounds)
        scores[name] = (score(name, load(name).raw), score(name, result))
        # How many spots somebody has says nothing of how well their skin is evened.
        spotless = one.renderer.render(Edit(whole.passes[:1]), one.renderer.bounds)
        much = one.renderer.render(everyday(one, "strong"), one.renderer.bounds)
        strong.append(score(name, much).difference / scores[name][0].difference)
        evened.append(scores[name][1].difference / score(name, spotless).difference)
    rows: list[tuple[str, Any]] = [
        ("mean CIEDE2000 over the skin", lambda s: f"{s.difference:.3f}"),
        *((f"{b}, error in CIELAB", lambda s, n=n: f"{s.bands[n]:.3f}")
          for n, b in enumerate(BANDS)),
        ("fine texture against the truth", lambda s: f"{s.fine:.0f} %"),
        ("changed of what is no skin", lambda s: f"{100 * s.outside:.2f} %"),
        ("lit half against the truth, L*", lambda s: f"{s.lit:+.2f}"),
    ]  # fmt: skip
    for title, text in rows:
        cells = [f"{text(before)} → {text(after)}" for before, after in scores.values()]
        lines.append(f"| {title} | {' | '.join(cells)} |")
    left = [after.difference / before.difference for before, after in scores.values()]
    lines.append("| difference left | " + " | ".join(f"{100 * v:.0f} %" for v in left) + " |")
    lines.append(
        "| of what healed spots leave | " + " | ".join(f"{100 * v:.0f} %" for v in evened) + " |"
    )
    lines.append(
        "| difference left by *Strong* | " + " | ".join(f"{100 * v:.0f} %" for v in strong) + " |"
    )
    seconds, megabytes = _large()
    lines += [
        "",
        "| everyday routine on 24 megapixels | | aim |",
        "|---|---|---|",
        f"| time, heals included, loops loaded | {seconds:.1f} s | 6 s |",
        f"| highest memory | {megabytes:.0f} MB | 2500 MB |",
    ]
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


def _large() -> tuple[float, float]:
    """Seconds and megabytes of the whole routine at full size, in a process of its own."""
    with tempfile.TemporaryDirectory() as name:
        paths = [Path(name) / n for n in ("edit.json", "large.jpg", "faces.npz")]
        write(Picture(to_integers(large_portrait(), 8)), paths[1], Output("jpeg", quality=92))
        picture = read(paths[1])
        analysis = analyse(picture)
        save(analysis, paths[2])
        paths[0].write_text(json.dumps(to_data(everyday(sitting(picture, analysis)))))
        done = subprocess.run(
            [sys.executable, "-m", "benchmarks.routine_large", *map(str, paths)],
            cwd=DEMO.parent, capture_output=True, text=True, check=True,
        )  # fmt: skip
    seconds, megabytes = (float(v) for v in done.stdout.split())
    return seconds, megabytes
