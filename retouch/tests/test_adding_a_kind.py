"""docs/adding-a-kind.md is true: its files make a kind that works in an edit, a file and the schema."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

ROOT = Path(__file__).resolve().parents[2]
PAGE = ROOT / "docs" / "adding-a-kind.md"

# Run beside the page's files: a pass of the new kind over half of a picture, rendered and read back.
DRIVE = """
import json, sys
import numpy as np
from retouch.cli.render import main
from retouch.edit import Edit
from retouch.forms.form import dumps, schema
from retouch.picture import Output, Picture, Pyramid, read, write
from retouch.work.bench import bench_for
from retouch.work.operations import AddPass, perform

assert "Tan lines" in json.dumps(schema())
skin = np.full((60, 80, 3), (190, 150, 130), np.uint8)
write(Picture(skin), "in.png", Output("png"))
bench = bench_for(Pyramid(read("in.png")), None)
made = perform(Edit(), AddPass("tan_lines", settings={"amount": 100.0, "lightness": 70.0}), bench)
open("edit.json", "w").write(dumps(made.edit))
assert main(["in.png", "--edit", "edit.json", "--out", "out.png"]) == 0
out = read("out.png").pixels.astype(int)
assert (out.mean() > skin.mean() + 2), (out.mean(), skin.mean())
print("driven")
"""


class AddingAKind(unittest.TestCase):
    def test_the_page_works_as_it_stands(self) -> None:
        files = dict(re.findall(r"```python\n# (\S+\.py)\n(.*?)```", PAGE.read_text("utf-8"), re.S))
        self.assertEqual(len(files), 3)
        folder = Path(self.enterContext(TemporaryDirectory()))
        skip = shutil.ignore_patterns("__pycache__")
        shutil.copytree(ROOT / "retouch", folder / "retouch", ignore=skip)
        for name, text in files.items():
            self.assertFalse((ROOT / name).exists(), f"{name} is there already")
            (folder / name).write_text(text)
        for command in (
            [sys.executable, "-m", "unittest", "retouch.tests.test_tan"],
            [sys.executable, "-c", DRIVE],
        ):
            done = subprocess.run(
                command, cwd=folder, capture_output=True, text=True, timeout=600, check=False
            )
            self.assertEqual(done.returncode, 0, done.stdout + done.stderr)
