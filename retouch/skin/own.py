"""The person's own skin colour, also where light falls on one side of the face only.

What is lighter than "the skin" is shine only as far as the light there is the same: the lit half of a
face in side light is no highlight, and its shaded half no shadow. The light's two sides are told by a
line across the face and how softly one goes over into the other.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.geometry import Rect

Array = NDArray[np.float32]


@dataclass(frozen=True)
class OwnSkin:
    """CIELAB of clean skin (``base``, (3,)) and what the light's side adds to it.

    ``side`` (3,) is added in full where ``across`` · (x, y) + ``at`` is 1 and more, and taken where it
    is -1 and less; x and y in pixels of the picture that rectangles are of. ``cheek_red`` is added to
    a* in the middles of the ``cheeks``, falling off as Gaussians of ``cheek_size`` pixels.
    """

    base: Array
    side: Array
    across: tuple[float, float] = (0.0, 0.0)
    at: float = 0.0
    cheeks: tuple[tuple[float, float], ...] = ()
    cheek_red: float = 0.0
    cheek_size: float = 1.0

    def over(self, rect: Rect, factor: int = 1) -> Array:
        """The skin over cells of ``factor`` pixels; (1, 1, 3) where it is the same everywhere.

        Parameters
        ----------
        rect : Rect
            In cells.

        Returns
        -------
        ndarray (rect.height, rect.width, 3) or (1, 1, 3) float32
        """
        if not self.side.any() and not self.cheek_red:
            return self.base.reshape(1, 1, 3)
        xs = (np.arange(rect.x0, rect.x1, dtype=np.float32) + np.float32(0.5)) * np.float32(factor)
        ys = (np.arange(rect.y0, rect.y1, dtype=np.float32) + np.float32(0.5)) * np.float32(factor)
        out = np.empty((rect.height, rect.width, 3), np.float32)
        # A Gaussian is one along x by one along y: exponentials of a row and a column alone.
        along, down = self._cheeks_at(xs, 0), self._cheeks_at(ys, 1)
        _grid(
            xs * np.float32(self.across[0]), ys * np.float32(self.across[1]) + np.float32(self.at),
            self.base, self.side, along, down, out,
        )  # fmt: skip
        return out

    def at_places(self, places: Array) -> Array:
        """The skin at places (n, 2), pixels; (n, 3) float32."""
        t = places[:, 0] * self.across[0] + places[:, 1] * self.across[1] + self.at
        out = np.asarray(self.base + turned(t)[..., None] * self.side, np.float32)
        out[:, 1] += (self._cheeks_at(places[:, 0], 0) * self._cheeks_at(places[:, 1], 1)).sum(0)
        return out

    def at_pixels(self, rect: Rect, places: NDArray[np.int64]) -> Array:
        """The skin at pixels of ``rect`` (numbers row by row), (1, n, 3); (1, 1, 3) where it is the same everywhere."""
        if not self.side.any() and not self.cheek_red:
            return self.base.reshape(1, 1, 3)
        ys, xs = np.divmod(places, rect.width)
        middles = np.stack([xs + (rect.x0 + 0.5), ys + (rect.y0 + 0.5)], -1)
        return self.at_places(np.asarray(middles, np.float32))[None]

    def _cheeks_at(self, values: Array, axis: int) -> Array:
        """What a row (axis 0) or column (1) of places has of each cheek's red, (cheeks, n); both multiplied give it."""
        red = np.float32(self.cheek_red if axis == 0 else 1.0)
        wide = np.float32(2 * self.cheek_size**2)
        cheeks = self.cheeks if self.cheek_red else ()
        out = np.empty((len(cheeks), len(values)), np.float32)
        for n, middle in enumerate(cheeks):
            out[n] = red * np.exp(-((values - np.float32(middle[axis])) ** 2) / wide)
        return out


@compiled
def _grid(
    across: Array,
    down: Array,
    base: Array,
    side: Array,
    cheek_along: Array,
    cheek_down: Array,
    out: Array,
) -> None:
    """The skin on a grid (h, w, 3), in place, given how far along the light's line its columns and rows lie."""
    for i in range(len(down)):
        for j in range(len(across)):
            t = min(max(across[j] + down[i], np.float32(-1)), np.float32(1))
            t = t * (np.float32(1.5) - np.float32(0.5) * t * t)
            red = np.float32(0)
            for n in range(len(cheek_along)):
                red += cheek_along[n, j] * cheek_down[n, i]
            out[i, j, 0] = base[0] + t * side[0]
            out[i, j, 1] = base[1] + t * side[1] + red
            out[i, j, 2] = base[2] + t * side[2]


def turned(t: NDArray[Any]) -> Array:
    """From -1 to 1 as t goes from -1 to 1, smoothly, and no further."""
    t = np.clip(t, -1, 1)
    return np.asarray(t * (1.5 - 0.5 * t * t), np.float32)


def own_skin(skin: Array | OwnSkin) -> OwnSkin:
    """One colour everywhere, (3,) CIELAB, as `OwnSkin`; those that are it stay."""
    if isinstance(skin, OwnSkin):
        return skin
    return OwnSkin(np.asarray(skin, np.float32), np.zeros(3, np.float32))
