"""Zones as masks of passes ask for them: the analysis with the corrections of an edit."""

from __future__ import annotations

import hashlib
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from retouch.edit.model import Edit
from retouch.face.analysis import Analysis
from retouch.face.corrected import zone_mask
from retouch.face.names import members
from retouch.geometry import Rect, union_all
from retouch.picture import Pyramid

# Without a face, sizes in millimetres are taken at this many pixels each.
_UNKNOWN_SCALE = 6.0
# Masks are interpolated: zones may reach so many pixels beyond what holds them.
_SPREAD = 2


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
        self.touches = [
            t for p in edit.passes if p.kind == "zones" and p.on for t in p.touches if t.enabled
        ]

    @cached_property
    def key(self) -> str:
        """Changes whenever an answer may."""
        found = self.analysis.key if self.analysis is not None else "none"
        said = repr([(t.path, sorted(t.values.items())) for t in self.touches])
        return hashlib.blake2b((found + said).encode(), digest_size=12).hexdigest()

    def px_per_mm(self, face: int) -> float:
        """The scale of a face; of the largest for -1."""
        faces = self.analysis.faces if self.analysis is not None else ()
        if not faces:
            return _UNKNOWN_SCALE
        return faces[face if 0 <= face < len(faces) else 0].scale.px_per_mm

    def cover(
        self, zone: str, face: int, rect: Rect, shape: tuple[int, int]
    ) -> NDArray[np.float32]:
        """Coverage 0..1 of a rectangle of the original on (rows, cols); face -1: everyone."""
        size = max(1, round(rect.width / max(shape[1], 1)))
        # Softened zones look around: what they see must not end at the rectangle.
        wide = max(
            (float(t.values["feather_mm"]) for t in self.touches if t.values["way"] == "feather"),
            default=0.0,
        )
        margin = int(np.ceil(1.5 * wide * self.px_per_mm(face) / size))
        around = rect.grow(margin * size)
        cover = zone_mask(
            self.analysis, zone, around, (shape[0] + 2 * margin, shape[1] + 2 * margin),
            self.touches, self.pyramid.sampled, None if face < 0 else face, self.px_per_mm(face),
        )  # fmt: skip
        return np.ascontiguousarray(
            cover[margin : margin + shape[0], margin : margin + shape[1]], np.float32
        )

    def extent(self, zone: str, face: int) -> Rect | None:
        """A rectangle outside of which a zone covers nothing; None: not known."""
        parts = members(zone)
        if any(t.values["zone"] in (zone, *parts) for t in self.touches):
            return None
        layers = self.analysis.layers if self.analysis is not None else ()
        own = [a.rect for a in layers if a.zone in parts and (face < 0 or a.face in (face, -1))]
        # Reduced masks are spread smoothly: a little beyond their rectangles.
        return union_all(own).grow(_SPREAD) if own else Rect(0, 0, 1, 1)
