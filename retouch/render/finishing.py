"""Passes that act on the framed picture, laid over it after the one resampling."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from retouch.edit.mask import Mask
from retouch.edit.model import Edit, Pass
from retouch.passes import registry
from retouch.passes.ways import Framed, FramePlace
from retouch.render.mixing import blended

Array = NDArray[np.float32]


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
        kind = registry.kind(one.kind)
        assert isinstance(kind.way, Framed)
        above = blended(one.blend, image, kind.way.make(image, kind.values(one), place))
        share = np.float32(one.share) * cover(one.mask)[..., None]
        image = np.asarray(image + (above - image) * share, np.float32)
    return image
