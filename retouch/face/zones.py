"""The zones of people in a picture, as soft masks."""

from __future__ import annotations

import math
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.face import body, features
from retouch.face import landmarks as lm
from retouch.face.find import Face
from retouch.face.frame import Frame, cut, distance, ramp
from retouch.face.models import MODELS, Models
from retouch.face.parser import BEARD, CLOTHING, HAIR, SKIN, THING
from retouch.face.spectacles import spectacles
from retouch.face.stubble import stubble
from retouch.geometry import Rect
from retouch.processors import at_once

Array = NDArray[np.float32]
Pixels = NDArray[np.uint8]

# Working sizes: height of the face in pixels for the body, and for the head with its features.
_BODY_UNIT, _HEAD_UNIT = 300.0, 640.0
_MOST_PIXELS = 1.4e6
# Softness between two zones of skin, in face heights, and the face's height at which it is drawn.
_SEAM, _SEAM_UNIT = 0.018, 200.0


@dataclass(frozen=True)
class Layer:
    """A mask over ``rect`` of the original, reduced: (h, w) uint8, 255 is wholly inside."""

    zone: str
    face: int  # -1: of nobody
    rect: Rect
    mask: NDArray[np.uint8]


def find_zones(
    picture: Pixels,
    faces: list[Face],
    progress: Callable[[float], None] = lambda share: None,
    models: Models = MODELS,
) -> list[Layer]:
    """All zones of all people.

    Parameters
    ----------
    picture : ndarray (h, w, 3) uint8
        sRGB at full size.
    """
    bounds = Rect(0, 0, picture.shape[1], picture.shape[0])
    people = [_Person(picture, face, models) for face in faces]

    def whole(n: int) -> tuple[Frame, Array, list[Layer]]:
        face = faces[n]
        frame = cut(picture, face, _body_rect(face, bounds), _body_scale(face, bounds, len(faces)))
        person = people[n].looked_at()
        progress(0.3)
        chances = person.over(frame) * _own(frame, n, faces)
        unsure = person.unsure(frame) * chances[1:].sum(0)
        rest = _rest(n, frame, chances, head_rect(face, bounds))
        return frame, chances, [*rest, _layer("unsure", n, frame, unsure)]

    def near(n: int) -> list[Layer]:
        face = faces[n]
        # In a group nobody is looked at as closely as in a portrait.
        unit = _HEAD_UNIT / len(faces) ** 0.25
        head = cut(picture, face, head_rect(face, bounds), min(1.0, unit / face.height))
        return _head(n, head, people[n], _own(head, n, faces))

    parts = [(make, n) for make in (whole, near) for n in range(len(faces))]
    found: list[Any] = at_once(lambda part: part[0](part[1]), parts)
    bodies, heads = found[: len(faces)], found[len(faces) :]
    layers: list[Layer] = []
    for (_, _, of_body), of_head in zip(bodies, heads, strict=True):
        layers += [*of_head, *of_body]
    layers.append(_background(bounds, [(frame, chances) for frame, chances, _ in bodies]))
    progress(1.0)
    return layers


def _body_rect(face: Face, bounds: Rect) -> Rect:
    x, y, width, _ = face.box
    h = face.height
    middle = x + width / 2
    return Rect(int(middle - 3 * h), int(y - 1.2 * h), int(middle + 3 * h), int(y + 8 * h)).clip(
        bounds
    )


def _body_scale(face: Face, bounds: Rect, people: int) -> float:
    rect = _body_rect(face, bounds)
    most = (_MOST_PIXELS / (people * rect.width * rect.height)) ** 0.5
    return min(1.0, _BODY_UNIT / face.height, most)


def head_rect(face: Face, bounds: Rect) -> Rect:
    """The part of the picture around a head: face, hair, ears and neck."""
    x, y, width, height = face.box
    h = face.height
    return Rect(
        int(x - 0.35 * h), int(y - 0.5 * h), int(x + width + 0.35 * h), int(y + height + 0.55 * h)
    ).clip(bounds)


