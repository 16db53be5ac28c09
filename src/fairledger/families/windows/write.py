"""Writes a sheet as the answer file that setup reads. lxml escapes every value."""

from __future__ import annotations

from typing import Any

from lxml import etree

from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.setting import Component
from fairledger.families.windows import servicing
from fairledger.families.windows.names import COMPONENT_ATTRIBUTES, NAMESPACE, WCM, XSI
from fairledger.model.errors import ContentError
from fairledger.model.finding import Finding, Severity, finding_at
from fairledger.model.pattern import pattern
from fairledger.model.places import Origin, Place
from fairledger.model.sheet import ITEM_ACTION, Block, Extra, Node, Sheet, visible

_FORBIDDEN = pattern("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
_NSMAP: Any = {None: NAMESPACE, "wcm": WCM, "xsi": XSI}
_NAME = pattern(r"@?[A-Za-z_][\w.-]*")


def write(sheet: Sheet, own: Own = NOTHING) -> bytes:
    """The answer file: UTF-8, passes in their order, one element per answer.

    Raises `ContentError` where a value holds a character that XML cannot carry, or a name is no XML name.
    """
    _examine(sheet)
    catalog = catalog_of("windows", own=own)
    root = etree.Element(f"{{{NAMESPACE}}}unattend", nsmap=_NSMAP)
    settings: dict[str, etree._Element] = {}
    for block in sheet.blocks:
        if block.pass_ == servicing.SERVICING:
            servicing.write(root, block)
            continue
        if block.pass_ not in settings:
            settings[block.pass_] = etree.SubElement(root, f"{{{NAMESPACE}}}settings", {"pass": block.pass_})
        attributes = {"name": block.component, "processorArchitecture": block.variant, **COMPONENT_ATTRIBUTES}
        component = etree.SubElement(settings[block.pass_], f"{{{NAMESPACE}}}component", attributes)
        known = catalog.anywhere(block.component)
        for node in block.children:
            _element(component, node, known, "")
    for extra in sheet.extras:
        root.append(_extra(extra))
    etree.indent(root, "  ")
    body: bytes = etree.tostring(root, encoding="utf-8", xml_declaration=False)
    return b'<?xml version="1.0" encoding="utf-8"?>\n' + body + b"\n"


def _extra(extra: Extra) -> etree._Element:
    """An element that was kept as it stood. Raises `ContentError` if it is none."""
    try:
        return etree.fromstring(extra.text, etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False))
    except etree.XMLSyntaxError as error:
        told = "what stands in [[extra]] is no well-formed element"
        place = Place(origin=extra.origin)
        raise ContentError(
            [finding_at("extra-malformed", Severity.ERROR, told, place, "correct it, or take it out")]
        ) from error


def _element(parent: etree._Element, node: Node, known: Component | None, above: str) -> None:
    if node.name.startswith("@"):
        parent.set(f"{{{WCM}}}{node.name[1:]}", str(node.value))
        return
    path = f"{above}/{node.name}".lstrip("/")
    element = etree.SubElement(parent, f"{{{NAMESPACE}}}{node.name}")
    setting = known.setting(path) if known else None
    if setting is not None and setting.kind == "list":
        element.set(f"{{{WCM}}}action", node.text(ITEM_ACTION) or "add")
    if node.value is not None:
        element.text = str(node.value)
    for child in node.children:
        _element(element, child, known, path)


def _examine(sheet: Sheet) -> None:
    findings: list[Finding] = []
    for block in sheet.blocks:
        stack = list(block.children)
        names = [one for one in (block.pass_, block.component, block.variant) if _FORBIDDEN.search(one)]
        findings += [_forbidden(block, block.component, block.origin, one) for one in names]
        while stack:
            node = stack.pop()
            place = Place(block.pass_, block.component, node.name, node.origin)
            if not _NAME.fullmatch(node.name):
                told = f"{visible(node.name)!r} cannot be the name of a setting"
                findings.append(finding_at("setting-unknown", Severity.ERROR, told, place, "take it out"))
            if isinstance(node.value, str) and _FORBIDDEN.search(node.value):
                findings.append(_forbidden(block, node.name, node.origin, node.value))
            stack.extend(node.children)
    if findings:
        raise ContentError(findings)


def _forbidden(block: Block, name: str, origin: Origin, text: str) -> Finding:
    match = _FORBIDDEN.search(text)
    code = f"U+{ord(match[0]):04X}" if match else ""
    place = Place(block.pass_, block.component, name, origin)
    told = f"the value holds the character {code}, which an answer file cannot carry"
    return finding_at("character-forbidden", Severity.ERROR, told, place, "take the character out")
