"""Zones as masks of passes ask for them: the analysis with the corrections of an edit."""

from __future__ import annotations

import hashlib
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.edit.mask import Face
from retouch.edit.model import Edit
from retouch.edit.values import Side
from retouch.face import regions
from retouch.face.analysis import Analysis
from retouch.face.corrected import zone_mask
from retouch.face.find import Face as FoundFace
from retouch.face.frame import ramp
from retouch.face.landmarks import CHIN, TOP
from retouch.geometry import Rect, union_all
from retouch.picture import Pyramid
from retouch.zone_names import ALL_SKIN, FEATURES, TOGETHER, members

# Without a face, sizes in millimetres are taken at this many pixels each.
_UNKNOWN_SCALE = 6.0
# Masks are interpolated: zones may reach so many pixels beyond what holds them.
_SPREAD = 2
# Skin of no more than this share isn't counted; less strictly in a part of it, which ends at other
# skin, too.
_HARDLY, _HARDLY_PART = np.float32(0.35), np.float32(0.15)
# A hint of a feature isn't one: masks of features end where they are no more likely than this.
_HINT = np.float32(0.3)
# Both halves of a face fade into each other over this part of its height, to each side.
_SEAM = 0.004
# Hairs across the skin are up to so many pixels wide, darker than it by more than pores are (as a
# part of its light) and grain (encoded), and surely hairs where they are so much darker still.
_WIDEST, _PORE, _GRAIN, _HAIR = 5, 0.11, 0.015, 0.08