def _own(frame: Frame, n: int, faces: list[Face]) -> Array:
    """1 where this person is the nearest of all, in heights of their faces."""
    own = np.ones(frame.shape, np.float32)
    if len(faces) == 1:
        return own
    ys, xs = np.mgrid[: frame.shape[0], : frame.shape[1]].astype(np.float32)
    xs, ys = xs / frame.scale + frame.rect.x0, ys / frame.scale + frame.rect.y0

    def away(face: Face) -> Array:
        x, y, width, height = face.box
        h = face.height
        dx = (xs - x - width / 2) / h
        # Downwards lies one's own body.
        dy = np.maximum((ys - y - height / 2) / h, 0) * 0.25 + np.maximum(
            (y + height / 2 - ys) / h, 0
        )
        return np.asarray(np.hypot(dx, dy), np.float32)

    mine = away(faces[n])
    others = np.minimum.reduce([away(f) for m, f in enumerate(faces) if m != n])
    return ramp(others - mine, 0.05)


class _Person:
    """A person, looked at in large by whoever asks first, while the others do what needs it not."""

    def __init__(self, picture: Pixels, face: Face, models: Models) -> None:
        self._lock = threading.Lock()
        self._wanted = picture, face, models
        self._seen: body.Body | None = None

    def looked_at(self) -> body.Body:
        with self._lock:
            if self._seen is None:
                self._seen = body.look_at(*self._wanted)
            return self._seen


def _head(n: int, head: Frame, person: _Person, own: Array) -> list[Layer]:
    """Skin of the face by zone, and its features."""
    # What takes longest begins first.
    parts: list[Callable[[], Any]] = [
        lambda: spectacles(head),
        lambda: features.eye(head, True),
        lambda: features.eye(head, False),
        lambda: features.brow(head, True) + features.brow(head, False),
        lambda: features.mouth(head),
        lambda: _shares(_coarse(head)),
        lambda: person.looked_at().over(head) * own,
    ]
    glasses, right, left, brows, mouth, shares, chances = at_once(lambda part: part(), parts)
    skin, hair, beard, clothing, thing = (chances[k] for k in (SKIN, HAIR, BEARD, CLOTHING, THING))
    found: dict[str, Array] = {}
    found["eye_whites"] = right["eye_white"] + left["eye_white"]
    found["irises"] = right["iris"] + left["iris"]
    found["pupils"] = right["pupil"] + left["pupil"]
    found["lashes"] = right["lashes"] + left["lashes"]
    found["brows"] = brows
    found |= mouth
    if glasses is not None:
        # What is seen through a lens isn't worn; a dark lens is.
        thing = np.maximum(thing * (1 - glasses.lenses), glasses.frame)
        if glasses.dark:
            thing = np.maximum(thing, glasses.lenses)
        hair, beard = hair * (1 - glasses.frame), beard * (1 - glasses.frame)
    # Nothing of the eyes is seen through dark glasses, and a rim is no brow.
    seen = 1 - np.clip(2 * thing, 0, 1)
    for name in ("eye_whites", "irises", "pupils", "lashes", "brows"):
        found[name] = found[name] * seen
    taken = np.zeros(head.shape, np.float32)
    for name, mask in found.items():
        if name != "pupils":
            taken += mask
    between_lids = np.maximum(right["open"], left["open"]) * seen
    # Features lie on what the parser calls skin, beard or hair; each pixel is one thing.
    free = (1 - np.clip(np.maximum(taken, between_lids), 0, 1)) * (1 - _nostrils(head))
    skin = skin * free
    if glasses is not None:
        skin = skin * (1 - glasses.frame)
        found["lenses"], found["glasses"] = glasses.lenses, glasses.frame
    found.pop("mouth")
    found["hair"] = hair * (1 - np.clip(taken, 0, 1))
    found["beard"] = beard * free

    def of_skin() -> list[Layer]:
        zones = {name: skin * cv2.resize(share, head.shape[::-1]) for name, share in shares.items()}
        return [_layer(name, n, head, mask) for name, mask in zones.items()]

    made: list[Callable[[], list[Layer]]] = [
        lambda: [_layer("stubble", n, head, stubble(head, skin))],
        of_skin,
        lambda: [_layer(name, n, head, mask) for name, mask in found.items()],
        lambda: [_layer("clothing", n, head, clothing), _layer("worn", n, head, thing)],
    ]
    stubbly, skins, features_of, worn = at_once(lambda make: make(), made)
    return [*features_of, *skins, *worn, *stubbly]


