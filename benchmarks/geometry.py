"""The one resampling beside the libraries' own: how sharp it leaves a picture, and how fast it is."""

from __future__ import annotations

import statistics
import time
import warnings
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image
from skimage.transform import warp as skimage_warp

from benchmarks.speed import large_portrait
from retouch.colour.depth import to_integers
from retouch.edit import Edit, Pass
from retouch.face import analyse
from retouch.forms.form import completed
from retouch.geometry import Rect
from retouch.natural.tones import overview, skins
from retouch.picture import Picture, Pyramid, read
from retouch.render import Renderer
from retouch.render.view import grid_of, seen
from retouch.warp.frame import Wish, framed
from retouch.warp.resample import nodes, resampled
from retouch.work.bench import Refused, bench_for
from retouch.work.operations import ProposeLook

Array = NDArray[Any]

_SIDE, _ANGLE = 512, 7.0
_WIDTH, _HEIGHT = 3000, 2000
_DEMO = "demo/portraits"
_EVERYBODY = ("ana", "bela", "chi", "dan", "eli", "hana", "ivo", "kofi", "lia")


def slanted_edge(side: int, degrees: float) -> Array:
    """An ideal edge, its pixels integrated exactly enough: 8 x 8 samples each."""
    fine = 8
    at = (np.arange(side * fine) + 0.5) / fine - side / 2
    a = np.radians(degrees)
    away = at[None] * np.cos(a) + at[:, None] * np.sin(a)
    edge = np.where(away > 0, 0.8, 0.2).reshape(side, fine, side, fine).mean((1, 3))
    return np.repeat(edge[..., None], 3, 2).astype(np.float32)


def response(image: Array, degrees: float, frequency: float) -> float:
    """The contrast left at a frequency (cycles per pixel) across an edge at that angle.

    The slanted-edge method of ISO 12233:2017, annex D: pixels are binned by their distance from the
    edge to quarter pixels, differentiated, and transformed.
    """
    grey = image[64:-64, 64:-64, 1].astype(np.float64)
    n = len(grey)
    at = np.arange(n) + 0.5 - n / 2
    a = np.radians(degrees)
    away = at[None] * np.cos(a) + at[:, None] * np.sin(a)
    bins = np.round(away * 4).astype(int)
    span = 4 * 32
    inside = np.abs(bins) <= span
    index = (bins[inside] + span).ravel()
    profile = np.bincount(index, grey[inside].ravel()) / np.bincount(index)
    line = np.diff(profile) * np.hanning(len(profile) - 1)
    x = (np.arange(len(line)) - len(line) / 2) / 4
    return float(np.abs((line * np.exp(-2j * np.pi * frequency * x)).sum()) / abs(line.sum()))


def _ours(image: Array, angle: float) -> Array:
    warp = framed(Wish(angle=angle, beyond="edge", size=image.shape[1::-1],
                       centre=(image.shape[1] / 2, image.shape[0] / 2)),
                  Rect(0, 0, image.shape[1], image.shape[0])).warp  # fmt: skip
    return resampled(image, (0.0, 0.0), nodes(warp.to_original, (0, 0), image.shape[1::-1], 1.0))


def _cv2(flag: int) -> Callable[[Array, float], Array]:
    def turn(image: Array, angle: float) -> Array:
        h, w = image.shape[:2]
        m = cv2.getRotationMatrix2D((w / 2 - 0.5, h / 2 - 0.5), -angle, 1)
        return cv2.warpAffine(image, m, (w, h), flags=flag, borderMode=cv2.BORDER_REPLICATE)

    return turn


def _pillow(image: Array, angle: float) -> Array:
    if image.dtype == np.uint8:
        return np.asarray(Image.fromarray(image).rotate(-angle, Image.Resampling.BICUBIC))
    planes = [
        np.asarray(Image.fromarray(p).rotate(-angle, Image.Resampling.BICUBIC))
        for p in np.moveaxis(image, -1, 0)
    ]
    return np.stack(planes, -1)


def _skimage(image: Array, angle: float) -> Array:
    h, w = image.shape[:2]
    m = np.vstack([cv2.getRotationMatrix2D((w / 2 - 0.5, h / 2 - 0.5), -angle, 1), [0, 0, 1]])
    return np.asarray(skimage_warp(image, np.linalg.inv(m), order=3, mode="edge"), np.float32)


