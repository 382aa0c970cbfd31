"""What ``faces`` does: what is found about the faces of a photograph, told and written."""

from __future__ import annotations

import argparse
import json
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.errors import PictureError
from retouch.face import Analysis, Face, Mark, analyse, visible
from retouch.face.analysis import displayed
from retouch.geometry import Rect
from retouch.picture import Picture, read
from retouch.zone_names import SKIN_OF_FACE

# The files of ``--zones``, each with the zones that it shows together.
ZONE_FILES: dict[str, tuple[str, ...]] = {
    "skin_face": SKIN_OF_FACE,
    "skin_body": ("neck", "other_skin"),
    "hair": ("hair",),
    "beard": ("beard",),
    "lips": ("lip_upper", "lip_lower"),
    "teeth": ("teeth",),
    "eye_whites": ("eye_whites",),
    "irises": ("irises",),
    "pupils": ("pupils",),
    "lashes": ("lashes",),
    "brows": ("brows",),
    "lenses": ("lenses",),
    "worn": ("worn",),
    "clothing": ("clothing",),
    "stubble": ("stubble",),
    "unsure": ("unsure",),
    "background": ("background",),
}
# Tints of the overlay, sRGB, and how strong they are; the background stays as it is.
_TINTS: dict[str, tuple[int, int, int]] = {
    "skin_face": (0, 150, 136),
    "skin_body": (63, 81, 181),
    "hair": (156, 39, 176),
    "beard": (255, 87, 34),
    "lips": (233, 30, 99),
    "teeth": (255, 255, 255),
    "eye_whites": (3, 169, 244),
    "irises": (0, 60, 160),
    "brows": (121, 85, 72),
    "lenses": (96, 125, 139),
    "worn": (0, 0, 0),
    "clothing": (255, 193, 7),
}
_TINT_SHARE = 0.4
# Rings of the overlay, by what becomes of a mark.
_RINGS = {"clear": (255, 64, 32), "ask": (255, 214, 0), "keep": (240, 240, 240)}


@dataclass(frozen=True)
class Looked:
    """A photograph, what was found in it, and the seconds that took, reading included."""

    photo: str
    picture: Picture
    analysis: Analysis
    seconds: float


def told(photo: str, several: bool, options: argparse.Namespace) -> str:
    """Look at a photo, write what the options ask for, and say what was found.

    Of ``several`` photos each gets a folder of its own for its zones.
    """
    one = _look(photo)
    stem = Path(photo).stem
    if options.overlay:
        _write(Path(options.overlay) / f"{stem}.jpg", overlay(one, options.sensitivity))
    if options.zones:
        folder = Path(options.zones)
        _write_zones(one, folder / stem if several else folder)
    found = described_as_data(one, options.sensitivity)
    return json.dumps(found) if options.json else described_in_words(found)


def _look(photo: str) -> Looked:
    start = time.perf_counter()
    picture = read(photo)
    analysis = analyse(picture)
    return Looked(photo, picture, analysis, time.perf_counter() - start)


def described_as_data(one: Looked, sensitivity: float) -> dict[str, Any]:
    """What was found in a photo as plain data (docs/command-line.md tells the fields)."""
    analysis = one.analysis
    return {
        "photo": one.photo,
        "seconds": round(one.seconds, 2),
        "faces": [_face(f) for f in analysis.faces],
        "marks": [
            _mark(m, number, analysis.zone_at(m.x, m.y)[1])
            for number, marks in enumerate(analysis.marks)
            for m in visible(list(marks), sensitivity)
        ],
    }


def _face(face: Face) -> dict[str, Any]:
    return {
        "box": [round(v, 1) for v in face.box],
        "px_per_mm": round(face.scale.px_per_mm, 3),
        "uncertainty": round(face.scale.uncertainty, 3),
        "plausible": face.scale.plausible,
        "pose": {
            "yaw": round(face.pose.yaw, 1),
            "pitch": round(face.pose.pitch, 1),
            "roll": round(face.pose.roll, 1),
        },
    }


