"""Raw files, and photographs of newer formats."""

from __future__ import annotations

import io
import json
import struct
import tempfile
import unittest
from pathlib import Path

import imagecodecs
import numpy as np
import pillow_heif
from PIL import Image

from demo.raw import OVERLAPPING, STANDARD, dng
from retouch.cli.render import main
from retouch.colour.depth import to_integers
from retouch.colour.lab import from_srgb
from retouch.colour.linear import decoded
from retouch.colour.space import space_of
from retouch.colour.transfer import to_linear
from retouch.colour.white import Light, xyz_of
from retouch.edit import Edit, Pass
from retouch.errors import PictureError
from retouch.forms.form import completed, dumps
from retouch.picture import Pyramid, profile, read, read_bytes
from retouch.picture.denoise import denoised
from retouch.picture.raw import Development, develop, glance
from retouch.picture.read import raw_preview
from retouch.picture.working import WORKING, profile_of
from retouch.render import Renderer, render_view, render_whole
from retouch.tests.scenes import skin
from retouch.work.bench import bench_for
from retouch.work.operations import AddPass, SetDevelopment


def patches(*colours: tuple[float, float, float], side: int = 48) -> np.ndarray:
    """Flat patches beside one another."""
    return np.concatenate([np.broadcast_to(np.array(c), (side, side, 3)) for c in colours], 1)


