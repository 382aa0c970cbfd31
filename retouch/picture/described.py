"""What a file says of its picture in words: title, caption, who made it, whose it is, keywords, people, places.

Read from XMP (ISO 16684-1) and, where that is silent, from IPTC-IIM; carried into every file made of the picture.
Which IIM dataset stands for which property is the IPTC Photo Metadata Standard's own mapping (from memory).
"""

from __future__ import annotations

import codecs
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any
from xml.etree import ElementTree
from xml.etree.ElementTree import Element, SubElement

from PIL import ExifTags, Image, IptcImagePlugin
from PIL.ImageFile import ImageFile

from retouch.picture.names import NS, tag

# What is read and carried of it at most, bytes: the packet of a JPEG holds less than 64 kB in all.
_MOST_READ, MOST = 2_000_000, 24_000
# All properties of these are carried, the first ones first where there are too many.
_WHOLE = ("dc", "xmpRights", "Iptc4xmpCore", "Iptc4xmpExt", "plus")
_OF_XMP = frozenset({"Rating", "Label", "CreateDate"})
# Properties of the IPTC's core that stand in whatever namespace: photo programs brought theirs before the standard did.
_BY_NAME = frozenset(
    {"Headline", "Credit", "Source", "City", "State", "Country", "DateCreated", "Instructions",
     "TransmissionReference", "CaptionWriter", "AuthorsPosition"}
)  # fmt: skip
# They are of the file that was read, not of its picture.
_OF_FILE = frozenset({tag("dc:format"), tag("dc:identifier")})
_PLACES = frozenset(
    {"Location", "CountryCode", "LocationCreated", "LocationShown", "City", "State", "Country"}
)
_IIM = {
    (2, 5): ("dc:title", "Alt"), (2, 80): ("dc:creator", "Seq"), (2, 116): ("dc:rights", "Alt"),
    (2, 120): ("dc:description", "Alt"), (2, 25): ("dc:subject", "Bag"), (2, 115): ("dc:source", ""),
    (2, 92): ("Iptc4xmpCore:Location", ""), (2, 100): ("Iptc4xmpCore:CountryCode", ""),
}  # fmt: skip
_UTF8 = b"\x1b%G"
# What is told on a screen, and what it is called there.
_TITLES = {
    "title": "Title", "Headline": "Headline", "description": "Caption", "creator": "Made by",
    "rights": "Rights", "Credit": "Credit", "subject": "Keywords", "PersonInImage": "People",
    "Location": "Place", "City": "City", "State": "State", "Country": "Country",
    "Instructions": "Instructions", "UsageTerms": "Terms",
}  # fmt: skip
_LANGUAGE = "{http://www.w3.org/XML/1998/namespace}lang"


@dataclass(frozen=True)
class Description:
    """Properties of XMP that belong to a picture whatever is done to it, each as an XML element."""

    properties: tuple[str, ...]

    def elements(self, places: bool = True) -> list[Element]:
        """The properties; those that tell where the picture was taken only with ``places``."""
        found = [ElementTree.fromstring(text) for text in self.properties]
        return [e for e in found if places or _local(e) not in _PLACES]

    def text(self, name: str) -> str:
        """What a property such as ``dc:title`` says, several values joined by commas; empty: nothing."""
        one = next((e for e in self.elements() if e.tag == tag(name)), None)
        return "" if one is None else ", ".join(_values(one))

    def words(self) -> list[tuple[str, str]]:
        """What is said of the picture, as titles and texts for a reader, in a fixed order."""
        told: dict[str, str] = {}
        for one in self.elements():
            title, text = _TITLES.get(_local(one)), ", ".join(_values(one))
            if title and text:
                told.setdefault(title, text)
        return [(title, told[title]) for title in _TITLES.values() if title in told]


def of_image(image: Image.Image) -> Description | None:
    """What a file opened by Pillow says; None where it says nothing that can be read."""
    packet = image.info.get("xmp")
    tags: Mapping[int, Any] = getattr(image, "tag_v2", {})
    if packet is None:
        packet = tags.get(int(ExifTags.Base.XMLPacket))
    try:
        iim = IptcImagePlugin.getiptcinfo(image) if isinstance(image, ImageFile) else None
    except Exception:  # What is broken there says nothing.
        iim = None
    return described(packet if isinstance(packet, bytes) else None, iim)


