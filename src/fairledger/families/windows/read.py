"""Reads an answer file into a sheet. Hostile input is refused, never expanded, and nothing is fetched."""

from __future__ import annotations

from collections.abc import Sequence

from lxml import etree

from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.common import Common
from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.passes import pass_names
from fairledger.catalog.setting import Component, Setting
from fairledger.families.interface import Reading
from fairledger.families.windows import servicing
from fairledger.families.windows.names import COMPONENT_ATTRIBUTES, NAMESPACE, WCM
from fairledger.families.windows.places import Part, Places
from fairledger.families.windows.xml_errors import explained
from fairledger.families.windows.xml_marks import XmlMarks
from fairledger.model.errors import FileTroubleError
from fairledger.model.finding import Finding, Severity
from fairledger.model.pattern import pattern
from fairledger.model.places import Origin
from fairledger.model.sheet import ITEM_ACTION, Block, Extra, Node, Sheet
from fairledger.model.showing import quoted, visible
from fairledger.model.suggest import did_you_mean
from fairledger.storage.files import MOST_LEVELS, MOST_PARTS, declared_as, decode_as, too_many

_DOCTYPE = pattern(r"(?:\s|<\?(?:[^?]|\?(?!>))*\?>|<!--(?:[^-]|-(?!->))*-->)*<!DOCTYPE")

_TOO_DEEP = etree.XPath("/*" * (MOST_LEVELS + 1))
_WCM = f"{{{WCM}"
_ACTION = f"{{{WCM}}}action"
_IMAGES = (
    "ImageInstall/OSImage/InstallFrom/MetaData/Value",
    "WindowsDeploymentServices/ImageSelection/InstallImage/ImageName",
)
"""Where the image is named."""
_SAY_ADD = 'write wcm:action="add"'
_ACTIONS = ("add", "modify", "remove")


class _Spot:
    """A component in a pass, with the settings that it has in any release."""

    __slots__ = ("component", "inside", "pass_")

    def __init__(self, known: Component | None, pass_: str, component: str) -> None:
        self.pass_ = pass_
        self.component = component
        self.inside = known.inside if known is not None else _nothing
        """The settings directly below a path, by their names."""


def _nothing(_path: str) -> dict[str, Setting]:
    return {}


