"""Loose strands and lint cleared, beside what scikit-image and OpenCV offer for it."""

from __future__ import annotations

import time

import cv2
import numpy as np
from numpy.typing import NDArray
from skimage.filters import sato

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from benchmarks.taken_away import difference
from retouch.edit import Edit
from retouch.picture import Pyramid, read
from retouch.work.bench import bench_for
from retouch.work.operations import ClearLint, ClearLoose, Operation, perform

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# What lies so far from the mask (pixels) is beside it.
_BESIDE = 4


def gone(after: Array, before: Array, clean: Array, mask: Mask) -> float:
    """The part of what lay on the picture that is gone; noise beside it doesn't count."""
    own = (before - clean) * mask[..., None]
    return float(1 - ((after - clean) * own).sum() / (own * own).sum())


def _inpainted(image: Array, mask: Mask) -> Array:
    coded = np.round(image * 255).astype(np.uint8)
    made = cv2.inpaint(coded, mask.astype(np.uint8) * 255, 3, cv2.INPAINT_TELEA)
    return made.astype(np.float32) / np.float32(255)


def _ridges(image: Array, where: Mask, count: int) -> Mask:
    """As many pixels as there are, where scikit-image's ridge filter is strongest."""
    light = image.mean(-1)
    both = np.maximum(sato(light, (1, 2), True), sato(light, (1, 2), False)) * where
    least = np.partition(both.ravel(), -count)[-count]
    return np.asarray(cv2.dilate((both >= least).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0)


def _truth(name: str) -> NDArray[np.uint8]:
    mask = cv2.imread(str(DEMO / "truth" / f"{name}_mask.png"), cv2.IMREAD_GRAYSCALE)
    return np.asarray(mask, np.uint8)


def _rows(
    title: str, name: str, clean_name: str, mask: Mask, near: Mask, operation: Operation
) -> list[str]:
    picture = read(DEMO / "portraits" / f"{name}.jpg")
    before = picture.pixels.astype(np.float32) / np.float32(255)
    truth = read(DEMO / "portraits" / f"{clean_name}.jpg").pixels
    clean = truth.astype(np.float32) / np.float32(255)
    bench = bench_for(Pyramid(picture), understand(name).analysis)
    perform(Edit(), operation, bench)
    start = time.perf_counter()
    edit = perform(Edit(), operation, bench).edit
    ours = np.asarray(bench.renderer.plan(edit).view(bench.renderer.bounds, 0))
    took = time.perf_counter() - start
    start = time.perf_counter()
    found = _ridges(before, near, int(mask.sum()))
    library = _inpainted(before, found)
    took_library = time.perf_counter() - start
    side = 2 * _BESIDE + 1
    away = cv2.dilate(mask.astype(np.uint8), np.ones((side, side), np.uint8)) == 0
    rows = []
    for how, made, ratio in (
        ("ours, found by itself", ours, took / took_library),
        ("sato and inpaint, as many pixels", library, 1.0),
        ("inpaint, true mask given", _inpainted(before, mask), None),
    ):
        changed = (np.abs(made - before) > 1.5 / 255).any(2) & away
        cells = (
            f"{100 * gone(made, before, clean, mask):.0f} %",
            f"{difference(before, clean, mask):.1f} → {difference(made, clean, mask):.1f}",
            f"{100 * changed.mean():.2f} %",
            f"{ratio:.1f}" if ratio is not None else "",
        )
        rows.append(f"| {title} | {how} | {' | '.join(cells)} |")
    return rows


def table() -> str:
    """Ours beside the libraries, on pictures whose truth is known."""
    strands = _truth("ana-fly") > 0
    stained = _truth("bela-stain")
    stain = cv2.dilate((stained == 255).astype(np.uint8), np.ones((11, 11), np.uint8)) > 0
    h, w = strands.shape
    crown = np.zeros((h, w), np.bool_)
    crown[: h // 2] = True
    cloth = ~stain
    cloth[: 3 * h // 4] = False
    rows = [
        *_rows("loose strands", "ana-fly", "ana", strands, crown, ClearLoose(amount=100.0)),
        *_rows("lint", "bela-stain", "bela", (stained == 128) & ~stain, cloth, ClearLint()),
    ]
    lines = "\n".join(
        [
            "### Loose strands and lint",
            "",
            "Contrast that is gone, difference to the truth there (CIEDE2000 after a blur of 3 px), what "
            f"changed more than {_BESIDE} px beside the mask, and time as a multiple of the libraries'.",
            "",
            "| what | how | gone | difference | changed beside | time |",
            "|---|---|---|---|---|---|",
            *rows,
        ]
    )
    print(lines, flush=True)
    return lines
