"""An edited picture as layers, one for each pass: what other software opens and takes apart."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from retouch.edit.model import Edit, Pass
from retouch.passes import registry
from retouch.picture import Picture, openraster
from retouch.picture.openraster import Layer
from retouch.render.export import render_whole
from retouch.render.renderer import Renderer

Progress = Callable[[float], None]
# How a picture that was rendered becomes the one that is delivered (profile, size).
Finish = Callable[[Picture], Picture]


def _layered(edit: Edit) -> tuple[list[Pass], list[Pass]]:
    """Passes that each become a layer, in the order in which they act; and those that all layers have."""
    below, above, always = [], [], []
    for one in edit.passes:
        kind = registry.kind(one.kind)
        if kind.guide:
            continue
        if kind.single or kind.shape:
            always.append(one)
        elif kind.framed:
            above.append(one)
        else:
            below.append(one)
    return below + above, always


def openraster_file(
    renderer: Renderer,
    edit: Edit,
    finish: Finish = lambda picture: picture,
    progress: Progress = lambda part: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> bytes:
    """The bytes of an OpenRaster file: the picture as photographed in its frame, and a layer for each pass.

    A layer holds what its pass makes of all below it, where it changes anything; its opacity is the pass's
    strength. Blend modes are worked out in it, so every reader shows the same. What moves and frames the
    picture is in all layers. A pass that is switched off is a hidden layer. Flattened they are the picture
    within one step.
    """
    chosen, always = _layered(edit)
    total = len(chosen) + 2

    def rendered(passes: list[Pass], n: int) -> Picture:
        own = replace(edit, passes=(*passes, *always))
        return finish(
            render_whole(renderer, own, lambda share: progress((n + share) / total), cancelled)
        )

    base = rendered([], 0)
    merged = rendered(chosen, 1)

    def layers() -> Iterator[Layer]:
        top = float(np.iinfo(base.pixels.dtype).max)
        flat = base.pixels.astype(np.float32)
        before: NDArray[Any] = base.pixels
        yield Layer("As photographed", _with_alpha(base.pixels, base.alpha))
        acting: list[Pass] = []
        for n, one in enumerate(chosen):
            strength = one.share
            shows = one.acts
            wanted = one if shows else replace(one, enabled=True, stage_on=True, bound=None)
            if wanted.share <= 0:
                continue
            opacity: float = strength if shows else wanted.share
            after = rendered([*acting, wanted], n + 2).pixels
            changed = (after != before).any(-1)
            if shows:
                acting.append(one)
            if not changed.any():
                yield Layer(one.title, np.zeros((1, 1, 4), base.pixels.dtype), 0, 0, opacity, shows)
                continue
            ys, xs = np.flatnonzero(changed.any(1)), np.flatnonzero(changed.any(0))
            y0, y1, x0, x1 = int(ys[0]), int(ys[-1]) + 1, int(xs[0]), int(xs[-1]) + 1
            part = np.s_[y0:y1, x0:x1]
            # What, laid over those below at this opacity, gives what was rendered.
            own = (after[part] - np.float32(1 - opacity) * flat[part]) / np.float32(opacity)
            own = np.asarray(np.round(np.clip(own, 0, top)), np.float32)
            cover = changed[part]
            pixels = np.zeros((*cover.shape, 4), base.pixels.dtype)
            pixels[..., :3][cover] = own[cover].astype(base.pixels.dtype)
            pixels[..., 3][cover] = int(top)
            if shows:
                laid = np.float32(opacity) * own + np.float32(1 - opacity) * flat[part]
                flat[part] = np.where(cover[..., None], laid, flat[part])
                before = after
            yield Layer(one.title, pixels, x0, y0, opacity, shows)

    whole = merged.pixels if merged.alpha is None else _with_alpha(merged.pixels, merged.alpha)
    return openraster.write(layers(), whole, merged.icc)


def _with_alpha(pixels: NDArray[Any], alpha: NDArray[Any] | None) -> NDArray[Any]:
    cover = (
        np.full(pixels.shape[:2], np.iinfo(pixels.dtype).max, pixels.dtype)
        if alpha is None
        else alpha
    )
    return np.concatenate([pixels, cover[..., None]], 2)
