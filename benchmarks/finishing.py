"""Finishing passes on 24 megapixels beside one Gaussian blur of the same, and mattes beside truth.

Hair's alpha is known where a person of the demo is laid over other backgrounds: the picture is made from the
person's own colours, an alpha with hairs, and photographs behind. The library is OpenCV's guided filter on the
same rough outline (K. He, J. Sun, X. Tang, PAMI 2013), which many tools end their masks with.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks.scoring import DEMO
from retouch.edit import Edit, Fit, Pass
from retouch.edit.mask import Mask, OutlineArea
from retouch.finish.matte import matte
from retouch.forms.form import completed
from retouch.picture import Picture, Pyramid, read
from retouch.render import Renderer, render_view, render_whole

Array = NDArray[np.float32]

_LARGE = (4384, 5480)
_FIT = 656
# A person's outline on the large picture, as parts of its width and height.
_PERSON = ((0.3, 0.3), (0.5, 0.12), (0.7, 0.3), (0.72, 0.6), (0.98, 0.8), (0.98, 1.0), (0.02, 1.0), (0.02, 0.8), (0.28, 0.6))  # fmt: skip
PASSES: tuple[tuple[str, dict[str, Any]], ...] = (
    ("split_toning", {"lights_amount": 30.0, "shadows_amount": 30.0}),
    ("mono", {"tone_amount": 20.0}),
    ("soft_look", {"glow": 50.0}),
    ("sharpen", {}),
    ("vignette", {}),
    ("grain", {}),
    ("background", {"way": "blur", "radius": 1.0}),
)


def _large() -> Picture:
    width, height = _LARGE
    small = np.asarray(read(DEMO / "portraits" / "ana.jpg").pixels)
    big = cv2.resize(small, (width, height), interpolation=cv2.INTER_CUBIC).astype(np.int16)
    noise = np.random.default_rng(5).integers(-4, 5, (height, width, 1), dtype=np.int16)
    return Picture(np.clip(big + noise, 0, 255).astype(np.uint8))


def _seconds(call: Callable[[], object]) -> float:
    start = time.perf_counter()
    call()
    return time.perf_counter() - start


def speed_table() -> str:
    """Each pass at the whole picture on a screen, and in a file, as parts of one large Gaussian blur."""
    picture = _large()
    width, height = _LARGE
    line = tuple((x * width, y * height) for x, y in _PERSON)
    behind = Mask((OutlineArea(line, 8.0, invert=True),))
    reference = _seconds(lambda: cv2.GaussianBlur(picture.pixels, (0, 0), 12.0))
    reference = min(reference, _seconds(lambda: cv2.GaussianBlur(picture.pixels, (0, 0), 12.0)))
    lines = [
        f"| finishing 24 megapixels; cv2.GaussianBlur of 12 px takes {reference:.2f} s | at fit, ms | whole file, s | times that blur |",
        "|---|---|---|---|",
    ]
    pyramid = Pyramid(picture)
    bare = _seconds(lambda: render_whole(Renderer(pyramid), Edit()))
    for kind, values in PASSES:
        fit = Fit(values={"long_px": float(height), "tall_px": float(height), "px_per_mm": 13.0} if kind == "background" else {"long_px": float(height)} if kind == "soft_look" else {})  # fmt: skip
        one = completed(
            Pass(
                "p", kind, settings=values, mask=behind if kind == "background" else Mask(), fit=fit
            )
        )
        edit = Edit((one,))
        scale = _FIT / height

        def view(edit: Edit = edit, scale: float = scale) -> object:
            plan = Renderer(pyramid).plan(edit)
            return render_view(plan, 0, 0, scale, round(width * scale), _FIT)

        view()
        at_fit = min(_seconds(view) for _ in range(3))
        whole = _seconds(lambda edit=edit: render_whole(Renderer(pyramid), edit)) - bare  # type: ignore[misc]
        lines.append(
            f"| {one.title} | {1000 * at_fit:.0f} | {whole:.1f} | {whole / reference:.1f} |"
        )
        print(lines[-1], flush=True)
    return "\n".join(lines)


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


def matte_table() -> str:
    """Alpha and the colours laid over another background, on portraits' own hair and backgrounds."""
    lines = [
        "| mattes of hair (mean of 6) | SAD per unsure pixel | MSE | on another background, mean error (of 255) |",
        "|---|---|---|---|",
    ]
    rows: dict[str, list[tuple[float, float, float]]] = {"the rough outline": [], "guided filter": [], "**Mellow Glass**": []}  # fmt: skip
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
        ours = matte(image, rough, 0.11 * size)
        unsure = max(int(((alpha > 0.02) & (alpha < 0.98)).sum()), 1)
        for key, a, colours in (
            ("the rough outline", rough, image), ("guided filter", guided, image),
            ("**Mellow Glass**", ours.alpha, ours.colours),
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


def table() -> str:
    """Both tables."""
    return f"{matte_table()}\n\n{speed_table()}"
