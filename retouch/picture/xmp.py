"""XMP packets: who made a picture, whose it is, what was done to it, and how it came to be.

After ISO 16684-1 (XMP) and the IPTC Photo Metadata Standard; written with Python's own XML library.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from xml.etree import ElementTree

_NS = {
    "x": "adobe:ns:meta/",
    "rdf": "http://www.w3.org/1999/02/22-rdf-syntax-ns#",
    "dc": "http://purl.org/dc/elements/1.1/",
    "xmp": "http://ns.adobe.com/xap/1.0/",
    "xmpRights": "http://ns.adobe.com/xap/1.0/rights/",
    "xmpMM": "http://ns.adobe.com/xap/1.0/mm/",
    "stEvt": "http://ns.adobe.com/xap/1.0/sType/ResourceEvent#",
    "Iptc4xmpCore": "http://iptc.org/std/Iptc4xmpCore/1.0/xmlns/",
    "Iptc4xmpExt": "http://iptc.org/std/Iptc4xmpExt/2008-02-29/",
}
# Terms of the IPTC's open vocabulary of digital source types (cv.iptc.org): as a camera took it, edited by
# a person, put together from several photographs.
SOURCES = {
    "capture": "http://cv.iptc.org/newscodes/digitalsourcetype/digitalCapture",
    "edited": "http://cv.iptc.org/newscodes/digitalsourcetype/humanEdits",
    "composite": "http://cv.iptc.org/newscodes/digitalsourcetype/compositeCapture",
}
_AGENT = "Mellow Glass"


@dataclass(frozen=True)
class Card:
    """Who made the pictures and whose they are; what is empty isn't written."""

    creator: str = ""
    rights: str = ""
    email: str = ""
    website: str = ""
    title: str = ""

    @property
    def empty(self) -> bool:
        """Whether it says nothing."""
        return not (self.creator or self.rights or self.email or self.website or self.title)


@dataclass(frozen=True)
class Step:
    """A step of a picture's history: what was done, in plain words."""

    action: str
    said: str


def _tag(name: str) -> str:
    space, local = name.split(":")
    return f"{{{_NS[space]}}}{local}"


def packet(card: Card, source: str, steps: Sequence[Step], when: str, note: str = "") -> str:
    """An XMP packet as text.

    Parameters
    ----------
    source : str
        A key of `SOURCES`.
    when : str
        The time of the delivery, ISO 8601.
    note : str
        A short text on what was done, in the description.
    """
    for prefix, uri in _NS.items():
        ElementTree.register_namespace(prefix, uri)
    root = ElementTree.Element(_tag("x:xmpmeta"))
    rdf = ElementTree.SubElement(root, _tag("rdf:RDF"))
    about = ElementTree.SubElement(rdf, _tag("rdf:Description"), {_tag("rdf:about"): ""})

    def text(name: str, value: str) -> None:
        if value:
            ElementTree.SubElement(about, _tag(name)).text = _plain(value)

    def many(name: str, kind: str, values: Sequence[str]) -> None:
        if not any(values):
            return
        box = ElementTree.SubElement(ElementTree.SubElement(about, _tag(name)), _tag(f"rdf:{kind}"))
        for value in values:
            own = (
                {"{http://www.w3.org/XML/1998/namespace}lang": "x-default"} if kind == "Alt" else {}
            )
            ElementTree.SubElement(box, _tag("rdf:li"), own).text = _plain(value)

    many("dc:creator", "Seq", [card.creator])
    many("dc:rights", "Alt", [card.rights])
    many("dc:title", "Alt", [card.title])
    many("dc:description", "Alt", [note])
    text("xmp:CreatorTool", _AGENT)
    text("xmp:MetadataDate", when)
    text("xmpRights:WebStatement", card.website)
    if card.rights:
        text("xmpRights:Marked", "True")
    if card.email or card.website:
        contact = ElementTree.SubElement(
            about, _tag("Iptc4xmpCore:CreatorContactInfo"), {_tag("rdf:parseType"): "Resource"}
        )
        for name, value in (("CiEmailWork", card.email), ("CiUrlWork", card.website)):
            if value:
                ElementTree.SubElement(contact, _tag(f"Iptc4xmpCore:{name}")).text = _plain(value)
    text("Iptc4xmpExt:DigitalSourceType", SOURCES[source])
    if steps:
        box = ElementTree.SubElement(
            ElementTree.SubElement(about, _tag("xmpMM:History")), _tag("rdf:Seq")
        )
        for step in steps:
            row = ElementTree.SubElement(box, _tag("rdf:li"), {_tag("rdf:parseType"): "Resource"})
            for name, value in (
                ("action", step.action), ("parameters", step.said), ("softwareAgent", _AGENT),
                ("when", when),
            ):  # fmt: skip
                ElementTree.SubElement(row, _tag(f"stEvt:{name}")).text = _plain(value)
    body = ElementTree.tostring(root, encoding="unicode")
    # The packet's wrapper: its id is the standard's own constant.
    return f'<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>\n{body}\n<?xpacket end="w"?>'


def _plain(value: str) -> str:
    """Text that XML may hold: control characters are left out."""
    return "".join(
        c
        for c in value
        if c in "\t\n" or (c >= " " and not "\ud800" <= c <= "\udfff" and c not in "\ufffe\uffff")
    )
