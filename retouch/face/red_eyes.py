"""Where the flash made pupils of a portrait glow red."""

from __future__ import annotations

from dataclasses import dataclass

from retouch.face.analysis import Analysis
from retouch.features import red_eye
from retouch.geometry import Rect
from retouch.picture import Pyramid

# An eye is looked at so far around its iris, in radii.
_AROUND = 1.2


@dataclass(frozen=True)
class RedEye:
    """A glowing pupil: whose, and the dab (pixels of the original) that takes it in."""

    face: int
    side: str
    x: float
    y: float
    radius: float


def red_eyes(analysis: Analysis, pyramid: Pyramid) -> list[RedEye]:
    """All pupils that glow, by face and side."""
    out = []
    for n, face in enumerate(analysis.faces):
        for side, iris in (("right", face.right_iris), ("left", face.left_iris)):
            r = _AROUND * iris.radius
            rect = Rect(int(iris.x - r), int(iris.y - r), int(iris.x + r) + 1, int(iris.y + r) + 1)
            rect = rect.clip(pyramid.picture.bounds)
            if rect.empty:
                continue
            image = pyramid.crop(rect, 0)
            found = red_eye.find(image, iris.x - rect.x0, iris.y - rect.y0, iris.radius)
            if found is not None:
                x, y, radius = found
                out.append(RedEye(n, side, rect.x0 + x, rect.y0 + y, radius))
    return out
