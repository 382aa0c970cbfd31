"""Signed lists of what was done, validated by the reader of the standard's own library."""

import io
import stat
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from PIL import Image

from retouch.errors import PictureError
from retouch.picture import Output, Picture
from retouch.picture import profile as profiles
from retouch.picture.credentials import MEDIA, Credentials, of_files, read, signed, test_credentials
from retouch.picture.write import encode

DONE = [("skin evened", "skin evened: Redness"), ("shape", "face moved by 1.2 mm")]
PICTURE = Picture(np.full((40, 60, 3), 120, np.uint8), icc=profiles.srgb())


class ContentCredentials(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(TemporaryDirectory()))
        self.own = test_credentials(self.folder)

    def test_each_format_validates_and_keeps_its_picture(self) -> None:
        original = encode(PICTURE, Output("jpeg"))
        for form in MEDIA:
            plain = encode(PICTURE, Output(form))
            made = signed(plain, form, "a", DONE, self.own, "edited", (original, "image/jpeg"))
            found = read(made, form)
            assert found is not None, form
            self.assertTrue(found.whole, form)
            self.assertTrue(found.test)
            self.assertEqual(found.done, tuple(words for _, words in DONE))
            self.assertIsNone(read(plain, form))
            with Image.open(io.BytesIO(made)) as a, Image.open(io.BytesIO(plain)) as b:
                np.testing.assert_array_equal(np.asarray(a), np.asarray(b))
                self.assertEqual(a.info.get("icc_profile"), b.info.get("icc_profile"))

    def test_an_original_is_named_but_not_shown(self) -> None:
        plain = encode(PICTURE, Output("png"))
        noise = np.random.default_rng(4).integers(0, 255, (600, 800, 3), dtype=np.uint8)
        large = encode(Picture(noise), Output("jpeg"))
        made = signed(plain, "png", "a", [], self.own, "edited", (large, "image/jpeg"))
        self.assertLess(len(made) - len(plain), 40_000)

    def test_what_is_changed_afterwards_is_no_longer_whole(self) -> None:
        made = signed(encode(PICTURE, Output("png")), "png", "a", DONE, self.own, "edited")
        broken = bytearray(made)
        broken[-30] ^= 1  # within the pixels
        found = read(bytes(broken), "png")
        self.assertFalse(found is not None and found.whole)

    def test_certificates_are_kept_and_wrong_ones_refused_in_words(self) -> None:
        self.assertEqual(test_credentials(self.folder), self.own)
        key = self.folder / "test-key.pem"
        self.assertEqual(stat.S_IMODE(key.stat().st_mode), 0o600)
        with TemporaryDirectory() as elsewhere:
            other = test_credentials(Path(elsewhere))
        (self.folder / "other.pem").write_bytes(other.key)
        chain = self.folder / "test-certificate.pem"
        for paths, words in (
            ((chain, self.folder / "other.pem"), "isn't that of"), ((chain, chain), "can't be used"),
            ((chain, self.folder / "none.pem"), "can't be read"),
        ):  # fmt: skip
            with self.assertRaises(PictureError) as caught:
                of_files(*paths)
            self.assertIn(words, str(caught.exception))
        with self.assertRaises(PictureError):
            signed(b"", "jxl", "a", [], self.own, "edited")
        with self.assertRaises(PictureError):
            signed(b"nonsense", "png", "a", [], self.own, "edited")
        with self.assertRaises(PictureError):
            signed(b"", "png", "a", [], Credentials(b"", b""), "edited")
