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


def orientation(exif: Image.Exif) -> int:
    """EXIF orientation 1..8; 1 (upright) when absent or nonsense."""
    value = exif.get(ExifTags.Base.Orientation, 1)
    return value if isinstance(value, int) and 1 <= value <= 8 else 1


def to_bytes(exif: Image.Exif) -> bytes | None:
    """EXIF without storage tags and with orientation upright, as a bare TIFF structure."""
    clean = Image.Exif()
    for tag, value in exif.items():
        if (
            tag not in _STORAGE
            and tag not in _RAW
            and tag
            not in (
                ExifTags.IFD.Exif,
                ExifTags.IFD.GPSInfo,
                ExifTags.IFD.Interop,
            )
        ):
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


def to_pillow(exif: bytes) -> Image.Exif:
    """A Pillow object from the stored bytes."""
    out = Image.Exif()
    out.load(_MARK + exif)
    return out
