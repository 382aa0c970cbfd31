"""The face models, behind one small door: detection, mesh with iris, person.

The weights ship inside the package mediapipe (Apache-2.0), run offline on the CPU and are
deterministic in static mode: V. Bazarevsky et al., *BlazeFace* (CVPR workshop 2019); Y. Kartynnik
et al., *Real-time Facial Surface Geometry* (CVPR workshop 2019); A. Ablavatski et al., *Real-time
Pupil Tracking* (CVPR workshop 2020). Nothing else in the project knows that package.
"""

from __future__ import annotations

import os
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from types import ModuleType
from typing import Any

import numpy as np
from numpy.typing import NDArray

Pixels = NDArray[np.uint8]
Array = NDArray[np.float32]

_LEAST_SCORE = 0.35


@dataclass(frozen=True)
class Box:
    """A detected face: box in pixels of the given picture, score 0..1."""

    x: float
    y: float
    width: float
    height: float
    score: float

    @property
    def centre(self) -> tuple[float, float]:
        return self.x + self.width / 2, self.y + self.height / 2


@contextmanager
def _quiet() -> Iterator[None]:
    """Leave out what the models' own code writes about itself to the standard error stream.

    It does so when a model is loaded and looks for the first time, and can't be told not to. Errors
    come as exceptions all the same.
    """
    sys.stderr.flush()
    try:
        kept = os.dup(2)
    except OSError:
        # There is no such stream.
        yield
        return
    nothing = os.open(os.devnull, os.O_WRONLY)
    try:
        os.dup2(nothing, 2)
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nothing)


@contextmanager
def _without_plots() -> Iterator[None]:
    """Leave out the plotting library that the models' package loads beside them.

    It is for pictures of its own that nobody asks for here, and takes longer to load than a face to
    find. Whoever needs it later gets the real one.
    """
    stand_ins = [n for n in ("matplotlib", "matplotlib.pyplot") if n not in sys.modules]
    sys.modules.update({name: ModuleType(name) for name in stand_ins})
    try:
        yield
    finally:
        for name in stand_ins:
            sys.modules.pop(name, None)


class Models:
    """The models, loaded when first used. One caller at a time: they don't bear sharing."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._loaded: dict[str, Any] = {}

    def _found(self, name: str, picture: Pixels) -> Any:
        """What a model finds in a picture; loaded when first used, under the lock."""
        pixels = np.ascontiguousarray(picture)
        if name in self._loaded:
            return self._loaded[name].process(pixels)
        with _quiet():
            self._load(name)
            return self._loaded[name].process(pixels)

    def _load(self, name: str) -> None:
        os.environ.setdefault("GLOG_minloglevel", "2")
        os.environ.setdefault("TF_CPP_MIN_LOG_LEVEL", "2")
        with _without_plots():
            from mediapipe.python.solutions import (
                face_detection,
                face_mesh,
                selfie_segmentation,
            )

        made: dict[str, Any] = {
            "near": lambda: face_detection.FaceDetection(_LEAST_SCORE, 0),
            "far": lambda: face_detection.FaceDetection(_LEAST_SCORE, 1),
            "mesh": lambda: face_mesh.FaceMesh(True, 1, True, _LEAST_SCORE),
            "person": lambda: selfie_segmentation.SelfieSegmentation(0),
        }
        self._loaded[name] = made[name]()

    def detect(self, picture: Pixels) -> list[Box]:
        """Faces in an sRGB picture (h, w, 3) uint8, by the near and the far model; may overlap."""
        height, width = picture.shape[:2]
        boxes = []
        with self._lock:
            for name in ("near", "far"):
                found = self._found(name, picture).detections or []
                for one in found:
                    b = one.location_data.relative_bounding_box
                    boxes.append(
                        Box(
                            b.xmin * width,
                            b.ymin * height,
                            b.width * width,
                            b.height * height,
                            float(one.score[0]),
                        )
                    )
        return boxes

    def mesh(self, picture: Pixels) -> Array | None:
        """The mesh of the clearest face, (478, 3): x, y, depth in pixels; None without a face.

        Depth grows away from the viewer, 0 near the middle of the head. The last ten points are
        the irises: centre and four of the ring, first of the person's right eye.
        """
        height, width = picture.shape[:2]
        with self._lock:
            found = self._found("mesh", picture).multi_face_landmarks
        if not found:
            return None
        points = [(p.x * width, p.y * height, p.z * width) for p in found[0].landmark]
        return np.asarray(points, np.float32)

    def person(self, picture: Pixels) -> Array:
        """How surely each pixel belongs to a person, (h, w) float32 0..1, soft-edged."""
        with self._lock:
            mask = self._found("person", picture).segmentation_mask
        return np.asarray(mask, np.float32)

    def close(self) -> None:
        """Free the models' memory."""
        with self._lock:
            for one in self._loaded.values():
                one.close()
            self._loaded.clear()


MODELS = Models()