def described(
    packet: bytes | None, iim: Mapping[tuple[int, int], bytes | list[bytes]] | None = None
) -> Description | None:
    """What an XMP packet says of its picture, filled up from IIM datasets; None where it is nothing.

    What belongs to the file, to the camera (EXIF holds it) or to a program's own settings is left out. Damaged
    packets, and such with a document type, count as silent. Beyond 24 kB what matters less is left out.
    """
    found = {e.tag: e for e in _of_packet(packet)} if packet else {}
    for one in _of_iim(iim or {}):
        found.setdefault(one.tag, one)
    kept, size = [], 0
    for one in sorted(found.values(), key=_weight):
        text = ElementTree.tostring(one, encoding="unicode")
        size += len(text.encode())
        if size > MOST:
            break
        kept.append(text)
    return Description(tuple(kept)) if kept else None


class _NoTypes(ElementTree.TreeBuilder):
    """Builds trees of packets, which have no document type (ISO 16684-1): entities could grow without end."""

    def doctype(self, name: str, pubid: str | None, system: str | None) -> None:
        raise ElementTree.ParseError("A packet with a document type.")


def _of_packet(packet: bytes) -> Iterator[Element]:
    if len(packet) > _MOST_READ:
        return
    try:
        parser = ElementTree.XMLParser(target=_NoTypes())
        wide = packet[:2] in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)
        root = ElementTree.fromstring(packet if wide else packet.strip(b"\x00 \t\r\n"), parser)
    except (ElementTree.ParseError, ValueError, LookupError):
        return
    # Blocks right below are the picture's own; those within are values of properties.
    for block in (b for rdf in root.iter(tag("rdf:RDF")) for b in rdf):
        for name, value in block.attrib.items():
            # Simple values may be written as attributes.
            one = Element(name)
            one.text = value
            if _carried(one):
                yield one
        for one in block:
            if _carried(one):
                one.tail = None
                yield one


def _of_iim(iim: Mapping[tuple[int, int], bytes | list[bytes]]) -> Iterator[Element]:
    marked = iim.get((1, 90)) == _UTF8
    for key, (name, kind) in _IIM.items():
        raw = iim.get(key)
        if raw is None:
            continue
        values = [_decoded(v, marked) for v in (raw if isinstance(raw, list) else [raw])]
        values = [v for v in values if v]
        if values:
            yield written(name, kind, values)


def written(name: str, kind: str, values: Sequence[str]) -> Element:
    """A property with plain text values; ``kind``: ``Seq``, ``Bag``, ``Alt`` (by language), or empty for one value."""
    out = Element(tag(name))
    if not kind:
        out.text = plain(values[0])
        return out
    box = SubElement(out, tag(f"rdf:{kind}"))
    for value in values:
        own = {_LANGUAGE: "x-default"} if kind == "Alt" else {}
        SubElement(box, tag("rdf:li"), own).text = plain(value)
    return out


def plain(value: str) -> str:
    """Text that XML may hold: control characters are left out."""
    return "".join(
        c
        for c in value
        if c in "\t\n" or (c >= " " and not "\ud800" <= c <= "\udfff" and c not in "\ufffe\uffff")
    )


def _decoded(value: bytes, marked: bool) -> str:
    """Text of a dataset: UTF-8 where it says so or fits, else Latin (common practice)."""
    try:
        return value.decode("utf-8").strip("\x00 ")
    except UnicodeDecodeError:
        return value.decode("utf-8" if marked else "cp1252", "replace").strip("\x00 ")


def _carried(one: Element) -> bool:
    space, _, local = str(one.tag).removeprefix("{").rpartition("}")
    if one.tag in _OF_FILE or space == NS["rdf"]:
        return False
    if any(space == NS[s] for s in _WHOLE) or local in _BY_NAME:
        return True
    return space == NS["xmp"] and local in _OF_XMP


def _weight(one: Element) -> int:
    spaces = [NS[s] for s in _WHOLE]
    space = str(one.tag).removeprefix("{").rpartition("}")[0]
    return spaces.index(space) if space in spaces else 2


def _local(one: Element) -> str:
    return str(one.tag).rpartition("}")[2]


def _values(one: Element) -> list[str]:
    """The texts of a simple property, or of a list; of languages the first, or the one for all."""
    items = [e for e in one.iter(tag("rdf:li")) if (e.text or "").strip()]
    if not items:
        text = (one.text or "").strip()
        return [text] if text else []
    spoken = [e for e in items if _LANGUAGE in e.attrib]
    if spoken:
        usual = [e for e in spoken if e.get(_LANGUAGE) == "x-default"]
        items = (usual or spoken)[:1]
    return [(e.text or "").strip() for e in items]
