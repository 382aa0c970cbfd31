"""What ``check`` does: two files become readings, told in lines or as JSON."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit import Edit
from retouch.errors import PictureError
from retouch.face import Analysis, analyse
from retouch.face.cover import FaceZones
from retouch.forms.form import loads
from retouch.natural.check import Finding, of_images
from retouch.natural.moves import everything_moved
from retouch.papers.checked import in_words
from retouch.picture import Picture, Pyramid, read
from retouch.work.bench import bench_for

# Sides that differ by more than this part aren't of the same frame.
_OTHER_FORM = 0.01


def run(options: argparse.Namespace) -> bool:
    """Print the readings; whether one is beyond its limit. Raises `RetouchError` in plain words."""
    original, result = read(options.original), read(options.result)
    before = _working(original)
    after = _fitted(_working(result), original)
    analysis = analyse(original)
    found = of_images(before, after, analysis)
    edit = None
    if options.edit:
        try:
            edit = loads(Path(options.edit).read_text("utf-8"))
        except OSError as error:
            raise PictureError(f"{options.edit!r} can't be read: {error.strerror}.") from None
    moved = _moved(original, edit, analysis) if edit is not None else []
    if options.json:
        told = [{**asdict(f), "amber": f.amber} for f in found]
        print(json.dumps({"readings": told, "moved": moved}, allow_nan=False))
    else:
        for f in found:
            print(_line(f))
        for line in moved:
            print(f"  moved     {line}")
    return any(f.amber for f in found)


def _working(picture: Picture) -> NDArray[np.float32]:
    return np.clip(np.asarray(picture.space.to_working(picture.pixels), np.float32), 0, 1)


def _fitted(image: NDArray[np.float32], original: Picture) -> NDArray[np.float32]:
    """The result at the original's size; `PictureError` where it is of another frame."""
    height, width = image.shape[:2]
    if (height, width) == (original.height, original.width):
        return image
    ratio = (width / height) / (original.width / original.height)
    if abs(ratio - 1) > _OTHER_FORM:
        raise PictureError(
            f"The result has {width} x {height} pixels, the original {original.width} x {original.height}: "
            "it was cropped or turned, and can't be laid on it."
        )
    way = cv2.INTER_AREA if width > original.width else cv2.INTER_CUBIC
    size = (original.width, original.height)
    return np.clip(np.asarray(cv2.resize(image, size, interpolation=way), np.float32), 0, 1)


def _moved(original: Picture, edit: Edit, analysis: Analysis) -> list[str]:
    pyramid = Pyramid(original)
    bench = bench_for(pyramid, analysis)
    zones = FaceZones(analysis, edit, pyramid)
    out = []
    for one in everything_moved(bench.renderer, edit, zones):
        size = f"{one.most_mm:.1f} mm" if one.most_mm is not None else f"{one.most_px:.1f} px"
        out.append(f"{one.name}, {one.where}: {size}")
    return out


def _line(one: Finding) -> str:
    mark = "BEYOND" if one.amber else "within"
    return f"  {mark}    {in_words(one)}"
