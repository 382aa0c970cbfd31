"""Single hairs laid beside those that are there: in their direction, width and colour."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.discs import disc

Array = NDArray[np.float32]
_Points = NDArray[np.float64]

# Hairs are lines darker than their surroundings, this thick at most (pixels), by this much at least
# (encoded), and the darkest part of what is that.
_THICK, _DARKER, _PART = 7, 0.04, 0.5
_DARK_PART, _THIN_PART = 0.35, 0.4
# Points along each hair; how far lengths and directions vary (parts, radians), how hairs bend.
_STEPS, _LENGTHS, _WAYS, _BENT = 10, 0.25, 0.16, 0.12
# Lightness varies from hair to hair (sigma, as a part of it); what hairs are where none are beside.
_SHADES, _USUAL = 0.08, (0.16, 0.12, 0.10)
# A hair is full at its root and thins out to this part of its width at its tip.
_TIP = 0.25


def beside(area: Array, near: Array) -> tuple[Array, float, Array]:
    """What hairs near a place are like.

    Parameters
    ----------
    area : ndarray (h, w, 3) float32
        Encoded 0..1.
    near : ndarray (h, w) float32
        How much each pixel counts.

    Returns
    -------
    colour : ndarray (3,)
    width : float
        In pixels.
    ways : ndarray (h, w, 2)
        Which way hairs run around each pixel, as cosine and sine of twice the angle, their length
        telling how surely (the structure tensor: J. Bigün, G. Granlund, ICCV 1987).
    """
    grey = cv2.cvtColor(np.ascontiguousarray(area, np.float32), cv2.COLOR_RGB2GRAY)
    dark = cv2.morphologyEx(grey, cv2.MORPH_BLACKHAT, disc(_THICK // 2))
    clear = dark * near
    most = float(np.quantile(clear, 0.995))
    ways = _ways(grey, dark, near)
    if most < _DARKER:
        return np.asarray(_USUAL, np.float32), 1.2, ways
    hair = clear > _PART * most
    # Pixels beside a hair's middle show some of the skin, too: the darker part of them counts.
    light = grey[hair]
    colour = np.asarray(
        np.median(area[hair][light <= np.quantile(light, _DARK_PART)], axis=0), np.float32
    )
    # Where hairs lie side by side strips are wider than any of them: the thinner ones count.
    deep = cv2.distanceTransform(hair.astype(np.uint8), cv2.DIST_L2, 3)[hair]
    width = float(np.clip(2 * np.quantile(deep, _THIN_PART) - 0.6, 0.9, 3.0))
    return colour, width, ways


def _ways(grey: Array, dark: Array, near: Array) -> Array:
    soft = cv2.GaussianBlur(grey, (0, 0), 1.0)
    gx, gy = cv2.Sobel(soft, cv2.CV_32F, 1, 0), cv2.Sobel(soft, cv2.CV_32F, 0, 1)
    weight = near * dark
    sigma = max(4.0, 0.12 * min(grey.shape))
    # Along a hair, a quarter turn from the gradient: the doubled angle turns by a half.
    c = cv2.GaussianBlur(weight * (gy * gy - gx * gx), (0, 0), sigma)
    s = cv2.GaussianBlur(-2 * weight * gx * gy, (0, 0), sigma)
    return np.stack([c, s], 2).astype(np.float32)


def planted(
    path: _Points,
    radius: float,
    count: int,
    length: float,
    ways: Array,
    origin: tuple[int, int],
    seed: int,
) -> list[_Points]:
    """Hairs (n, 2) rooted under a brush along a stroke, in the direction of those beside them.

    They grow to the side to which the stroke went; from a single dab upwards and outwards.
    """
    rng = np.random.default_rng(seed)
    on = path[-1] - path[0]
    if float(np.linalg.norm(on)) < 1:
        on = np.array([0.0, -1.0])
    steps = np.linalg.norm(np.diff(path, axis=0), axis=1)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    out = []
    for _ in range(count):
        at = rng.uniform(0, along[-1]) if along[-1] > 0 else 0.0
        root = np.array([np.interp(at, along, path[:, k]) for k in (0, 1)])
        turn, away = rng.uniform(0, 2 * np.pi), radius * np.sqrt(rng.uniform())
        root = root + away * np.array([np.cos(turn), np.sin(turn)])
        y = int(np.clip(root[1] - origin[1], 0, ways.shape[0] - 1))
        x = int(np.clip(root[0] - origin[0], 0, ways.shape[1] - 1))
        c, s = ways[y, x]
        angle = 0.5 * np.arctan2(s, c) if np.hypot(c, s) > 1e-9 else np.arctan2(on[1], on[0])
        if np.cos(angle) * on[0] + np.sin(angle) * on[1] < 0:
            angle += np.pi
        angle += rng.normal(0, _WAYS)
        long = length * float(np.clip(1 + rng.normal(0, _LENGTHS), 0.4, 1.8))
        bend = rng.normal(0, _BENT)
        t = np.linspace(0, 1, _STEPS)
        turns = angle + bend * t
        move = np.stack([np.cos(turns), np.sin(turns)], 1) * (long / _STEPS)
        out.append(root + np.concatenate([[[0.0, 0.0]], np.cumsum(move, axis=0)])[:_STEPS])
    return out


def drawn(
    area: Array,
    lines: list[_Points],
    origin: tuple[int, int],
    colour: Array,
    width: float,
    seed: int,
) -> Array:
    """The picture with hairs over it; each a little lighter or darker than the next."""
    rng = np.random.default_rng(seed + 1)
    out = area.copy()
    for line in lines:
        shade = np.asarray(np.clip(colour * (1 + rng.normal(0, _SHADES)), 0, 1), np.float32)
        _draw(out, line - origin, float(width), shade)
    return out


@compiled
def _draw(out: Array, line: _Points, width: float, colour: Array) -> None:
    """One hair over the picture, in place; its edge fades over a pixel."""
    h, w, _ = out.shape
    n = len(line)
    reach = width / 2 + 1
    low_x, high_x = max(int(line[:, 0].min() - reach), 0), min(int(line[:, 0].max() + reach) + 2, w)
    low_y, high_y = max(int(line[:, 1].min() - reach), 0), min(int(line[:, 1].max() + reach) + 2, h)
    for y in range(low_y, high_y):
        for x in range(low_x, high_x):
            px, py = x + 0.5, y + 0.5
            cover = 0.0
            for k in range(n - 1):
                ax, ay = line[k, 0], line[k, 1]
                vx, vy = line[k + 1, 0] - ax, line[k + 1, 1] - ay
                norm = vx * vx + vy * vy
                t = 0.0
                if norm > 0:
                    t = min(max(((px - ax) * vx + (py - ay) * vy) / norm, 0.0), 1.0)
                away = np.sqrt((px - ax - t * vx) ** 2 + (py - ay - t * vy) ** 2)
                part = (k + t) / (n - 1)
                half = 0.5 * width * (1 - (1 - _TIP) * part * part)
                own = min(max(half + 0.5 - away, 0.0), 1.0) * min(2 * half, 1.0)
                cover = max(cover, own)
            if cover > 0:
                for c in range(3):
                    out[y, x, c] += np.float32(cover) * (colour[c] - out[y, x, c])
