"""Compile what is compiled on first use, so that the first touch of a session doesn't wait.

Run as ``python -m retouch.warm``; takes a minute or two the first time and a second later.
"""

from __future__ import annotations

import compileall
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np

from retouch import heal
from retouch.colour.curve import ramp
from retouch.colour.depth import to_integers
from retouch.colour.difference import ciede2000
from retouch.edit.mask import Mask, MaskStroke, OutlineArea
from retouch.edit.model import Edit
from retouch.edit.values import Value
from retouch.face.analysis import Analysis
from retouch.face.cover import FaceZones, strands
from retouch.face.guided import applied, coefficients
from retouch.face.judging import judge
from retouch.face.marks import find_marks
from retouch.face.nearby import colours, decided
from retouch.face.ridges import path
from retouch.face.zones import Layer
from retouch.fill import fill
from retouch.geometry import Rect
from retouch.heal.far import signed_on_grid
from retouch.masks import Masks
from retouch.memory import Memory
from retouch.passes import registry
from retouch.passes.ways import Framed, FramePlace, Pixels, Place
from retouch.picture import Picture, Pyramid
from retouch.render.mixing import add_into, bend_into, mix_into
from retouch.shape.composed import Composed, Move, composed
from retouch.shape.least_squares import deformed
from retouch.shape.nudge import Act, Brush, stroke
from retouch.warp.field import Field
from retouch.warp.frame import Wish, framed
from retouch.warp.resample import nodes, resampled


def warm() -> None:
    """Heal a dab, a stroke and an outline on a picture with grain and an edge, fill a hole, use every pass, paint."""
    rng = np.random.default_rng(0)
    bounds = Rect(0, 0, 240, 240)
    plain = (0.6 + 0.02 * rng.standard_normal((240, 240, 3))).astype(np.float32)
    split = plain.copy()
    split[:, 126:] *= np.float32(0.4)
    dab = heal.Footprint(((120.0, 120.0),), 10.0)
    stroke = heal.Footprint(((100.0, 120.0), (130.0, 125.0), (140.0, 110.0)), 10.0)
    for picture in (plain, split):
        for footprint in (dab, stroke):

            def read(rect: Rect, picture: heal.Array = picture) -> heal.Array:
                # In line, as the renderer gives them: each layout is compiled by itself.
                return picture[rect.y0 : rect.y1, rect.x0 : rect.x1].copy()

            view = heal.examine(read, footprint, bounds)
            heal.propose(read, footprint, bounds, view=view)
            heal.heal(read, footprint, (0, 50), bounds, view=view)
            heal.clone(read, footprint, (0, 50), bounds, flow=0.5)
    corners = ((90.0, 90.0), (150.0, 95.0), (120.0, 140.0))
    heal.propose(lambda r: plain[r.y0 : r.y1, r.x0 : r.x1].copy(), heal.outline(corners), bounds)
    find_marks(
        np.asarray(to_integers(plain, 8), np.uint8), bounds, np.ones((240, 240), np.float32), 4.0
    )
    axis = np.arange(240.0)
    signed_on_grid(axis, axis, np.array(corners))
    hole = np.zeros((240, 240), np.bool_)
    hole[100:130, 100:130] = True
    fill(plain, hole)
    # Half of it flushed, all of it flushed: what is red is looked for first.
    flushed = plain * np.array([1.3, 0.8, 0.75], np.float32)
    for picture in (np.concatenate([plain[:120], flushed[:120]]), flushed):
        for kind in registry.all_kinds():
            if isinstance(kind.way, Pixels):
                # One that is cut finds its edge along an outline.
                half = np.zeros((240, 240), np.float32)
                half[:, 120:] = 1
                place = Place(bounds, 0, cover=half if kind.cut else None)
                whole = kind.whole
                if whole is not None:
                    place = replace(place, whole=whole.make(picture, _at_work(kind), place))
                kind.way.make(picture, _at_work(kind), place)
            elif isinstance(kind.way, Framed):
                kind.way.make(picture, _at_work(kind), FramePlace(0, 0, 1.0, 240, 240))
    ciede2000(plain, flushed)
    strands(plain)
    _understand(plain)
    _cover(plain)
    _lay(plain)
    _paint(plain)
    _frame(plain)
    _shape()


