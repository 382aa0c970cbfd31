"""A labelled person varied: other cloth, hair, background and light, things worn, camera faults.

Rendered people are few and alike in what doesn't matter. Everything that mustn't matter is drawn
anew in each copy, so that only what does is left to learn.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.face import landmarks as lm
from training.textures import noise, pattern, wallpaper

Array = NDArray[Any]
Pixels = NDArray[np.uint8]

BACKGROUND, SKIN, HAIR, BEARD, CLOTHING, THING = range(6)
# Numbers of the labels (their own list: skin, lips, teeth, eye white, iris, brow, hair, clothing,
# lashes, tongue, skin of the body, beard) as classes of the parser.
OF_LABEL = np.array([0, 1, 1, 1, 1, 1, 1, 2, 4, 1, 1, 1, 3], np.uint8)


@dataclass
class Person:
    """A labelled person: (h, w, 3) uint8 sRGB, (h, w) classes and coverage 0..1, mesh (478, 2)."""

    pixels: Pixels
    classes: NDArray[np.uint8]
    alpha: Array
    points: Array


def varied(person: Person, rng: np.random.Generator) -> tuple[Pixels, NDArray[np.uint8]]:
    """A copy with everything drawn anew that doesn't tell a zone: picture and classes."""
    image = person.pixels.astype(np.float32) / 255
    classes = person.classes.copy()
    soft = _soft(classes)
    if rng.random() < 0.75:
        image = _recloth(image, soft[CLOTHING], person.points, rng)
    if rng.random() < 0.7:
        image = _rehair(image, soft[HAIR] + soft[BEARD], rng)
    if rng.random() < 0.35:
        image = _retone(image, soft[SKIN], rng)
    if rng.random() < 0.3:
        image, classes = _bared(image, classes, person.points, rng)
    if rng.random() < 0.7:
        behind = wallpaper(image.shape[:2], rng)
        image = image * person.alpha[..., None] + behind * (1 - person.alpha[..., None])
    if rng.random() < 0.35:
        image, classes = _limbs(image, classes, person.points, rng)
    if rng.random() < 0.28:
        image, classes = _headwear(image, classes, person.points, rng)
    if rng.random() < 0.22:
        image, classes = _glasses(image, classes, person.points, rng)
    image = _light(image, person.points, rng)
    return _camera(image, rng), classes


def _soft(classes: NDArray[np.uint8]) -> Array:
    return np.stack(
        [cv2.GaussianBlur((classes == k).astype(np.float32), (0, 0), 0.8) for k in range(6)]
    )


def _luma(image: Array) -> Array:
    return np.asarray(image @ np.array([0.299, 0.587, 0.114], np.float32), np.float32)


def _recloth(image: Array, where: Array, points: Array, rng: np.random.Generator) -> Array:
    """Cloth of another colour or pattern, its folds kept; now and then of the skin's own colour."""
    inside = where > 0.5
    if inside.sum() < 50:
        return image
    luma = _luma(image)
    shade = np.clip(luma / max(float(np.median(luma[inside])), 0.03), 0.2, 2.5)
    if rng.random() < 0.2:
        x, y = points[50].astype(int)
        h, w = luma.shape
        own = image[np.clip(y, 0, h - 1), np.clip(x, 0, w - 1)]
        # Near the skin's colour, but never it: that is what bare skin is told by.
        off = rng.normal(0, 1, 3)
        off *= rng.uniform(0.06, 0.14) / max(float(np.abs(off - off.mean()).max()), 1e-3)
        colour = np.clip(own * rng.uniform(0.75, 1.2) + off, 0, 1)
    elif rng.random() < 0.3:
        colour = np.full(3, rng.uniform(0.75, 0.97)) + rng.normal(0, 0.02, 3)
    else:
        colour = rng.uniform(0.02, 0.95, 3)
    flat = np.broadcast_to(colour.astype(np.float32), image.shape)
    if rng.random() < 0.4:
        flat = pattern(luma.shape, colour, rng)
    new = np.clip(flat * shade[..., None] ** rng.uniform(0.5, 1.1), 0, 1)
    return np.asarray(image * (1 - where[..., None]) + new * where[..., None], np.float32)


