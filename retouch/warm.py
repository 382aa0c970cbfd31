"""Compile what is compiled on first use, so that the first touch of a session doesn't wait.

Run as ``python -m retouch.warm``; takes a minute or two the first time and a second later.
"""

from __future__ import annotations

import numpy as np

from retouch import heal
from retouch.geometry import Rect


def warm() -> None:
    """Heal a dab and a stroke on a picture with grain, with and without an edge in the ring."""
    rng = np.random.default_rng(0)
    bounds = Rect(0, 0, 240, 240)
    plain = (0.6 + 0.02 * rng.standard_normal((240, 240, 3))).astype(np.float32)
    split = plain.copy()
    split[:, 126:] *= np.float32(0.4)
    dab = heal.Footprint(((120.0, 120.0),), 10.0)
    stroke = heal.Footprint(((100.0, 120.0), (130.0, 125.0), (140.0, 110.0)), 10.0)
    for picture in (plain, split):
        for footprint in (dab, stroke):

            def read(rect: Rect, picture: heal.Array = picture) -> heal.Array:
                return picture[rect.y0 : rect.y1, rect.x0 : rect.x1]

            view = heal.examine(read, footprint, bounds)
            heal.propose(read, footprint, bounds, view=view)
            heal.heal(read, footprint, (0, 50), bounds, view=view)
            heal.clone(read, footprint, (0, 50), bounds, flow=0.5)


if __name__ == "__main__":
    warm()
