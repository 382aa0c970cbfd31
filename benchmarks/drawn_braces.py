"""Braces drawn over a smile: wire and brackets of metal with light and shade, so the truth is known."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.face import Analysis
from retouch.geometry import Rect

Pixels = NDArray[np.uint8]
Mask = NDArray[np.bool_]

# Crowns from the middle outwards are so wide (mm): central and lateral incisor, canine, premolar
# (mean mesiodistal widths of handbooks of dental anatomy; from memory), seen shorter as the arch turns.
_CROWNS = (8.5, 6.5, 7.5, 7.0)
_ARCH_MM = 26.0
# Brackets are about this wide and high, sit so far above the cutting edge, on a wire so thick (mm):
# common practice, from memory.
_WIDE_MM, _HIGH_MM, _ABOVE_MM, _WIRE_MM = 3.2, 3.0, 4.2, 0.5
_FINE = 4


@dataclass(frozen=True)
class Braced:
    """A picture with braces, where they are, and where teeth are."""

    pixels: Pixels
    braces: Mask
    teeth: Mask


def braced(pixels: NDArray[Any], analysis: Analysis, seed: int = 3) -> Braced:
    """Braces over the upper teeth of the first face, as far as lips let them be seen."""
    face = analysis.faces[0]
    mm = face.scale.px_per_mm
    layer = next(one for one in analysis.layers if one.zone == "teeth" and one.face == 0)
    rect: Rect = layer.rect
    teeth = analysis.mask(("teeth",), rect, (rect.height, rect.width), 0) > 0.5
    columns = np.flatnonzero(teeth.sum(0) > 3 * mm)
    edge = np.array([np.flatnonzero(teeth[:, c]).max() for c in columns], float)
    bow = np.polynomial.Polynomial.fit(columns, edge, 2)
    middle = float((face.points[0, 0] + face.points[17, 0]) / 2) - rect.x0
    h, w = teeth.shape
    big = (h * _FINE, w * _FINE)
    metal, shade = np.zeros(big, np.uint8), np.zeros(big, np.uint8)
    light = np.zeros(big, np.float32)
    xs = np.arange(w * _FINE) / _FINE
    line = np.stack([xs, bow(xs) - _ABOVE_MM * mm], 1)
    rng = np.random.default_rng(seed)

    def strip(canvas: NDArray[Any], thick: float, down: float, value: float) -> None:
        at = np.round((line + (0, down)) * _FINE).astype(np.int32)
        cv2.polylines(canvas, [at], False, value, max(1, round(thick * mm * _FINE)))

    strip(shade, _WIRE_MM, 0.35 * mm, 255)
    strip(metal, _WIRE_MM, 0.0, 255)
    strip(light, _WIRE_MM * 0.3, -0.12 * mm, 0.5)
    places = np.cumsum(_CROWNS) - np.array(_CROWNS) / 2
    for out in (*places, *-places):
        turn = float(np.clip(out / _ARCH_MM, -0.95, 0.95))
        x = middle + _ARCH_MM * np.sin(turn) * mm
        y = float(bow(x)) - _ABOVE_MM * mm
        wide, high = _WIDE_MM * mm * np.cos(turn) / 2, _HIGH_MM * mm / 2

        def box(
            canvas: NDArray[Any], dx: float, dy: float, size: float, value: float,
            at: tuple[float, float, float, float] = (x, y, wide, high),
        ) -> None:  # fmt: skip
            a, b, hw, hh = at
            low = (round((a + dx - size * hw) * _FINE), round((b + dy - size * hh) * _FINE))
            high_ = (round((a + dx + size * hw) * _FINE), round((b + dy + size * hh) * _FINE))
            cv2.rectangle(canvas, low, high_, value, -1)

        box(shade, 0.25 * mm, 0.5 * mm, 1.0, 255)
        box(metal, 0, 0, 1.0, 255)
        box(light, -0.2 * wide, -0.45 * high, 0.5, 0.35 + 0.3 * float(rng.random()))
        box(light, 0, 0.1 * high, 0.2, -0.25)
    size = (w, h)
    metal_, shade_ = (
        cv2.resize(cv2.GaussianBlur(a, (0, 0), 0.25 * _FINE), size, interpolation=cv2.INTER_AREA) / 255.0
        for a in (metal, cv2.GaussianBlur(shade, (0, 0), 0.15 * mm * _FINE))
    )  # fmt: skip
    light_ = cv2.resize(
        cv2.GaussianBlur(light, (0, 0), 0.4 * _FINE), size, interpolation=cv2.INTER_AREA
    )
    own = pixels[rect.y0 : rect.y1, rect.x0 : rect.x1].astype(np.float32) / 255
    soft = cv2.GaussianBlur(teeth.astype(np.float32), (0, 0), 0.7)
    metal_, shade_ = metal_ * soft, shade_ * soft
    # Metal mirrors about the light that teeth get, without their colour.
    usual = float(np.median(own[teeth].mean(-1)))
    grey = usual * np.array([0.62, 0.64, 0.68], np.float32)
    coat = np.clip(grey + usual * light_[..., None], 0, 1)
    out = own * (1 - 0.35 * shade_[..., None])
    out = out * (1 - metal_[..., None]) + coat * metal_[..., None]
    noise = rng.normal(0, 0.008, out.shape) * (metal_[..., None] > 0)
    whole = pixels.copy()
    whole[rect.y0 : rect.y1, rect.x0 : rect.x1] = np.round(np.clip(out + noise, 0, 1) * 255)
    braces = np.zeros(pixels.shape[:2], np.bool_)
    braces[rect.y0 : rect.y1, rect.x0 : rect.x1] = np.maximum(metal_, 0.5 * shade_) > 0.15
    where = np.zeros(pixels.shape[:2], np.bool_)
    where[rect.y0 : rect.y1, rect.x0 : rect.x1] = teeth
    return Braced(whole, braces, where)
