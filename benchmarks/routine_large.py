"""The everyday routine on 24 megapixels at full size: seconds and highest memory.

Run as ``python -m benchmarks.routine_large EDIT PICTURE ANALYSIS``, a process of its own.
"""

from __future__ import annotations

import json
import re
import sys
import time
from pathlib import Path

from retouch.face.analysis import load
from retouch.face.cover import FaceZones
from retouch.forms.form import from_data
from retouch.picture import Pyramid, read
from retouch.render import Renderer
from retouch.render.export import render_whole
from retouch.warm import warm


def main(edit_path: str, picture_path: str, analysis_path: str) -> None:
    edit = from_data(json.loads(Path(edit_path).read_text()))
    analysis = load(Path(analysis_path))
    pyramid = Pyramid(read(Path(picture_path)))
    renderer = Renderer(pyramid, zones=lambda e: FaceZones(analysis, e, pyramid))
    # As in a studio that is at work: compiled loops are loaded.
    warm()
    start = time.perf_counter()
    render_whole(renderer, edit)
    seconds = time.perf_counter() - start
    used = re.search(r"VmHWM:\s+(\d+) kB", Path("/proc/self/status").read_text())
    assert used is not None
    print(seconds, int(used[1]) / 1024)


if __name__ == "__main__":
    main(*sys.argv[1:])