TURNERS: dict[str, Callable[[Array, float], Array]] = {
    "**Mellow Glass**": _ours,
    "cv2, cubic": _cv2(cv2.INTER_CUBIC),
    "cv2, Lanczos of 8": _cv2(cv2.INTER_LANCZOS4),
    "cv2, linear": _cv2(cv2.INTER_LINEAR),
    "Pillow, bicubic": _pillow,
    "scikit-image, cubic spline": _skimage,
}


def _ms(call: Callable[[], object]) -> float:
    call()
    times = []
    for _ in range(5):
        start = time.perf_counter()
        call()
        times.append(time.perf_counter() - start)
    return 1000 * statistics.median(times)


def sharpness_table() -> str:
    """Contrast left after one turn, and the time it takes."""
    edge = slanted_edge(_SIDE, _ANGLE)
    turn = 3.0
    before = {f: response(edge, _ANGLE, f) for f in (0.125, 0.25, 0.4)}
    rng = np.random.default_rng(1)
    large = rng.integers(0, 255, (_HEIGHT, _WIDTH, 3)).astype(np.uint8)
    lines = [
        "| one turn by 3°: contrast left across a slanted edge (ISO 12233) | at a quarter of Nyquist "
        "| at half | at four fifths | 6 megapixels, 8 bit: ms |",
        "|---|---|---|---|---|",
    ]
    for name, turner in TURNERS.items():
        turned = turner(edge, turn)
        left = [response(turned, _ANGLE + turn, f) / before[f] for f in before]
        took = _ms(lambda t=turner: t(large, turn)) if "scikit" not in name else None  # type: ignore[misc]
        cells = " | ".join(f"{100 * v:.0f} %" for v in left)
        lines.append(f"| {name} | {cells} | {f'{took:.0f}' if took else '–'} |")
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


def proposal_table() -> str:
    """What is proposed for each demo portrait, and the class of everybody's skin before and after."""
    lines = [
        "| proposed light and colour | what | typology angle before | after | class |",
        "|---|---|---|---|---|",
    ]
    for name in _EVERYBODY:
        picture = read(f"{_DEMO}/{name}.jpg")
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            analysis = analyse(picture)
        work = bench_for(Pyramid(picture), analysis)
        try:
            edit = ProposeLook().perform(Edit(), work).edit
        except Refused:
            edit = Edit()
        said = "; ".join(
            ", ".join(f"{n} {v}" for n, v in p.settings.items() if v not in (0.0, 50.0))
            for p in edit.passes
        )
        bounds = work.renderer.bounds
        (was,) = skins(overview(work.renderer, Edit())[0], analysis, bounds)[:1]
        (now,) = skins(overview(work.renderer, edit)[0], analysis, bounds)[:1]
        kept = was.kind if was.kind == now.kind else f"**{was.kind} to {now.kind}**"
        lines.append(f"| {name} | {said or 'nothing'} | {was.ita:.0f}° | {now.ita:.0f}° | {kept} |")
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


def path_table() -> str:
    """A view without a frame, with whole pixels moved, and resampled."""
    own = Renderer(Pyramid(Picture(to_integers(large_portrait(), 8))))
    light = completed(Pass("l", "light", settings={"exposure_ev": 0.3}))

    def edit(**settings: Any) -> Edit:
        frame = completed(Pass("f", "frame", settings=settings))
        return Edit((light, frame)) if settings else Edit((light,))

    cases = {
        "no frame": edit(),
        "cropped": edit(centre_x_px=2000.0, centre_y_px=3000.0, width_px=3000.0, height_px=4000.0),
        "turned by a quarter": edit(turn="90"),
        "straightened by 3°, while something moves": edit(angle_deg=3.0),
        "straightened by 3°, at rest": edit(angle_deg=3.0),
    }
    lines = [
        "| a view of 800 x 650 pixels, 24 megapixels, one pass | fit: ms | 1:1: ms |",
        "|---|---|---|",
    ]
    for name, one in cases.items():
        plan = own.plan(one)
        quick = "moves" in name
        cells = []
        for scale in (0.11, 1.0):
            w, h = (
                (800, 650)
                if scale == 1
                else (int(plan.warp.width * scale), int(plan.warp.height * scale))
            )
            x, y = (900.0, 1500.0) if scale == 1 else (0.0, 0.0)
            grid = grid_of(plan, x, y, scale, w, h)
            cells.append(f"{_ms(lambda p=plan, g=grid, q=quick: seen(p, g, quick=q)):.0f}")  # type: ignore[misc]
        lines.append(f"| {name} | {' | '.join(cells)} |")
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


def table() -> str:
    """All of it."""
    return "\n\n".join([sharpness_table(), path_table(), proposal_table()])
