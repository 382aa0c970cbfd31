"""Reading and writing photographs: formats, depth, orientation, profiles, broken files."""

from __future__ import annotations

import io
import struct
import tempfile
import unittest
import zlib
from dataclasses import replace
from pathlib import Path

import imagecodecs
import numpy as np
import tifffile
from PIL import ExifTags, Image, ImageCms, ImageOps

from retouch.errors import PictureError
from retouch.picture import Output, Picture, Pyramid, encode, profile, read, read_bytes, write
from retouch.picture.metadata import to_pillow

RNG = np.random.default_rng(11)
EIGHT = RNG.integers(0, 256, (40, 64, 3)).astype(np.uint8)
SIXTEEN = RNG.integers(0, 65536, (40, 64, 3)).astype(np.uint16)


def saved(image: Image.Image, kind: str, **options) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


def tiff(pixels, **options) -> bytes:
    out = io.BytesIO()
    tifffile.imwrite(out, pixels, **options)
    return out.getvalue()


def camera_data() -> bytes:
    """EXIF as a camera writes it (invented)."""
    exif = Image.Exif()
    exif[ExifTags.Base.Make] = "Invented"
    exif[ExifTags.Base.Copyright] = "Nobody"
    exif[ExifTags.Base.Orientation] = 6
    inner = exif.get_ifd(ExifTags.IFD.Exif)
    inner[ExifTags.Base.DateTimeOriginal] = "2026:02:03 04:05:06"
    inner[ExifTags.Base.ISOSpeedRatings] = 200
    return exif.tobytes()


def wide_profile() -> bytes:
    """A display profile that isn't sRGB: a wide set of primaries, gamma 1.8.

    Built by hand from the ICC.1:2010 matrix/TRC form, because Pillow only makes sRGB.
    """

    def xyz(x, y, z):
        return b"XYZ \0\0\0\0" + b"".join(struct.pack(">i", round(v * 65536)) for v in (x, y, z))

    curve = b"curv\0\0\0\0" + struct.pack(">IH", 1, round(1.8 * 256)) + b"\0\0"
    text = b"desc\0\0\0\0" + struct.pack(">I", 5) + b"Wide\0" + b"\0" * (78 + 1)
    tags = {
        b"desc": text, b"cprt": b"text\0\0\0\0none\0\0\0\0", b"wtpt": xyz(0.9642, 1.0, 0.8249),
        b"rXYZ": xyz(0.7977, 0.2880, 0.0), b"gXYZ": xyz(0.1352, 0.7119, 0.0),
        b"bXYZ": xyz(0.0313, 0.0001, 0.8249), b"rTRC": curve, b"gTRC": curve, b"bTRC": curve,
    }  # fmt: skip
    table, body, at = struct.pack(">I", len(tags)), b"", 128 + 4 + 12 * len(tags)
    for name, data in tags.items():
        data += b"\0" * (-len(data) % 4)
        table += name + struct.pack(">II", at + len(body), len(data))
        body += data
    head = bytearray(128)
    struct.pack_into(">I", head, 0, 128 + len(table) + len(body))
    head[8:12] = b"\x02\x10\0\0"
    head[12:24] = b"mntrRGB XYZ "
    head[36:40] = b"acsp"
    struct.pack_into(">iii", head, 68, 63190, 65536, 54061)
    return bytes(head) + table + body


class Lossless(unittest.TestCase):
    def test_pixels_of_every_lossless_format_come_in_exactly(self) -> None:
        files = {
            "png 8": (saved(Image.fromarray(EIGHT), "PNG"), EIGHT),
            "png 16": (bytes(imagecodecs.png_encode(SIXTEEN)), SIXTEEN),
            "tiff 8": (tiff(EIGHT, photometric="rgb"), EIGHT),
            "tiff 16": (tiff(SIXTEEN, photometric="rgb"), SIXTEEN),
            "tiff lzw": (tiff(SIXTEEN, photometric="rgb", compression="lzw"), SIXTEEN),
            "tiff deflate": (
                tiff(SIXTEEN, photometric="rgb", compression="zlib", predictor=True), SIXTEEN),
            "tiff big-endian": (tiff(SIXTEEN, photometric="rgb", byteorder=">"), SIXTEEN),
            "tiff planar": (
                tiff(np.moveaxis(SIXTEEN, -1, 0), photometric="rgb", planarconfig="separate"),
                SIXTEEN),
            "webp": (saved(Image.fromarray(EIGHT), "WEBP", lossless=True, exact=True), EIGHT),
        }  # fmt: skip
        for name, (data, want) in files.items():
            with self.subTest(name):
                got = read_bytes(data)
                self.assertEqual(got.pixels.dtype, want.dtype)
                np.testing.assert_array_equal(got.pixels, want)

    def test_what_is_written_comes_back_exactly(self) -> None:
        for pixels in (EIGHT, SIXTEEN):
            for form in ("png", "tiff"):
                with self.subTest(form=form, depth=pixels.dtype):
                    back = read_bytes(encode(Picture(pixels), Output(form)))
                    np.testing.assert_array_equal(back.pixels, pixels)

    def test_depth_can_be_chosen(self) -> None:
        up = read_bytes(encode(Picture(EIGHT), Output("tiff", bits=16)))
        np.testing.assert_array_equal(up.pixels, EIGHT.astype(np.uint16) * 257)
        down = read_bytes(encode(up, Output("png", bits=8)))
        np.testing.assert_array_equal(down.pixels, EIGHT)

    def test_jpeg_is_read_as_libjpeg_reads_it(self) -> None:
        smooth = np.asarray(Image.fromarray(EIGHT).resize((320, 200), Image.Resampling.BICUBIC))
        data = saved(Image.fromarray(smooth), "JPEG", quality=90)
        want = np.asarray(Image.open(io.BytesIO(data)))
        self.assertLessEqual(int(np.abs(read_bytes(data).pixels.astype(int) - want).max()), 2)