def _understand(plain: heal.Array) -> None:
    """Enlarge a mask along edges, go by colours nearby and along a ridge, and judge a spot."""
    explained = coefficients(plain, plain[None, ..., 0], 4, 1e-3)
    explained_by = np.asarray(to_integers(plain, 8), np.uint8)
    applied(explained, explained_by, np.eye(3)[:2])
    chances = np.full((2, 240, 240), 0.5, np.float32)
    decided(chances, colours(explained_by, chances, 60.0), explained_by, np.eye(3)[:2])
    path(plain[..., 0].copy(), 1, 1.0)
    spot = plain.copy()
    spot[112:128, 112:128, 1:] *= np.float32(0.7)
    judge(np.log(spot), np.ones((240, 240), np.float32), (120.0, 120.0, 8.0, 10.0), 5.0)


def _cover(plain: heal.Array) -> None:
    """Draw what zones cover."""
    bounds = Rect(0, 0, 240, 240)
    layers = tuple(
        Layer(zone, 0, bounds, np.full((60, 60), 100, np.uint8)) for zone in ("forehead", "unsure", "teeth")
    )  # fmt: skip
    zones = FaceZones(
        Analysis(240, 240, (), layers, ()), Edit(), Pyramid(Picture(to_integers(plain, 8)))
    )
    for zone in ("skin", "forehead", "teeth"):
        zones.cover(zone, None, bounds, (240, 240))


def _lay(plain: heal.Array) -> None:
    """Lay touches, curves and passes over whole pictures and parts of them."""
    table, above = ramp(), plain[:60, :80].copy()
    cover = np.full((240, 240, 1), 0.5, np.float32)
    for here in (np.s_[0:240, 0:240], np.s_[20:200, 30:220]):
        for share in (1.0, 0.5, cover[here]):
            image = plain.copy()
            add_into(image[here], above, 5, 5, share)
            bend_into(image, here, table, share)
            mix_into(image, here, image[here].copy(), "normal", share)


def _paint(plain: heal.Array) -> None:
    """Paint on a mask."""
    masks = Masks(Pyramid(Picture(to_integers(plain, 8))), Memory(1 << 26))
    path = ((60.0, 60.0), (90.0, 80.0))
    strokes = tuple(MaskStroke(path, 20.0, flow=flow, reveal=flow < 30) for flow in (100, 40, 20))
    box = OutlineArea(((30.0, 30.0), (150.0, 40.0), (90.0, 160.0)))
    masks.draw(Mask((box,), strokes=strokes), Rect(20, 20, 200, 200), 0)


def _frame(plain: heal.Array) -> None:
    """Turn pictures of every type, and a mask."""
    bounds = Rect(0, 0, 240, 240)
    warp = framed(Wish(angle=3), bounds).warp
    for step in (1.0, 2.0):
        at = nodes(warp.to_original, (0, 0), (90, 80), step)
        at.spread()
        for pixels in (plain, to_integers(plain, 8), to_integers(plain, 16)):
            resampled(pixels, (0.0, 0.0), at)
        resampled(plain[..., 0], (0.0, 0.0), at)


def _shape() -> None:
    """Move places by a stroke, by handles, and back."""
    path = np.array([[50.0, 50.0], [60.0, 52.0]])
    acts: tuple[Act, ...] = ("push", "widen")
    for act in acts:
        moved = composed([Move(act, act, partial(_stroked, act, path))])
        moved.forth(moved.back(path))
    deformed(path, path, path + 1, 1.0)


def _stroked(act: Act, path: np.ndarray, below: Composed) -> Field | None:
    return stroke(act, path, Brush(20.0, 0.7, 1.0), below)


def _at_work(kind: registry.PassKind) -> dict[str, Value]:
    """Settings with which a pass does something, its texture included."""
    own = {s.name: s.default for s in (*kind.settings, *kind.fitted)}
    strong = ("fresh", "towards", "amount", "lit", "gentle", "turn", "warmth")
    own |= {n: 20.0 for n in strong if n in own}
    return own | ({"light": ((0.0, 0.1), (1.0, 0.9))} if kind.name == "curves" else {})


if __name__ == "__main__":
    # Whoever can't write here later, as in a container, would read each module from its source at each start.
    compileall.compile_dir(Path(__file__).parent, quiet=2)
    warm()
