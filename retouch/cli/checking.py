"""What ``check`` does: two files become readings, told in lines or as JSON."""

from __future__ import annotations

import argparse
import json
from datetime import datetime
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.depth import to_integers
from retouch.errors import PictureError
from retouch.face import analyse
from retouch.forms.form import loads
from retouch.natural.finding import Finding
from retouch.papers.checked import as_data, checked_sheet, in_words
from retouch.papers.page import fitted
from retouch.picture import Picture, Pyramid, read
from retouch.picture.write import save
from retouch.work.bench import bench_for
from retouch.work.disclosure import disclosure
from retouch.work.natural_check import check_of_images

# Sides that differ by more than this part aren't of the same frame.
_OTHER_FORM = 0.01
# Pictures on the sheet have so many pixels on their longer side.
_SHOWN_PX = 900


def run(options: argparse.Namespace) -> bool:
    """Print the readings; whether one is beyond its limit. Raises `RetouchError` in plain words."""
    original, result = read(options.original), read(options.result)
    before = _working(original)
    after = _fitted(_working(result), original)
    analysis = analyse(original)
    edit = told = renderer = None
    if options.edit:
        try:
            edit = loads(Path(options.edit).read_text("utf-8"))
        except OSError as error:
            raise PictureError(f"{options.edit!r} can't be read: {error.strerror}.") from None
        renderer = bench_for(Pyramid(original), analysis).renderer
        told = disclosure(renderer, edit, analysis)
    found = check_of_images(before, after, analysis, edit, renderer)
    if options.json:
        print(json.dumps(as_data(found, told), allow_nan=False))
    else:
        for f in found:
            print(_line(f))
    if options.pdf:
        small = _small(before), _small(after)
        when = datetime.now().strftime("%Y-%m-%d %H:%M")
        save(checked_sheet(Path(options.result).name, when, found, *small, told), options.pdf)
    return any(f.amber for f in found)


def _small(image: NDArray[np.float32]) -> NDArray[np.uint8]:
    return fitted(to_integers(image, 8), _SHOWN_PX)


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


def _line(one: Finding) -> str:
    mark = "BEYOND" if one.amber else "told  " if one.side == "told" else "within"
    return f"  {mark}    {in_words(one)}"
