"""The command line, run as a command."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import numpy as np
from PIL import Image

from benchmarks import scoring
from retouch.colour.depth import to_float
from retouch.picture import read
from retouch.picture.credentials import read as read_credentials
from retouch.picture.credentials import test_credentials
from retouch.picture.proof import built_in
from retouch.work.ready import ready_routines

ROOT = Path(__file__).resolve().parents[2]
PHOTO = ROOT / "demo" / "portraits" / "eli.jpg"


def run(*arguments: object) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "retouch", *map(str, arguments)]
    return subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)


class CommandLine(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_heals_given_spots_and_nothing_else(self) -> None:
        person = scoring.load("eli")
        out, saved = self.folder / "out.png", self.folder / "edit.json"
        spots = [f"--heal={s.x},{s.y},{1.3 * s.r}" for s in person.spots]
        done = run(PHOTO, *spots, "--out", out, "--save-edit", saved)
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        result = to_float(read(out).pixels)
        after = np.mean([scoring.score(result, person.keep, s) for s in person.spots], 0)
        before = np.mean([scoring.score(person.raw, person.keep, s) for s in person.spots], 0)
        self.assertLess(after[0], before[0] / 2)
        self.assertLess(after[1], before[1] / 2)
        ys, xs = np.mgrid[: result.shape[0], : result.shape[1]] + 0.5
        away = np.ones(result.shape[:2], bool)
        for s in person.spots:
            away &= np.hypot(xs - s.x, ys - s.y) > 1.3 * s.r + 1
        np.testing.assert_array_equal(result[away], person.raw[away])

        # The saved edit holds the sources, so it renders the same again.
        again = self.folder / "again.png"
        self.assertEqual(run(PHOTO, "--edit", saved, "--out", again).returncode, 0)
        np.testing.assert_array_equal(read(again).pixels, read(out).pixels)

    def test_files_for_print_in_other_profiles_and_signed(self) -> None:
        own = test_credentials(self.folder)
        self.assertTrue(own.test)
        out = self.folder / "print.jpg"
        done = run(
            PHOTO, "--out", out, "--print-cm", 5.08, "--per-inch", 200, "--border", 5, "--profile", "display-p3",
            "--credentials", self.folder / "test-certificate.pem", self.folder / "test-key.pem",
        )  # fmt: skip
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        with Image.open(out) as image:
            self.assertEqual(image.size[1], 400)
            self.assertAlmostEqual(float(image.info["dpi"][0]), 200, delta=1)
            self.assertEqual(image.info["icc_profile"], built_in("display-p3"))
        signed = read_credentials(out.read_bytes(), "jpeg")
        assert signed is not None
        self.assertTrue(signed.whole)
        # A profile from a file, and what can't be.
        profile = self.folder / "own.icc"
        profile.write_bytes(built_in("display-p3") or b"")
        done = run(
            PHOTO, "--out", self.folder / "a.png", "--megapixels", 0.02, "--profile", profile
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        for wrong, words in (
            (["--print-cm", "0"], "goes from"), (["--megapixels", "nan"], "goes from"), (["--profile", "none.icc"], "--profile"),
            (["--profile", str(PHOTO)], "isn't a whole ICC profile"),
            (["--credentials", "none.pem", "none.pem"], "can't be read"),
        ):  # fmt: skip
            done = run(PHOTO, "--out", out, *wrong)
            self.assertEqual(done.returncode, 1, wrong)
            self.assertIn(words, done.stderr)
            self.assertEqual(len(done.stderr.splitlines()), 1)

    def test_output_options(self) -> None:
        out = self.folder / "small.tif"
        done = run(PHOTO, "--out", out, "--long-side", 500, "--bits", 16, "--profile", "srgb")
        self.assertEqual(done.returncode, 0, done.stderr)
        picture = read(out)
        self.assertEqual((picture.width, picture.height, picture.bits), (400, 500, 16))
        self.assertIsNotNone(picture.icc)

    def test_errors_are_one_plain_line_and_a_status(self) -> None:
        text, bad_edit = self.folder / "a.jpg", self.folder / "bad.json"
        text.write_text("hello, this is a letter, not a photograph")
        bad_edit.write_text(json.dumps({"version": 1, "passes": [{"id": "a", "kind": "magic"}]}))
        out = self.folder / "o.png"
        cases = [
            ((text, "--out", out), 1, "isn't a picture"),
            ((self.folder / "none.jpg", "--out", out), 1, "no file"),
            ((PHOTO, "--edit", bad_edit, "--out", out), 1, "magic"),
            ((PHOTO, "--routine", "magic", "--out", out), 1, "light, everyday, strong"),
            ((PHOTO, "--heal=1,2", "--out", out), 1, "X,Y,R"),
            ((PHOTO, "--heal=nan,5,5", "--out", out), 1, ""),
            ((PHOTO, "--heal=5,5,-3", "--out", out), 1, "radius_px"),
            ((PHOTO, "--heal=9000,9000,5", "--out", out), 1, "outside"),
            ((PHOTO, "--out", self.folder / "o.bmp"), 1, ".bmp"),
            ((PHOTO, "--out", self.folder / "no" / "o.png"), 1, "can't be written"),
            ((PHOTO,), 2, "--out"),
            ((PHOTO, "--out", out, "--sparkle"), 2, "--sparkle"),
        ]
        for arguments, status, part in cases:
            with self.subTest(arguments=[str(a) for a in arguments[1:]]):
                done = run(*arguments)
                self.assertEqual(done.returncode, status)
                self.assertIn(part, done.stderr)
                self.assertNotIn("Traceback", done.stderr)
                self.assertFalse(out.exists())

    def test_help_names_every_option(self) -> None:
        page = run("--help").stdout
        for one in ready_routines():
            self.assertRegex(
                page, rf"(?s)--routine NAME .*\b{one.name}\b.*--faces auto.*\n  --save"
            )
        documented = (ROOT / "docs" / "command-line.md").read_text()
        for option in ("--edit", "--heal", "--out", "--save-edit", "--softness", "--quality",
                       "--subsampling", "--bits", "--long-side", "--profile", "--strip",
                       "--routine", "--faces", "--save-faces"):  # fmt: skip
            self.assertIn(option, page)
            self.assertIn(option, documented)
