"""Passes that act on the framed picture, laid over it after the one resampling."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from retouch.edit.mask import Mask
from retouch.edit.model import Edit, Pass
from retouch.passes import registry
from retouch.passes.ways import Framed, FramePlace
from retouch.processors import PARTS, at_once, edges
from retouch.render.mixing import WORTH_PARTING, mix_into

Array = NDArray[np.float32]

# A strip of so many pixels stays in the processor's cache from one step to the next.
_STRIP = 100_000


def framed_passes(edit: Edit) -> list[Pass]:
    """Those of an edit that act, in their order."""
    return [p for p in edit.passes if p.acts and registry.kind(p.kind).framed]


def finished(
    passes: list[Pass], image: Array, place: FramePlace, cover: Callable[[Mask], Array]
) -> Array:
    """An image (h, w, 3) of the framed picture with the passes laid over it.

    ``cover`` gives a mask on the image's own pixels, (h, w) 0..1.
    """
    for one in passes:
        image = _laid(one, image, place, cover(one.mask)[..., None])
    return image


def _laid(one: Pass, image: Array, place: FramePlace, cover: Array) -> Array:
    kind = registry.kind(one.kind)
    assert isinstance(kind.way, Framed)
    make, values = kind.way.make, kind.values(one)
    out = np.empty_like(image)

    def lay(rows: tuple[int, int]) -> None:
        part = slice(*rows)
        own = image[part]
        above = make(own, values, replace(place, y=place.y + rows[0] / place.scale))
        share = np.float32(one.share) * cover[part]
        out[part] = own
        mix_into(out, (part, slice(0, image.shape[1])), above, one.blend, share)

    pixels = image.shape[0] * image.shape[1]
    count = max(4 * PARTS, pixels // _STRIP) if pixels >= WORTH_PARTING else 1
    at_once(lay, edges(0, len(image), min(count, len(image))))
    return out
