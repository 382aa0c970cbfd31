"""Every format that is delivered, read back by another library than the one that wrote it."""

import io
import unittest
import zipfile
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from xml.etree import ElementTree

import cv2
import imagecodecs
import numpy as np
import pyora
import tifffile
from PIL import ExifTags, Image, ImageCms

from retouch.edit import Edit, Pass
from retouch.edit.mask import Mask, OutlineArea
from retouch.errors import PictureError
from retouch.forms.form import completed
from retouch.picture import Output, Picture, Pyramid, read
from retouch.picture import profile as profiles
from retouch.picture.write import encode, format_of
from retouch.render import Renderer, render_whole
from retouch.render.delivered import Outcome, below
from retouch.render.layered import openraster_file

WIDTH, HEIGHT = 160, 120


def exif() -> bytes:
    """A camera's words: who it is, its serial number, where it was, its notes."""
    block = Image.Exif()
    block[ExifTags.Base.Make] = "Invented"
    inner = block.get_ifd(ExifTags.IFD.Exif)
    inner[ExifTags.Base.FNumber] = 2.8
    inner[ExifTags.Base.BodySerialNumber] = "SN-12345"
    inner[ExifTags.Base.MakerNote] = b"notes of the maker"
    block.get_ifd(ExifTags.IFD.GPSInfo)[ExifTags.GPS.GPSLatitudeRef] = "N"
    return block.tobytes().removeprefix(b"Exif\x00\x00")


def photograph(bits: int = 8, alpha: bool = False, icc: bytes | None = None) -> Picture:
    y, x = np.mgrid[:HEIGHT, :WIDTH]
    waves = 0.5 + 0.35 * np.sin(x / 11) * np.cos(y / 9)
    pixels = np.stack([waves, 0.8 * waves, 0.6 * waves], -1)
    top = 255 if bits == 8 else 65535
    kind = np.uint8 if bits == 8 else np.uint16
    cover = (np.round(top * (x / WIDTH))).astype(kind) if alpha else None
    return Picture(np.round(top * pixels).astype(kind), cover, icc or profiles.srgb(), exif())


