"""What an answer file may hold beside the passes: elements of other languages, kept as they stand."""

from __future__ import annotations

from lxml import etree

from fairledger.families.windows.names import NAMESPACE
from fairledger.model.showing import visible


def element(text: str) -> etree._Element | None:
    """An element from its text; None if it is none."""
    try:
        return etree.fromstring(text, etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False))
    except (etree.XMLSyntaxError, ValueError):
        return None


def fault(text: str) -> tuple[str, str]:
    """What is wrong with an element that is kept as it stands, and the remedy; empty if nothing is."""
    kept = element(text)
    if kept is None:
        return "what stands in [[extra]] is no well-formed element", "correct it, or take it out"
    own = next((one for one in kept.iter("*") if etree.QName(one).namespace == NAMESPACE), None)
    if own is None:
        return "", ""
    told = f"[[extra]] holds <{visible(etree.QName(own).localname)}>, which belongs to the answer file itself"
    return told, "write it under [answers.PASS.COMPONENT], where it is checked and explained"
