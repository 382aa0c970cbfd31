"""OpenRaster: an open format of layers, written and its merged picture read.

After the OpenRaster specification 0.0.6 (freedesktop.org): a ZIP file that begins with the entry
``mimetype``, stored, then ``stack.xml``, PNG layers, a thumbnail and the merged picture.
"""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any
from xml.etree import ElementTree

import cv2
import imagecodecs
import numpy as np
from numpy.typing import NDArray

from retouch.errors import PictureError
from retouch.picture.png import png

MIME = "image/openraster"
_MERGED = "mergedimage.png"
# The thumbnail fits into a square of this side (the specification's).
_THUMB = 256
# Of deflate: photographs hardly get smaller above it.
_LEVEL = 2
# A merged picture of more bytes than this isn't unpacked.
MOST_BYTES = 2_000_000_000


@dataclass(frozen=True)
class Layer:
    """A layer: pixels (h, w, 4) uint8 or uint16 at ``x``, ``y``, its ``opacity`` 0..1, and whether it shows."""

    name: str
    pixels: NDArray[Any]
    x: int = 0
    y: int = 0
    opacity: float = 1.0
    visible: bool = True


def write(
    layers: Iterable[Layer], merged: NDArray[Any], icc: bytes | None, resolution: int = 300
) -> bytes:
    """The bytes of a file.

    Parameters
    ----------
    layers : iterable of Layer
        The lowest first; each is packed as it comes.
    merged : ndarray (h, w, 3 or 4)
        What all visible layers give.
    icc : bytes or None
        Goes into the PNG files.
    """
    height, width = merged.shape[:2]
    out = io.BytesIO()
    root = ElementTree.Element(
        "image", {"version": "0.0.6", "w": str(width), "h": str(height),
                  "xres": str(resolution), "yres": str(resolution)},
    )  # fmt: skip
    stack = ElementTree.SubElement(root, "stack")
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as file:
        file.writestr("mimetype", MIME)
        for n, layer in enumerate(layers):
            source = f"data/layer{n:03d}.png"
            file.writestr(source, png(layer.pixels, icc, None))
            # In the stack the first element is the topmost.
            stack.insert(0, ElementTree.Element("layer", {
                "name": layer.name, "src": source, "x": str(layer.x), "y": str(layer.y),
                "opacity": f"{layer.opacity:.6g}", "composite-op": "svg:src-over",
                "visibility": "visible" if layer.visible else "hidden",
            }))  # fmt: skip
        ElementTree.indent(root)
        file.writestr(
            "stack.xml", ElementTree.tostring(root, encoding="UTF-8", xml_declaration=True)
        )
        file.writestr(_MERGED, png(merged, icc, None))
        file.writestr("Thumbnails/thumbnail.png", _thumbnail(merged))
    return out.getvalue()


def _thumbnail(merged: NDArray[Any]) -> bytes:
    height, width = merged.shape[:2]
    k = min(1.0, _THUMB / max(height, width))
    size = (max(1, round(width * k)), max(1, round(height * k)))
    small = cv2.resize(merged, size, interpolation=cv2.INTER_AREA)
    if small.dtype == np.uint16:
        small = (small >> 8).astype(np.uint8)
    return bytes(imagecodecs.png_encode(np.ascontiguousarray(small), level=_LEVEL))


def is_openraster(data: bytes) -> bool:
    """Whether bytes begin as such a file does: the entry ``mimetype``, stored."""
    return data[:4] == b"PK\x03\x04" and data[30:38] == b"mimetype" and MIME.encode() in data[38:80]


def merged_of(data: bytes) -> bytes:
    """The PNG of the merged picture in a file; `PictureError` where there is none."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as file:
            info = file.getinfo(_MERGED)
            if info.file_size > MOST_BYTES:
                raise PictureError("The picture in this OpenRaster file is too large.")
            return file.read(info)
    except KeyError:
        raise PictureError("This OpenRaster file holds no merged picture; save it anew.") from None
    except (
        zipfile.BadZipFile,
        OSError,
        RuntimeError,
        NotImplementedError,
        EOFError,
        ValueError,
    ) as error:
        raise PictureError(f"The OpenRaster file is damaged: {error}.") from None