class GreyAndAlpha(unittest.TestCase):
    def test_grey_stays_grey(self) -> None:
        for data in (
            saved(Image.fromarray(EIGHT[..., 0]), "PNG"),
            tiff(SIXTEEN[..., 0], photometric="minisblack"),
            saved(Image.fromarray(EIGHT[..., 0]), "JPEG"),
        ):
            picture = read_bytes(data)
            self.assertTrue(picture.grey)
            self.assertEqual(picture.pixels.shape, (40, 64, 3))
            for form in ("png", "tiff", "jpeg"):
                self.assertTrue(read_bytes(encode(picture, Output(form))).grey)

    def test_alpha_is_kept_where_the_format_has_it(self) -> None:
        rgba = np.dstack([EIGHT, EIGHT[..., 1]])
        for data in (saved(Image.fromarray(rgba), "PNG"),
                     tiff(rgba, photometric="rgb", extrasamples=["unassalpha"])):  # fmt: skip
            picture = read_bytes(data)
            np.testing.assert_array_equal(picture.alpha, EIGHT[..., 1])
            for form in ("png", "tiff"):
                back = read_bytes(encode(picture, Output(form)))
                np.testing.assert_array_equal(back.alpha, EIGHT[..., 1])
                np.testing.assert_array_equal(back.pixels, EIGHT)

    def test_jpeg_puts_transparent_parts_on_white(self) -> None:
        clear = np.zeros((40, 64), np.uint8)
        back = read_bytes(encode(Picture(EIGHT, alpha=clear), Output("jpeg")))
        self.assertGreaterEqual(int(back.pixels.min()), 253)


class Orientation(unittest.TestCase):
    def test_all_eight_as_pillow_turns_them(self) -> None:
        for turn in range(1, 9):
            exif = Image.Exif()
            exif[ExifTags.Base.Orientation] = turn
            data = saved(Image.fromarray(EIGHT), "PNG", exif=exif)
            with Image.open(io.BytesIO(data)) as image:
                want = np.asarray(ImageOps.exif_transpose(image))
            np.testing.assert_array_equal(read_bytes(data).pixels, want)

    def test_is_reset_when_written(self) -> None:
        data = saved(Image.fromarray(EIGHT), "JPEG", exif=camera_data())
        picture = read_bytes(data)
        self.assertEqual((picture.width, picture.height), (40, 64))
        for form in ("jpeg", "png", "tiff"):
            with Image.open(io.BytesIO(encode(picture, Output(form)))) as image:
                self.assertEqual(image.getexif().get(ExifTags.Base.Orientation), 1, form)
                self.assertEqual(image.size, (40, 64))


class Metadata(unittest.TestCase):
    def test_exif_goes_through_every_format(self) -> None:
        picture = read_bytes(saved(Image.fromarray(EIGHT), "JPEG", exif=camera_data()))
        for form in ("jpeg", "png", "tiff"):
            for bits in (8, 16):
                with self.subTest(form=form, bits=bits):
                    back = read_bytes(encode(picture, Output(form, bits=bits)))
                    exif = to_pillow(back.exif)
                    self.assertEqual(exif[ExifTags.Base.Make], "Invented")
                    inner = exif.get_ifd(ExifTags.IFD.Exif)
                    self.assertEqual(inner[ExifTags.Base.ISOSpeedRatings], 200)
                    self.assertEqual(inner[ExifTags.Base.DateTimeOriginal], "2026:02:03 04:05:06")

    def test_can_be_left_out(self) -> None:
        picture = read_bytes(saved(Image.fromarray(EIGHT), "JPEG", exif=camera_data()))
        for form in ("jpeg", "png", "tiff"):
            data = encode(picture, Output(form, keep_metadata=False))
            self.assertNotIn(b"Invented", data)


