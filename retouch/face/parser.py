"""The parser: a small network that tells background, skin, hair, beard, clothing and things worn.

Its weights were fitted by us on rendered people who don't exist (training/README.md) and run through
OpenCV.
"""

from __future__ import annotations

import threading
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float32]

BACKGROUND, SKIN, HAIR, BEARD, CLOTHING, THING = range(6)
CLASSES = 6
WEIGHTS = Path(__file__).with_name("parser.onnx")

_lock = threading.Lock()


@lru_cache(maxsize=1)
def _network() -> cv2.dnn.Net:
    return cv2.dnn.readNetFromONNX(str(WEIGHTS))


def parse(clues: Array) -> Array:
    """The chance of each class at each place.

    Parameters
    ----------
    clues : ndarray (canvas.CHANNELS, side, side) float32
        Of a canvas; mirrored, too, so that left and right are judged alike.

    Returns
    -------
    ndarray (CLASSES, side, side) float32
        Summing to 1.
    """
    # The network sees its clues in steps of a byte, as it did when it was fitted.
    seen = np.rint(np.clip(clues * 63.5 + 127.5, 0, 255))[None]
    with _lock:
        network = _network()
        network.setInput(np.ascontiguousarray((seen - 127.5) / 63.5, np.float32))
        found = network.forward()[0]
    return np.asarray(found, np.float32)
