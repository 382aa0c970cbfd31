"""EXIF kept through an edit: read as bytes, orientation reset, written into JPEG, PNG and TIFF."""

from __future__ import annotations

from PIL import ExifTags, Image

_MARK = b"Exif\x00\x00"
# Tags of a TIFF that describe how its pixels are stored; they must never be carried over.
_STORAGE = frozenset(
    {254, 256, 257, 258, 259, 262, 266, 273, 277, 278, 279, 282, 283, 284, 296, 317, 320, 322,
     323, 324, 325, 330, 338, 339, 347, 529, 530, 531, 532, 34675, 700, 33723, 34377}
)  # fmt: skip
# Tags that describe the raw data of a camera (TIFF/EP 33421 to 33422, DNG from 50706 on): what is
# written is no raw file.
_RAW = frozenset({33421, 33422, *range(50706, 52600)})
# Where further directories begin: written anew with what is kept of them.
_POINTERS = frozenset({ExifTags.IFD.Exif, ExifTags.IFD.GPSInfo, ExifTags.IFD.Interop})
# What tells one camera, lens or owner from another (EXIF 3.0, 4.6.5): owner, body, lens, the maker's notes.
_PERSONAL = frozenset({0xA430, 0xA431, 0xA435, ExifTags.Base.MakerNote})
# The same in the first directory: the camera's serial number and the owner's name (DNG 1.7).
_PERSONAL_FIRST = frozenset({0xC62F, 0xC65D})


def orientation(exif: Image.Exif) -> int:
    """EXIF orientation 1..8; 1 (upright) when absent or nonsense."""
    value = exif.get(ExifTags.Base.Orientation, 1)
    return value if isinstance(value, int) and 1 <= value <= 8 else 1


def to_bytes(exif: Image.Exif) -> bytes | None:
    """EXIF without storage tags and with orientation upright, as a bare TIFF structure."""
    clean = Image.Exif()
    for tag, value in exif.items():
        if tag not in _STORAGE | _RAW | _POINTERS:
            clean[tag] = value
    for ifd in (ExifTags.IFD.Exif, ExifTags.IFD.GPSInfo):
        entries = dict(exif.get_ifd(ifd))
        if entries:
            clean.get_ifd(ifd).update(entries)
            clean[ifd] = 0
    if not clean:
        return None
    if ExifTags.Base.Orientation in clean:
        clean[ExifTags.Base.Orientation] = 1
    try:
        data = clean.tobytes()
    except Exception:  # Pillow refuses some makers' malformed entries; keep what is standard.
        for ifd in (ExifTags.IFD.Exif, ExifTags.IFD.GPSInfo):
            clean.get_ifd(ifd).pop(ExifTags.Base.MakerNote, None)
        try:
            data = clean.tobytes()
        except Exception:
            return None
    return data.removeprefix(_MARK)


def without_place(exif: bytes) -> bytes | None:
    """EXIF without location, serial numbers, the camera's owner and the maker's notes."""
    old = to_pillow(exif)
    clean = Image.Exif()
    for tag, value in old.items():
        if tag not in _PERSONAL_FIRST and tag not in (ExifTags.IFD.Exif, ExifTags.IFD.GPSInfo):
            clean[tag] = value
    inner = {t: v for t, v in old.get_ifd(ExifTags.IFD.Exif).items() if t not in _PERSONAL}
    if inner:
        clean.get_ifd(ExifTags.IFD.Exif).update(inner)
        clean[ExifTags.IFD.Exif] = 0
    return clean.tobytes().removeprefix(_MARK) if clean else None


def usable(exif: bytes) -> bytes | None:
    """EXIF of a file's own box as it is kept (`to_bytes`); None where it is broken."""
    try:
        return to_bytes(to_pillow(exif))
    except Exception:  # Pillow raises many kinds of errors on what isn't a TIFF structure.
        return None


def to_pillow(exif: bytes) -> Image.Exif:
    """A Pillow object from the stored bytes."""
    out = Image.Exif()
    out.load(_MARK + exif)
    return out
