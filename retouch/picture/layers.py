"""Layers that a file holds: an OpenRaster's stack (version 0.0.6), or the further pages of a TIFF."""

from __future__ import annotations

import io
import math
import struct
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any
from xml.etree import ElementTree

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray

from retouch.errors import PictureError
from retouch.picture import heads, openraster
from retouch.picture.read import MOST_PIXELS, check_size, turned
from retouch.plain import plain

# No more layers than this are offered; a stack that is nested deeper than this, or whose list is longer
# (bytes), isn't read.
MOST_LAYERS, _DEEPEST, _LONGEST = 100, 20, 4_000_000
# OpenRaster's names for how a layer is laid, and ours.
MODES = {
    "svg:src-over": "normal", "svg:multiply": "multiply", "svg:screen": "screen", "svg:overlay": "overlay",
    "svg:darken": "darken", "svg:lighten": "lighten", "svg:color-dodge": "colour-dodge",
    "svg:color-burn": "colour-burn", "svg:hard-light": "hard-light", "svg:soft-light": "soft-light",
    "svg:difference": "difference", "svg:exclusion": "exclusion", "svg:color": "colour",
    "svg:luminosity": "luminosity", "svg:hue": "hue", "svg:saturation": "saturation",
}  # fmt: skip


@dataclass(frozen=True)
class Leaf:
    """A layer: what opens its pixels (h, w, 4), where its corner lies, and how it is laid."""

    name: str
    open: Callable[[], NDArray[Any]]
    at: tuple[int, int]
    opacity: float
    mode: str
    shown: bool


@dataclass(frozen=True)
class Group:
    """Layers and groups, the lowest first, laid over each other before they are laid themselves."""

    parts: tuple[Leaf | Group, ...]
    opacity: float
    mode: str
    shown: bool
    apart: bool


def layers_in(data: bytes) -> tuple[str, ...]:
    """The names of the layers that a file holds, the lowest first; none: it holds one picture.

    Raises
    ------
    PictureError
        For a file whose layers can't be read.
    """
    with opened(data) as (root, _):
        return tuple(leaf.name for leaf in leaves_of(root))


@contextmanager
def opened(data: bytes) -> Iterator[tuple[Group, tuple[int, int]]]:
    """What a file's layers are, and its width and height."""
    if not openraster.is_openraster(data):
        yield _pages(data)
        return
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as file:
            info = file.getinfo("stack.xml")
            if info.file_size > _LONGEST:
                raise PictureError("The list of layers in this OpenRaster file is too long.")
            image = ElementTree.fromstring(file.read(info))
            size = int(image.get("w", "")), int(image.get("h", ""))
            check_size(*size)
            stack = image.find("stack")
            if stack is None:
                raise PictureError("This OpenRaster file has no layers.")
            yield _group(stack, file, 0, (0, 0)), size
    except PictureError:
        raise
    except (
        zipfile.BadZipFile, ElementTree.ParseError, KeyError, ValueError, OSError, RuntimeError,
        NotImplementedError, EOFError, struct.error, imagecodecs.PngError,
    ):  # fmt: skip
        raise PictureError("The layers of this OpenRaster file are damaged.") from None


def _group(
    stack: ElementTree.Element, file: zipfile.ZipFile, deep: int, at: tuple[int, int]
) -> Group:
    if deep > _DEEPEST:
        raise PictureError("The layers of this OpenRaster file are nested too deeply.")
    parts: list[Leaf | Group] = []
    # The first element is the topmost.
    for one in reversed(list(stack)):
        here = at[0] + int(one.get("x", "0")), at[1] + int(one.get("y", "0"))
        if one.tag == "stack":
            parts.append(_group(one, file, deep + 1, here))
        elif one.tag == "layer":
            source = one.get("src", "")
            name = plain(one.get("name", ""))[:200] or f"Layer {len(parts) + 1}"
            parts.append(
                Leaf(name, lambda source=source: _layer(file, source), here, *_how(one))  # type: ignore[misc]
            )
    opacity, mode, shown = _how(stack)
    return Group(tuple(parts), opacity, mode, shown, deep > 0 and stack.get("isolation") != "auto")


