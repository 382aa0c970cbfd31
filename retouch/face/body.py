"""A person in large: background, skin, hair and clothing."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.depth import to_float
from retouch.colour.lab import lab_of_pixels as lab
from retouch.face import landmarks as lm
from retouch.face import skin as skins
from retouch.face.classes import classify
from retouch.face.frame import Frame, distance, ramp
from retouch.face.models import MODELS, Models

Array = NDArray[np.float32]

BACKGROUND, SKIN, HAIR, CLOTHING = range(4)


def person(frame: Frame, models: Models = MODELS) -> Array:
    """How surely each pixel belongs to the person, (h, w) 0..1, edges sharpened."""
    whole = models.person(frame.pixels)
    h, w = frame.shape
    # The model sees 256 pixels: the head is looked at again by itself.
    middle = frame.points[[lm.TOP, lm.CHIN]].mean(0)
    reach = 1.25 * frame.unit
    x0, y0 = int(max(middle[0] - reach, 0)), int(max(middle[1] - reach, 0))
    x1, y1 = int(min(middle[0] + reach, w)), int(min(middle[1] + reach, h))
    near = models.person(np.ascontiguousarray(frame.pixels[y0:y1, x0:x1]))
    ys = np.minimum(np.arange(y1 - y0), np.arange(y1 - y0)[::-1])[:, None]
    xs = np.minimum(np.arange(x1 - x0), np.arange(x1 - x0)[::-1])[None, :]
    # Where the head's frame is cut by the picture itself, its border is no reason for doubt.
    inner = np.full(near.shape, 1e6, np.float32)
    if x0 > 0 or x1 < w:
        inner = np.minimum(inner, xs)
    if y0 > 0 or y1 < h:
        inner = np.minimum(inner, ys)
    share = np.clip(inner / (0.3 * frame.unit), 0, 1)
    out = whole.copy()
    out[y0:y1, x0:x1] = share * near + (1 - share) * out[y0:y1, x0:x1]
    return cv2.ximgproc.guidedFilter(frame.pixels, out, 6, 1e-3 * 255 * 255)


def sample_skin(frame: Frame) -> skins.SkinModel:
    """The colour of this person's skin: cheeks, nose, forehead and chin."""
    oval = distance(frame.polygon(lm.OVAL)) > 0.08 * frame.unit
    for part in (lm.EYE_R, lm.EYE_L, lm.BROW_R, lm.BROW_L, lm.LIPS_OUT):
        oval &= distance(frame.polygon(part)) < -0.03 * frame.unit
    pixels = to_float(frame.pixels[oval])
    if len(pixels) < 50:
        pixels = to_float(frame.pixels[frame.polygon(lm.OVAL) > 0.5])
    step = max(1, len(pixels) // 20000)
    return skins.fit(pixels[::step])


def priors(frame: Frame, alive: Array) -> tuple[Array, Array]:
    """Where each class is expected, and where it surely is; (4, h, w) each.

    From the person's outline and the face.
    """
    unit = frame.unit
    u, v = frame.upright()
    oval = distance(frame.polygon(lm.OVAL)) / unit
    chin = float(v[_at(frame, lm.CHIN)])
    jaw = abs(float(u[_at(frame, lm.JAW_R)]) - float(u[_at(frame, lm.JAW_L)])) / 2
    side = abs(float(u[_at(frame, lm.SIDE_R)]) - float(u[_at(frame, lm.SIDE_L)])) / 2
    centre = float(u[_at(frame, lm.CHIN)])
    # Surely skin: the oval from the brows down. Surely hair: well above it. Between them, and
    # beside the face, colour decides: both are expected alike.
    sure_skin = ramp(oval - 0.02, 0.03) * ramp(v + 0.16, 0.08)
    forehead = ramp(oval + 0.24, 0.08) * ramp(v + 0.75, 0.12)
    ears = ramp(side + 0.2 - np.abs(u), 0.05) * ramp(v + 0.16, 0.1) * ramp(0.42 - v, 0.1)
    neck = ramp(jaw * 1.1 - np.abs(u - centre * 0.6), 0.1) * ramp(v - chin + 0.2, 0.08)
    neck = neck * ramp(chin + 0.5 - v, 0.22)
    shoulders = 0.1 * ramp(v - chin - 0.1, 0.2)
    skin = np.maximum.reduce([sure_skin, 0.6 * forehead, 0.7 * ears, neck, shoulders]) + 0.01
    out_of_face = ramp(-oval - 0.015, 0.03)
    crown = ramp(-v - 0.42, 0.1) * out_of_face
    sure_hair = ramp(-v - 0.62, 0.06) * ramp(-oval - 0.12, 0.04)
    fringe = 0.2 * ramp(-v - 0.2, 0.08)
    beside = 0.35 * out_of_face * ramp(0.5 - v, 0.25)
    long = 0.12 * out_of_face * ramp(chin + 0.6 - v, 0.4) * ramp(np.abs(u) - side * 0.8, 0.15)
    beard = 0.04 * ramp(v - 0.25, 0.1)
    hair = np.maximum.reduce([crown, fringe, beside, long, beard]) + 0.004
    clothing = ramp(v - chin - 0.22, 0.16) + 0.35 * ramp(v - chin - 0.02, 0.12) + 0.001
    inside = np.clip(alive, 0.005, 0.995)
    sure_clothing = ramp(v - chin - 0.45, 0.1)
    expected = np.stack([1 - inside, inside * skin, inside * hair, inside * clothing])
    inner = np.clip(2 * alive - 1, 0, 1)
    sure = np.stack(
        [
            np.clip(1 - 2 * alive, 0, 1),
            sure_skin * inner,
            sure_hair * inner,
            sure_clothing * inner,
        ]
    )
    return expected.astype(np.float32), sure.astype(np.float32)


def _at(frame: Frame, point: int) -> tuple[int, int]:
    x, y = frame.points[point]
    return (
        int(np.clip(y, 0, frame.shape[0] - 1)),
        int(np.clip(x, 0, frame.shape[1] - 1)),
    )


def divide(frame: Frame, models: Models = MODELS) -> tuple[Array, skins.SkinModel]:
    """Posteriors (4, h, w) of background, skin, hair, clothing, and the skin's colour."""
    alive = person(frame, models)
    model = sample_skin(frame)
    alike = model.likelihood(to_float(frame.pixels))
    values = lab(frame.pixels)
    light = values[..., 0]
    # Hair is streaky where skin is smooth: the local spread of lightness is a fourth value.
    mean, square = cv2.blur(light, (5, 5)), cv2.blur(light * light, (5, 5))
    rough = np.sqrt(np.maximum(square - mean * mean, 0))
    values = np.dstack([values, 8 * np.log1p(rough)])
    expected, sure = priors(frame, alive)
    # Bare scalp or forehead above the mesh mustn't teach what hair looks like.
    sure[HAIR] *= 1 - 0.9 * alike
    posterior = classify(
        values,
        expected,
        frame.pixels,
        seeds=sure,
        rounds=5,
        radius=max(2, round(0.012 * frame.unit)),
        extra={SKIN: 0.15 + alike},
        flatness=0.85,
    )
    return _connected(posterior, sure[HAIR], frame.unit), model


def _connected(posterior: Array, crown: Array, unit: float) -> Array:
    """Hair that hangs together with the crown; islands in the face go to the skin.

    Brows, a shadow in an ear or a highlight on the forehead look like hair to the colours alone.
    """
    best = posterior.argmax(0)
    _, parts, stats, _ = cv2.connectedComponentsWithStats((best == HAIR).astype(np.uint8))
    if len(stats) < 2:
        return posterior
    held = np.bincount(parts.ravel(), crown.ravel().astype(np.float64), len(stats))
    held[0] = 0
    keep = held > 0.02 * max(held.max(), 1e-9)
    keep |= stats[:, cv2.CC_STAT_AREA] > 0.1 * stats[1:, cv2.CC_STAT_AREA].max()
    island = (~keep[parts]) & (best == HAIR)
    out = posterior.copy()
    # What an island was, without hair in the running; what surrounds it decides the rest.
    size = 2 * max(1, round(0.02 * unit)) + 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))
    near = cv2.dilate(island.astype(np.uint8), disc) > 0
    near &= cv2.dilate((keep[parts] & (best == HAIR)).astype(np.uint8), disc) == 0
    near |= island
    out[SKIN][near] += out[HAIR][near]
    out[HAIR][near] = 0
    return out
