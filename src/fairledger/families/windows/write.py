"""Writes a sheet as the answer file that setup reads. lxml escapes every value."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from lxml import etree

from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.setting import Component
from fairledger.families.casting import SCRIPT, Cast, Hole, Marks, is_open
from fairledger.families.windows import extras, servicing
from fairledger.families.windows.names import COMPONENT_ATTRIBUTES, NAMESPACE, WCM, XSI
from fairledger.model.errors import ContentError
from fairledger.model.finding import Finding, Severity, finding_at
from fairledger.model.pattern import pattern
from fairledger.model.places import Origin, Place
from fairledger.model.sheet import ITEM_ACTION, SECRET, Block, Companion, Extra, Node, Sheet, is_mark
from fairledger.model.showing import quoted
from fairledger.model.values import SecretRef, escaped, halves

_FORBIDDEN = pattern("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
_NSMAP: Any = {None: NAMESPACE, "wcm": WCM, "xsi": XSI}
_NAME = pattern(r"@?[A-Za-z_][\w.-]*")
_AS_IT_IS = pattern(r"[\w .:/\\@-]*")
"""Text that XML writes as it stands."""
Write = Callable[[tuple[Node, ...], str], str]


def cast(sheet: Sheet, own: Own = NOTHING) -> Cast:
    """The answer file: UTF-8, passes in their order, one element per answer.

    Raises `ContentError` where a value holds a character that XML cannot carry, or a name is no XML name.
    """
    _examine(sheet)
    marks = Marks(sheet)
    catalog = catalog_of("windows", own=own)
    root = etree.Element(f"{{{NAMESPACE}}}unattend", nsmap=_NSMAP)
    settings: dict[str, etree._Element] = {}
    for block in sheet.apart().blocks:
        if block.pass_ == servicing.SERVICING:
            servicing.write(root, block, partial(_written, marks, block))
            continue
        if block.pass_ not in settings:
            settings[block.pass_] = etree.SubElement(root, f"{{{NAMESPACE}}}settings", {"pass": block.pass_})
        attributes = {"name": block.component, "processorArchitecture": block.variant, **COMPONENT_ATTRIBUTES}
        component = etree.SubElement(settings[block.pass_], f"{{{NAMESPACE}}}component", attributes)
        known = catalog.anywhere(block.component)
        write = partial(_written, marks, block)
        for node in block.children:
            _element(component, (node,), known, write)
    for extra in sheet.extras:
        root.append(_extra(extra))
    etree.indent(root, "  ")
    body: bytes = etree.tostring(root, encoding="utf-8", xml_declaration=False)
    return Cast(marks.cut('<?xml version="1.0" encoding="utf-8"?>\n' + body.decode() + "\n"))


def script(one: Companion) -> Cast:
    """A companion, with holes: lines end as its interpreter wants them; a mark tells PowerShell the encoding."""

    def put(text: str) -> str:
        return text.replace("\r\n", "\n").rstrip("\n").replace("\n", "\r\n") + "\r\n"

    encoding = "utf-8-sig" if one.name.endswith(".ps1") else "utf-8"
    way = (Node(one.name, one.body, (), one.origin),)
    if one.name.endswith(".xml") and (bad := _FORBIDDEN.search(str(one.body).replace(SECRET, ""))):
        raise ContentError([_forbidden(Block("", one.name), one.name, one.origin, bad[0])])
    if one.secret is not None:
        return Cast(_around(one), one.name, SCRIPT, encoding)
    body = put(one.body) if isinstance(one.body, str) else Hole(Block("", one.name), way, one.body, put)
    return Cast((body,), one.name, SCRIPT, encoding)


def _around(one: Companion) -> tuple[str | Hole, ...]:
    """What stands before the secret of a companion, that itself, and what stands behind it."""
    block = Block("", one.name)

    def put(text: str) -> str:
        if _FORBIDDEN.search(text):
            raise ContentError([_forbidden(block, one.name, one.origin, text)])
        return text.replace("\n", "\r\n")

    def key(text: str) -> str:
        if _FORBIDDEN.search(text):
            raise ContentError([_forbidden(block, one.name, one.origin, text)])
        return str(escaped(text, "xml-text"))

    sides = halves(one.body, SECRET) if not isinstance(one.body, SecretRef) else None
    if sides is None or one.secret is None:  # nothing of it is left in the text
        return (put(str(one.body)),)
    before, after = [
        put(side) if isinstance(side, str) else Hole(block, (Node(one.name, side, (), one.origin),), side, put)
        for side in sides
    ]
    secret = key(one.secret) if isinstance(one.secret, str) else None
    hole = Hole(block, (Node(one.name), Node(SECRET, one.secret, (), one.origin)), one.secret, key)
    return before, secret if secret is not None else hole, after


def _written(marks: Marks, block: Block, way: tuple[Node, ...], kind: str = "text") -> str:
    """The value of the last node of ``way``, or if that is open, a mark for what it will be."""
    node = way[-1]
    if not is_open(node.value):
        return str(node.value)

    def put(value: str) -> str:
        if _FORBIDDEN.search(value):
            raise ContentError([_forbidden(block, node.name, node.origin, value)])
        if _AS_IT_IS.fullmatch(value):
            return value
        element = etree.Element("a")
        if kind == "text":
            element.text = value
            return etree.tostring(element, encoding="utf-8").decode()[len("<a>") : -len("</a>")]
        element.set("a", value)
        return etree.tostring(element, encoding="utf-8").decode()[len('<a a="') : -len('"/>')]

    return marks.mark(block, way, put)


def _extra(extra: Extra) -> etree._Element:
    """An element that was kept as it stood. Raises `ContentError` if it cannot be."""
    told, hint = extras.fault(extra.text)
    kept = extras.element(extra.text)
    if told or kept is None:
        raise ContentError([finding_at("extra-malformed", Severity.ERROR, told, Place(origin=extra.origin), hint)])
    return kept


def _element(parent: etree._Element, way: tuple[Node, ...], known: Component | None, write: Write) -> None:
    node = way[-1]
    if is_mark(node.name):
        parent.set(f"{{{WCM}}}{node.name[1:]}", write(way, "attribute"))
        return
    path = "/".join([one.name for one in way])
    element = etree.SubElement(parent, f"{{{NAMESPACE}}}{node.name}")
    setting = known.setting(path) if known else None
    if setting is not None and setting.kind == "list":
        element.set(f"{{{WCM}}}action", node.text(ITEM_ACTION) or "add")
    if node.value is not None:
        element.text = write(way, "text")
    for child in node.children:
        _element(element, (*way, child), known, write)


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
                told = f"{quoted(node.name)} cannot be the name of a setting"
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
