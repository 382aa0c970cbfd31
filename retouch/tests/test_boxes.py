"""What JPEG XL files say beside their pictures (ISO/IEC 18181-2), read by exiv2, decoded by libjxl."""

from __future__ import annotations

import random
import struct
import unittest

import imagecodecs
import numpy as np
import pyexiv2
from PIL import ExifTags, Image

from retouch.picture import Output, Picture, metadata
from retouch.picture.boxes import with_words, words_of
from retouch.picture.described import described
from retouch.picture.read import read_bytes
from retouch.picture.write import encode

PIXELS = np.random.default_rng(4).integers(0, 256, (24, 32, 3)).astype(np.uint8)
PACKET = (
    b'<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
    b'<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:source>Film</dc:source>'
    b"</rdf:Description></rdf:RDF></x:xmpmeta>"
)


def exif_of(make: str) -> bytes:
    exif = Image.Exif()
    exif[ExifTags.Base.Make] = make
    kept = metadata.to_bytes(exif)
    assert kept is not None
    return kept


class Boxes(unittest.TestCase):
    def file(self, pixels: np.ndarray = PIXELS) -> bytes:
        said = described(PACKET)
        return encode(
            Picture(pixels, exif=exif_of("A camera"), said=said), Output("jxl", quality=100)
        )

    def test_another_library_reads_them_and_another_decodes_the_picture(self) -> None:
        # With 16 bits the encoder gives a container of its own.
        for pixels in (PIXELS, PIXELS.astype(np.uint16) * 257):
            data = self.file(pixels)
            with pyexiv2.ImageData(data) as image:
                self.assertEqual(image.read_exif()["Exif.Image.Make"], "A camera")
                self.assertEqual(image.read_xmp()["Xmp.dc.source"], "Film")
            np.testing.assert_array_equal(imagecodecs.jpegxl_decode(data), pixels)

    def test_they_are_read_again(self) -> None:
        picture = read_bytes(self.file())
        np.testing.assert_array_equal(picture.pixels, PIXELS)
        assert picture.said is not None
        assert picture.exif is not None
        self.assertEqual(picture.said.text("dc:source"), "Film")
        self.assertEqual(metadata.to_pillow(picture.exif)[ExifTags.Base.Make], "A camera")
        self.assertEqual((picture.width, picture.height), (32, 24))

    def test_nothing_said_is_a_bare_stream(self) -> None:
        data = encode(Picture(PIXELS), Output("jxl"))
        self.assertEqual(data[:2], b"\xff\x0a")
        self.assertEqual(words_of(data), (None, None))

    def test_packed_boxes_and_long_ones(self) -> None:
        stream = encode(Picture(PIXELS), Output("jxl"))
        whole = with_words(stream, None, "x")
        begin = whole[: whole.index(b"xml ") - 4]
        packed = b"xml " + bytes(imagecodecs.brotli_encode(PACKET))
        brob = struct.pack(">I4s", len(packed) + 8, b"brob") + packed
        long = struct.pack(">I4sQ", 1, b"xml ", len(PACKET) + 16) + PACKET
        last = struct.pack(">I4s", 0, b"jxlc") + stream
        for box in (brob, long):
            data = begin + box + last
            self.assertEqual(words_of(data)[1], PACKET)
            self.assertEqual(read_bytes(data).said, described(PACKET))
            # Another packet goes before the stream, which may go on to the file's end.
            np.testing.assert_array_equal(
                imagecodecs.jpegxl_decode(with_words(data, exif_of("B"), "")),
                imagecodecs.jpegxl_decode(stream),
            )

    def test_broken_boxes_say_nothing(self) -> None:
        draw, data = random.Random(5), self.file()
        for _ in range(300):
            at = draw.randrange(12, len(data))
            broken = (
                data[:at]
                if draw.random() < 0.5
                else data[:at] + bytes([draw.randrange(256)]) + data[at + 1 :]
            )
            exif, packet = words_of(broken)
            self.assertTrue(exif is None or metadata.usable(exif) is None or len(exif) > 8)
            described(packet)
        wrong = with_words(encode(Picture(PIXELS), Output("jxl")), b"II*\0" + b"\xff" * 40, "")
        self.assertEqual(read_bytes(wrong).pixels.shape, PIXELS.shape)
