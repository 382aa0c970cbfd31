"""What the program isn't sure of about a face, in plain words."""

from __future__ import annotations

import numpy as np

from retouch.face.analysis import Analysis
from retouch.face.judging import LEAST_SCALE
from retouch.geometry import Rect
from retouch.zone_names import ALL_SKIN

# Places are looked at so many pixels to a side; those smaller than this many mm² aren't told.
_SIDE, _LEAST_MM2 = 240, 120.0
# A zone counts as one of the two that can't be told apart from this part of the place on.
_PART = 0.18
# A scale less sure than this, and heads turned further than this, are told.
_UNCERTAIN, _TURNED = 0.08, 45.0

_KINDS = {
    "skin": ALL_SKIN,
    "hair": ("hair",),
    "beard": ("beard",),
    "clothing": ("clothing",),
    "background": ("background",),
    "worn": ("worn",),
}
_WORDS = {
    ("clothing", "skin"): "Clothing may be taken for skin, or skin for clothing.",
    ("hair", "skin"): "The line between hair and skin may be off.",
    ("beard", "skin"): "The edge of the beard may be off.",
    ("clothing", "hair"): "Hair and clothing are hard to tell apart.",
    ("background", "hair"): "The outline of the hair may be off.",
    ("background", "skin"): "Skin may be taken for the background.",
    ("background", "clothing"): "The outline of the clothing may be off.",
    ("skin", "worn"): "Something on the skin may be glasses or jewellery.",
    ("beard", "hair"): "Hair and beard are hard to tell apart.",
}


def doubts(analysis: Analysis, number: int) -> tuple[str, ...]:
    """Sentences about a face, the largest doubt first; empty where nothing is in doubt.

    Raises
    ------
    IndexError
        When there is no such face.
    """
    face = analysis.faces[number]
    out = []
    if face.scale.px_per_mm < LEAST_SCALE:
        out.append(
            "The face is too small to tell blemishes from pores: marks are only asked about."
        )
    if face.scale.uncertainty > _UNCERTAIN or not face.scale.plausible:
        out.append(f"The scale is known to {round(100 * face.scale.uncertainty)} % only.")
    if abs(face.pose.yaw) > _TURNED:
        out.append("The head is turned so far that zones of the far side may be off.")
    return (*out, *_unclear(analysis, number))


def _unclear(analysis: Analysis, number: int) -> list[str]:
    layers = [a for a in analysis.layers if a.zone == "unsure" and a.face == number]
    if not layers or layers[0].rect.empty:
        return []
    rect = layers[0].rect
    scale = min(1.0, _SIDE / max(rect.width, rect.height))
    shape = (max(1, round(rect.height * scale)), max(1, round(rect.width * scale)))
    unsure = analysis.mask(("unsure",), rect, shape, number)
    whole = Rect(0, 0, analysis.width, analysis.height)
    per_mm = analysis.faces[number].scale.px_per_mm * scale
    found: dict[tuple[str, str], float] = {}
    shares = {
        kind: analysis.mask(zones, rect.clip(whole), shape, number)
        for kind, zones in _KINDS.items()
    }
    names = sorted(shares)
    ordered = np.argsort(np.stack([shares[n] for n in names]), axis=0)
    for i, a in enumerate(names):
        for j in range(i + 1, len(names)):
            first = (ordered[-1] == i) & (ordered[-2] == j)
            second = (ordered[-1] == j) & (ordered[-2] == i)
            clear = np.minimum(shares[a], shares[names[j]]) > _PART
            area = float((unsure * ((first | second) & clear)).sum()) / per_mm**2
            if area > _LEAST_MM2 and (a, names[j]) in _WORDS:
                found[a, names[j]] = area
    return [_WORDS[pair] for pair in sorted(found, key=lambda p: -found[p])]
