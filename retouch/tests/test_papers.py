"""What is told about a picture: XMP read by another library, the disclosure, sheets as files."""

import io
import re
import unittest
import zlib

import numpy as np
import pyexiv2
from PIL import Image

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.edit import Edit
from retouch.geometry import Rect
from retouch.papers.compared import as_jpeg, as_pdf, sheet
from retouch.papers.contact import contact_sheet
from retouch.papers.told import disclosure_sheet
from retouch.picture import Output, Picture, Pyramid, read, xmp
from retouch.picture.write import encode
from retouch.work.bench import Bench, bench_for
from retouch.work.disclosure import disclosure
from retouch.work.operations import (
    AddPass,
    AddTouch,
    ChangePass,
    MirrorBrow,
    MoveByOutline,
    NewTouch,
    PullProportions,
    perform,
)

CARD = xmp.Card(
    "Mira Vogt-Ánđé", "© 2031 Mira Vogt", "mira@example.invalid", "https://example.invalid/m", "Ana"
)
STEPS = [xmp.Step("edited", 'Heal "left" <cheek> & chin'), xmp.Step("edited", "Redness")]


class Metadata(unittest.TestCase):
    def test_another_library_reads_it_in_every_format_that_takes_it(self) -> None:
        text = xmp.packet(CARD, "edited", STEPS, "2031-05-04T10:00:00+00:00", "2 places healed")
        pixels = np.full((40, 50, 3), 120, np.uint8)
        for name in ("jpeg", "png", "tiff", "webp"):
            data = encode(Picture(pixels), Output(name, xmp=text))  # type: ignore[arg-type]
            with pyexiv2.ImageData(data) as image:
                found = image.read_xmp()
            self.assertEqual(found["Xmp.dc.creator"], [CARD.creator], name)
            self.assertEqual(found["Xmp.dc.rights"], {'lang="x-default"': CARD.rights}, name)
            self.assertEqual(found["Xmp.dc.title"], {'lang="x-default"': "Ana"})
            self.assertEqual(found["Xmp.dc.description"], {'lang="x-default"': "2 places healed"})
            self.assertIn("humanEdits", found["Xmp.iptcExt.DigitalSourceType"], name)
            self.assertEqual(found["Xmp.xmpMM.History[1]/stEvt:parameters"], STEPS[0].said, name)
            self.assertEqual(found["Xmp.iptc.CreatorContactInfo/Iptc4xmpCore:CiEmailWork"], CARD.email)  # fmt: skip
        avif = Image.open(io.BytesIO(encode(Picture(pixels), Output("avif", xmp=text))))
        self.assertIn(b"humanEdits", avif.info["xmp"])

    def test_what_xml_may_not_hold_is_left_out(self) -> None:
        text = xmp.packet(xmp.Card("A\x00B\x1f\ud800C"), "capture", [], "2031-05-04T10:00:00Z")
        self.assertIn(">ABC<", text)
        text.encode()