def _how(one: ElementTree.Element) -> tuple[float, str, bool]:
    """Opacity 0..1, mode, and whether a layer shows."""
    mode = one.get("composite-op", "svg:src-over")
    opacity = float(one.get("opacity", "1"))
    if not math.isfinite(opacity):
        raise ValueError("The opacity of a layer is no number.")
    return (
        min(max(opacity, 0.0), 1.0),
        MODES.get(mode, mode),
        one.get("visibility", "visible") != "hidden",
    )


def _layer(file: zipfile.ZipFile, source: str) -> NDArray[Any]:
    info = file.getinfo(source)
    with file.open(info) as png:
        width, height = struct.unpack(">II", png.read(24)[16:24])
    if info.file_size > openraster.MOST_BYTES or width * height > MOST_PIXELS:
        raise PictureError("A layer of this OpenRaster file is too large.")
    return _with_alpha(np.asarray(imagecodecs.png_decode(file.read(info))))


def _with_alpha(pixels: NDArray[Any]) -> NDArray[Any]:
    """Grey or colour, with opacity or without, as (h, w, 4) of the same type."""
    if pixels.dtype not in (np.uint8, np.uint16):
        raise PictureError("Layers have 8 or 16 bit per channel; these don't.")
    pixels = pixels[..., None] if pixels.ndim == 2 else pixels
    channels = pixels.shape[2]
    colour = pixels[..., :3] if channels > 2 else np.repeat(pixels[..., :1], 3, 2)
    alpha = (
        pixels[..., -1:]
        if channels in (2, 4)
        else np.full_like(pixels[..., :1], np.iinfo(pixels.dtype).max)
    )
    return np.concatenate([colour, alpha], 2)


def _pages(data: bytes) -> tuple[Group, tuple[int, int]]:
    """Further pages of a TIFF that are as large as its first, each a layer of its own."""
    none = Group((), 1.0, "normal", True, False), (0, 0)
    if data[:4] not in (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"):
        return none
    try:
        with tifffile.TiffFile(io.BytesIO(data)) as tiff:
            pages: list[Any] = [tiff.pages[n] for n in range(min(len(tiff.pages), MOST_LAYERS + 1))]
            first = pages[0]
            size = int(first.imagewidth), int(first.imagelength)
            alike = [n for n, page in enumerate(pages) if n and _like_first(page, first)]
            names = [_page_name(pages[n], n) for n in alike]
    except Exception:
        # tifffile raises many kinds of errors on damaged data; that the first page is whole was told before.
        return none
    parts = tuple(
        Leaf(name, lambda n=n: _page(data, n), (0, 0), 1.0, "normal", True)  # type: ignore[misc]
        for n, name in zip(alike, names, strict=True)
    )
    return Group(parts, 1.0, "normal", True, False), size if _orientation(first) < 5 else size[::-1]


def _orientation(page: Any) -> int:
    tag = page.tags.get("Orientation")
    return int(tag.value) if tag is not None else 1


def _like_first(page: Any, first: Any) -> bool:
    """Whether a page is a picture as large as the first one, in grey or colour."""
    return bool(
        (page.imagewidth, page.imagelength) == (first.imagewidth, first.imagelength)
        and not page.is_reduced
        and page.planarconfig == 1
        and page.photometric in (tifffile.PHOTOMETRIC.RGB, tifffile.PHOTOMETRIC.MINISBLACK)
    )


def _page(data: bytes, number: int) -> NDArray[Any]:
    try:
        with tifffile.TiffFile(io.BytesIO(data)) as tiff:
            page: Any = tiff.pages[number]
            heads.check_tiff(page, len(data))
            pixels = np.asarray(page.asarray())
            turn = _orientation(page)
    except PictureError:
        raise
    except Exception:
        # tifffile raises many kinds of errors on damaged data.
        raise PictureError(f"Page {number + 1} of this TIFF is damaged.") from None
    return _with_alpha(turned(pixels, turn))


def _page_name(page: Any, number: int) -> str:
    tag = page.tags.get("PageName")
    return (
        plain(str(tag.value))[:200]
        if tag is not None and plain(str(tag.value))
        else f"Page {number + 1}"
    )


def leaves_of(group: Group) -> Iterator[Leaf]:
    """The layers of a group and of those in it, the lowest first."""
    for part in group.parts:
        if isinstance(part, Group):
            yield from leaves_of(part)
        else:
            yield part