def _rehair(image: Array, where: Array, rng: np.random.Generator) -> Array:
    """Hair of another colour: black to white, blonde, red, now and then dyed."""
    inside = where > 0.5
    if inside.sum() < 50:
        return image
    luma = _luma(image)
    # The contrast between strands is kept in light hair and spread in dark.
    level = float(np.median(luma[inside]))
    kinds = np.array(
        [[0.05, 0.045, 0.04], [0.16, 0.1, 0.07], [0.35, 0.24, 0.15], [0.62, 0.5, 0.33],
         [0.75, 0.66, 0.5], [0.5, 0.25, 0.12], [0.6, 0.6, 0.6], [0.85, 0.84, 0.82]]
    )  # fmt: skip
    colour = kinds[rng.integers(len(kinds))] * rng.uniform(0.8, 1.2)
    if rng.random() < 0.05:
        colour = rng.uniform(0.1, 0.9, 3)
    shade = np.clip(luma / max(level, 0.03), 0.1, 3) ** rng.uniform(0.5, 1.0)
    new = np.clip(colour.astype(np.float32) * shade[..., None], 0, 1)
    where = np.clip(where, 0, 1)[..., None]
    return np.asarray(image * (1 - where) + new * where, np.float32)


def _retone(image: Array, where: Array, rng: np.random.Generator) -> Array:
    gain = rng.uniform(0.75, 1.25) * (1 + rng.normal(0, 0.05, 3))
    new = np.clip(image * gain.astype(np.float32), 0, 1)
    return np.asarray(image + (new - image) * where[..., None], np.float32)


def _own_skin(image: Array, classes: NDArray[np.uint8], rng: np.random.Generator) -> Array:
    """A colour of this person's skin, taken from somewhere on it."""
    there = image[classes == SKIN]
    if not len(there):
        return np.array([0.7, 0.5, 0.4], np.float32)
    light = _luma(there)
    low, high = np.quantile(light, [0.3, 0.9])
    chosen = there[(light >= low) & (light <= high)]
    return np.asarray(np.median(chosen[rng.integers(len(chosen), size=50)], 0), np.float32)


def _bared(
    image: Array, classes: NDArray[np.uint8], points: Array, rng: np.random.Generator
) -> tuple[Array, NDArray[np.uint8]]:
    """Cloth cut away to the skin: a shoulder, both arms, or all from a line on."""
    middle, across, down = _axes(points)
    shape = classes.shape
    ys, xs = np.mgrid[: shape[0], : shape[1]].astype(np.float32)
    unit = _unit(points)
    u = ((xs - middle[0]) * across[0] + (ys - middle[1]) * across[1]) / unit**2
    v = ((xs - middle[0]) * down[0] + (ys - middle[1]) * down[1]) / unit**2
    kind = rng.integers(3)
    if kind == 0:
        cut = np.abs(u) > rng.uniform(0.55, 1.0) + 0.1 * np.sin(v * rng.uniform(1, 4))
    elif kind == 1:
        cut = rng.choice([-1, 1]) * u > rng.uniform(0.2, 0.9) + rng.uniform(-0.3, 0.3) * v
    else:
        cut = v > rng.uniform(1.2, 2.0) + rng.uniform(-0.4, 0.4) * u
    mask = cv2.GaussianBlur((cut & (classes == CLOTHING)).astype(np.float32), (0, 0), 0.7)
    luma = _luma(image)
    inside = mask > 0.5
    if inside.sum() < 80:
        return image, classes
    shade = cv2.GaussianBlur(luma, (0, 0), 3) / max(float(np.median(luma[inside])), 0.03)
    grain = 1 + 0.02 * noise((shape[0], shape[1]), 2, 3, rng)
    new = _own_skin(image, classes, rng) * np.clip(shade, 0.35, 1.5)[..., None]
    return _put(image, classes, mask, np.clip(new * grain[..., None], 0, 1), SKIN)