def middle(image: np.ndarray, n: int, side: int = 48) -> np.ndarray:
    return image[side // 2, side // 2 + n * side]


def rendered(data: bytes, how: Development, *passes: Pass) -> np.ndarray:
    return render_whole(Renderer(Pyramid(read_bytes(data, how))), Edit(passes)).pixels


class Developing(unittest.TestCase):
    COLOURS = ((0.2, 0.2, 0.2), (0.5, 0.3, 0.1), (0.05, 0.08, 0.2), (0.7, 0.75, 0.6))

    def test_values_come_back_as_they_were_written(self) -> None:
        """Within one part in 16,384 of what was written, in linear light."""
        picture = read_bytes(dng(patches(*self.COLOURS)))
        working = picture.space.to_working(picture.pixels)
        for n, colour in enumerate(self.COLOURS):
            off = np.abs(decoded(middle(working, n)) - colour).max()
            self.assertLess(float(off), 1 / 16384, colour)

    def test_a_cameras_own_colours_come_out_as_the_standards(self) -> None:
        """Through the camera's matrix there and LibRaw's back: the colours of the light."""
        to_xyz = np.linalg.inv(STANDARD)
        seen = np.array(self.COLOURS) @ (OVERLAPPING @ to_xyz).T
        neutral = tuple(OVERLAPPING @ to_xyz @ np.ones(3))
        data = dng(patches(*map(tuple, seen)), neutral, OVERLAPPING)  # type: ignore[arg-type]
        picture = read_bytes(data)
        working = picture.space.to_working(picture.pixels)
        for n, colour in enumerate(self.COLOURS):
            # White is where the first of the camera's channels ends.
            wanted = np.array(colour) * max(neutral)
            np.testing.assert_allclose(decoded(middle(working, n)), wanted, atol=1.5e-3)

    def test_the_light_that_the_camera_saw_is_told(self) -> None:
        to_xyz = np.linalg.inv(STANDARD)
        light = Light(3400.0, 0.002)
        neutral = OVERLAPPING @ xyz_of(light)
        grey = 0.25 * neutral / neutral.max()
        data = dng(patches(tuple(grey), tuple(0.5 * grey)), tuple(neutral), OVERLAPPING)  # type: ignore[arg-type]
        picture = read_bytes(data)
        assert picture.taken is not None
        self.assertAlmostEqual(picture.taken.light.kelvin, 3400, delta=25)
        self.assertAlmostEqual(picture.taken.light.duv, 0.002, delta=5e-4)
        cones = np.array(picture.taken.cones)
        np.testing.assert_allclose(cones / cones[1, 1], OVERLAPPING / OVERLAPPING[1, 1], atol=2e-3)
        # Balanced by the camera, the card is neutral.
        r, g, b = decoded(middle(picture.space.to_working(picture.pixels), 0))
        self.assertLess(max(abs(r / g - 1), abs(b / g - 1)), 2e-3)
        # A new white balance begins there and changes nothing; daylight makes it warm.
        work = bench_for(Pyramid(picture), None)
        edit = AddPass("white_balance").perform(Edit(), work).edit
        self.assertEqual(edit.passes[0].settings["temperature_k"], picture.taken.light.kelvin)
        plain = render_whole(work.renderer, Edit()).pixels
        np.testing.assert_array_equal(render_whole(work.renderer, edit).pixels, plain)
        warm = (
            AddPass("white_balance", settings={"temperature_k": 6500.0}).perform(Edit(), work).edit
        )
        lab = from_srgb(render_whole(work.renderer, warm).pixels / 65535)
        self.assertGreater(float(middle(lab, 0)[2]), 10)
        self.assertEqual(to_xyz.shape, (3, 3))

    def test_light_above_white_is_found_again(self) -> None:
        """Where the camera's red is lifted by two, red light of 1.2 and 1.8 times white is held: both
        are clipped as they stand, and told apart again once exposure is lowered.
        """
        data = dng(patches((0.6, 0.3, 0.15), (0.9, 0.3, 0.15)), (0.5, 1.0, 0.5))
        lower = completed(Pass("l", "light", settings={"exposure_ev": -1.0}))
        for highlights, ratio in (("keep", 1.5), ("clip", 1.0)):
            how = Development(highlights)  # type: ignore[arg-type]
            plain = rendered(data, how)
            self.assertGreater(min(int(middle(plain, n)[0]) for n in range(2)), 65530)
            kept = rendered(data, how, lower) / 65535
            first, second = (float(to_linear(middle(kept, n))[0]) for n in range(2))  # type: ignore[arg-type]
            self.assertAlmostEqual(second / first, ratio, 2, highlights)

    def test_reduced_views_agree_with_the_export(self) -> None:
        linear = to_linear(skin(160, 200, seed=4))
        data = dng(linear)
        own = Renderer(Pyramid(read_bytes(data)))
        whole = render_whole(own, Edit()).pixels
        view = render_view(own.plan(Edit()), 0, 0, 0.5, 100, 80).astype(float) / 255
        small = whole.reshape(80, 2, 100, 2, 3).mean((1, 3)) / 65535
        self.assertLess(float(np.abs(view - small).mean()), 2 / 255)

    def test_turned_by_the_camera(self) -> None:
        linear = np.zeros((64, 96, 3))
        linear[:16] = 0.5
        upright = read_bytes(dng(linear, turn=6))
        self.assertEqual((upright.width, upright.height), (64, 96))
        # Turned clockwise, the upper rows lie on the right.
        self.assertGreater(int(upright.pixels[48, 58, 1]), 20000)
        self.assertLess(int(upright.pixels[48, 10, 1]), 1000)
        seen = glance(dng(linear, turn=6))
        self.assertEqual((seen.width, seen.height), (64, 96))

    def test_another_development_is_another_picture(self) -> None:
        data = dng(patches(*self.COLOURS), (0.6, 1.0, 0.7))
        digests = {
            develop(data, how).digest
            for how in (Development(), Development("clip"), Development(profile="prophoto"))
        }
        self.assertEqual(len(digests), 3)

    def test_noise_goes_and_edges_stay(self) -> None:
        """Of photon noise three quarters go; an edge keeps its step and its place."""
        rng = np.random.default_rng(2)
        flat = np.full((160, 240, 3), 0.2)
        flat[:, 120:] = 0.5
        noisy = flat + rng.standard_normal(flat.shape) * np.sqrt(flat / 2500)
        data = dng(np.clip(noisy, 0, 1))
        before, after = (develop(data, Development("clip", n)).pixels / 65535 for n in (0.0, 400.0))
        for cols in (np.s_[20:100], np.s_[140:220]):
            part = after[20:140, cols].std() / before[20:140, cols].std()
            self.assertLess(part, 0.5)
        row = after[40:120].mean((0, 2))
        self.assertAlmostEqual(float(row[110] - row[0:100].mean()), 0, delta=0.01)
        self.assertAlmostEqual(float(row[130] - row[150:].mean()), 0, delta=0.01)
        self.assertLess(int(np.abs(row - 0.35).argmin() - 120), 2)
        codes = (before * 65535).astype(np.uint16)
        # The same pixels whatever strips they are done in.
        np.testing.assert_array_equal(
            denoised(codes, 400.0)[60:100], denoised(codes[20:140], 400.0)[40:80]
        )

    def test_only_raw_files_are_developed(self) -> None:
        work = bench_for(Pyramid(read_bytes(dng(patches(*self.COLOURS)))), None)
        edit = SetDevelopment({"highlights": "rebuild", "noise": 100.0}).perform(Edit(), work).edit
        self.assertEqual(edit.passes[0].settings["highlights"], "rebuild")
        jpeg = io.BytesIO()
        Image.new("RGB", (40, 40)).save(jpeg, "JPEG")
        other = bench_for(Pyramid(read_bytes(jpeg.getvalue())), None)
        with self.assertRaisesRegex(Exception, "no raw file"):
            SetDevelopment({}).perform(Edit(), other)

    def test_the_command_line_develops_as_the_edit_says(self) -> None:
        folder = Path(tempfile.mkdtemp())
        data = dng(patches(*self.COLOURS), (0.7, 1.0, 0.8))
        (folder / "one.dng").write_bytes(data)
        how = completed(Pass("d", "develop", settings={"highlights": "clip", "profile": "adobe"}))
        light = completed(Pass("l", "light", settings={"exposure_ev": -0.5}))
        turned = completed(Pass("f", "frame", settings={"angle_deg": 3.0}))
        edit = Edit((how, light, turned))
        (folder / "edit.json").write_text(dumps(edit))
        arguments = [folder / "one.dng", "--edit", folder / "edit.json", "--out", folder / "o.tif"]
        self.assertEqual(main([str(a) for a in arguments]), 0)
        made = read(folder / "o.tif")
        wanted = render_whole(
            Renderer(Pyramid(read_bytes(data, Development("clip", 0.0, "adobe")))), edit
        )
        np.testing.assert_array_equal(made.pixels, wanted.pixels)
        self.assertEqual(made.icc, profile_of("adobe"))
        self.assertEqual(
            json.loads((folder / "edit.json").read_text())["passes"][0]["kind"], "develop"
        )


class Profiles(unittest.TestCase):
    def test_working_profiles_have_their_published_primaries(self) -> None:
        """As colour-science has them: sRGB, Adobe RGB (1998), Display P3, ROMM RGB."""
        import colour

        for name in WORKING:
            # No time of making: a picture's fingerprint is the same in every process.
            self.assertEqual(struct.unpack(">6H", profile_of(name)[24:36]), (2020, 1, 1, 0, 0, 0))
        names = {"srgb": "sRGB", "adobe": "Adobe RGB (1998)", "display_p3": "Display P3",
                 "prophoto": "ROMM RGB"}  # fmt: skip
        for name, theirs in names.items():
            published = colour.RGB_COLOURSPACES[theirs]
            own = WORKING[name]
            np.testing.assert_allclose(
                (own.red, own.green, own.blue), published.primaries, atol=6e-4
            )
            np.testing.assert_allclose(own.white, published.whitepoint, atol=2e-4)
            self.assertEqual(profile.name(profile_of(name)), own.title)

    def test_wide_colours_survive_in_a_wide_profile(self) -> None:
        green = np.array([-0.5, 1.0, -0.2], np.float32).reshape(1, 1, 3)
        codes = space_of(profile_of("prophoto")).to_encoded(green)
        self.assertTrue(((codes > 0.01) & (codes < 0.99)).all())


class Refused(unittest.TestCase):
    def test_half_broken_and_unknown_raw_files(self) -> None:
        whole = dng(patches((0.2, 0.3, 0.4), (0.1, 0.1, 0.1)))
        for data, words in (
            (whole[: len(whole) // 3], "cut off or damaged|can't be opened"),
            (b"FUJIFILMCCD-RAW " + bytes(3000), "can't be read here|damaged"),
            (b"\0\0\0\x18ftypcrx " + bytes(2000), "can't be read here|damaged"),
        ):
            with self.assertRaisesRegex(PictureError, words):
                read_bytes(data)

    def test_the_content_counts_not_the_ending(self) -> None:
        folder = Path(tempfile.mkdtemp())
        (folder / "photo.jpg").write_bytes(dng(patches((0.2, 0.3, 0.4), (0.1, 0.1, 0.1))))
        self.assertEqual(read(folder / "photo.jpg").format, "raw")
        Image.new("RGB", (40, 40), (9, 9, 9)).save(folder / "shot.dng", "PNG")
        self.assertEqual(read(folder / "shot.dng").format, "png")

    def test_plain_tiffs_are_no_raw_files(self) -> None:
        out = io.BytesIO()
        Image.new("RGB", (40, 40)).save(out, "TIFF")
        self.assertIsNone(raw_preview(out.getvalue()))


class Newer(unittest.TestCase):
    def test_heic_turned_by_exif(self) -> None:
        image = to_integers(skin(60, 90, seed=1), 8)
        image[:12] = (250, 20, 20)
        exif = Image.Exif()
        exif[274] = 6
        out = io.BytesIO()
        pillow_heif.from_pillow(Image.fromarray(image)).save(out, quality=90, exif=exif.tobytes())
        got = read_bytes(out.getvalue())
        self.assertEqual((got.width, got.height, got.format), (60, 90, "heic"))
        self.assertGreater(int(got.pixels[45, 55, 0]), 200)
        self.assertLess(int(got.pixels[45, 55, 1]), 80)

    def test_ten_bit_heic_keeps_its_bits(self) -> None:
        ramp = np.linspace(8000, 50000, 64 * 64).astype(np.uint16).reshape(64, 64, 1).repeat(3, 2)
        out = io.BytesIO()
        heif = pillow_heif.from_bytes("RGB;16", (64, 64), ramp.tobytes())
        heif.save(out, quality=-1, chroma=444)
        got = read_bytes(out.getvalue())
        self.assertEqual(got.bits, 16)
        self.assertGreater(len(np.unique(got.pixels)), 400)

    def test_avif_and_jpeg_xl(self) -> None:
        image = to_integers(skin(60, 90, seed=2), 8)
        avif = io.BytesIO()
        Image.fromarray(image).save(avif, "AVIF", quality=95)
        jxl = imagecodecs.jpegxl_encode(image, lossless=True)
        got = read_bytes(avif.getvalue())
        self.assertEqual(got.format, "avif")
        self.assertLess(float(np.abs(got.pixels.astype(int) - image).mean()), 4)
        exact = read_bytes(bytes(jxl))
        self.assertEqual(exact.format, "jxl")
        np.testing.assert_array_equal(exact.pixels, image)
