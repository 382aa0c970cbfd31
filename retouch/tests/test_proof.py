"""Other profiles: converted into, and shown as a printer would make them."""

import io
import struct
import unittest

import colour
import numpy as np
from PIL import Image, ImageCms

from retouch.errors import PictureError
from retouch.picture import Output, Picture
from retouch.picture import profile as profiles
from retouch.picture.proof import Conversion, about, as_printed, beyond, built_in, converted
from retouch.picture.write import encode
from retouch.render.delivered import Border, Outcome

P3 = built_in("display-p3") or b""
PRESS = built_in("press") or b""


def squares() -> np.ndarray:
    """Colours from grey to as strong as sRGB has them."""
    steps = np.linspace(0, 255, 6).astype(np.uint8)
    return np.stack(np.meshgrid(steps, steps, steps), -1).reshape(18, 12, 3)


def cmyk() -> bytes:
    """A profile of four inks, as small as one can be: tables of 2 steps each way (ICC.1:2022, 10.10, lut8Type).

    Inks are as clean as can be: 255 minus ink is light; white paper is L* 100.
    """

    def table(inputs: int, outputs: int, steps: int, values: np.ndarray) -> bytes:
        head = b"mft1\0\0\0\0" + bytes([inputs, outputs, steps, 0])
        head += struct.pack(">9i", *(65536 if n % 4 == 0 else 0 for n in range(9)))
        ramp = bytes(range(256))
        return head + ramp * inputs + values.astype(np.uint8).tobytes() + ramp * outputs

    light = np.stack(np.meshgrid(*[[1, 0]] * 4, indexing="ij"), -1).reshape(-1, 4)
    rgb = light[:, :3] * light[:, 3:]
    xyz = colour.RGB_to_XYZ(rgb, "sRGB", apply_cctf_decoding=True)
    lab = colour.XYZ_to_Lab(xyz)
    a2b = np.stack([lab[:, 0] * 2.55, lab[:, 1] + 128, lab[:, 2] + 128], -1).clip(0, 255)
    n = 9
    grid = np.stack(np.meshgrid(*[np.linspace(0, 1, n)] * 3, indexing="ij"), -1).reshape(-1, 3)
    back = np.clip(colour.XYZ_to_RGB(colour.Lab_to_XYZ(grid * [100, 255, 255] - [0, 128, 128]), "sRGB", apply_cctf_encoding=True), 0, 1)  # fmt: skip
    b2a = np.concatenate([255 * (1 - back), np.zeros((len(back), 1))], -1)
    text = b"Invented inks"
    tags = {
        b"desc": b"desc\0\0\0\0" + struct.pack(">I", len(text) + 1) + text + b"\0" * 79,
        b"A2B0": table(4, 3, 2, a2b), b"B2A0": table(3, 4, n, b2a),
        b"wtpt": b"XYZ \0\0\0\0" + struct.pack(">3i", 63190, 65536, 54061),
    }  # fmt: skip
    head_size, body, rows = 128 + 4 + 12 * len(tags), b"", b""
    for name, data in tags.items():
        data += b"\0" * (-len(data) % 4)
        rows += name + struct.pack(">2I", head_size + len(body), len(data))
        body += data
    head = struct.pack(
        ">I4sI4s4s4s", head_size + len(body), b"\0" * 4, 0x02400000, b"prtr", b"CMYK", b"Lab "
    )
    head += b"\0" * 12 + b"acsp" + b"\0" * 28 + struct.pack(">3i", 63190, 65536, 54061)
    return head.ljust(128, b"\0") + struct.pack(">I", len(tags)) + rows + body


class Converting(unittest.TestCase):
    def test_display_p3_is_as_its_standard_says(self) -> None:
        # Colour-science has the primaries of SMPTE EG 432-1 and the curve of IEC 61966-2-1.
        pixels = squares().astype(np.uint16) * 257
        made = converted(pixels, None, Conversion(P3)).astype(float) / 65535
        wanted = colour.RGB_to_RGB(
            pixels / 65535.0, "sRGB", "Display P3", apply_cctf_decoding=True, apply_cctf_encoding=True
        )  # fmt: skip
        self.assertLess(float(np.abs(made - np.clip(wanted, 0, 1)).max()), 2e-3)

    def test_the_profile_goes_along_and_is_read_by_another_library(self) -> None:
        picture = Picture(squares())
        made = Outcome(convert=Conversion(P3, "perceptual")).of(picture)
        image = Image.open(io.BytesIO(encode(made, Output("png"))))
        self.assertEqual(image.info["icc_profile"], P3)
        back = ImageCms.profileToProfile(
            image, ImageCms.ImageCmsProfile(io.BytesIO(P3)), ImageCms.createProfile("sRGB")
        )
        assert back is not None
        self.assertLessEqual(int(np.abs(np.asarray(back).astype(int) - squares()).max()), 3)

    def test_what_is_no_profile_of_a_device_is_refused_in_words(self) -> None:
        for wrong, words in (
            (b"", "whole"), (P3[:-10], "whole"), (b"\0" * 400, "whole"),
            (P3[:16] + b"Luv " + P3[20:], "Luv"), (P3[:12] + b"link" + P3[16:], "stands for no device"),
        ):  # fmt: skip
            with self.assertRaises(PictureError) as caught:
                about(wrong)
            self.assertIn(words, str(caught.exception))
        with self.assertRaises(PictureError) as caught:
            converted(squares(), None, Conversion(cmyk()))
        self.assertIn("RGB", str(caught.exception))