class Formats(unittest.TestCase):
    def test_each_is_read_back_by_another_library(self) -> None:
        for name, most in (
            ("jpeg", 12),
            ("webp", 14),
            ("avif", 14),
            ("png", 0),
            ("tiff", 0),
            ("jxl", 10),
        ):
            data = encode(photograph(), Output(name, quality=92))  # type: ignore[arg-type]
            if name == "avif":
                got = imagecodecs.avif_decode(data)
            elif name == "jxl":
                got = imagecodecs.jpegxl_decode(data)
            elif name == "tiff":
                got = tifffile.imread(io.BytesIO(data))
            elif name == "webp":
                got = imagecodecs.webp_decode(data)
            else:
                got = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)[..., ::-1]
            off = np.abs(np.asarray(got, int)[..., :3] - photograph().pixels)
            self.assertLessEqual(int(off.max()), most, name)

    def test_16_bits_stay_where_they_fit(self) -> None:
        picture = photograph(16)
        for name in ("png", "tiff", "jxl"):
            data = encode(picture, Output(name, quality=100))  # type: ignore[arg-type]
            got = {
                "png": lambda d: cv2.imdecode(np.frombuffer(d, np.uint8), cv2.IMREAD_UNCHANGED)[..., ::-1],
                "tiff": lambda d: tifffile.imread(io.BytesIO(d)),
                "jxl": imagecodecs.jpegxl_decode,
            }[name](data)  # fmt: skip
            np.testing.assert_array_equal(got, picture.pixels, name)
        self.assertEqual(Image.open(io.BytesIO(encode(picture, Output("webp")))).mode, "RGB")

    def test_opacity_is_kept_where_the_format_can(self) -> None:
        picture = photograph(alpha=True)
        assert picture.alpha is not None
        for name in ("png", "tiff", "webp", "avif", "jxl"):
            data = encode(picture, Output(name, quality=100))  # type: ignore[arg-type]
            with TemporaryDirectory() as folder:
                path = Path(folder) / f"a.{name}"
                path.write_bytes(data)
                back = read(path)
            assert back.alpha is not None, name
            self.assertLessEqual(int(np.abs(back.alpha.astype(int) - picture.alpha).max()), 3, name)

    def test_profiles_go_along_and_jpeg_xl_is_brought_to_srgb(self) -> None:
        lab = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        picture = photograph(icc=lab)
        for name in ("jpeg", "png", "tiff", "webp", "avif"):
            data = encode(picture, Output(name))  # type: ignore[arg-type]
            self.assertEqual(Image.open(io.BytesIO(data)).info["icc_profile"], lab, name)

    def test_what_came_without_a_profile_says_that_it_is_srgb(self) -> None:
        """Read back by Pillow, which hands out the profile as it lies in the file."""
        plain = replace(photograph(), icc=None)
        made = Outcome().of(plain)
        np.testing.assert_array_equal(made.pixels, plain.pixels)
        for name in ("jpeg", "png", "webp", "avif"):
            data = encode(made, Output(name))  # type: ignore[arg-type]
            icc = Image.open(io.BytesIO(data)).info["icc_profile"]
            told = ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(icc)))
            self.assertIn("sRGB", told, name)
        grey = replace(plain, grey=True)
        self.assertIsNone(Outcome().of(grey).icc)

    def test_each_way_of_packing_a_tiff_is_lossless(self) -> None:
        for packing, code in (("deflate", 8), ("lzw", 5), ("zstd", 50000)):
            data = encode(photograph(), Output("tiff", packing=packing))  # type: ignore[arg-type]
            with tifffile.TiffFile(io.BytesIO(data)) as file:
                self.assertEqual(int(file.pages.first.compression), code)
                np.testing.assert_array_equal(file.asarray(), photograph().pixels)

    def test_location_and_serial_numbers_stay_at_home(self) -> None:
        for name in ("jpeg", "png", "webp", "avif", "tiff"):
            kept, bare = (
                Image.open(io.BytesIO(encode(photograph(), Output(name, keep_place=k)))).getexif()  # type: ignore[arg-type]
                for k in (True, False)
            )
            inner = bare.get_ifd(ExifTags.IFD.Exif)
            self.assertEqual(bare[ExifTags.Base.Make], "Invented", name)
            self.assertAlmostEqual(float(inner[ExifTags.Base.FNumber]), 2.8)
            self.assertNotIn(ExifTags.Base.BodySerialNumber, inner, name)
            self.assertNotIn(ExifTags.Base.MakerNote, inner, name)
            self.assertFalse(bare.get_ifd(ExifTags.IFD.GPSInfo), name)
            self.assertIn(ExifTags.Base.BodySerialNumber, kept.get_ifd(ExifTags.IFD.Exif), name)

    def test_what_a_format_cannot_hold_is_said(self) -> None:
        wide = Picture(np.zeros((1, 17_000, 3), np.uint8))
        with self.assertRaisesRegex(PictureError, "WebP holds pictures of up to 16383"):
            encode(wide, Output("webp"))
        with self.assertRaisesRegex(PictureError, r"use one of .*\.ora"):
            format_of("face.bmp")


class Outcomes(unittest.TestCase):
    def test_a_file_stays_below_a_limit_at_the_best_quality_that_does(self) -> None:
        rng = np.random.default_rng(1)
        noisy = Picture(rng.integers(60, 190, (200, 220, 3), dtype=np.uint8))
        full = encode(noisy, Output("jpeg", quality=95))
        limit = len(full) // 2
        data = below(noisy, Output("jpeg", quality=95), limit)
        self.assertLessEqual(len(data), limit)
        # One step better would be too large.
        sizes = [len(encode(noisy, Output("jpeg", quality=q))) for q in range(30, 96)]
        self.assertEqual(len(data), max(s for s in sizes if s <= limit))
        self.assertEqual(below(noisy, Output("jpeg", quality=95), len(full)), full)
        with self.assertRaisesRegex(PictureError, "Even at quality 30"):
            below(noisy, Output("jpeg"), 2000)
        with self.assertRaisesRegex(PictureError, "Choose JPEG"):
            below(noisy, Output("png"), 2000)

    def test_sharpening_is_for_what_is_delivered_and_flat_places_keep_their_codes(self) -> None:
        pixels = np.full((80, 100, 3), 90, np.uint8)
        pixels[:, 50:] = 170
        pixels = cv2.GaussianBlur(pixels, (0, 0), 1.2)
        for bits in (8, 16):
            picture = Picture(pixels if bits == 8 else pixels.astype(np.uint16) * 257)
            plain, screen, paper = (
                Outcome(sharpen=m).of(picture).pixels for m in ("none", "screen", "print")
            )  # type: ignore[arg-type]
            self.assertIs(plain, picture.pixels)
            steep = [
                float(np.square(np.diff(p[40, :, 0].astype(float))).sum())
                for p in (plain, screen, paper)
            ]
            self.assertLess(steep[0], steep[1])
            self.assertLess(steep[1], steep[2])
            np.testing.assert_array_equal(paper[:, :30], picture.pixels[:, :30])


