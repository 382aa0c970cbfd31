"""Zones on the demo portraits turned, half in shade, in other light, badly saved, small, cropped.

For every person and variant the overlap of all skin with the labels, and the zone that fell most beside
the portrait as it is. What a crop leaves out isn't scored.
"""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks.faces import ZONES, Scored, labels, overlap
from benchmarks.scoring import DEMO, EVERYONE
from retouch.face import Analysis, Face
from retouch.face.analysis import displayed
from retouch.face.find import find_faces
from retouch.face.zones import find_zones
from retouch.picture import read

Pixels = NDArray[np.uint8]
Variant = Callable[[Pixels, Pixels, Face], tuple[Pixels, Pixels]]

# Portraits are judged at this long side; what lies outside of the picture has this label.
_SIDE = 1500
_NOTHING = 250
_LEAST_PART = 0.03
_SKIN = Scored("all skin", "skin", (1, 11), None)
_TOLD = (_SKIN, *(z for z in ZONES if z.title in ("hair", "clothing", "background")))


def _turned(degrees: float) -> Variant:
    def make(pixels: Pixels, truth: Pixels, face: Face) -> tuple[Pixels, Pixels]:
        h, w = truth.shape
        matrix = cv2.getRotationMatrix2D((w / 2, h / 2), degrees, 1.0)
        c, s = abs(matrix[0, 0]), abs(matrix[0, 1])
        size = (int(h * s + w * c), int(h * c + w * s))
        matrix[:, 2] += np.array([size[0] - w, size[1] - h]) / 2
        picture = cv2.warpAffine(pixels, matrix, size, borderMode=cv2.BORDER_REPLICATE)
        turned = cv2.warpAffine(
            truth, matrix, size, flags=cv2.INTER_NEAREST, borderValue=_NOTHING
        )  # fmt: skip
        return picture, turned

    return make


def _lit(gain: Callable[[Pixels, Face], NDArray[np.float32]]) -> Variant:
    def make(pixels: Pixels, truth: Pixels, face: Face) -> tuple[Pixels, Pixels]:
        linear = (pixels / np.float32(255)) ** np.float32(2.2) * gain(pixels, face)
        out = np.clip(linear, 0, 1) ** np.float32(1 / 2.2)
        return (out * 255 + 0.5).astype(np.uint8), truth

    return make


def _half_in_shade(pixels: Pixels, face: Face) -> NDArray[np.float32]:
    xs = np.arange(pixels.shape[1], dtype=np.float32)
    t = (xs - face.anchor[0]) / (0.08 * face.height)
    return (0.2 + 0.8 / (1 + np.exp(-t)))[None, :, None].astype(np.float32)


def _saved(pixels: Pixels, truth: Pixels, face: Face) -> tuple[Pixels, Pixels]:
    _, data = cv2.imencode(".jpg", pixels, [cv2.IMWRITE_JPEG_QUALITY, 40])
    return np.asarray(cv2.imdecode(data, cv2.IMREAD_COLOR), np.uint8), truth


def _small(pixels: Pixels, truth: Pixels, face: Face) -> tuple[Pixels, Pixels]:
    k = 80 / face.box[2]
    size = (round(pixels.shape[1] * k), round(pixels.shape[0] * k))
    return (
        cv2.resize(pixels, size, interpolation=cv2.INTER_AREA),
        cv2.resize(truth, size, interpolation=cv2.INTER_NEAREST),
    )


def _cropped(pixels: Pixels, truth: Pixels, face: Face) -> tuple[Pixels, Pixels]:
    x, y, w, h = face.box
    cut = np.s_[
        max(int(y + 0.06 * h), 0) : int(y + 1.0 * h), max(int(x - 0.05 * w), 0) : int(x + 1.05 * w)
    ]
    return np.ascontiguousarray(pixels[cut]), np.ascontiguousarray(truth[cut])


def _tinted(*gains: float) -> Variant:
    return _lit(lambda pixels, face: np.array(gains, np.float32))


VARIANTS: dict[str, Variant] = {
    "turned by 30°": _turned(30),
    "turned by 60°": _turned(60),
    "half in shade": _lit(_half_in_shade),
    "warm light": _tinted(1.25, 1.0, 0.65),
    "cool light": _tinted(0.8, 1.0, 1.3),
    "JPEG quality 40": _saved,
    "a face of 80 px": _small,
    "cropped at forehead and chin": _cropped,
}


def found_in(pixels: Pixels) -> Analysis | None:
    """Faces and zones of a picture, without marks; None where there is no face."""
    faces = find_faces(pixels)
    if not faces:
        return None
    layers = find_zones(pixels, faces)
    return Analysis(pixels.shape[1], pixels.shape[0], tuple(faces), tuple(layers), ())


def reduced(name: str) -> tuple[Pixels, Pixels]:
    """A demo portrait and its labels at no more than the judged size."""
    pixels, truth = displayed(read(DEMO / "portraits" / f"{name}.jpg")), labels(name)
    k = min(1.0, _SIDE / max(truth.shape))
    size = (round(truth.shape[1] * k), round(truth.shape[0] * k))
    return (
        np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8),
        np.asarray(cv2.resize(truth, size, interpolation=cv2.INTER_NEAREST), np.uint8),
    )


def scores(truth: Pixels, analysis: Analysis | None) -> dict[str, float | None]:
    """The overlap of the zones told, by title; 0 where no face was found."""
    out: dict[str, float | None] = {}
    for one in _TOLD:
        # Of what a crop leaves hardly anything of nothing can be said.
        if np.isin(truth, one.numbers).mean() < _LEAST_PART:
            out[one.title] = None
            continue
        counted = Scored(one.title, one.zone, one.numbers, one.aim, (_NOTHING,), one.rim)
        out[one.title] = overlap(counted, truth, analysis) if analysis is not None else 0.0
    return out


def table() -> str:
    """All skin in every variant, and the zone that falls most."""
    lines = [
        "| all skin (fall of the zone that falls most) | " + " | ".join(EVERYONE) + " |",
        "|---" * (len(EVERYONE) + 1) + "|",
    ]
    pictures = {name: reduced(name) for name in EVERYONE}
    plain, faces = {}, {}
    for name, (pixels, truth) in pictures.items():
        analysis = found_in(pixels)
        assert analysis is not None
        plain[name], faces[name] = scores(truth, analysis), analysis.faces[0]
    cells = [f"{plain[name]['all skin']:.3f}" for name in EVERYONE]
    lines.append(f"| as it is | {' | '.join(cells)} |")
    for title, make in VARIANTS.items():
        cells = []
        for name, (pixels, truth) in pictures.items():
            picture, expected = make(pixels, truth, faces[name])
            got = scores(expected, found_in(picture))
            falls = {
                z: was - now
                for z, was in plain[name].items()
                if was is not None and (now := got[z]) is not None
            }
            worst = max(falls, key=lambda z: falls[z])
            skin = got["all skin"] or 0.0
            cells.append(f"{skin:.3f} ({worst} {-falls[worst]:+.2f})")
        lines.append(f"| {title} | {' | '.join(cells)} |")
        print(lines[-1], flush=True)
    return "\n".join(lines)
