"""Halos along outlines, and codes of a file: clipping and banding."""

from __future__ import annotations

import cv2
import numpy as np

from retouch.natural.pairs import Array, Mask, Pair, broad

# A halo lies within so many mm of an outline, and is told from the light around by so many.
_NEAR_MM, _FAR_MM = 1.2, 4.0
_OUTLINES = ("hair", "beard", "clothing", "brows")
# An outline is an edge of so many L* at least.
_EDGE = 8.0
# What lay so near to an end of the range held nothing any more.
_NEAR_END = 0.02


def halo(pair: Pair) -> tuple[float, Mask] | None:
    """How far light beside the outlines of head, hair and clothing overshoots more than before, L*: the
    95th percentile along them, and where it is most.

    Beside an edge the light is compared with that a little further off on the same side: sharpening and
    careless masks leave a bright or dark line there.
    """
    light = [lab[..., 0] for lab in pair.labs]
    mm = pair.px_per_mm
    outline = np.zeros(light[0].shape, np.bool_)
    for zone in ("background", *_OUTLINES):
        inside = pair.inside(zone).astype(np.uint8)
        outline |= cv2.morphologyEx(inside, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)) > 0
    soft = broad(light[0], 0.5 * mm)
    strong = np.hypot(cv2.Sobel(soft, cv2.CV_32F, 1, 0), cv2.Sobel(soft, cv2.CV_32F, 0, 1)) / 8
    outline &= strong * mm > _EDGE
    if int(outline.sum()) < 60:
        return None
    near = (
        cv2.dilate(outline.astype(np.uint8), np.ones((2 * round(_NEAR_MM * mm) + 1,) * 2, np.uint8))
        > 0
    )
    change = light[1] - light[0]
    # What changes alike all around is no line along the edge.
    line = cv2.GaussianBlur(change, (0, 0), 0.35 * mm) - cv2.GaussianBlur(
        change, (0, 0), _FAR_MM * mm
    )
    size = np.abs(line)
    where = near & (size > np.quantile(size[near], 0.95))
    return float(np.quantile(size[near], 0.95)), where


def clipped(before: Array, after: Array) -> float:
    """The part of a picture, per cent, in which a channel came to lie at an end of its range."""
    dark = (after <= 0.5 / 255) & (before > _NEAR_END)
    light = (after >= 254.5 / 255) & (before < 1 - _NEAR_END)
    return 100 * float((dark | light).any(-1).mean())


def banded(before: Array, after: Array) -> float:
    """The part of a picture, per cent, that came to lie in steps: flat pieces beside one another that differ
    by several codes, where light changed smoothly before.
    """

    def steps(image: Array) -> Mask:
        codes = np.round(image.mean(-1) * 255)
        flat = (np.abs(np.diff(codes, axis=1, append=codes[:, -1:])) < 0.5).astype(np.uint8)
        runs = cv2.erode(flat, np.ones((1, 5), np.uint8))
        gap = np.abs(np.diff(codes, axis=1, append=codes[:, -1:]))
        jump = ((gap >= 2) & (gap <= 8)).astype(np.uint8)
        beside = cv2.dilate(runs, np.ones((1, 9), np.uint8)) & cv2.dilate(
            jump, np.ones((1, 9), np.uint8)
        )
        return np.asarray(beside > 0)

    now, was = steps(after), steps(before)
    return 100 * max(float(now.mean()) - float(was.mean()), 0.0)