class Told(unittest.TestCase):
    def setUp(self) -> None:
        picture = read(DEMO / "portraits" / "ana.jpg")
        self.bench: Bench = bench_for(Pyramid(picture), understand("ana").analysis)
        assert self.bench.analysis is not None
        self.marks = self.bench.analysis.marks[0]

    def told(self, edit: Edit):  # type: ignore[no-untyped-def]
        return disclosure(self.bench.renderer, edit, self.bench.analysis)

    def dabs(self, edit: Edit, marks: list) -> Edit:  # type: ignore[type-arg]
        for mark in marks:
            new = NewTouch(((mark.x, mark.y),), values={"radius_px": round(2 * mark.reach) / 2 + 2})
            edit = perform(edit, AddTouch("heal", new), self.bench).edit
        return edit

    def test_nothing_is_nothing(self) -> None:
        found = self.told(Edit())
        self.assertEqual((found.lines, found.caption, found.text), ((), "", "Nothing was changed"))
        self.assertFalse(any(r.asks for r in found.rules))

    def test_counts_and_permanent_marks_are_told(self) -> None:
        own = [m for m in self.marks if m.proposal == "clear"][:3]
        keep = [m for m in self.marks if m.proposal == "keep"][:1]
        found = self.told(self.dabs(Edit(), own + keep))
        said = [line.said for line in found.lines if line.group == "skin cleared"]
        self.assertEqual(said[0], "4 places healed")
        self.assertRegex(said[1], r"^1 permanent mark removed: ")
        self.assertTrue(found.rules[1].asks)
        self.assertFalse(found.rules[0].asks)
        self.assertTrue(found.caption)

    def test_what_is_cleared_beside_the_skin_is_told_apart(self) -> None:
        # Dust in front of the wall and a thread on the collar are nobody's skin.
        edit = Edit()
        for kind, at in (
            ("heal", (60.0, 60.0)),
            ("heal", (1000.0, 2350.0)),
            ("lint", (900.0, 2300.0)),
        ):
            new = NewTouch(
                (at,) if kind == "heal" else (at, (at[0] + 40, at[1] + 4)),
                values={"radius_px": 8.0},
            )
            edit = perform(edit, AddTouch(kind, new), self.bench).edit
        found = self.told(edit)
        self.assertEqual(
            [(line.group, line.said) for line in found.lines],
            [
                ("hair and clothing", "1 place healed in hair or clothing"),
                ("hair and clothing", "1 thread or speck of lint cleared"),
                ("background", "1 place healed in the background"),
            ],
        )
        self.assertFalse(any(r.asks for r in found.rules))
        self.assertEqual(found.caption, "")

    def test_skin_features_and_moves_stand_apart_with_their_numbers(self) -> None:
        edit = Edit()
        for kind, values in (("redness", {"amount": 60.0}), ("skin_bands", {"middle": -6.0})):
            edit = perform(edit, AddPass(kind, settings=values), self.bench).edit
        edit = perform(edit, AddPass("lips", settings={"richer": 30.0}), self.bench).edit
        edit = perform(edit, PullProportions({"nose_wings": -3.0}), self.bench).edit
        added = perform(edit, MoveByOutline("figure"), self.bench)
        edit = perform(added.edit, ChangePass(added.pass_id or "", settings={"shoulder_left": 8.0}), self.bench).edit  # fmt: skip
        edit = perform(edit, MirrorBrow("right"), self.bench).edit
        edit = perform(edit, AddPass("vignette"), self.bench).edit
        found = self.told(edit)
        groups = {}
        for line in found.lines:
            groups.setdefault(line.group, []).append(line)
        self.assertLess(groups["skin evened"][1].numbers["least_texture_percent"], 100.5)
        moved = [line.said for line in groups["shape"]]
        self.assertTrue(moved[0].startswith("body moved by up to"))
        self.assertRegex(moved[1], r"^face moved by up to 1\.\d mm, \d\.\d % of the face's height \(Nose: wings -3 mm\)$")  # fmt: skip
        self.assertEqual(
            groups["borrowed"][0].said, "1 part borrowed from the other side of the face"
        )
        self.assertEqual(groups["light and colour"][0].said, "light and colour: vignette")
        self.assertEqual([r.asks for r in found.rules], [True, True])

    def test_what_is_switched_off_is_not_told(self) -> None:
        added = perform(Edit(), AddPass("redness", settings={"amount": 60.0}), self.bench)
        off = perform(added.edit, ChangePass(added.pass_id or "", enabled=False), self.bench).edit
        self.assertEqual(self.told(off).lines, ())


def texts(pdf: bytes) -> str:
    """The page contents of a PDF, unpacked: enough to see that something is drawn."""
    out = []
    for body in re.findall(rb"stream\r?\n(.*?)\r?\nendstream", pdf, re.S):
        try:
            out.append(zlib.decompress(body).decode("latin-1"))
        except zlib.error:
            continue
    return "\n".join(out)


class Sheets(unittest.TestCase):
    BEFORE = np.full((300, 240, 3), 90, np.uint8)
    AFTER = np.full((300, 240, 3), 170, np.uint8)
    LARGE = np.full((1500, 1500, 3), 60, np.uint8)

    def test_side_by_side_and_in_halves(self) -> None:
        beside = sheet(self.BEFORE, self.AFTER, "beside")
        self.assertEqual((int(beside[150, 10, 0]), int(beside[150, -10, 0])), (90, 170))
        halves = sheet(self.BEFORE, self.AFTER, "halves")
        self.assertEqual((int(halves[150, 10, 0]), int(halves[150, -10, 0])), (90, 170))
        self.assertEqual(halves.shape, self.AFTER.shape)

    def test_details_are_at_one_to_one(self) -> None:
        before = self.BEFORE.copy()
        before[100:140, 60:100] = 10
        out = sheet(before, self.AFTER, "beside", [Rect(60, 100, 100, 140)])
        self.assertEqual(int((out == 10).all(-1).sum()), 2 * 40 * 40)
        self.assertEqual(Image.open(io.BytesIO(as_jpeg(out))).size, (out.shape[1], out.shape[0]))

    def test_pdfs_have_their_pages_whatever_the_names(self) -> None:
        names = ['Ana / "the" <first>', "שלום", "مرحبا", "😀 smile", "x" * 300]
        data = contact_sheet("Portraits", [(n, self.AFTER) for n in names * 7], 35)
        self.assertTrue(data.startswith(b"%PDF"))
        self.assertEqual(len(re.findall(rb"/Type\s*/Page\b", data)), 2)
        self.assertEqual(len(re.findall(rb"/Subtype\s*/Image", data)), 1)
        # Few portraits are laid larger: two in a row have twice the pixels of four, a little more without the gaps.
        wide = [max(int(w) for w in re.findall(rb"/Width (\d+)", contact_sheet("Few", [("Ana", self.LARGE)] * n, n))) for n in (4, 16)]  # fmt: skip
        self.assertAlmostEqual(wide[0] / wide[1], 2.1, delta=0.1)
        self.assertTrue(as_pdf(names[0], self.AFTER).startswith(b"%PDF"))
        told = disclosure(bench_for(Pyramid(Picture(self.BEFORE)), None).renderer, Edit(), None)
        page = disclosure_sheet(names[3], "2031-05-04", told, self.BEFORE, self.AFTER)
        self.assertIn("BT", texts(page))
