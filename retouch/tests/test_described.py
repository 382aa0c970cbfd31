"""What files say of their pictures in words: read from XMP and IPTC, and carried into what is made of them.

Written and read by exiv2 (pyexiv2), another implementation of both standards.
"""

from __future__ import annotations

import io
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
import pyexiv2
import tifffile
from PIL import Image

from retouch.cli.render import main
from retouch.picture import Output, Picture, read, xmp
from retouch.picture.described import MOST, Description, described
from retouch.picture.read import read_bytes
from retouch.picture.write import Format, encode

WHEN = "2031-05-04T10:00:00+00:00"
PIXELS = np.full((40, 50, 3), 120, np.uint8)
# Invented, in the properties of the IPTC Photo Metadata Standard (core and extension).
SAID = {
    "Xmp.dc.title": {'lang="x-default"': "At the window"},
    "Xmp.dc.creator": ["Tove Ekdahl"],
    "Xmp.dc.rights": {'lang="x-default"': "© 2031 Tove Ekdahl"},
    "Xmp.dc.description": {'lang="x-default"': "Ana, before the première"},
    "Xmp.dc.subject": ["portrait", "théâtre", "window light"],
    "Xmp.iptc.CountryCode": "NOR",
    "Xmp.iptc.Location": "A street",
    "Xmp.iptcExt.PersonInImage": ["Ana Example"],
    "Xmp.xmp.Rating": "4",
}
CAMERA = {
    "Xmp.exif.GPSLatitude": "59,54.2N",
    "Xmp.tiff.Make": "A camera",
    "Xmp.dc.format": "image/png",
}
TYPES = "http://cv.iptc.org/newscodes/digitalsourcetype/"


def file_that_says(
    kind: Format, properties: dict[str, Any], iim: dict[str, Any] | None = None
) -> bytes:
    with pyexiv2.ImageData(encode(Picture(PIXELS), Output(kind))) as image:
        image.modify_xmp(properties)
        if iim:
            image.modify_iptc(iim)
        return bytes(image.get_bytes())


def xmp_of(data: bytes) -> dict[str, Any]:
    with pyexiv2.ImageData(data) as image:
        return dict(image.read_xmp())


def packet_of(inner: str, head: str = "") -> bytes:
    spaces = " ".join(f'xmlns:{p}="{u}"' for p, u in {
        "dc": "http://purl.org/dc/elements/1.1/", "other": "http://example.invalid/other/",
        "Iptc4xmpExt": "http://iptc.org/std/Iptc4xmpExt/2008-02-29/",
    }.items())  # fmt: skip
    return (
        f'{head}<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
        f'<rdf:Description rdf:about="" {spaces}>{inner}</rdf:Description></rdf:RDF></x:xmpmeta>'
    ).encode()