def strands(image: NDArray[np.float32], size: int = 1) -> NDArray[np.float32]:
    """How surely each pixel of skin is a hair or lash across it, (h, w) 0..1.

    What a closing fills in is dark and thin (the black top-hat: J. Serra, *Image Analysis and
    Mathematical Morphology*, 1982); pores and grain are far less dark than a hair.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded 0..1.
    size : int
        Pixels of the original in each of its own; hairs are lost in large ones.
    """
    wide = 2 * (_WIDEST // (2 * size)) + 1
    if wide == 1:
        return np.zeros(image.shape[:2], np.float32)
    light = cv2.cvtColor(np.ascontiguousarray(image), cv2.COLOR_RGB2GRAY)
    filled = cv2.morphologyEx(light, cv2.MORPH_CLOSE, np.ones((wide, wide), np.uint8))
    return _darker(light, filled)


def right_of(
    face: FoundFace, x: NDArray[np.float32], y: NDArray[np.float32]
) -> NDArray[np.float32]:
    """How surely places lie on the person's right of the middle of a face, 0..1; soft over a seam."""
    top, chin = (face.points[n, :2] for n in (TOP, CHIN))
    ax, ay = (chin - top) / max(float(np.linalg.norm(chin - top)), 1e-6)
    eyes = face.right_iris.x - face.left_iris.x, face.right_iris.y - face.left_iris.y
    away = (x - top[0]) * ay - (y - top[1]) * ax
    # Which side of the line is the right one is told by the eyes, so mirrored pictures are no matter.
    if eyes[0] * ay - eyes[1] * ax < 0:
        away = -away
    return np.asarray(ramp(away, _SEAM * face.height), np.float32)


@compiled
def _darker(light: NDArray[np.float32], filled: NDArray[np.float32]) -> NDArray[np.float32]:
    h, w = light.shape
    out = np.empty((h, w), np.float32)
    for i in range(h):
        for j in range(w):
            own, grain = filled[i, j], np.float32(_GRAIN)
            t = own - light[i, j] - np.float32(_PORE) * own - grain
            t = min(max(t / (np.float32(_HAIR) * own + grain), np.float32(0)), np.float32(1))
            out[i, j] = t * t * (np.float32(3) - np.float32(2) * t)
    return out


@compiled
def _from(cover: NDArray[np.float32], least: np.float32) -> None:
    """What a cover 0..1 is beyond a part of it, as 0..1, in place."""
    h, w = cover.shape
    scale = np.float32(1) / (np.float32(1) - least)
    for i in range(h):
        for j in range(w):
            cover[i, j] = max(cover[i, j] - least, np.float32(0)) * scale


class FaceZones:
    """The zones of a picture's faces (`retouch.masks.Zones`).

    Parameters
    ----------
    analysis : Analysis or None
        None where no face is known; only zones painted by hand cover something then.
    edit : Edit
        Its ``zones`` passes correct what was found.
    """

    def __init__(self, analysis: Analysis | None, edit: Edit, pyramid: Pyramid) -> None:
        self.analysis = analysis
        self.pyramid = pyramid
        self.touches = edit.touches_of("zones")

    @cached_property
    def key(self) -> str:
        """Changes whenever an answer may."""
        found = self.analysis.key if self.analysis is not None else "none"
        said = repr([(t.path, sorted(t.values.items())) for t in self.touches])
        return hashlib.blake2b((found + said).encode(), digest_size=12).hexdigest()

    def px_per_mm(self, person: int | None) -> float:
        """The scale of a face by its number; of the largest for None."""
        faces = self.analysis.faces if self.analysis is not None else ()
        if not faces:
            return _UNKNOWN_SCALE
        return faces[person or 0].scale.px_per_mm

    def knows(self, face: Face) -> bool:
        """Whether this person is there."""
        if face is None:
            return True
        return self.analysis is not None and self.analysis.who(face) is not None

    def _person(self, face: Face) -> int | None:
        """The number of a person, None for everyone; `KeyError` if they aren't here."""
        if face is None:
            return None
        number = self.analysis.who(face) if self.analysis is not None else None
        if number is None:
            raise KeyError(face)
        return number

    def cover(
        self, zone: str, face: Face, rect: Rect, shape: tuple[int, int]
    ) -> NDArray[np.float32]:
        """Coverage 0..1 of a rectangle of the original on (rows, cols); face None: everyone."""
        try:
            person = self._person(face)
        except KeyError:
            return np.zeros(shape, np.float32)
        if zone in regions.REGIONS:
            if self.analysis is None:
                return np.zeros(shape, np.float32)
            return regions.cover(self.analysis, zone, rect, shape, person)
        size = max(1, round(rect.width / max(shape[1], 1)))
        # Softened zones look around: what they see must not end at the rectangle.
        wide = max(
            (float(t.values["feather_mm"]) for t in self.touches if t.values["way"] == "feather"),
            default=0.0,
        )
        margin = int(np.ceil(1.5 * wide * self.px_per_mm(person) / size))
        of_skin = members(zone)[0] in ALL_SKIN
        if of_skin:
            # So are hairs, by a closing.
            margin = max(margin, 2 * (_WIDEST // (2 * size)))
        around = rect.grow(margin * size)
        cover = zone_mask(
            self.analysis, zone, around, (shape[0] + 2 * margin, shape[1] + 2 * margin),
            self.touches, self.pyramid.sampled, person, self.px_per_mm(person),
        )  # fmt: skip
        if of_skin:
            # What is hardly skin is a lip, an eye or cloth, and is left alone altogether.
            _from(cover, _HARDLY if zone in TOGETHER else _HARDLY_PART)
            self._spare_strands(cover, around, size)
        elif members(zone)[0] in FEATURES:
            _from(cover, _HINT)
        return np.ascontiguousarray(cover[margin : margin + shape[0], margin : margin + shape[1]])

    def half(
        self, side: Side, face: Face, rect: Rect, shape: tuple[int, int]
    ) -> NDArray[np.float32]:
        """Coverage 0..1 of one half of a face on (rows, cols); face None: of everyone's, each place
        belonging to the nearest face."""
        faces = self.analysis.faces if self.analysis is not None else ()
        try:
            person = self._person(face)
        except KeyError:
            return np.zeros(shape, np.float32)
        own = faces if person is None else faces[person : person + 1]
        if side == "both" or not own:
            return np.ones(shape, np.float32)
        xs = np.asarray(rect.x0 + (np.arange(shape[1]) + 0.5) * rect.width / shape[1], np.float32)
        ys = np.asarray(rect.y0 + (np.arange(shape[0]) + 0.5) * rect.height / shape[0], np.float32)
        out = np.zeros(shape, np.float32)
        nearest = np.full(shape, np.inf, np.float32)
        for one in own:
            right = right_of(one, xs[None], ys[:, None])
            here = np.hypot(xs[None] - one.anchor[0], ys[:, None] - one.anchor[1]) / one.height
            cover = right if side == "right" else 1 - right
            out = np.where(here < nearest, cover, out)
            nearest = np.minimum(here, nearest)
        return out

    def _spare_strands(self, cover: NDArray[np.float32], rect: Rect, size: int) -> None:
        """Take hairs and lashes across the skin out of a mask, in place."""
        x, y, w, h = cv2.boundingRect((cover > 0).view(np.uint8))
        if not w or size * 2 > _WIDEST:
            return
        # With what a closing looks at around them.
        seen = Rect(x, y, x + w, y + h).grow(_WIDEST)
        x, y, x1, y1 = seen.clip(Rect(0, 0, cover.shape[1], cover.shape[0])).as_tuple()
        w, h = x1 - x, y1 - y
        here = np.s_[y : y + h, x : x + w]
        kx, ky = rect.width / cover.shape[1], rect.height / cover.shape[0]
        part = Rect(
            round(rect.x0 + x * kx), round(rect.y0 + y * ky),
            round(rect.x0 + (x + w) * kx), round(rect.y0 + (y + h) * ky),
        )  # fmt: skip
        cover[here] *= 1 - strands(self.pyramid.sampled(part, (h, w)), size)

    def extent(self, zone: str, face: Face) -> Rect | None:
        """A rectangle outside of which a zone covers nothing; None: not known."""
        if zone in regions.REGIONS:
            try:
                own_face = self._person(face)
            except KeyError:
                return Rect(0, 0, 1, 1)
            if self.analysis is None or not self.analysis.faces:
                return Rect(0, 0, 1, 1)
            return regions.extent(self.analysis, zone, own_face)
        parts = members(zone)
        if any(t.values["zone"] in (zone, *parts) for t in self.touches):
            return None
        layers = self.analysis.layers if self.analysis is not None else ()
        try:
            person = self._person(face)
        except KeyError:
            return Rect(0, 0, 1, 1)
        own = [
            a.rect for a in layers if a.zone in parts and (person is None or a.face in (person, -1))
        ]
        # Reduced masks are spread smoothly: a little beyond their rectangles.
        return union_all(own).grow(_SPREAD) if own else Rect(0, 0, 1, 1)