class Layers(unittest.TestCase):
    def edit(self) -> Edit:
        outline = OutlineArea(((30.0, 20.0), (120.0, 25.0), (80.0, 100.0)), 12.0)
        made = [
            Pass("a", "light", settings={"exposure_ev": 0.5}, strength=70.0),
            Pass("b", "split_toning", settings={"lights_amount": 60.0}, mask=Mask((outline,))),
            Pass("c", "mono", enabled=False),
            Pass("d", "light", settings={"contrast": 30.0}, blend="multiply", strength=40.0),
            Pass("e", "vignette", settings={"amount": -60.0}),
            Pass("f", "frame", settings={"turn": "90"}),
        ]
        return Edit(tuple(completed(p) for p in made))

    def test_flattened_they_are_the_picture_within_a_step(self) -> None:
        for bits in (8, 16):
            renderer = Renderer(Pyramid(photograph(bits)))
            data = openraster_file(renderer, self.edit())
            wanted = render_whole(renderer, self.edit()).pixels
            with zipfile.ZipFile(io.BytesIO(data)) as file:
                root = ElementTree.fromstring(file.read("stack.xml"))
                flat = np.zeros((*wanted.shape[:2], 3))
                rows = list(root.iter("layer"))[::-1]
                for row in rows:
                    if row.get("visibility") == "hidden":
                        continue
                    png = np.frombuffer(file.read(row.attrib["src"]), np.uint8)
                    layer = cv2.imdecode(png, cv2.IMREAD_UNCHANGED)
                    own = layer[..., [2, 1, 0]].astype(float)
                    alpha = layer[..., 3:].astype(float) / np.iinfo(layer.dtype).max
                    share = alpha * float(row.attrib["opacity"])
                    x, y = int(row.attrib["x"]), int(row.attrib["y"])
                    part = np.s_[y : y + own.shape[0], x : x + own.shape[1]]
                    flat[part] = flat[part] * (1 - share) + own * share
                merged = cv2.imdecode(np.frombuffer(file.read("mergedimage.png"), np.uint8), cv2.IMREAD_UNCHANGED)  # fmt: skip
            self.assertLessEqual(float(np.abs(flat - wanted).max()), 1.0, bits)
            np.testing.assert_array_equal(merged[..., ::-1], wanted)
            self.assertEqual(len(rows), 6)

    def test_it_is_as_the_specification_says(self) -> None:
        """OpenRaster 0.0.6: mimetype first and stored, stack.xml, mergedimage.png, a thumbnail of 256."""
        data = openraster_file(Renderer(Pyramid(photograph())), self.edit())
        with zipfile.ZipFile(io.BytesIO(data)) as file:
            first = file.infolist()[0]
            self.assertEqual(
                (first.filename, first.compress_type), ("mimetype", zipfile.ZIP_STORED)
            )
            self.assertEqual(file.read("mimetype"), b"image/openraster")
            self.assertLessEqual(
                {"stack.xml", "mergedimage.png", "Thumbnails/thumbnail.png"}, set(file.namelist())
            )
            small = Image.open(io.BytesIO(file.read("Thumbnails/thumbnail.png")))
            self.assertLessEqual(max(small.size), 256)
            root = ElementTree.fromstring(file.read("stack.xml"))
        # The frame is a quarter turn.
        self.assertEqual((root.get("w"), root.get("h")), (str(HEIGHT), str(WIDTH)))

    def test_another_library_reads_names_opacities_and_what_is_hidden(self) -> None:
        with TemporaryDirectory() as folder:
            path = Path(folder) / "layers.ora"
            path.write_bytes(openraster_file(Renderer(Pyramid(photograph())), self.edit()))
            project = pyora.Project.load(str(path))
            rows = {layer.name: layer for layer in project.children}
            self.assertEqual(len(rows), 6 - 1)
            self.assertIn("As photographed", rows)
            self.assertFalse(rows["mono"].visible)
            self.assertAlmostEqual(rows["split_toning"].opacity, 1.0)
            got = np.asarray(project.get_image_data(use_original=True).convert("RGB"), int)
            # Read as a photograph it is its merged picture.
            back = read(path)
        self.assertEqual(back.format, "ora")
        np.testing.assert_array_equal(back.pixels, got)

    def test_damaged_files_are_refused_in_words(self) -> None:
        data = openraster_file(Renderer(Pyramid(photograph())), Edit())
        with TemporaryDirectory() as folder:
            path = Path(folder) / "layers.ora"
            path.write_bytes(data[: len(data) // 2])
            with self.assertRaises(PictureError):
                read(path)