class Proofing(unittest.TestCase):
    def test_what_a_profile_holds_looks_as_it_is_and_what_it_does_not_is_told(self) -> None:
        pixels = squares()
        self.assertLessEqual(
            int(np.abs(as_printed(pixels, Conversion(P3)).astype(int) - pixels).max()), 1
        )
        self.assertLess(float(beyond(pixels, Conversion(P3)).max()), 0.6)
        far = beyond(pixels, Conversion(PRESS))
        grey = pixels.max(-1) == pixels.min(-1)
        self.assertLess(float(far[grey].max()), 0.6)
        strongest = (pixels.max(-1) == 255) & (pixels.min(-1) == 0)
        self.assertGreater(float(far[strongest].min()), 3)
        # The figure is the distance to what is shown without black-point compensation.
        shown = as_printed(pixels, Conversion(PRESS, "relative", False))
        lab = [colour.XYZ_to_Lab(colour.sRGB_to_XYZ(p / 255.0)) for p in (pixels, shown)]
        wanted = colour.delta_E(*lab, method="CIE 2000")
        self.assertLess(float(np.abs(far - wanted).max()), 0.25)

    def test_the_papers_own_white_is_shown_when_asked_for(self) -> None:
        white = np.full((4, 4, 3), 255, np.uint8)
        self.assertEqual(int(as_printed(white, Conversion(PRESS)).min()), 255)
        paper = as_printed(white, Conversion(PRESS), paper=True)[0, 0].astype(int)
        # Darker than white, and yellower.
        self.assertLess(paper.max(), 252)
        self.assertGreater(paper[0] - paper[2], 8)

    def test_four_inks_are_shown_too(self) -> None:
        icc = cmyk()
        self.assertEqual((about(icc).title, about(icc).space), ("Invented inks", "CMYK"))
        shown = as_printed(squares(), Conversion(icc))
        self.assertEqual(shown.shape, squares().shape)
        white = as_printed(np.full((4, 4, 3), 255, np.uint8), Conversion(icc))
        self.assertGreater(int(white.min()), 245)


class Sizes(unittest.TestCase):
    PICTURE = Picture(np.full((400, 600, 3), 90, np.uint8), icc=profiles.srgb())

    def test_each_way_to_say_a_size(self) -> None:
        for outcome, size in (
            (Outcome(long_side=300), (300, 200)), (Outcome(megapixels=0.06), (300, 200)),
            (Outcome(megapixels=0.06, long_side=150), (150, 100)), (Outcome(long_side=9000), (600, 400)),
            (Outcome(border=Border(10)), (720, 520)), (Outcome(long_side=360, border=Border(10)), (360, 260)),
        ):  # fmt: skip
            made = outcome.of(self.PICTURE)
            self.assertEqual((made.width, made.height), size, outcome)

    def test_a_border_has_its_colour_and_the_picture_its_own(self) -> None:
        made = Outcome(border=Border(10, (50.0, 0.0, 0.0))).of(self.PICTURE)
        np.testing.assert_array_equal(made.pixels[60:460, 60:660], self.PICTURE.pixels)
        # L* 50 is 119 in sRGB: from CIELAB's and sRGB's formulas.
        self.assertEqual({int(v) for v in made.pixels[:60].ravel()}, {119})

    def test_files_say_how_dense_they_are_to_be_printed(self) -> None:
        for name in ("jpeg", "png", "tiff"):
            data = encode(self.PICTURE, Output(name, per_inch=240.0))  # type: ignore[arg-type]
            dpi = Image.open(io.BytesIO(data)).info["dpi"]
            self.assertAlmostEqual(float(dpi[0]), 240, delta=0.1)
