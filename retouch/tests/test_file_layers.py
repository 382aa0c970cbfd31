"""Layers of files: names, and the picture as it stood with each, beside an independent library."""

from __future__ import annotations

import io
import unittest
import zipfile
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import pyora
import tifffile
from PIL import Image

from retouch.errors import PictureError
from retouch.picture import openraster, read_bytes
from retouch.picture.layers import layers_in
from retouch.picture.stacked import with_layer

WIDTH, HEIGHT = 48, 32


def pixels(seed: int, width: int = WIDTH, height: int = HEIGHT, opaque: bool = False) -> np.ndarray:
    values = np.random.default_rng(seed).integers(0, 256, (height, width, 4)).astype(np.uint8)
    if opaque:
        values[..., 3] = 255
    return values


def written(project) -> bytes:
    with TemporaryDirectory() as folder:
        path = Path(folder) / "file.ora"
        project.save(str(path))
        return path.read_bytes()


def changed(data: bytes, name: str, change) -> bytes:
    """A file with one of its entries changed."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for info in old.infolist():
            content = old.read(info)
            new.writestr(info.filename, change(content) if info.filename == name else content)
    return out.getvalue()


def drawn(data: bytes) -> np.ndarray:
    """What the other library makes of a file: its own rendering over white, (h, w, 3)."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "file.ora"
        path.write_bytes(data)
        image = pyora.Project.load(str(path)).get_image_data(False).convert("RGBA")
    paper = Image.new("RGBA", image.size, (255, 255, 255, 255))
    return np.asarray(Image.alpha_composite(paper, image).convert("RGB"))


class OfAStack(unittest.TestCase):
    def assert_alike(self, ours: np.ndarray, theirs: np.ndarray, steps: int = 2) -> None:
        self.assertLessEqual(int(np.abs(ours.astype(int) - theirs).max()), steps)

    def project(self, mode: str = "svg:src-over", opacity: float = 1.0):
        one = pyora.Project.new(WIDTH, HEIGHT)
        one.add_layer(Image.fromarray(pixels(1, opaque=True)), "below")
        one.add_layer(Image.fromarray(pixels(2)), "above", composite_op=mode, opacity=opacity)
        return one

    def test_modes_are_those_of_an_independent_library(self) -> None:
        """pyora 0.3.11 lays layers by its own arithmetic."""
        modes = (
            "src-over", "multiply", "screen", "overlay", "darken", "lighten", "hard-light", "difference",
            "luminosity", "color",
        )  # fmt: skip
        for mode in modes:
            with self.subTest(mode):
                data = written(self.project(f"svg:{mode}", 0.7))
                self.assert_alike(with_layer(data, 1).pixels, drawn(data))

    def test_each_layer_is_a_state_on_the_way(self) -> None:
        data = written(self.project())
        self.assertEqual(layers_in(data), ("below", "above"))
        np.testing.assert_array_equal(with_layer(data, 0).pixels, pixels(1, opaque=True)[..., :3])

    def test_groups_are_laid_within_themselves_first(self) -> None:
        one = self.project()
        one.add_group("set", opacity=0.5)
        one.add_layer(
            Image.fromarray(pixels(3, 20, 10)), "set/inner", offsets=(30, -4),
            composite_op="svg:multiply",
        )  # fmt: skip
        one.add_layer(Image.fromarray(pixels(4)), "set/outer", composite_op="svg:screen")
        data = written(one)
        self.assertEqual(len(layers_in(data)), 4)
        self.assert_alike(with_layer(data, 3).pixels, drawn(data))

    def test_a_hidden_layer_is_left_out_of_the_others_and_shown_as_its_own(self) -> None:
        one = self.project()
        one["below"].visible = True
        one["above"].visible = False
        one.add_layer(Image.fromarray(pixels(5, 8, 8)), "corner")
        data = written(one)
        self.assert_alike(with_layer(data, 2).pixels, drawn(data))
        one["above"].visible, one["corner"].visible = True, False
        self.assert_alike(with_layer(data, 1).pixels, drawn(written(one)))

    def test_our_own_files_come_back_pass_by_pass_in_all_their_bits(self) -> None:
        rng = np.random.default_rng(6)
        deep = [rng.integers(0, 65536, (HEIGHT, WIDTH, 4)).astype(np.uint16) for _ in range(2)]
        for one in deep:
            one[..., 3] = 65535
        stack = [openraster.Layer(f"pass {n}", one) for n, one in enumerate(deep)]
        data = openraster.write(stack, deep[1][..., :3], None)
        for n, one in enumerate(deep):
            np.testing.assert_array_equal(with_layer(data, n).pixels, one[..., :3])

    def test_what_cant_be_computed_is_said_in_words(self) -> None:
        data = written(self.project("svg:dst-out"))
        with self.assertRaisesRegex(PictureError, "'above' is laid in a way .*svg:dst-out"):
            with_layer(data, 1)
        # What lies below it isn't touched by that.
        self.assertEqual(with_layer(data, 0).width, WIDTH)
        with self.assertRaisesRegex(PictureError, "no such layer"):
            with_layer(data, 2)

    def test_broken_lists_and_layers_are_refused(self) -> None:
        data = written(self.project())
        deep = b"<image w='48' h='32'>" + b"<stack>" * 40 + b"</stack>" * 40 + b"</image>"
        cases = {
            "no list": changed(data, "stack.xml", lambda _: b"<image"),
            "no size": changed(data, "stack.xml", lambda x: x.replace(b'w="48"', b'w="many"')),
            "too deep": changed(data, "stack.xml", lambda _: deep),
            "no such file": changed(data, "stack.xml", lambda x: x.replace(b".png", b".gif")),
            "an opacity without end": changed(
                data, "stack.xml", lambda x: x.replace(b'opacity="1.0"', b'opacity="nan"')
            ),
            "an opacity that is none": changed(
                data, "stack.xml", lambda x: x.replace(b'opacity="1.0"', b'opacity="much"')
            ),
        }
        for name, broken in cases.items():
            with self.subTest(name), self.assertRaises(PictureError):
                with_layer(broken, 1)
        with zipfile.ZipFile(io.BytesIO(data)) as file:
            layer = next(n for n in file.namelist() if n.endswith(".png") and "layer" in n)
        for short in (b"", b"\x89PNG\r\n", b"\x89PNG\r\n\x1a\n" + b"\xff" * 40):
            with self.assertRaises(PictureError):
                for n in range(2):
                    with_layer(changed(data, layer, lambda _, short=short: short), n)