def _limbs(
    image: Array, classes: NDArray[np.uint8], points: Array, rng: np.random.Generator
) -> tuple[Array, NDArray[np.uint8]]:
    """Arms, hands and legs before the body: rounded pieces with the shading of a cylinder."""
    middle, across, down = _axes(points)
    shape = (classes.shape[0], classes.shape[1])
    ys, xs = np.mgrid[: shape[0], : shape[1]].astype(np.float32)
    unit = _unit(points)
    sleeve = rng.uniform(0, 0.95, 3) if rng.random() < 0.4 else None
    for _ in range(int(rng.integers(1, 4))):
        at = middle + rng.uniform(-1.3, 1.3) * across + rng.uniform(0.9, 2.3) * down
        angle, length = rng.uniform(0, 2 * np.pi), rng.uniform(0.3, 1.5) * unit
        way = np.array([np.cos(angle), np.sin(angle)], np.float32)
        end = at + way * length
        width = rng.uniform(0.12, 0.28) * unit
        along = np.clip(((xs - at[0]) * way[0] + (ys - at[1]) * way[1]) / length, 0, 1)
        taper = width * (1 - rng.uniform(0, 0.5) * along)
        away = np.hypot(
            xs - at[0] - along * (end[0] - at[0]), ys - at[1] - along * (end[1] - at[1])
        )
        mask = np.clip((taper - away) / 1.5 + 0.5, 0, 1).astype(np.float32)
        side = ((xs - at[0]) * way[1] - (ys - at[1]) * way[0]) / taper
        light = np.clip(1 - rng.uniform(0.2, 0.7) * (side - rng.uniform(-0.6, 0.6)) ** 2, 0.25, 1.1)
        grain = 1 + 0.02 * noise(shape, 2, 3, rng)
        own = _own_skin(image, classes, rng) * rng.uniform(0.8, 1.15)
        new = np.clip(own * (light * grain)[..., None], 0, 1).astype(np.float32)
        image, classes = _put(image, classes, mask, new, SKIN)
        if sleeve is not None:
            part = mask * (along < rng.uniform(0.2, 0.7))
            cloth = np.clip(pattern(shape, sleeve, rng) * light[..., None], 0, 1)
            image, classes = _put(image, classes, part.astype(np.float32), cloth, CLOTHING)
    return image, classes


def _unit(points: Array) -> float:
    return float(np.linalg.norm(points[lm.CHIN] - points[lm.TOP]))


def _axes(points: Array) -> tuple[Array, Array, Array]:
    """Between the eyes; one face height across and down."""
    middle = points[[33, 263, 133, 362]].mean(0)
    down = points[lm.CHIN] - points[lm.TOP]
    across = np.array([down[1], -down[0]], np.float32)
    return middle, across, down


def _fill(shape: tuple[int, int], outline: Array) -> Array:
    mask = np.zeros(shape, np.uint8)
    cv2.fillPoly(mask, [np.round(outline).astype(np.int32)], 255, cv2.LINE_AA)
    return mask.astype(np.float32) / 255


def _put(
    image: Array, classes: NDArray[np.uint8], mask: Array, new: Array, kind: int
) -> tuple[Array, NDArray[np.uint8]]:
    image = image * (1 - mask[..., None]) + new * mask[..., None]
    return image.astype(np.float32), np.where(mask > 0.5, kind, classes).astype(np.uint8)


