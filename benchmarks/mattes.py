"""Mattes beside truth: hair of known alpha on other backgrounds, and the outlines of the demo people.

Hair's alpha is known where a person of the demo is laid over other backgrounds: the picture is made from the
person's own colours, an alpha with hairs, and photographs behind. Outlines of the demo people are compared with their
labels, which say for each pixel whether most of it is the person; both are blurred a little for it.

The libraries get the same rough outline: OpenCV's guided filter (K. He, J. Sun, X. Tang, PAMI 2013), which many tools
end their masks with, and PyMatting's closed-form matting (T. Germer et al., JOSS 5, 2020) with colours by its
multi-level estimate, on the same unknown pixels of the same reduced picture, enlarged.
"""

from __future__ import annotations

import cv2
import numpy as np
import pymatting
from numpy.typing import NDArray

from benchmarks.faces import labels, understand
from benchmarks.scoring import DEMO, EVERYONE
from retouch.edit import Edit
from retouch.edit.mask import Mask, ZoneArea
from retouch.face.cover import FaceZones
from retouch.finish.matte import kinds_of, level_of, matte
from retouch.geometry import Rect
from retouch.masks import Masks
from retouch.picture import Pyramid, read

Array = NDArray[np.float32]
Found = tuple[Array, Array]

_ROUGH, _GUIDED, _LIBRARY, _OURS = (
    "the rough outline",
    "guided filter",
    "closed form, library",
    "**Mellow Glass**",
)
_HAIR_MM = 6.0
# Labels have whole pixels: outlines are compared after a blur of so many.
_SOFT = 1.2
# Off by more than this part is wrong to be seen.
_WRONG = 0.35


def _hairy(size: int, seed: int) -> Array:
    """An alpha of a head with hairs, drawn finely."""
    rng = np.random.default_rng(seed)
    fine, mid = 4, size * 2
    big = np.zeros((size * fine, size * fine), np.uint8)
    cv2.circle(big, (mid, mid), round(0.26 * size * fine), 255, -1, cv2.LINE_AA)
    for turn in rng.uniform(0, 2 * np.pi, 260):
        far, bend = rng.uniform(0.27, 0.36), turn + rng.uniform(-0.2, 0.2)
        a, b = ((round(mid + r * size * fine * np.cos(t)), round(mid + r * size * fine * np.sin(t))) for r, t in ((0.24, turn), (far, bend)))  # fmt: skip
        cv2.line(big, a, b, 255, int(rng.integers(3, 7)), cv2.LINE_AA)
    return cv2.resize(big, (size, size), interpolation=cv2.INTER_AREA).astype(np.float32) / 255


def _matted(image: Array, rough: Array, band: float) -> Found:
    """Alpha and the person's own colours, as a pass has them."""
    h, w = rough.shape
    level = level_of(band, (w, h))
    small = (w >> level, h >> level)
    found = matte(
        cv2.resize(image, small, interpolation=cv2.INTER_AREA),
        cv2.resize(rough, small, interpolation=cv2.INTER_AREA),
        band / (1 << level),
        level,
    )
    whole = Rect(0, 0, w, h)
    alpha = found.alpha(image, whole, 0)
    return alpha, found.own(image, alpha, whole, 0)


def _library(image: Array, rough: Array, band: float) -> Found:
    """The same by the library, enlarged to the picture's size."""
    h, w = rough.shape
    level = level_of(band, (w, h))
    small = (w >> level, h >> level)
    less = cv2.resize(image, small, interpolation=cv2.INTER_AREA).astype(np.float64)
    kinds = kinds_of(cv2.resize(rough, small, interpolation=cv2.INTER_AREA), band / (1 << level))
    alpha = pymatting.estimate_alpha_cf(less, kinds / 2)
    colours = pymatting.estimate_foreground_ml(less, alpha)
    return tuple(  # type: ignore[return-value]
        np.clip(cv2.resize(a, (w, h), interpolation=cv2.INTER_CUBIC), 0, 1).astype(np.float32)
        for a in (alpha, colours)
    )


