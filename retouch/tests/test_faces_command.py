"""The command that tells what is found about faces, run as a command."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import cv2
import numpy as np

from benchmarks.faces import labels
from retouch.cli.looking import ZONE_FILES
from retouch.picture import read

ROOT = Path(__file__).resolve().parents[2]
PHOTO = ROOT / "demo" / "portraits" / "dan.jpg"


def run(*arguments: object) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "retouch.cli.faces", *map(str, arguments)]
    return subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)


class FacesCommand(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_faces_marks_zones_and_overlay_of_a_portrait(self) -> None:
        zones, over = self.folder / "zones", self.folder / "overlay"
        done = run(PHOTO, "--json", "--zones", zones, "--overlay", over)
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        found = json.loads(done.stdout)
        self.assertEqual(found["photo"], str(PHOTO))
        (face,) = found["faces"]
        picture, truth = read(PHOTO), labels("dan")
        x, y, w, h = face["box"]
        self.assertTrue(0 < x < x + w < picture.width and 0 < y < y + h < picture.height)
        # The scene's own scale, from the renderer that made the portrait.
        known = json.loads((ROOT / "demo" / "truth" / "dan.json").read_text())["px_per_cm"] / 10
        self.assertAlmostEqual(face["px_per_mm"] / known, 1, delta=0.1)

        # Marks lie on skin, and most that are to be cleared on blemishes.
        spots = json.loads((ROOT / "demo" / "truth" / "dan.json").read_text())["blemishes"]
        offers = [m for m in found["marks"] if m["decision"] == "clear"]
        self.assertGreater(len(offers), 10)
        right = [
            m for m in offers
            if any(np.hypot(m["x"] - s["x"], m["y"] - s["y"]) < 1.3 * s["r"] + m["r"] for s in spots)
        ]  # fmt: skip
        self.assertGreater(len(right) / len(offers), 0.8)
        self.assertEqual({m["face"] for m in found["marks"]}, {0})

        # A file for each zone, of the photo's size, and the skin where the truth has it.
        self.assertEqual({p.stem for p in zones.iterdir()}, set(ZONE_FILES))
        covers = {n: cv2.imread(str(zones / f"{n}.png"), cv2.IMREAD_UNCHANGED) for n in ZONE_FILES}
        self.assertEqual(
            {(c.shape, c.dtype.name) for c in covers.values()}, {(truth.shape, "uint8")}
        )
        skin = np.maximum(covers["skin_face"], covers["skin_body"]) > 127
        true = truth == 1
        self.assertGreater((skin & true).sum() / (skin | true).sum(), 0.93)
        behind = covers["background"] > 127
        self.assertGreater((behind & (truth == 0)).sum() / (behind | (truth == 0)).sum(), 0.97)

        # The tints lie on the zones alone.
        tinted = read(over / "dan.jpg").pixels.astype(int)
        moved = np.abs(tinted - picture.pixels).max(2)
        self.assertGreater(np.median(moved[skin]), 20)
        self.assertLess(np.median(moved[behind]), 4)

    def test_a_photo_without_a_face_is_an_answer_and_a_broken_one_is_told(self) -> None:
        empty, broken = self.folder / "empty.png", self.folder / "broken.jpg"
        cv2.imwrite(str(empty), np.full((240, 320, 3), 90, np.uint8))
        broken.write_text("hello, this is a letter, not a photograph")
        zones = self.folder / "zones"
        done = run(broken, empty, "--zones", zones)
        self.assertEqual(done.returncode, 1)
        self.assertIn("broken.jpg", done.stderr)
        self.assertIn("isn't a picture", done.stderr)
        self.assertNotIn("Traceback", done.stderr)
        self.assertIn("no faces", done.stdout)
        # Of several photos each has a folder of its own.
        behind = cv2.imread(str(zones / "empty" / "background.png"), cv2.IMREAD_UNCHANGED)
        self.assertTrue((behind == 255).all())

    def test_what_cannot_be_done_is_refused_before_anything_is_looked_at(self) -> None:
        twin = self.folder / "dan.jpg"
        twin.write_bytes(PHOTO.read_bytes())
        done = run(PHOTO, twin, "--overlay", self.folder / "o")
        self.assertEqual((done.returncode, done.stdout), (1, ""))
        self.assertIn("Two photos are called 'dan'", done.stderr)
        self.assertIn("0 and 100", run(PHOTO, "--sensitivity", 101).stderr)
        self.assertEqual(run("--json").returncode, 2)

    def test_help_and_page_name_every_option(self) -> None:
        page, documented = run("--help").stdout, (ROOT / "docs" / "command-line.md").read_text()
        for option in ("--json", "--overlay", "--zones", "--sensitivity"):
            self.assertIn(option, page)
            self.assertIn(option, documented)
        for name in ZONE_FILES:
            self.assertIn(f"`{name}`", documented)