def _nostrils(head: Frame) -> Array:
    inside = head.polygon(lm.NOSTRIL_R) + head.polygon(lm.NOSTRIL_L)
    light = cv2.cvtColor(head.pixels, cv2.COLOR_RGB2GRAY).astype(np.float32)
    around = light[head.polygon(lm.NOSE) > 0.5]
    if not len(around):
        return inside
    level = float(np.median(around)) * 0.5
    near = ramp(distance(inside) + 0.02 * head.unit, 0.015 * head.unit)
    return near * ramp(level - light, 0.25 * level)


def _coarse(head: Frame) -> Frame:
    """The head at the size at which soft seams between zones of skin are drawn."""
    k = min(1.0, _SEAM_UNIT / head.unit)
    size = (max(1, round(head.shape[1] * k)), max(1, round(head.shape[0] * k)))
    sx, sy = size[0] / head.shape[1], size[1] / head.shape[0]
    points = (head.points * np.array([sx, sy], np.float32)).astype(np.float32)
    # Nothing of the pixels is looked at.
    pixels = np.zeros((size[1], size[0], 3), np.uint8)
    return Frame(head.rect, head.scale * k, pixels, points, head.face)


def _shares(head: Frame) -> dict[str, Array]:
    """How each pixel of skin divides among the zones, summing to 1."""
    u, v = head.upright()
    unit = head.unit
    oval = distance(head.polygon(lm.OVAL)) / unit
    at = {name: head.points[index] for name, index in _PLACES.items()}
    roll = np.radians(head.face.pose.roll)
    c, s = np.cos(roll), np.sin(roll)
    middle = head.points[list(lm.CORNERS)].mean(0)

    def upright(p: Array) -> tuple[float, float]:
        dx, dy = (p - middle) / unit
        return float(c * dx + s * dy), float(c * dy - s * dx)

    spots = {name: upright(p) for name, p in at.items()}
    brow = (spots["brow_r"][1] + spots["brow_l"][1]) / 2
    centre = spots["nose"][0]
    mouth_v = spots["lip"][1]
    chin_v = spots["chin"][1]
    label = np.zeros(head.shape, np.int32)
    names = list(_ORDER)
    put = {name: k for k, name in enumerate(names)}
    label[:] = put["other_skin"]
    side_right = u < centre
    inside = oval > -0.01
    label[(v > 0.2) & (v < chin_v + 0.55) & ~inside] = put["neck"]
    label[~inside & (v <= 0.42) & (v > -0.3) & (np.abs(u - centre) > 0.25)] = put["ears"]
    label[inside & side_right] = put["cheek_right"]
    label[inside & ~side_right] = put["cheek_left"]
    label[inside & (oval < 0.075) & (v > mouth_v - 0.16)] = put["jaw"]
    label[(v < brow) & (np.abs(u - centre) < 0.46) & (oval > -0.5)] = put["forehead"]
    lids = inside & (v >= brow) & (v < 0.02) & (np.abs(u - centre) > 0.07) & (np.abs(u) < 0.34)
    label[lids] = put["eyelids"]
    lips = distance(head.polygon(lm.LIPS_OUT)) / unit
    label[inside & (lips > -0.1) & (v > spots["nose_base"][1])] = put["mouth_area"]
    below = v > mouth_v + 0.5 * (chin_v - mouth_v)
    label[inside & below & (np.abs(u - spots["chin"][0]) < 0.16)] = put["chin"]
    bridge = inside & (np.abs(u - centre * 0.5) < 0.045) & (v >= brow) & (v < 0.15)
    label[bridge | (head.polygon(lm.NOSE) > 0.5)] = put["nose"]
    label[head.polygon(lm.UNDER_R) > 0.5] = put["under_eye_right"]
    label[head.polygon(lm.UNDER_L) > 0.5] = put["under_eye_left"]
    sigma = _SEAM * unit
    shares = {name: cv2.GaussianBlur((label == k).astype(np.float32), (0, 0), sigma)
              for name, k in put.items()}  # fmt: skip
    total = sum(shares.values())
    return {name: np.asarray(a / (total + 1e-6), np.float32) for name, a in shares.items()}


