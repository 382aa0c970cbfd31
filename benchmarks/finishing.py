"""Finishing passes on 24 megapixels beside one Gaussian blur of the same."""

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
