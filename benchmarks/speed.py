"""How long a heal takes on a 24 megapixel picture, beside cv2.seamlessClone in the same run."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks import healers
from benchmarks.scoring import CIRCLE, Array, Spot, load

WIDTH, HEIGHT = 4000, 6000
RADIUS = 20.0
_ROUNDS = 60


def large_portrait(name: str = "ana", seed: int = 7) -> Array:
    """A demo portrait enlarged to 24 megapixels with fresh grain, float32 0..1."""
    person = load(name)
    height = round(person.raw.shape[0] * WIDTH / person.raw.shape[1])
    big = cv2.resize(person.raw, (WIDTH, height), interpolation=cv2.INTER_CUBIC)
    border = HEIGHT - height
    big = cv2.copyMakeBorder(big, border // 2, border - border // 2, 0, 0, cv2.BORDER_REFLECT)
    grain = np.random.default_rng(seed).standard_normal((HEIGHT, WIDTH, 1), np.float32)
    return np.clip(big + 0.012 * grain, 0, 1)


def _median_ms(calls: list[Callable[[], object]]) -> float:
    times = []
    for call in calls:
        start = time.perf_counter()
        call()
        times.append(time.perf_counter() - start)
    return 1000 * statistics.median(times)


def measure() -> dict[str, float]:
    """Medians in milliseconds over the same places of the same picture.

    ``ours`` searches its source and heals; ``patch`` is cv2.seamlessClone of a given source into
    the cut-out patch of 4 radii, ``picture`` the same call into the whole picture.
    """
    picture = large_portrait()
    eight: NDArray[np.uint8] = (picture * 255 + 0.5).astype(np.uint8)
    rng = np.random.default_rng(3)
    places = [(1500 + 900 * a, 2400 + 1400 * b) for a, b in rng.uniform(0, 1, (_ROUNDS, 2))]
    spots = [Spot(x, y, RADIUS / CIRCLE, "spot") for x, y in places]
    half = int(4 * RADIUS)
    mask = np.zeros((2 * half, 2 * half), np.uint8)
    cv2.circle(mask, (half, half), int(RADIUS), 255, -1)

    def cut(x: float, y: float) -> NDArray[np.uint8]:
        return np.ascontiguousarray(
            eight[int(y) - half : int(y) + half, int(x) - half : int(x) + half]
        )

    patches = [(cut(x + 60, y), cut(x, y)) for x, y in places]
    for spot in spots[:5]:
        healers.ours(picture.copy(), spot)
        cv2.seamlessClone(*patches[0], mask, (half, half), cv2.NORMAL_CLONE)
    # In turn, so that a machine that slows down slows all of them.
    ours, patch, whole = [], [], []
    for n, (x, y) in enumerate(places):
        source, target = patches[n]
        ours.append(_median_ms([lambda n=n: healers.ours(picture, spots[n])]))  # type: ignore[misc]
        patch.append(
            _median_ms(
                [
                    lambda s=source, t=target: cv2.seamlessClone(  # type: ignore[misc]
                        s, t, mask, (half, half), cv2.NORMAL_CLONE
                    )
                ]
            )
        )
        if n % 6 == 0:
            whole.append(
                _median_ms(
                    [
                        lambda s=source, x=x, y=y: cv2.seamlessClone(  # type: ignore[misc]
                            s, eight, mask, (int(x), int(y)), cv2.NORMAL_CLONE
                        )
                    ]
                )
            )
    return {
        "ours": statistics.median(ours),
        "patch": statistics.median(patch),
        "picture": statistics.median(whole),
    }