class Carried(unittest.TestCase):
    def test_words_go_from_every_format_into_every_other(self) -> None:
        formats: tuple[Format, ...] = ("jpeg", "png", "tiff", "webp")
        for first in formats:
            picture = read_bytes(file_that_says(first, SAID | CAMERA))
            for second in (*formats, "avif", "jxl"):
                found = xmp_of(encode(picture, Output(second)))  # type: ignore[arg-type]
                with self.subTest(f"{first} to {second}"):
                    for name, value in SAID.items():
                        if name not in ("Xmp.iptc.CountryCode", "Xmp.iptc.Location"):
                            self.assertEqual(found[name], value)
                    for name in CAMERA:
                        self.assertNotIn(name, found)

    def test_phones_files_are_read(self) -> None:
        packet = packet_of("<dc:source>Film</dc:source>")
        for kind in ("HEIF", "AVIF"):
            file = io.BytesIO()
            Image.fromarray(np.full((64, 64, 3), 90, np.uint8)).save(file, kind, xmp=packet)
            said = read_bytes(file.getvalue()).said
            assert said is not None
            self.assertEqual(said.text("dc:source"), "Film", kind)

    def test_places_are_told_only_with_location(self) -> None:
        picture = read_bytes(file_that_says("jpeg", SAID))
        self.assertNotIn("Xmp.iptc.Location", xmp_of(encode(picture, Output("jpeg"))))
        found = xmp_of(encode(picture, Output("jpeg", keep_place=True)))
        self.assertEqual(
            [found["Xmp.iptc.Location"], found["Xmp.iptc.CountryCode"]], ["A street", "NOR"]
        )

    def test_nothing_is_told_where_nothing_is_to_be_kept(self) -> None:
        picture = read_bytes(file_that_says("jpeg", SAID))
        self.assertEqual(xmp_of(encode(picture, Output("jpeg", keep_metadata=False))), {})

    def test_older_words_stand_where_the_newer_are_silent(self) -> None:
        iim = {
            "Iptc.Envelope.CharacterSet": "\x1b%G",
            "Iptc.Application2.Byline": ["Tove Ekdahl", "Jens Å"],
            "Iptc.Application2.Caption": "An older caption",
            "Iptc.Application2.Keywords": ["théâtre", "window"],
            "Iptc.Application2.Copyright": "© Tove",
        }
        newer = {"Xmp.dc.description": {'lang="x-default"': "A newer caption"}}
        for kind in ("jpeg", "tiff"):
            said = read_bytes(file_that_says(kind, newer, iim)).said  # type: ignore[arg-type]
            assert said is not None
            with self.subTest(kind):
                self.assertEqual(said.text("dc:creator"), "Tove Ekdahl, Jens Å")
                self.assertEqual(said.text("dc:description"), "A newer caption")
                self.assertEqual(said.text("dc:subject"), "théâtre, window")

    def test_a_deep_picture_and_one_that_tifffile_reads_say_it_too(self) -> None:
        deep = Picture(
            (PIXELS.astype(np.uint16) * 257),
            said=described(packet_of("<dc:source>Film</dc:source>")),
        )
        for packing in ("deflate", "zstd"):
            said = read_bytes(encode(deep, Output("tiff", bits=16, packing=packing))).said  # type: ignore[arg-type]
            assert said is not None
            self.assertEqual(said.text("dc:source"), "Film", packing)

    def test_the_command_keeps_them(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            photo, out = Path(folder) / "photo.jpg", Path(folder) / "out.webp"
            photo.write_bytes(file_that_says("jpeg", SAID))
            self.assertEqual(main([str(photo), "--out", str(out)]), 0)
            said = read(out).said
            assert said is not None
            self.assertEqual(said.text("dc:title"), "At the window")


class Packets(unittest.TestCase):
    def said(self, packet: bytes) -> Description | None:
        return described(packet)

    def test_values_may_be_attributes_and_in_several_blocks(self) -> None:
        text = packet_of("<dc:source>Film</dc:source>").replace(
            b"</rdf:RDF>",
            b'<rdf:Description xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmp:Rating="3" xmp:CreatorTool="x"/></rdf:RDF>',
        )
        said = self.said(text)
        assert said is not None
        self.assertEqual([said.text("dc:source"), said.text("xmp:Rating")], ["Film", "3"])
        self.assertEqual(said.text("xmp:CreatorTool"), "")

    def test_other_encodings_of_xml(self) -> None:
        for code in ("utf-8-sig", "utf-16"):
            said = self.said(packet_of("<dc:source>Kamera Ä</dc:source>").decode().encode(code))
            assert said is not None
            self.assertEqual(said.text("dc:source"), "Kamera Ä", code)

    def test_what_is_broken_or_foreign_says_nothing(self) -> None:
        lol = '<!DOCTYPE a [<!ENTITY b "bb"><!ENTITY c "&b;&b;">]>'
        for packet in (
            b"", b"<x", b"\x00\xff" * 50, packet_of("<other:thing>1</other:thing>"),
            packet_of("<dc:source>&c;</dc:source>", lol), packet_of("<dc:source>plain</dc:source>", "<!DOCTYPE a>"),
            packet_of("<dc:format>image/jpeg</dc:format>"), b"<!--" + b"x" * 3_000_000 + b"-->",
        ):  # fmt: skip
            self.assertIsNone(self.said(packet), packet[:60])
        broken = encode(Picture(PIXELS), Output("jpeg", xmp="<x:xmpmeta nothing"))
        self.assertIsNone(read_bytes(broken).said)

    def test_what_matters_less_gives_way(self) -> None:
        long = f"<Iptc4xmpExt:AddlModelInfo>{'x' * MOST}</Iptc4xmpExt:AddlModelInfo><dc:source>Film</dc:source>"
        said = self.said(packet_of(long))
        assert said is not None
        self.assertEqual(said.text("dc:source"), "Film")
        self.assertEqual(len(said.properties), 1)

    def test_words_for_a_reader(self) -> None:
        said = read_bytes(file_that_says("png", SAID)).said
        assert said is not None
        self.assertEqual(
            said.words(),
            [
                ("Title", "At the window"), ("Caption", "Ana, before the première"), ("Made by", "Tove Ekdahl"),
                ("Rights", "© 2031 Tove Ekdahl"), ("Keywords", "portrait, théâtre, window light"),
                ("People", "Ana Example"), ("Place", "A street"),
            ],
        )  # fmt: skip


class Delivered(unittest.TestCase):
    def found(
        self, card: xmp.Card, own: Description | None, source: str = "edited", note: str = ""
    ) -> dict[str, Any]:
        steps = [xmp.Step("edited", "Heal")] if source != "capture" else []
        text = xmp.packet(card, source, steps, WHEN, note, own)
        return xmp_of(encode(Picture(PIXELS), Output("jpeg", xmp=text)))

    def test_the_card_goes_before_what_the_file_says_and_the_caption_stays(self) -> None:
        own = read_bytes(file_that_says("jpeg", SAID)).said
        found = self.found(xmp.Card("Mira Vogt"), own, note="2 places healed")
        self.assertEqual(found["Xmp.dc.creator"], ["Mira Vogt"])
        self.assertEqual(found["Xmp.dc.rights"], SAID["Xmp.dc.rights"])
        self.assertEqual(found["Xmp.dc.description"], SAID["Xmp.dc.description"])
        self.assertEqual(found["Xmp.xmpMM.History[2]/stEvt:parameters"], "2 places healed")
        self.assertEqual(found["Xmp.dc.subject"], SAID["Xmp.dc.subject"])

    def test_how_it_came_to_be_is_told_honestly(self) -> None:
        for own, source, told in (
            ("negativeFilm", "capture", "negativeFilm"), ("negativeFilm", "edited", "humanEdits"),
            ("trainedAlgorithmicMedia", "edited", "trainedAlgorithmicMedia"),
            ("compositeCapture", "edited", "compositeCapture"), ("digitalCapture", "composite", "compositeCapture"),
        ):  # fmt: skip
            said = described(
                packet_of(
                    f"<Iptc4xmpExt:DigitalSourceType>{TYPES}{own}</Iptc4xmpExt:DigitalSourceType>"
                )
            )
            with self.subTest(f"{own}, {source}"):
                found = self.found(xmp.Card(), said, source)
                self.assertEqual(found["Xmp.iptcExt.DigitalSourceType"], TYPES + told)

    def test_a_long_history_fits_a_jpeg(self) -> None:
        steps = [xmp.Step("edited", f"Step {n} " + "ä" * 190) for n in range(200)]
        text = xmp.packet(xmp.Card("A"), "edited", steps, WHEN, "much healed")
        self.assertLess(len(text.encode()), 65_000)
        data = encode(Picture(PIXELS), Output("jpeg", xmp=text))
        found = xmp_of(data)
        told = [v for k, v in found.items() if k.endswith("stEvt:parameters")]
        self.assertRegex(told[0], r"^\d+ earlier steps$")
        self.assertEqual(told[-1], "much healed")
        self.assertTrue(told[-2].startswith("Step 199 "))
        self.assertEqual(len(told) - 2 + int(told[0].split()[0]), 200)

    def test_a_packet_stands_in_a_tiff_as_its_own_tag(self) -> None:
        """Tag 700 (ISO 16684-3), read by a third library."""
        own = described(packet_of("<dc:source>Film</dc:source>"))
        with tifffile.TiffFile(
            io.BytesIO(encode(Picture(PIXELS, said=own), Output("tiff")))
        ) as file:
            self.assertIn(b"Film", bytes(file.pages.first.tags[700].value))
