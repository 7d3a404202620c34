"""XML as far as it is safe to read."""

from __future__ import annotations

from xml.etree import ElementTree as ET

from defusedxml.ElementTree import fromstring


def parse(data: bytes) -> ET.Element:
    """The root of an XML document. Raises ValueError for one that defines entities of its own, or is no XML."""
    try:
        root: ET.Element = fromstring(data, forbid_entities=True, forbid_external=True)
        return root
    except ET.ParseError as error:
        raise ValueError(str(error)) from error
