"""A RELAX NG grammar of the answer files of one target, for XML editors and validators.

It says what the catalog says: components by pass, settings with their types and choices, lists, required parts; in
any order, as setup reads them. It is stricter than `check` in one respect: names that the catalog does not know are
refused, also in components that may have more settings.
"""

from __future__ import annotations

from typing import Any

from lxml import etree

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.passes import passes_of
from fairledger.catalog.setting import Component, Setting
from fairledger.families.windows.names import ARCHITECTURES, COMPONENT_ATTRIBUTES, NAMESPACE, WCM
from fairledger.families.windows.servicing import SERVICING
from fairledger.model.kinds import KINDS, MOST_DIGITS, choices_of
from fairledger.model.sheet import is_mark

RNG = "http://relaxng.org/ns/structure/1.0"
_TYPES = "http://www.w3.org/2001/XMLSchema-datatypes"
_NOTES = "http://relaxng.org/ns/compatibility/annotations/1.0"
_IMAGES = "urn:schemas-microsoft-com:cpi"
_BY_RULES = ("hostname", "key", "password", "address", "date")
"""Kinds whose form a grammar does not tell; rules of their own look at them."""


def grammar(catalog: Catalog) -> bytes:
    """The grammar of a target's answer files, as an XML document."""
    prefixes: Any = {None: RNG, "a": _NOTES}
    root = etree.Element(f"{{{RNG}}}grammar", {"ns": NAMESPACE, "datatypeLibrary": _TYPES}, nsmap=prefixes)
    target = catalog.target
    assert target is not None
    root.append(etree.Comment(f" Answer files of {target.name}, as the catalog of Fair Ledger knows them. "))
    components = catalog.components()
    top = _add(_add(_add(root, "start"), "element", name="unattend"), "zeroOrMore")
    ways = _add(top, "choice")
    for one in passes_of("windows"):
        here = [component for component in components if one.name in component.passes]
        if one.name == SERVICING:
            _part(ways, here)
        elif here:
            _pass(ways, root, one.name, here, target.architectures or ARCHITECTURES)
    _foreign(ways)
    _shared(root)
    etree.indent(root, "  ")
    return etree.tostring(root, encoding="utf-8", xml_declaration=True) + b"\n"


def _add(parent: etree._Element, tag: str, text: str | None = None, /, **attributes: str) -> etree._Element:
    element = etree.SubElement(parent, f"{{{RNG}}}{tag}", attributes)
    element.text = text
    return element


def _note(parent: etree._Element, text: str) -> None:
    if text:
        etree.SubElement(parent, f"{{{_NOTES}}}documentation").text = text


def _pass(
    ways: etree._Element, root: etree._Element, pass_: str, here: list[Component], architectures: tuple[str, ...]
) -> None:
    """The element of one pass, and a definition for each component in it."""
    element = _add(ways, "element", name="settings")
    _add(_add(element, "attribute", name="pass", ns=""), "value", pass_)
    _add(_add(_add(element, "optional"), "attribute", name="wasPassProcessed", ns=""), "text")
    listed = _add(_add(element, "zeroOrMore"), "choice")
    for component in here:
        name = f"{pass_}.{component.name}"
        _add(listed, "ref", name=name)
        defined = _add(_add(root, "define", name=name), "element", name="component")
        _note(defined, component.about)
        _add(_add(defined, "attribute", name="name", ns=""), "value", component.name, type="string")
        allowed = _add(_add(defined, "attribute", name="processorArchitecture", ns=""), "choice")
        for architecture in component.architectures or architectures:
            _add(allowed, "value", architecture, type="string")
        for attribute, value in COMPONENT_ATTRIBUTES.items():
            _add(_add(defined, "attribute", name=attribute, ns=""), "value", value, type="string")
        _add(defined, "ref", name="marks")
        inside = _Inside(component, pass_)
        inside.children(defined, "")


def _part(ways: etree._Element, here: list[Component]) -> None:
    """The part that stands beside the passes; its attributes bear no prefix."""
    for component in here:
        element = _add(ways, "element", name=component.name)
        _note(element, component.about)
        _Inside(component, component.passes[0], plain=True).children(element, "")


