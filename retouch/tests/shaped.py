"""A picture to be moved, and strokes that move it."""

from __future__ import annotations

import numpy as np

from retouch.edit import Edit
from retouch.picture import Picture
from retouch.work.bench import Bench
from retouch.work.operations import AddTouch, NewTouch, perform

RNG = np.random.default_rng(11)
SIZE = (360, 300)


def picture(bits: int = 8) -> Picture:
    """Smooth forms with grain, so that nothing is moved unseen."""
    y, x = np.mgrid[: SIZE[1], : SIZE[0]]
    waves = 0.5 + 0.2 * np.sin(x / 17) * np.cos(y / 23)
    image = np.clip(waves[..., None] + RNG.normal(0, 0.03, (SIZE[1], SIZE[0], 3)), 0, 1)
    top = (1 << bits) - 1
    return Picture(np.round(image * top).astype(np.uint8 if bits == 8 else np.uint16))


def pushed(
    bench: Bench, edit: Edit, path: tuple[tuple[float, float], ...], **values: object
) -> Edit:
    own = {"radius_px": 50.0, **values}
    return perform(edit, AddTouch("nudge", NewTouch(path, values=own)), bench).edit  # type: ignore[arg-type]