def matte_table() -> str:
    """Alpha and the colours laid over another background, on portraits' own hair and backgrounds."""
    lines = [
        "| mattes of hair (mean of 6) | SAD per unsure pixel | MSE | on another background, mean error (of 255) |",
        "|---|---|---|---|",
    ]
    rows: dict[str, list[tuple[float, float, float]]] = {
        k: [] for k in (_ROUGH, _GUIDED, _LIBRARY, _OURS)
    }
    size = 420
    for n, (name, place, back) in enumerate(
        (("ana", (700, 300), "lia"), ("bela", (1150, 420), "hana"), ("dan", (700, 420), "ivo"),
         ("eli", (820, 330), "kofi"), ("ana", (700, 300), "hana"), ("eli", (820, 330), "lia"))
    ):  # fmt: skip
        hair = _cut(name, place, size // 3)
        own = cv2.resize(hair, (size, size), interpolation=cv2.INTER_CUBIC)
        behind = _cut(back, (150, 200), size)
        alpha = _hairy(size, n)
        image = np.clip(alpha[..., None] * own + (1 - alpha[..., None]) * behind, 0, 1).astype(
            np.float32
        )
        y, x = np.mgrid[:size, :size]
        rough = np.clip(
            (0.285 * size - np.hypot(x - size / 2, y - size / 2)) / 8 + 0.5, 0, 1
        ).astype(np.float32)
        goal = np.array([0.12, 0.4, 0.2], np.float32)
        wanted = alpha[..., None] * own + (1 - alpha[..., None]) * goal
        guided = np.clip(cv2.ximgproc.guidedFilter(image, rough, 20, 1e-4), 0, 1)
        ours = _matted(image, rough, 0.11 * size)
        unsure = max(int(((alpha > 0.02) & (alpha < 0.98)).sum()), 1)
        for key, a, colours in (
            (_ROUGH, rough, image), (_GUIDED, guided, image),
            (_LIBRARY, *_library(image, rough, 0.11 * size)), (_OURS, *ours),
        ):  # fmt: skip
            laid = a[..., None] * colours + (1 - a[..., None]) * goal
            rows[key].append(
                (float(np.abs(a - alpha).sum()) / unsure, float(np.mean((a - alpha) ** 2)),
                 255 * float(np.abs(laid - wanted).mean()))
            )  # fmt: skip
    for key, found in rows.items():
        sad, mse, off = np.mean(found, axis=0)
        lines.append(f"| {key} | {sad:.3f} | {mse:.4f} | {off:.2f} |")
        print(lines[-1], flush=True)
    return "\n".join(lines)


def _cut(name: str, place: tuple[int, int], size: int) -> Array:
    pixels = np.asarray(read(DEMO / "portraits" / f"{name}.jpg").pixels, np.float32)[..., :3] / 255
    x = min(place[0], pixels.shape[1] - size)
    y = min(place[1], pixels.shape[0] - size)
    return np.ascontiguousarray(pixels[y : y + size, x : x + size])


def outline_table() -> str:
    """Outlines of the demo people, beside hair and elsewhere."""
    lines = [
        "| outlines of the demo people | beside hair: px off | wrong there | elsewhere: px off | wrong there |",
        "|---|---|---|---|---|",
    ]
    rows: dict[str, list[tuple[float, ...]]] = {_ROUGH: [], _LIBRARY: [], _OURS: []}
    for name in EVERYONE:
        for key, alpha, band in _outlines(name):
            rows[key].append(_off(alpha, labels(name), band))
    for key, found in rows.items():
        hair, hair_wrong, other, other_wrong = np.nanmean(found, axis=0)
        lines.append(
            f"| {key} | {hair:.2f} | {100 * hair_wrong:.1f} % | {other:.2f} | {100 * other_wrong:.1f} % |"
        )
        print(lines[-1], flush=True)
    return "\n".join(lines)


def _outlines(name: str) -> list[tuple[str, Array, float]]:
    """Each way's alpha of a demo person, and the width of the band in which hair is looked for."""
    picture = read(DEMO / "portraits" / f"{name}.jpg")
    pyramid, analysis = Pyramid(picture), understand(name).analysis
    band = _HAIR_MM * analysis.faces[0].scale.px_per_mm
    level = level_of(band, (picture.width, picture.height))
    masks, zones = Masks(pyramid), FaceZones(analysis, Edit(), pyramid)

    def drawn(zones_named: tuple[str, ...], at: int) -> Array:
        mask = Mask(tuple(ZoneArea(z) for z in zones_named))
        cover = masks.draw(mask, picture.bounds.reduced(at), at, zones)
        assert cover is not None
        return np.ascontiguousarray(cover[..., 0])

    small = np.asarray(pyramid.crop(picture.bounds.reduced(level), level), np.float32)
    person, hairy = 1 - drawn(("background",), level), drawn(("hair", "beard"), level)
    less = band / (1 << level)
    full = np.asarray(pyramid.crop(picture.bounds, 0), np.float32)
    ours = matte(small, person, less, level, hairy).alpha(full, picture.bounds, 0)
    kinds = kinds_of(person, less, hairy)
    theirs = pymatting.estimate_alpha_cf(small.astype(np.float64), kinds / 2)
    shape = (picture.width, picture.height)
    enlarged = cv2.resize(theirs, shape, interpolation=cv2.INTER_CUBIC).astype(np.float32)
    rough = 1 - drawn(("background",), 0)
    return [(_ROUGH, rough, band), (_LIBRARY, np.clip(enlarged, 0, 1), band), (_OURS, ours, band)]


def _off(alpha: Array, truth: NDArray[np.uint8], band: float) -> tuple[float, ...]:
    """How far an outline is off in pixels, and the part of what lies near it that is wrong: by hair, and elsewhere."""
    person = (truth != 0).astype(np.uint8)
    away = cv2.distanceTransform(person, cv2.DIST_L2, 5) + cv2.distanceTransform(
        1 - person, cv2.DIST_L2, 5
    )
    square = np.ones((2 * int(band) + 1,) * 2, np.uint8)
    by_hair = cv2.dilate(np.isin(truth, (7, 12)).astype(np.uint8), square) > 0
    edge = cv2.dilate(person, np.ones((3, 3), np.uint8)) > person
    soft = [cv2.GaussianBlur(a, (0, 0), _SOFT) for a in (alpha, person.astype(np.float32))]
    off = np.abs(soft[0] - soft[1])
    out = []
    for near in ((away < 2.2 * band) & by_hair, (away < 2.2 * band) & ~by_hair):
        length = int((edge & near).sum())
        out += (
            [float(off[near].sum()) / length, float((off[near] > _WRONG).mean())]
            if length
            else [np.nan] * 2
        )
    return tuple(out)


def table() -> str:
    """Both tables."""
    return f"{matte_table()}\n\n{outline_table()}"