def _headwear(
    image: Array, classes: NDArray[np.uint8], points: Array, rng: np.random.Generator
) -> tuple[Array, NDArray[np.uint8]]:
    """A cap, a hat with a brim, or a scarf around the head."""
    middle, across, down = _axes(points)
    shape = classes.shape
    turn = np.linspace(0, 2 * np.pi, 80)
    low = rng.uniform(-0.5, -0.22)  # the lower rim, in face heights from the eyes
    wide, high = rng.uniform(0.42, 0.58), rng.uniform(0.3, 0.62)
    colour = rng.uniform(0.02, 0.95, 3)
    cloth = pattern(shape, colour, rng)
    if rng.random() < 0.35:
        # A band of another colour, as caps of uniforms have.
        line = low - rng.uniform(0.05, 0.3)
        rows, cols = np.mgrid[: shape[0], : shape[1]]
        height = ((cols - middle[0]) * down[0] + (rows - middle[1]) * down[1]) / _unit(points) ** 2
        cloth = np.where((height > line)[..., None], rng.uniform(0.02, 0.3, 3), cloth)
    ys, xs = np.mgrid[: shape[0], : shape[1]]
    side = (xs - middle[0]) / _unit(points)
    shading = np.clip(1 - 0.5 * (side - rng.uniform(-0.3, 0.3)) ** 2 / wide**2, 0.3, 1)
    cloth = cloth * shading[..., None].astype(np.float32)
    kind = rng.random()
    if kind < 0.3:
        # A scarf leaves the face free and covers everything around it, down to the neck.
        around = np.stack([np.cos(turn) * rng.uniform(0.52, 0.66), np.sin(turn) * 0.85 + 0.05], 1)
        mask = _fill(shape, middle + around[:, :1] * across + around[:, 1:] * down)
        hole = np.stack([np.cos(turn) * rng.uniform(0.33, 0.4), np.sin(turn) * 0.56 + 0.12], 1)
        mask = mask * (1 - _fill(shape, middle + hole[:, :1] * across + hole[:, 1:] * down))
        return _put(image, classes, mask, cloth, CLOTHING)
    arc = np.linspace(np.pi, 2 * np.pi, 60)
    dome = np.stack([np.cos(arc) * wide, low + np.sin(arc) * high], 1)
    sag = rng.uniform(-0.03, 0.1)
    rim = np.stack(
        [np.linspace(wide, -wide, 30), low + sag * np.cos(np.linspace(-1.5, 1.5, 30))], 1
    )
    outline = np.concatenate([dome, rim])
    mask = _fill(shape, middle + outline[:, :1] * across + outline[:, 1:] * down)
    image, classes = _put(image, classes, mask, cloth, CLOTHING)
    # Hair that the dome leaves free above it would stand out of a hat.
    above = (xs - middle[0]) * down[0] + (ys - middle[1]) * down[1] < low * _unit(points) ** 2
    over = (above & np.isin(classes, (HAIR, SKIN)) & (np.abs(side) < 1.5)).astype(np.float32)
    image, classes = _put(image, classes, over, cloth, CLOTHING)
    if kind < 0.65:
        reach = wide * rng.uniform(0.8, 1.9)
        brim = np.stack(
            [np.cos(turn) * reach, low + sag + np.sin(turn) * rng.uniform(0.05, 0.14)], 1
        )
        mask = _fill(shape, middle + brim[:, :1] * across + brim[:, 1:] * down)
        image, classes = _put(image, classes, mask, cloth * rng.uniform(0.5, 0.9), CLOTHING)
    return image, classes