def _mark(mark: Mark, face: int, zone: str) -> dict[str, Any]:
    return {
        "x": round(mark.x, 1),
        "y": round(mark.y, 1),
        "r": round(mark.radius, 1),
        "reach": round(mark.reach, 1),
        "kind": mark.kind,
        "decision": mark.proposal,
        "confidence": round(mark.confidence, 3),
        "zone": zone,
        "face": face,
    }


def described_in_words(found: dict[str, Any]) -> str:
    """The same for people."""
    lines = [f"{found['photo']}: {_count(len(found['faces']), 'face')}, {found['seconds']} s"]
    for n, face in enumerate(found["faces"]):
        x, y, w, h = face["box"]
        pose = face["pose"]
        doubt = "" if face["plausible"] else ", not plausible for an adult"
        lines.append(
            f"  face {n}: {w:.0f} x {h:.0f} px at {x:.0f}, {y:.0f}; {face['px_per_mm']:.2f} px/mm "
            f"± {100 * face['uncertainty']:.0f} %{doubt}; turned {pose['yaw']:.0f}°, "
            f"down {pose['pitch']:.0f}°, tilted {pose['roll']:.0f}°"
        )
        for mark in (m for m in found["marks"] if m["face"] == n):
            lines.append(
                f"    {mark['decision']:5} {mark['confidence']:.2f}  {mark['kind']:6} at "
                f"{mark['x']:.1f}, {mark['y']:.1f}, radius {mark['r']:.1f} px, {mark['zone']}"
            )
    return "\n".join(lines)


def _count(number: int, what: str) -> str:
    return f"{number or 'no'} {what}{'' if number == 1 else 's'}"


def cover(one: Looked, name: str) -> NDArray[np.uint8]:
    """How far each pixel of the photo belongs to what a file of zones shows, (h, w), 0..255."""
    shape = (one.picture.height, one.picture.width)
    if not one.analysis.faces:
        # Without a face nobody is told from what is behind them.
        return np.full(shape, 255 if name == "background" else 0, np.uint8)
    whole = Rect(0, 0, one.picture.width, one.picture.height)
    found = one.analysis.mask(ZONE_FILES[name], whole, shape)
    return np.asarray(found * 255 + 0.5, np.uint8)


def overlay(one: Looked, sensitivity: float) -> NDArray[np.uint8]:
    """The photo with its zones as tints and its marks as rings, (h, w, 3) uint8 sRGB."""
    out = displayed(one.picture).astype(np.float32)
    for name, colour in _TINTS.items():
        share = cover(one, name)[..., None] * np.float32(_TINT_SHARE / 255)
        out += share * (np.asarray(colour, np.float32) - out)
    pixels = np.ascontiguousarray(out + 0.5, np.uint8)
    for face, marks in zip(one.analysis.faces, one.analysis.marks, strict=True):
        width = max(1, round(0.2 * face.scale.px_per_mm))
        for mark in visible(list(marks), sensitivity):
            middle = (round(mark.x - 0.5), round(mark.y - 0.5))
            ring = round(mark.reach + width)
            cv2.circle(pixels, middle, ring, _RINGS[mark.proposal], width, cv2.LINE_AA)
    return pixels


def _write_zones(one: Looked, folder: Path) -> None:
    for name in ZONE_FILES:
        _write(folder / f"{name}.png", cover(one, name))


def _write(path: Path, pixels: NDArray[np.uint8]) -> None:
    """Write an 8-bit picture, grey or sRGB, in the format of its ending."""
    stored = pixels if pixels.ndim == 2 else cv2.cvtColor(pixels, cv2.COLOR_RGB2BGR)
    _, data = cv2.imencode(path.suffix, stored)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data.tobytes())
    except OSError as error:
        raise PictureError(f"{path} can't be written: {error.strerror}.") from None
