"""Straight lines beside what moves: found, kept straight, and measured."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.depth import to_integers
from retouch.face.cover import FaceZones
from retouch.picture import Pyramid
from retouch.shape.composed import Composed
from retouch.steps import smooth_step
from retouch.warp.field import Field
from retouch.warp.steps import Points

# A segment: x, y of both ends, in pixels of the original.
Line = tuple[float, float, float, float]
Mask = NDArray[np.bool_]

# Lines are looked for on a picture whose longer side has so many pixels; they are so long at least (parts
# of it), and no more than this many are kept.
_LOOKED, _LONG, _MOST = 1400, 0.1, 24
# Pieces of one line lie so far off it, and so far apart (pixels of what is looked at).
_OFF, _GAP, _ALIKE = 3.0, 30.0, np.radians(2.0)
# A line holds what is so near, fading (nodes of the field, and pixels).
_NODES, _LEAST = 6.0, 24.0
# Where lines belong to the person and move with them.
_PERSON = ("skin", "hair", "clothing")
# Places along a line that tell how far it bends.
_ALONG = 60


def find_lines(image: NDArray[np.uint8], person: Mask | None, scale: float) -> list[Line]:
    """Long straight lines, the longest first.

    The line segment detector of R. Grompone von Gioi and others, PAMI 2010, in OpenCV; pieces of the same
    line are joined.

    Parameters
    ----------
    image : ndarray (h, w, 3) uint8
        sRGB, reduced; see `reduction`.
    person : ndarray (h, w) bool or None
        Where no lines are looked for: skin, hair, clothing.
    scale : float
        Pixels of the image per pixel of the original.
    """
    grey = cv2.cvtColor(image, cv2.COLOR_RGB2GRAY)
    found = cv2.createLineSegmentDetector().detect(grey)[0]
    if found is None:
        return []
    segments = found.reshape(-1, 4).astype(np.float64)
    long = np.hypot(segments[:, 2] - segments[:, 0], segments[:, 3] - segments[:, 1])
    longest = max(image.shape[:2])
    segments = segments[np.argsort(-long)]
    if person is not None:
        segments = np.array([s for s in segments if not _on(person, s)]).reshape(-1, 4)
    lines: list[NDArray[np.float64]] = []
    for segment in segments:
        if np.hypot(*(segment[2:] - segment[:2])) < 0.012 * longest:
            continue
        for n, line in enumerate(lines):
            joined = _joined(line, segment)
            if joined is not None:
                lines[n] = joined
                break
        else:
            lines.append(segment)
    lengths = [float(np.hypot(*(s[2:] - s[:2]))) for s in lines]
    kept = sorted(
        (n for n, long_ in enumerate(lengths) if long_ > _LONG * longest), key=lambda n: -lengths[n]
    )[:_MOST]
    return [tuple(round(float(v + 0.5) / scale, 1) for v in lines[n]) for n in kept]  # type: ignore[misc]


def reduction(width: int, height: int) -> float:
    """How far a picture is reduced to look for lines."""
    return min(1.0, _LOOKED / max(width, height))


def lines_beside(pyramid: Pyramid, zones: FaceZones | None) -> list[Line]:
    """Long straight lines of a picture beside its people, the longest first."""
    bounds = pyramid.picture.bounds
    scale = reduction(bounds.width, bounds.height)
    shape = (max(8, round(bounds.height * scale)), max(8, round(bounds.width * scale)))
    image = to_integers(np.clip(pyramid.sampled(bounds, shape), 0, 1), 8)
    person = None
    if zones is not None and zones.analysis is not None and zones.analysis.faces:
        covers = [zones.cover(z, None, bounds, shape) for z in _PERSON]
        person = np.maximum.reduce(covers) > 0.5
    return find_lines(np.asarray(image, np.uint8), person, shape[1] / bounds.width)


def _on(person: Mask, segment: NDArray[np.float64]) -> bool:
    """Whether most of a segment lies on the person."""
    t = np.linspace(0, 1, 12)[:, None]
    at = segment[:2] + t * (segment[2:] - segment[:2])
    h, w = person.shape
    x, y = (np.clip(np.round(at[:, k]).astype(int), 0, n - 1) for k, n in ((0, w), (1, h)))
    return bool(person[y, x].mean() > 0.4)


def _joined(line: NDArray[np.float64], piece: NDArray[np.float64]) -> NDArray[np.float64] | None:
    """A line with a piece that goes on along it; None where it is another one."""
    way = (line[2:] - line[:2]) / np.hypot(*(line[2:] - line[:2]))
    own = (piece[2:] - piece[:2]) / np.hypot(*(piece[2:] - piece[:2]))
    if abs(way[0] * own[1] - way[1] * own[0]) > np.sin(_ALIKE):
        return None
    ends = np.stack([line[:2], line[2:], piece[:2], piece[2:]])
    along = (ends - line[:2]) @ way
    off = (ends - line[:2]) @ np.array([-way[1], way[0]])
    gap = max(along[2:].min() - along[1], -along[2:].max())
    if np.abs(off[2:]).max() > _OFF or gap > _GAP:
        return None
    return np.concatenate([line[:2] + along.min() * way, line[:2] + along.max() * way])


def straightened(field: Field, below: Composed, lines: Sequence[Line]) -> Field:
    """A field under which what lies on lines stays on them: it may slide along, not leave."""
    shifts, places = field.shifts.copy(), field.places
    wide = max(_LEAST, _NODES * field.step)
    for line in lines:
        a, b = below.forth(np.array([line[:2], line[2:]], np.float64))
        way = (b - a) / max(float(np.hypot(*(b - a))), 1e-9)
        across = np.array([-way[1], way[0]])
        along = np.clip((places - a) @ way, 0, float((b - a) @ way))
        away = np.linalg.norm(places - a - along[..., None] * way, axis=2)
        # In full over two nodes to each side, or what lies between them would bend.
        share = smooth_step(1 - (away - 2 * field.step) / wide)[..., None]
        shifts -= share * (shifts @ across)[..., None] * across
    return Field(field.x, field.y, field.step, shifts)


def bend(whole: Composed, line: Line) -> float:
    """How far a line of the original leaves the straight one between its ends as it is shown, in pixels."""
    t = np.linspace(0, 1, _ALONG)[:, None]
    a, b = np.array(line[:2]), np.array(line[2:])
    shown: Points = whole.forth(a + t * (b - a))
    way = shown[-1] - shown[0]
    across = np.array([-way[1], way[0]]) / max(float(np.hypot(*way)), 1e-9)
    return float(np.abs((shown - shown[0]) @ across).max())
