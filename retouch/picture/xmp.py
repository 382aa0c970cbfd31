"""XMP packets: who made a picture, whose it is, what was done to it, and how it came to be.

After ISO 16684-1 (XMP) and the IPTC Photo Metadata Standard; written with Python's own XML library. A file made of a
picture says what the picture's own file said of it, too (`described`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from xml.etree import ElementTree
from xml.etree.ElementTree import Element, SubElement

from retouch.picture.described import Description, plain, written
from retouch.picture.names import tag

# Terms of the IPTC's open vocabulary of digital source types (cv.iptc.org): as a camera took it, edited by
# a person, put together from several photographs.
SOURCES = {
    "capture": "http://cv.iptc.org/newscodes/digitalsourcetype/digitalCapture",
    "edited": "http://cv.iptc.org/newscodes/digitalsourcetype/humanEdits",
    "composite": "http://cv.iptc.org/newscodes/digitalsourcetype/compositeCapture",
}
# Terms of it for what a camera or a scanner gave.
_TAKEN = frozenset(
    {"digitalCapture", "computationalCapture", "negativeFilm", "positiveFilm", "print"}
)
_AGENT = "Mellow Glass"
# A JPEG's packet stays below 64 kB (ISO 16684-3).
MOST_BYTES = 60_000


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


def packet(
    card: Card,
    source: str,
    steps: Sequence[Step],
    when: str,
    note: str = "",
    own: Description | None = None,
    places: bool = False,
) -> str:
    """An XMP packet as text, of 60 kB at most: the earliest steps give way.

    Parameters
    ----------
    source : str
        A key of `SOURCES`; what ``own`` says of how the picture came to be stays where the steps don't change that.
    when : str
        The time of the delivery, ISO 8601.
    note : str
        A short text on what was done: the description where ``own`` has none, and the last step.
    own : Description, optional
        What the picture's own file says; what the card says goes before it.
    places : bool
        Whether what it says of places is written.
    """
    carried = own.elements(places) if own is not None else []
    told = list(steps)
    while True:
        left = len(steps) - len(told)
        first = [Step("edited", f"{left} earlier steps")] if left else []
        last = [Step("summed up", note)] if note and told else []
        made = _wrapped(_properties(card, source, [*first, *told, *last], when, note, carried))
        if len(made.encode()) <= MOST_BYTES or not told:
            return made
        told = told[max(1, len(told) // 8) :]


def carried(own: Description, places: bool) -> str:
    """A packet with nothing but what a picture's own file said of it."""
    return _wrapped(own.elements(places))


def _properties(
    card: Card, source: str, steps: Sequence[Step], when: str, note: str, carried: Sequence[Element]
) -> list[Element]:
    texts = {
        "xmp:CreatorTool": _AGENT,
        "xmp:MetadataDate": when,
        "xmpRights:WebStatement": card.website,
        "xmpRights:Marked": "True" if card.rights else "",
        "Iptc4xmpExt:DigitalSourceType": _source(source, carried),
    }
    lists = {
        "dc:creator": ("Seq", card.creator),
        "dc:rights": ("Alt", card.rights),
        "dc:title": ("Alt", card.title),
    }
    own = [written(name, kind, [text]) for name, (kind, text) in lists.items() if text]
    own += [written(name, "", [text]) for name, text in texts.items() if text]
    if card.email or card.website:
        contact = Element(
            tag("Iptc4xmpCore:CreatorContactInfo"), {tag("rdf:parseType"): "Resource"}
        )
        for name, value in (("CiEmailWork", card.email), ("CiUrlWork", card.website)):
            if value:
                SubElement(contact, tag(f"Iptc4xmpCore:{name}")).text = plain(value)
        own.append(contact)
    if steps:
        own.append(_history(steps, when))
    said = {e.tag for e in own}
    own += [e for e in carried if e.tag not in said]
    if note and tag("dc:description") not in {e.tag for e in own}:
        own.append(written("dc:description", "Alt", [note]))
    return own


def _source(source: str, carried: Sequence[Element]) -> str:
    """How a picture came to be, of what was done here and what its file says.

    What is edited is no longer as a camera or a scanner took it; what a program made, or was put together, stays that.
    """
    own = next((e.text or "" for e in carried if e.tag == tag("Iptc4xmpExt:DigitalSourceType")), "")
    taken = own.rpartition("/")[2] in _TAKEN
    return own if own and (source == "capture" or not taken) else SOURCES[source]


def _history(steps: Sequence[Step], when: str) -> Element:
    out = Element(tag("xmpMM:History"))
    box = SubElement(out, tag("rdf:Seq"))
    for step in steps:
        row = SubElement(box, tag("rdf:li"), {tag("rdf:parseType"): "Resource"})
        for name, value in (
            ("action", step.action), ("parameters", step.said), ("softwareAgent", _AGENT),
            ("when", when),
        ):  # fmt: skip
            SubElement(row, tag(f"stEvt:{name}")).text = plain(value)
    return out


def _wrapped(properties: Sequence[Element]) -> str:
    root = Element(tag("x:xmpmeta"))
    about = SubElement(
        SubElement(root, tag("rdf:RDF")), tag("rdf:Description"), {tag("rdf:about"): ""}
    )
    about.extend(properties)
    body = ElementTree.tostring(root, encoding="unicode")
    # The packet's wrapper: its id is the standard's own constant.
    return f'<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>\n{body}\n<?xpacket end="w"?>'
