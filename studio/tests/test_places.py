"""Places on a client's picture and in the original, where a face was moved far."""

from __future__ import annotations

import unittest

import numpy as np

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.edit import Edit
from retouch.picture import Pyramid, read
from retouch.work.bench import bench_for
from retouch.work.operations import AddPass, perform
from studio.clients.services.places import nodes_of, original_of, shown_at


class Places(unittest.TestCase):
    def test_a_pin_lies_where_the_map_says_and_comes_back(self) -> None:
        analysis = understand("ivo").analysis
        bench = bench_for(Pyramid(read(DEMO / "portraits" / "ivo.jpg")), analysis)
        moves = {"face_chin": 8.0, "nose_width": 6.0, "face_width": 8.0}
        add = AddPass("proportions", settings=dict(moves), face=analysis.faces[0].anchor)
        warp = bench.renderer.plan(perform(Edit(), add, bench).edit).warp
        nodes = nodes_of(warp)
        half_a_mm = analysis.faces[0].scale.px_per_mm / 2
        for u, v in np.random.default_rng(1).uniform(0.2, 0.8, (200, 2)):
            x, y = original_of(nodes, u, v)
            exact = warp.to_original(np.array([[u * warp.width, v * warp.height]]))[0]
            self.assertLess(float(np.hypot(x - exact[0], y - exact[1])), half_a_mm)
            back = shown_at(warp, x, y)
            off = np.hypot((back[0] - u) * warp.width, (back[1] - v) * warp.height)
            # Where skin was drawn out, so is what is missing.
            self.assertLess(float(off), 2 * half_a_mm)
