"""How like colours are to picked samples, and whether light and saturation lie within limits."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab
from retouch.steps import smooth_step

Array = NDArray[np.float32]

# An edge-aware brush stops at this colour difference (CIE76) when it is strict, and lenient.
_STRICT, _LENIENT = 5.0, 60.0
# Limits of light and saturation fade over this many units, half to each side.
_FADE = 4.0


def edge_tolerance(edges: float) -> float:
    """The difference at which an edge-aware brush stops; ``edges`` is 0..1, from lenient up."""
    return float(_LENIENT * (_STRICT / _LENIENT) ** edges)


def nearness(
    lab: Lab, samples: Array, tolerance: float, softness: float = 0.5, light_weight: float = 1.0
) -> Array:
    """1 at the samples' colours, falling to 0 around the tolerance.

    Parameters
    ----------
    lab : ndarray (h, w, 3) float32
        CIELAB.
    samples : ndarray (n, 3)
        CIELAB; the nearest one counts.
    tolerance : float
        CIE76 difference at which half is left.
    softness : float
        0..1: part of the tolerance over which it falls, half to each side.
    light_weight : float
        How much a difference of L* counts.
    """
    scale = np.array([light_weight, 1, 1], np.float32)
    nearest = np.full(lab.shape[:2], np.inf, np.float32)
    weighted = lab if light_weight == 1 else lab * scale
    for sample in np.asarray(samples, np.float32) * scale:
        off = weighted - sample
        np.minimum(nearest, np.einsum("ijk,ijk->ij", off, off), out=nearest)
    width = max(softness, 0.02) * tolerance
    return smooth_step(np.asarray((tolerance + 0.5 * width - np.sqrt(nearest)) / width, np.float32))


def within(values: Array, limits: tuple[float, float], full: tuple[float, float]) -> Array:
    """1 inside of limits, fading at them; a limit at the end of the ``full`` range has no edge."""
    out = np.ones(values.shape, np.float32)
    if limits[0] > full[0]:
        out *= smooth_step((values - limits[0]) / _FADE + 0.5)
    if limits[1] < full[1]:
        out *= smooth_step((limits[1] - values) / _FADE + 0.5)
    return out


def saturation(lab: Lab) -> Array:
    """Saturation 0..100: the part of chroma in a colour's distance from black.

    100 C*/sqrt(C*² + L*²), E. Lübbe, *Sättigung im CIELAB-Farbsystem und LSh-Farbsystem*, 2011.
    """
    chroma_2 = lab[..., 1] ** 2 + lab[..., 2] ** 2
    return np.asarray(
        100 * np.sqrt(chroma_2 / np.maximum(chroma_2 + lab[..., 0] ** 2, 1e-6)), np.float32
    )