_PLACES = {
    "brow_r": 52,
    "brow_l": 282,
    "nose": 4,
    "nose_base": lm.NOSE_BASE,
    "lip": lm.LIP_UPPER,
    "chin": lm.CHIN,
}
_ORDER = (
    "forehead", "eyelids", "nose", "cheek_right", "cheek_left", "under_eye_right",
    "under_eye_left", "mouth_area", "chin", "jaw", "ears", "neck", "other_skin",
)  # fmt: skip


def _layer(zone: str, face: int, frame: Frame, mask: Array) -> Layer:
    """A layer cut down to where it holds something."""
    whole = (np.clip(mask, 0, 1) * 255 + 0.5).astype(np.uint8)
    ys, xs = np.flatnonzero(whole.max(1) > 2), np.flatnonzero(whole.max(0) > 2)
    if not len(ys):
        return Layer(zone, face, Rect(0, 0, 0, 0), np.zeros((1, 1), np.uint8))
    y0, y1 = max(int(ys[0]) - 1, 0), min(int(ys[-1]) + 2, frame.shape[0])
    x0, x1 = max(int(xs[0]) - 1, 0), min(int(xs[-1]) + 2, frame.shape[1])
    kx, ky = frame.rect.width / frame.shape[1], frame.rect.height / frame.shape[0]
    # Whole pixels of the original on both sides, so that the mask lies exactly.
    rect = Rect(
        frame.rect.x0 + round(x0 * kx), frame.rect.y0 + round(y0 * ky),
        frame.rect.x0 + round(x1 * kx), frame.rect.y0 + round(y1 * ky),
    )  # fmt: skip
    return Layer(zone, face, rect, np.ascontiguousarray(whole[y0:y1, x0:x1]))


def _rest(n: int, frame: Frame, posterior: Array, head: Rect) -> list[Layer]:
    """Body, hair and clothing outside of the head's rectangle."""
    kx, ky = frame.shape[1] / frame.rect.width, frame.shape[0] / frame.rect.height
    outside = np.ones(frame.shape, np.float32)
    x0, x1 = round((head.x0 - frame.rect.x0) * kx), round((head.x1 - frame.rect.x0) * kx)
    y0, y1 = round((head.y0 - frame.rect.y0) * ky), round((head.y1 - frame.rect.y0) * ky)
    # One pixel less, so that no seam stays between this and the head's own layers.
    outside[max(y0, 0) + 1 : y1 - 1, max(x0, 0) + 1 : x1 - 1] = 0
    pairs = (
        ("other_skin", SKIN), ("hair", HAIR), ("beard", BEARD), ("clothing", CLOTHING),
        ("worn", THING),
    )  # fmt: skip
    return [_layer(name, n, frame, posterior[k] * outside) for name, k in pairs]