class OfATiff(unittest.TestCase):
    def file(self, *pages: np.ndarray, **how) -> bytes:
        out = io.BytesIO()
        with tifffile.TiffWriter(out) as tiff:
            for n, page in enumerate(pages):
                extra = {"extrasamples": ["unassalpha"]} if page.shape[2] == 4 else {}
                tag = [(285, "s", 0, f"Layer {n}", True)]
                tiff.write(page, photometric="rgb", metadata=None, extratags=tag, **extra, **how)
        return out.getvalue()

    def test_further_pages_lie_over_each_other(self) -> None:
        merged, low, high = (pixels(n, opaque=n < 3) for n in (1, 2, 3))
        data = self.file(merged[..., :3], low, high)
        self.assertEqual(layers_in(data), ("Layer 1", "Layer 2"))
        np.testing.assert_array_equal(read_bytes(data).pixels, merged[..., :3])
        np.testing.assert_array_equal(with_layer(data, 0).pixels, low[..., :3])
        wanted = Image.alpha_composite(Image.fromarray(low), Image.fromarray(high)).convert("RGB")
        away = np.abs(with_layer(data, 1).pixels.astype(int) - np.asarray(wanted)).max()
        self.assertLessEqual(int(away), 1)

    def test_pages_are_turned_as_the_picture_is(self) -> None:
        low = pixels(2, opaque=True)[..., :3]
        tag = {"resolution": None}
        out = io.BytesIO()
        with tifffile.TiffWriter(out) as tiff:
            for page in (pixels(1)[..., :3], low):
                tiff.write(
                    page,
                    photometric="rgb",
                    metadata=None,
                    extratags=[(274, "H", 1, 6, True)],
                    **tag,
                )
        data = out.getvalue()
        got = with_layer(data, 0)
        self.assertEqual((got.width, got.height), (HEIGHT, WIDTH))
        np.testing.assert_array_equal(got.pixels, np.rot90(low, -1))

    def test_small_pictures_of_the_same_are_no_layers(self) -> None:
        data = self.file(pixels(1)[..., :3], pixels(2, 24, 16)[..., :3])
        self.assertEqual(layers_in(data), ())

    def test_other_files_hold_none(self) -> None:
        out = io.BytesIO()
        Image.fromarray(pixels(1)).save(out, "PNG")
        self.assertEqual(layers_in(out.getvalue()), ())


if __name__ == "__main__":
    unittest.main()
