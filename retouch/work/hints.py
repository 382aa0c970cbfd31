"""What an edit's touches say about the faces, for their analysis."""

from __future__ import annotations

from retouch.edit import Edit
from retouch.face import Hints
from retouch.passes.faces import FACES


def hints_of(edit: Edit) -> Hints:
    """Faces added and removed, irises laid on, points nudged."""
    boxes, removed, irises, nudges = [], [], [], []
    for touch in edit.touches_of(FACES.name):
        what, first, last = touch.values["what"], touch.path[0], touch.path[-1]
        if what == "face":
            x, y = min(first[0], last[0]), min(first[1], last[1])
            boxes.append((x, y, abs(last[0] - first[0]), abs(last[1] - first[1])))
        elif what == "none":
            removed.append(first)
        elif what == "iris":
            irises.append((*first, float(touch.values["radius_px"])))
        else:
            nudges.append((*first, *last))
    return Hints(tuple(boxes), tuple(removed), tuple(irises), tuple(nudges))