def _background(bounds: Rect, bodies: list[tuple[Frame, Array]]) -> Layer:
    """What belongs to nobody, over the whole picture."""
    scale = min(1.0, 1400 / max(bounds.width, bounds.height))
    if bodies:
        scale = max(scale, min(max(f.scale for f, _ in bodies), 1.0))
        scale = min(scale, (_MOST_PIXELS * 2 / (bounds.width * bounds.height)) ** 0.5)
    shape = (max(1, round(bounds.height * scale)), max(1, round(bounds.width * scale)))
    alive = np.zeros(shape, np.float32)
    kx, ky = shape[1] / bounds.width, shape[0] / bounds.height
    for frame, posterior in bodies:
        x0, x1 = round(frame.rect.x0 * kx), round(frame.rect.x1 * kx)
        y0, y1 = round(frame.rect.y0 * ky), round(frame.rect.y1 * ky)
        part = cv2.resize(posterior[1:].sum(0), (x1 - x0, y1 - y0), interpolation=cv2.INTER_LINEAR)
        alive[y0:y1, x0:x1] = np.maximum(alive[y0:y1, x0:x1], part)
    return Layer("background", -1, bounds, ((1 - alive) * 255 + 0.5).astype(np.uint8))


def combine(
    layers: list[Layer],
    names: tuple[str, ...],
    rect: Rect,
    shape: tuple[int, int],
    face: int | None = None,
) -> Array:
    """Zones together over a rectangle of the original.

    Parameters
    ----------
    names : tuple of str
        Zones to add up.
    rect : Rect
        Of the original.
    shape : (int, int)
        Rows and columns wanted.
    face : int, optional
        Only of this person.

    Returns
    -------
    ndarray (rows, cols) float32, 0..1
    """
    out = np.zeros(shape, np.float32)
    kx, ky = shape[1] / max(rect.width, 1), shape[0] / max(rect.height, 1)
    for layer in layers:
        if layer.zone not in names or layer.rect.empty or not layer.rect.meets(rect):
            continue
        if face is not None and layer.face not in (face, -1):
            continue
        sx = layer.mask.shape[1] / layer.rect.width
        sy = layer.mask.shape[0] / layer.rect.height
        both = layer.rect.clip(rect)
        x0, x1 = int((both.x0 - rect.x0) * kx), math.ceil((both.x1 - rect.x0) * kx)
        y0, y1 = int((both.y0 - rect.y0) * ky), math.ceil((both.y1 - rect.y0) * ky)
        x1, y1 = min(x1, shape[1]), min(y1, shape[0])  # where rounding went a hair too far
        if x1 <= x0 or y1 <= y0:
            continue
        source = layer.mask
        rx, ry = sx / kx, sy / ky
        if rx > 1.5:
            # Far fewer pixels wanted than there are: average, or thin zones would flicker.
            size = (max(1, round(source.shape[1] / rx)), max(1, round(source.shape[0] / ry)))
            source = cv2.resize(source, size, interpolation=cv2.INTER_AREA)
            rx, ry = (
                source.shape[1] / layer.rect.width / kx,
                source.shape[0] / layer.rect.height / ky,
            )
        left = (rect.x0 - layer.rect.x0) * rx * kx + (x0 + 0.5) * rx - 0.5
        top = (rect.y0 - layer.rect.y0) * ry * ky + (y0 + 0.5) * ry - 0.5
        part = cv2.warpAffine(
            source, np.array([[rx, 0, left], [0, ry, top]]), (x1 - x0, y1 - y0),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_CONSTANT,
        )  # fmt: skip
        _add(out, part, y0, x0)
    return out


@compiled
def _add(out: Array, part: NDArray[np.uint8], y0: int, x0: int) -> None:
    """Add a mask of 8 bits to one of 0..1 from a row and column on, in place, up to 1."""
    h, w = part.shape
    step, one = np.float32(1 / 255), np.float32(1)
    for i in range(h):
        for j in range(w):
            if part[i, j]:
                out[y0 + i, x0 + j] = min(out[y0 + i, x0 + j] + np.float32(part[i, j]) * step, one)
