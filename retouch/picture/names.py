"""Namespaces of XMP (ISO 16684-1) and of the IPTC Photo Metadata Standard."""

from __future__ import annotations

from xml.etree import ElementTree

NS = {
    "x": "adobe:ns:meta/",
    "rdf": "http://www.w3.org/1999/02/22-rdf-syntax-ns#",
    "dc": "http://purl.org/dc/elements/1.1/",
    "xmp": "http://ns.adobe.com/xap/1.0/",
    "xmpRights": "http://ns.adobe.com/xap/1.0/rights/",
    "xmpMM": "http://ns.adobe.com/xap/1.0/mm/",
    "stEvt": "http://ns.adobe.com/xap/1.0/sType/ResourceEvent#",
    "Iptc4xmpCore": "http://iptc.org/std/Iptc4xmpCore/1.0/xmlns/",
    "Iptc4xmpExt": "http://iptc.org/std/Iptc4xmpExt/2008-02-29/",
    "plus": "http://ns.useplus.org/ldf/xmp/1.0/",
}
for _prefix, _uri in NS.items():
    ElementTree.register_namespace(_prefix, _uri)


def tag(name: str) -> str:
    """The full name of an element or attribute called ``prefix:local``."""
    space, local = name.split(":")
    return f"{{{NS[space]}}}{local}"