class FileReader:
    """Reads one file."""

    def __init__(self, file: str, own: Own = NOTHING, common: Common | None = None) -> None:
        self.file = file
        self.common = common
        self.findings: list[Finding] = []
        self.hints: dict[str, str] = {}
        self.catalog = catalog_of("windows", own=own)
        self.parts: dict[int, Part] = {}
        """Components that other files may have too."""
        self.names: dict[str, str] = {}
        """Names of elements by their tags."""
        self.namespace: str | None = NAMESPACE
        self.lead = f"{{{NAMESPACE}"
        """What the tags of its elements begin with, up to the closing brace."""

    def read(self, data: bytes) -> Reading:
        """The sheet, with what is wrong with the file as such."""
        text, encoding = decode_as(data, self.file)
        declared = declared_as(text)
        if declared and declared.startswith("utf-16") != encoding.startswith("utf-16"):
            told = f"the declaration says {declared}, and the file is {encoding.removesuffix('-sig')}"
            hint = f'write encoding="{encoding.removesuffix("-sig")[:6].rstrip("-")}", or save the file as it says'
            sure = declared.startswith("utf-16")  # of the other way round readers differ
            self.find("xml-encoding", told, Origin(self.file, 1, 1), hint, Severity.ERROR if sure else Severity.WARNING)
        if not text or text.isspace():
            self.find(
                "file-empty",
                "the file is empty",
                Origin(self.file, 1, 1),
                "write it again, or check the name",
            )
            return self.reading([], [])
        marked = "<!" in text
        doctype = _DOCTYPE.match(text) if marked else None
        if doctype:
            hint = "take the <!DOCTYPE ...> out; nothing of it was expanded or fetched"
            where = self.position(text, doctype.end() - len("<!DOCTYPE"))
            self.find("xml-doctype", "a document type is refused", where, hint)
            return self.reading([], [])
        root = self.parsed(text)
        if root is None:
            return self.reading([], [])
        if _TOO_DEEP(root):
            raise self.too_deep()
        self.places = Places(root, text, self.file)
        if self.common is not None:
            self.parts = self.places.parts()
        if not self.parts:
            self.common = None
            self.places.find_all()
        return self.document(root)

    def position(self, text: str, offset: int) -> Origin:
        """The line and column of an offset."""
        return Origin(self.file, *XmlMarks(text).at(offset))

    def too_deep(self) -> FileTroubleError:
        """What is said of a file nested beyond measure."""
        told = f"the file is nested deeper than {MOST_LEVELS} levels"
        return FileTroubleError(told, file=self.file, remedy="is it an answer file?")

    def parsed(self, text: str) -> etree._Element | None:
        """The root element; None if the text is malformed."""
        parser = etree.XMLParser(
            resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, encoding="utf-8"
        )
        try:
            if text.count("<") - text.count("</") > MOST_PARTS:  # counted before a tree is built
                raise too_many(self.file, "elements")
            return etree.fromstring(text.encode("utf-8", "surrogatepass"), parser)
        except etree.XMLSyntaxError as error:
            if "depth in document" in (error.msg or ""):
                raise self.too_deep() from error
            line, column = error.position
            message, hint = explained(error.msg or "", text)
            self.find("xml-malformed", message, Origin(self.file, line or 1, max(column, 1)), hint)
            return None

    def document(self, root: etree._Element) -> Reading:
        """The passes and components below the root."""
        tag = etree.QName(root)
        if tag.localname != "unattend":
            hint = "an answer file begins with <unattend>; is this the right file?"
            self.find("root-element", f"the root element is <{visible(tag.localname)}>", self.places.of(root), hint)
            return self.reading([], [])
        if tag.namespace != NAMESPACE:
            told = f"the namespace is {quoted(tag.namespace)}" if tag.namespace else "the namespace is missing"
            self.find("namespace", told, self.places.of(root), f'write <unattend xmlns="{NAMESPACE}">')
            self.namespace = tag.namespace
            self.lead = f"{{{tag.namespace}" if tag.namespace else ""
        blocks: list[Block] = []
        extras: list[Extra] = []
        seen: dict[str, etree._Element] = {}
        for child in root.iterchildren("*"):
            name = etree.QName(child)
            if name.localname == "settings" and name.namespace == self.namespace:
                self.settings(child, blocks, seen)
                continue
            if name.localname == servicing.SERVICING and name.namespace == self.namespace:
                blocks.append(servicing.read(child, self.places.of))
                continue
            if name.namespace == self.namespace:
                told = f"<{visible(name.localname)}> has no place below <unattend>"
                hint = did_you_mean(name.localname, ("settings", servicing.SERVICING))
                self.find("element-unknown", told, self.places.of(child), hint)
            if name.localname == "offlineImage":
                told = next((str(value) for key, value in child.attrib.items() if str(key).endswith("source")), "")
                self.hints["image"] = self.hints.get("image") or told.rpartition("#")[2]
            kept = etree.tostring(child, method="c14n", exclusive=True, with_tail=False).decode()
            extras.append(Extra("unattend", kept, self.places.of(child)))
        return self.reading(blocks, extras)

    def settings(self, element: etree._Element, blocks: list[Block], seen: dict[str, etree._Element]) -> None:
        """One pass."""
        pass_ = element.get("pass")
        names = tuple(name for name in pass_names("windows") if name != servicing.SERVICING)
        if pass_ is None:
            self.find(
                "pass-unknown",
                "<settings> names no pass",
                self.places.of(element),
                'write <settings pass="specialize">',
            )
            return
        if pass_ not in names:
            told = f"there is no pass {quoted(pass_)}"
            self.find("pass-unknown", told, self.places.of(element), did_you_mean(pass_, names), pass_=pass_)
        if element.get("wasPassProcessed") == "true":
            told = f"the pass {visible(pass_)} is marked as done: setup passes it over"
            hint = "take wasPassProcessed out: it is what setup leaves behind"
            self.find("pass-processed", told, self.places.of(element), hint, pass_=pass_)
        if pass_ in seen:
            told = f"the pass {pass_} stands twice, first in line {self.places.of(seen[pass_]).line}"
            self.find("pass-twice", told, self.places.of(element), "put both parts into one <settings>", pass_=pass_)
        seen.setdefault(pass_, element)
        for child in self.inner(element, pass_):
            if etree.QName(child).localname != "component":
                told = f"<{visible(etree.QName(child).localname)}> has no place below <settings>"
                self.find(
                    "element-unknown",
                    told,
                    self.places.of(child),
                    "settings stand in a <component>",
                    pass_=pass_,
                )
                continue
            part = self.parts.get(id(child))
            block = self.component(child, pass_) if part is None else self.shared(child, pass_, part)
            if block is not None:
                blocks.append(block)

    def shared(self, element: etree._Element, pass_: str, part: Part) -> Block | None:
        """One component of a pass, which is read once for all files that say the same at the same place."""
        kept = self.common.read if self.common is not None else {}
        key = (pass_, part, *element.nsmap.items())
        if key not in kept:
            self.places.find_below(element, part)
            (findings, hints), self.findings, self.hints = (self.findings, self.hints), [], {}
            kept[key] = (self.component(element, pass_), self.findings, self.hints)
            self.findings, self.hints = findings, hints
        block: Block | None
        block, findings, hints = kept[key]
        self.findings += findings
        self.hints = {**hints, **self.hints}
        return block

    def component(self, element: etree._Element, pass_: str) -> Block | None:
        """One component of a pass; None if it has no name."""
        origin = self.places.of(element)
        name = element.get("name")
        if not name:
            hint = 'write <component name="Microsoft-Windows-Shell-Setup" ...>'
            self.find("component-attributes", "<component> has no name", origin, hint, pass_=pass_)
            return None
        arch = element.get("processorArchitecture", "")
        for attribute, wanted in (("processorArchitecture", "amd64"), *COMPONENT_ATTRIBUTES.items()):
            given = element.get(attribute)
            if given == wanted or (given and attribute == "processorArchitecture"):
                continue
            told = f"is {quoted(given)}" if given is not None else "is missing"
            hint = f'write {attribute}="{wanted}"'
            self.find("component-attributes", f"{attribute} {told}", origin, hint, pass_=pass_, component=name)
        known = self.catalog.anywhere(name)
        spot = _Spot(known, pass_, name)
        top = spot.inside("")
        children = tuple([self.node(child, spot, "", top) for child in self.inner(element, pass_, name)])
        return Block(pass_, name, arch, children, origin)

    def named(self, element: etree._Element, spot: _Spot) -> str:
        """An element's name, which should be in the namespace."""
        namespace, _, name = element.tag.rpartition("}")
        if namespace == self.lead:
            self.names[element.tag] = name
        else:
            told = f"<{visible(name)}> is not in the answer file's namespace"
            self.find_at(spot, "namespace", told, self.places.of(element), "take its prefix or xmlns out")
        return name

    def node(self, element: etree._Element, spot: _Spot, above: str, inside: dict[str, Setting]) -> Node:
        """One setting, group or item, with all below it.

        ``above`` is the path of what is around it, ``inside`` are the settings that belong there, by name.
        """
        name = self.names.get(element.tag) or self.named(element, spot)
        origin = self.places.found[id(element)]
        setting = inside.get(name)
        path = setting.path if setting is not None else f"{above}/{name}" if above else name
        listed = setting is not None and setting.kind == "list"
        attributes = element.items()
        kept = self.attributes(attributes, setting, spot, origin) if attributes else ()
        if listed and (not attributes or element.get(_ACTION) is None):
            told = f"<{name}> is an item of a list and does not say so"
            self.find_at(spot, "list-action", told, origin, _SAY_ADD, Severity.WARNING, path)
        if len(element):
            inner = self.inner(element, spot.pass_, spot.component, path)
            if inner:
                deeper = spot.inside(path)
                nodes = [self.node(child, spot, path, deeper) for child in inner]
                return Node(name, None, (*kept, *nodes), origin)
            text = (element.text or "") + "".join(child.tail or "" for child in element)
        else:
            text = element.text or ""
        if path in _IMAGES and not text.strip().isdecimal():
            self.hints.setdefault("image", text.strip())  # a number says nothing of the release
        holds = setting is None or setting.repeats or not (listed or setting.kind == "group") or text.strip()
        return Node(name, text if holds else None, kept, origin)

    def attributes(
        self,
        given: Sequence[tuple[str | bytes, str | bytes]],
        setting: Setting | None,
        spot: _Spot,
        origin: Origin,
    ) -> tuple[Node, ...]:
        """Attributes as nodes; the usual list action needs none."""
        kept = []
        for full, value in given:
            text = str(value)
            if full == _ACTION:
                if text not in _ACTIONS and setting is not None:
                    told = f"an item cannot be told to {quoted(text)}"
                    self.find_at(spot, "list-action", told, origin, _SAY_ADD, setting=setting.path)
                if text != "add":
                    kept.append(Node(ITEM_ACTION, text, (), origin))
                continue
            namespace, _, name = str(full).rpartition("}")
            if namespace == _WCM:
                kept.append(Node(f"@{name}", text, (), origin))
                continue
            told = f"the attribute {visible(name)} means nothing here"
            hint = f'take it out; for lists xmlns:wcm="{WCM}" and wcm:action="add" are used'
            self.find_at(spot, "attribute-unknown", told, origin, hint, Severity.WARNING)
        return tuple(kept)

    def inner(
        self, element: etree._Element, pass_: str, component: str | None = None, path: str | None = None
    ) -> list[etree._Element]:
        """The elements inside one, without comments; between them there must be no text."""
        inner: list[etree._Element] = []
        text = element.text
        stray = text is not None and not text.isspace()
        for child in element:
            if isinstance(child.tag, str):  # comments and instructions have a function there
                inner.append(child)
            text = child.tail
            if text is not None and not text.isspace():
                stray = True
        if stray and (inner or path is None):
            name = etree.QName(element).localname
            self.find(
                "stray-text",
                f"there is text between the elements of <{visible(name)}>",
                self.places.of(element),
                "take it out; a value stands alone in its element",
                pass_=pass_,
                component=component,
                setting=path,
            )
        return inner

    def find_at(
        self,
        spot: _Spot,
        rule: str,
        message: str,
        origin: Origin,
        hint: str,
        severity: Severity = Severity.ERROR,
        setting: str | None = None,
    ) -> None:
        """Notes something wrong in a component."""
        self.find(rule, message, origin, hint, severity, pass_=spot.pass_, component=spot.component, setting=setting)

    def find(
        self,
        rule: str,
        message: str,
        origin: Origin,
        hint: str,
        severity: Severity = Severity.ERROR,
        *,
        pass_: str | None = None,
        component: str | None = None,
        setting: str | None = None,
    ) -> None:
        """Notes something wrong."""
        self.findings.append(
            Finding(
                rule,
                severity,
                message,
                hint,
                pass_,
                component,
                setting,
                origin.file,
                origin.line,
                origin.column,
            )
        )

    def reading(self, blocks: list[Block], extras: list[Extra]) -> Reading:
        """What came of it."""
        return Reading(Sheet(tuple(blocks), tuple(extras)), tuple(self.findings), self.hints, self.common)