class Profiles(unittest.TestCase):
    def test_profile_is_kept_byte_for_byte(self) -> None:
        icc = wide_profile()
        for form in ("jpeg", "png", "tiff"):
            back = read_bytes(encode(Picture(SIXTEEN, icc=icc), Output(form)))
            self.assertEqual(back.icc, icc, form)

    def test_conversion_to_srgb_agrees_with_pillows_littlecms(self) -> None:
        icc = wide_profile()
        self.assertFalse(profile.is_srgb(icc))
        got = profile.to_srgb(EIGHT, icc)
        want = ImageCms.profileToProfile(
            Image.fromarray(EIGHT), ImageCms.ImageCmsProfile(io.BytesIO(icc)),
            ImageCms.createProfile("sRGB"), renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
        )  # fmt: skip
        self.assertLessEqual(int(np.abs(got.astype(int) - np.asarray(want)).max()), 2)

    def test_sixteen_bits_stay_sixteen_bits(self) -> None:
        got = profile.to_srgb(SIXTEEN, wide_profile())
        self.assertEqual(got.dtype, np.uint16)
        self.assertGreater(len(np.unique(got & 0xFF)), 200)

    def test_round_trip_through_a_wider_profile(self) -> None:
        # Colours of sRGB fit into the wide profile, so there and back changes next to nothing.
        inside = (SIXTEEN * 0.5 + 16384).astype(np.uint16)
        icc = wide_profile()
        wide = imagecodecs.cms_transform(
            inside,
            profile.srgb(),
            icc,
            colorspace="rgb",
            outcolorspace="rgb",
            intent=1,
            flags=0x0100,
        )
        back = profile.to_srgb(wide, icc)
        self.assertLess(float(np.abs(back.astype(int) - inside).max()), 40)

    def test_srgb_and_none_are_shown_as_they_are(self) -> None:
        self.assertTrue(profile.is_srgb(None))
        self.assertTrue(profile.is_srgb(profile.srgb()))

    def test_broken_profile_is_dropped(self) -> None:
        data = saved(Image.fromarray(EIGHT), "PNG", icc_profile=b"not a profile at all" * 10)
        self.assertIsNone(read_bytes(data).icc)


class Refusals(unittest.TestCase):
    def _refused(self, data: bytes, part: str) -> None:
        with self.assertRaises(PictureError) as caught:
            read_bytes(data)
        message = str(caught.exception)
        self.assertIn(part, message)
        self.assertNotIn("Traceback", message)

    def test_each_bad_file_has_its_own_sentence(self) -> None:
        smooth = Image.fromarray(EIGHT).resize((640, 400), Image.Resampling.BICUBIC)
        self._refused(b"", "empty")
        self._refused(b"Dear diary, this is a text.\n" * 50, "isn't a picture")
        self._refused(saved(smooth, "JPEG")[:5000], "cut off or damaged")
        self._refused(saved(smooth, "PNG")[:-2000], "cut off or damaged")
        self._refused(tiff(SIXTEEN, photometric="rgb", compression="zlib")[:-3000], "damaged")
        self._refused(saved(smooth.convert("CMYK"), "JPEG"), "CMYK")
        self._refused(tiff(np.dstack([EIGHT, EIGHT[..., 0]]), photometric="separated"), "CMYK")
        self._refused(tiff(EIGHT.astype(np.float32), photometric="rgb"), "float32")
        self._refused(saved(smooth, "GIF"), "GIF")
        self._refused(saved(smooth.resize((4, 4)), "PNG"), "4 x 4")

    def test_decompression_bomb(self) -> None:
        # A valid PNG head that promises 60000 x 60000 pixels in a few bytes.
        def chunk(kind, body):
            return (struct.pack(">I", len(body)) + kind + body
                    + struct.pack(">I", zlib.crc32(kind + body)))  # fmt: skip

        head = struct.pack(">IIBBBBB", 60000, 60000, 8, 2, 0, 0, 0)
        body = zlib.compress(b"\0" * 1_000_000)
        bomb = (b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", body)
                + chunk(b"IEND", b""))  # fmt: skip
        self._refused(bomb, "3600 megapixels")

    def test_files_that_are_not_there(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            with self.assertRaisesRegex(PictureError, "no file"):
                read(Path(folder) / "nothing.jpg")
            with self.assertRaisesRegex(PictureError, "folder"):
                read(folder)

    def test_failed_write_leaves_the_old_file(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.png"
            write(Picture(EIGHT), path, Output("png"))
            before = path.read_bytes()
            with self.assertRaises(PictureError):
                write(Picture(EIGHT), Path(folder) / "no" / "a.png", Output("png"))
            with self.assertRaises(Exception):  # noqa: B017  (any failure of the encoder)
                write(replace(Picture(EIGHT), pixels=None), path, Output("png"))
            self.assertEqual(path.read_bytes(), before)
            self.assertEqual([p.name for p in Path(folder).iterdir()], ["a.png"])


class PyramidTest(unittest.TestCase):
    def test_each_level_averages_four_pixels(self) -> None:
        pyramid = Pyramid(Picture(SIXTEEN))
        level = pyramid.level(1).astype(float)
        want = SIXTEEN.reshape(20, 2, 32, 2, 3).astype(float).mean((1, 3))
        self.assertLessEqual(float(np.abs(level - want).max()), 0.51)

    def test_odd_sizes_keep_their_last_row_and_column(self) -> None:
        pyramid = Pyramid(Picture(EIGHT[:39, :63]))
        self.assertEqual(pyramid.level(1).shape, (20, 32, 3))
        want = EIGHT[38, 62]
        self.assertLessEqual(int(np.abs(pyramid.level(1)[-1, -1].astype(int) - want).max()), 1)