def _glasses(
    image: Array, classes: NDArray[np.uint8], points: Array, rng: np.random.Generator
) -> tuple[Array, NDArray[np.uint8]]:
    """Glasses with a rim of any colour, or sunglasses."""
    _, across, down = _axes(points)
    shape = classes.shape
    unit = _unit(points)
    dark = rng.random() < 0.45
    colour = rng.uniform(0, 0.25, 3) if rng.random() < 0.7 else rng.uniform(0.1, 0.9, 3)
    thick = rng.uniform(0.008, 0.03) * unit
    power = rng.uniform(0.5, 1.0)
    wide, high = rng.uniform(0.15, 0.2), rng.uniform(0.09, 0.16)
    turn = np.linspace(0, 2 * np.pi, 60)
    lines = np.zeros(shape, np.uint8)
    lenses = np.zeros(shape, np.float32)
    sides = []
    for eye in (lm.EYE_R, lm.EYE_L):
        centre = points[list(eye)].mean(0) + 0.03 * down
        ring = np.stack(
            [np.sign(np.cos(turn)) * np.abs(np.cos(turn)) ** power * wide,
             np.sign(np.sin(turn)) * np.abs(np.sin(turn)) ** power * high], 1
        )  # fmt: skip
        outline = centre + ring[:, :1] * across + ring[:, 1:] * down
        cv2.polylines(
            lines,
            [np.round(outline).astype(np.int32)],
            True,
            255,
            max(1, round(thick)),
            cv2.LINE_AA,
        )
        lenses = np.maximum(lenses, _fill(shape, outline))
        sides.append(outline)
    for a, b in (
        (sides[0][0], sides[1][30]),
        (sides[0][30], points[234]),
        (sides[1][0], points[454]),
    ):
        ends = [tuple(int(v) for v in np.round(p)) for p in (a, b)]
        cv2.line(lines, ends[0], ends[1], 255, max(1, round(thick)), cv2.LINE_AA)
    if dark:
        tint = rng.uniform(0.02, 0.25, 3).astype(np.float32)
        gleam = np.linspace(
            rng.uniform(0.6, 1.6), rng.uniform(0.6, 1.6), shape[0], dtype=np.float32
        )
        glass = np.clip(tint * gleam[:, None, None] + 0.1 * rng.random() * image, 0, 1)
        image, classes = _put(image, classes, lenses, np.broadcast_to(glass, image.shape), THING)
    elif rng.random() < 0.5:
        image = image + (1 - image) * lenses[..., None] * np.float32(rng.uniform(0, 0.15))
    rim = np.broadcast_to(colour.astype(np.float32), image.shape)
    return _put(image, classes, lines.astype(np.float32) / 255, rim, THING)


def _light(image: Array, points: Array, rng: np.random.Generator) -> Array:
    """Another exposure, colour of light, and light from one side."""
    linear = np.clip(image, 0, 1) ** np.float32(2.2)
    h, w = image.shape[:2]
    if rng.random() < 0.4:
        angle = rng.uniform(0, 2 * np.pi)
        middle = points[[33, 263]].mean(0)
        ys, xs = np.mgrid[:h, :w].astype(np.float32)
        away = ((xs - middle[0]) * np.cos(angle) + (ys - middle[1]) * np.sin(angle)) / _unit(points)
        darkest = rng.uniform(0.08, 0.7)
        edge = 1 / (1 + np.exp(away / rng.uniform(0.05, 0.8)))
        one = 1 + rng.normal(0, 0.08, 3)
        linear = linear * (darkest + (1 - darkest) * edge)[..., None] * one
    if rng.random() < 0.6:
        linear = linear * np.exp(rng.normal(0, 0.14, 3))
    linear = linear * np.exp(rng.normal(0, 0.3))
    if rng.random() < 0.3:
        linear = linear * (1 - (veil := rng.uniform(0, 0.08))) + veil
    out = np.clip(linear, 0, 1) ** np.float32(1 / 2.2)
    if rng.random() < 0.4:
        grey = _luma(out.astype(np.float32))[..., None]
        out = grey + (out - grey) * rng.uniform(0.4, 1.5)
    if rng.random() < 0.4:
        out = np.clip(out, 0, 1) ** rng.uniform(0.75, 1.35)
    return np.asarray(np.clip(out, 0, 1), np.float32)


def _camera(image: Array, rng: np.random.Generator) -> Pixels:
    """Blur, noise and JPEG."""
    if rng.random() < 0.3:
        image = cv2.GaussianBlur(image, (0, 0), rng.uniform(0.4, 1.6))
    elif rng.random() < 0.3:
        image = image + rng.uniform(0.3, 1.2) * (image - cv2.GaussianBlur(image, (0, 0), 1.0))
    if rng.random() < 0.5:
        image = image + rng.normal(0, rng.uniform(0.003, 0.03), image.shape)
    pixels = (np.clip(image, 0, 1) * 255 + 0.5).astype(np.uint8)
    if rng.random() < 0.5:
        quality = int(rng.integers(30, 95))
        ok, data = cv2.imencode(".jpg", pixels, [cv2.IMWRITE_JPEG_QUALITY, quality])
        decoded = cv2.imdecode(data, cv2.IMREAD_COLOR) if ok else None
        if decoded is not None:
            return np.asarray(decoded, np.uint8)
    return pixels
