"""What files tell of themselves is checked before anything is decoded."""

from __future__ import annotations

import io
import random
import struct
import tracemalloc
import unittest

import imagecodecs
import numpy as np
import tifffile

from retouch.errors import PictureError
from retouch.picture import Output, Picture, encode, read_bytes
from retouch.picture.heads import jpegxl_size
from retouch.picture.profile import srgb


def tiff(pixels: np.ndarray, **more: object) -> bytes:
    out = io.BytesIO()
    tifffile.imwrite(out, pixels, **more)  # type: ignore[arg-type]
    return out.getvalue()


def with_tag(data: bytes, tag: int, value: int) -> bytes:
    """A little-endian TIFF with the count or value of one tag of its first page changed."""
    (at,) = struct.unpack_from("<I", data, 4)
    (count,) = struct.unpack_from("<H", data, at)
    for n in range(count):
        entry = at + 2 + 12 * n
        if struct.unpack_from("<H", data, entry)[0] == tag:
            kind = struct.unpack_from("<H", data, entry + 2)[0]
            patched = struct.pack("<H" if kind == 3 else "<I", value)
            return data[: entry + 8] + patched + data[entry + 8 + len(patched) :]
    raise AssertionError(tag)


class Tiffs(unittest.TestCase):
    def test_many_channels_are_refused_without_their_memory(self) -> None:
        many = tiff(np.zeros((500, 500, 150), np.uint8), photometric="minisblack", planarconfig="contig", compression="zlib")  # fmt: skip
        tracemalloc.start()
        with self.assertRaisesRegex(PictureError, "150 channels"):
            read_bytes(many)
        self.assertLess(tracemalloc.get_traced_memory()[1], 10_000_000)
        tracemalloc.stop()

    def test_missing_and_cut_strips_are_told(self) -> None:
        whole = tiff(np.full((64, 64, 3), 90, np.uint8), rowsperstrip=64)
        self.assertEqual(read_bytes(whole).pixels.shape, (64, 64, 3))
        # The picture says that it is higher than its strips: tag 257 is its length, 278 rows a strip.
        for tag, value in ((257, 512), (278, 8)):
            with self.assertRaisesRegex(PictureError, "missing|cut off"):
                read_bytes(with_tag(whole, tag, value))
        # A strip of no bytes: tag 279 is their count.
        with self.assertRaisesRegex(PictureError, "missing|cut off"):
            read_bytes(with_tag(whole, 279, 0))
        with self.assertRaisesRegex(PictureError, "missing|cut off"):
            read_bytes(whole[: len(whole) // 2])

    def test_packings_that_are_whole_are_read(self) -> None:
        rng = np.random.default_rng(1)
        image = rng.integers(0, 255, (40, 56, 3), np.uint8)
        for more in (
            {"compression": "lzw"}, {"compression": "zstd"}, {"tile": (16, 16)},
            {"planarconfig": "separate", "photometric": "rgb"}, {"rowsperstrip": 7},
        ):  # fmt: skip
            with self.subTest(more):
                pixels = np.moveaxis(image, -1, 0) if "planarconfig" in more else image
                np.testing.assert_array_equal(read_bytes(tiff(pixels, **more)).pixels, image)


class JpegXl(unittest.TestCase):
    def test_sizes_are_those_that_the_library_decodes(self) -> None:
        """Against libjxl by imagecodecs: all ways in which the standard writes a size."""
        for height, width in (
            (16, 16),
            (40, 48),
            (64, 64),
            (33, 47),
            (600, 800),
            (800, 1200),
            (700, 513),
        ):
            data = imagecodecs.jpegxl_encode(np.zeros((height, width, 3), np.uint8))
            self.assertEqual(jpegxl_size(data), (width, height))
            self.assertEqual(imagecodecs.jpegxl_decode(data).shape[:2], (height, width))

    def test_boxes_are_walked(self) -> None:
        stream = imagecodecs.jpegxl_encode(np.zeros((33, 47, 3), np.uint8))
        if stream[:2] != b"\xff\x0a":
            self.skipTest("the library writes containers")
        mark = b"\0\0\0\x0cJXL \r\n\x87\n"
        kind = struct.pack(">I4s", 20, b"ftyp") + b"jxl \0\0\0\0jxl "
        self.assertEqual(jpegxl_size(mark + kind + struct.pack(">I4s", 8 + len(stream), b"jxlc") + stream), (47, 33))  # fmt: skip
        part = struct.pack(">I4sI", 12 + len(stream), b"jxlp", 0x80000000)
        self.assertEqual(jpegxl_size(mark + kind + part + stream), (47, 33))

    def test_a_size_beyond_all_is_refused_before_it_is_decoded(self) -> None:
        bits, at = 0, 0
        for value, count in ((0, 1), (3, 2), (2**29, 30), (0, 3), (3, 2), (2**29, 30)):
            bits |= value << at
            at += count
        bomb = b"\xff\x0a" + bits.to_bytes(16, "little") + b"\0" * 200
        self.assertEqual(jpegxl_size(bomb), (2**29 + 1, 2**29 + 1))
        with self.assertRaisesRegex(PictureError, "megapixels can be opened"):
            read_bytes(bomb)
        for cut in (
            b"\xff\x0a",
            b"\0\0\0\x0cJXL \r\n\x87\n",
            b"\0\0\0\x0cJXL \r\n\x87\n" + b"\0" * 30,
        ):
            with self.assertRaises(PictureError):
                read_bytes(cut)


class Profiles(unittest.TestCase):
    def test_broken_ones_are_dropped_and_that_is_told(self) -> None:
        picture = Picture(np.full((32, 32, 3), 120, np.uint8), icc=srgb())
        whole = encode(picture, Output("png"))
        self.assertFalse(read_bytes(whole).profile_dropped)
        rng = random.Random(4)
        dropped = 0
        for _ in range(150):
            icc = bytearray(srgb())
            for _ in range(rng.randint(1, 30)):
                icc[rng.randrange(len(icc))] = rng.randrange(256)
            damaged = bytes(icc[: rng.choice((len(icc), len(icc), 200, 130, 60))])
            made = read_bytes(encode(Picture(picture.pixels, icc=damaged), Output("tiff")))
            dropped += made.profile_dropped
            # Whatever is kept can be worked with.
            self.assertIsNotNone(made.space)
        self.assertGreater(dropped, 20)