class _Inside:
    """Writes what is inside one component in one pass."""

    def __init__(self, component: Component, pass_: str, *, plain: bool = False) -> None:
        self.component = component
        self.pass_ = pass_
        self.plain = plain

    def children(self, parent: etree._Element, path: str) -> None:
        """What may stand directly inside a path, in any order."""
        here = [one for one in self.component.below(path) if self.pass_ in self.component.passes_of(one)]
        for one in (one for one in here if is_mark(one.name)):
            holder = parent if one.required else _add(parent, "optional")
            attribute = _add(holder, "attribute", name=one.name[1:], ns="")
            _note(attribute, one.about)
            _value(attribute, one)
        elements = [one for one in here if not is_mark(one.name)]
        if not elements:
            if not any(is_mark(one.name) for one in here):
                _add(parent, "empty")
            return
        mixed = _add(parent, "interleave") if len(elements) > 1 else parent
        for one in elements:
            self.child(mixed, one)

    def child(self, parent: etree._Element, setting: Setting) -> None:
        """One setting, group or list."""
        listed = setting.kind == "list"
        many = ("oneOrMore" if setting.required else "zeroOrMore") if listed else ""
        if not listed and not setting.required:
            many = "optional"
        element = _add(_add(parent, many) if many else parent, "element", name=setting.name)
        _note(element, setting.about)
        if not self.plain:
            _add(element, "ref", name="keyed" if setting.key == "@keyValue" else "marks")
        if setting.repeats:
            _add(element, "text")
        elif setting.kind in ("group", "list"):
            self.children(element, setting.path)
        else:
            _value(element, setting)


def _value(parent: etree._Element, setting: Setting) -> None:
    """The type of a value."""
    holder = _add(parent, "choice") if setting.empty else parent
    if setting.empty:
        _add(holder, "value", "", type="string")
    allowed = choices_of(setting.kind, setting)
    if allowed:
        several = _add(holder, "choice") if len(allowed) > 1 else holder
        for value in allowed:
            _add(several, "value", value, type="token")
    elif setting.kind == "integer":
        limits = {"minInclusive": setting.min, "maxInclusive": setting.max}
        data = _add(holder, "data", type="integer")
        for name, limit in limits.items():
            if limit is not None:
                _add(data, "param", str(limit), name=name)
        if setting.max is None:
            _add(data, "param", rf"[+\-]?[0-9]{{1,{MOST_DIGITS}}}", name="pattern")
    else:
        _text(holder, setting)


def _text(holder: etree._Element, setting: Setting) -> None:
    form = KINDS[setting.kind].form if setting.kind not in _BY_RULES else ""
    pattern = "" if setting.kind in _BY_RULES else setting.pattern or form
    if "(?!" in pattern:  # the grammar's language of patterns cannot look ahead
        pattern = ""
    length = setting.max_length if setting.kind not in _BY_RULES else None
    if not pattern and length is None:
        _add(holder, "text")
        return
    data = _add(holder, "data", type="string")
    if pattern:
        _add(data, "param", pattern.replace("(?:", "("), name="pattern")
    if length is not None:
        _add(data, "param", str(length), name="maxLength")


def _foreign(ways: etree._Element) -> None:
    """What tools write beside the passes, in a namespace of their own."""
    element = _add(ways, "element")
    _add(element, "nsName", ns=_IMAGES)
    _add(element, "ref", name="anything")


def _shared(root: etree._Element) -> None:
    """What every list item, and foreign elements, may bear."""
    marks = _add(_add(_add(root, "define", name="marks"), "zeroOrMore"), "attribute")
    _add(marks, "nsName", ns=WCM)
    keyed = _add(root, "define", name="keyed")
    _add(keyed, "attribute", name="keyValue", ns=WCM)
    others = _add(_add(_add(keyed, "zeroOrMore"), "attribute"), "nsName", ns=WCM)
    _add(_add(others, "except"), "name", "keyValue", ns=WCM)
    anything = _add(_add(_add(root, "define", name="anything"), "zeroOrMore"), "choice")
    _add(anything, "text")
    _add(_add(anything, "attribute"), "anyName")
    element = _add(anything, "element")
    _add(element, "anyName")
    _add(element, "ref", name="anything")
