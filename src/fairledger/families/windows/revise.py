"""Small corrections of an answer file: only the elements concerned change, all other bytes stay."""

from __future__ import annotations

import re
from xml.sax.saxutils import escape, quoteattr, unescape

from fairledger.catalog.address import Spot, step_is
from fairledger.catalog.items import number_of_item
from fairledger.catalog.seats import Seat, Seats
from fairledger.families.windows.names import COMPONENT_ATTRIBUTES, WCM
from fairledger.families.windows.servicing import SERVICING
from fairledger.families.windows.xml_marks import Element, XmlMarks
from fairledger.model.errors import WrongUseError
from fairledger.model.items import is_new, place_in
from fairledger.model.pattern import pattern
from fairledger.model.sheet import VALUE_KEY, is_mark
from fairledger.model.values import Scalar

_COMMENT = re.compile(r"<!--.*?-->", re.DOTALL)
_NO_NUMBER = 1 << 50
"""Above what any number of an item is; those without one have more."""
_FORBIDDEN = pattern("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


class Reviser:
    """Makes one change after the other in a text that is read anew for each."""

    def __init__(self, text: str, seats: Seats) -> None:
        self.text = text
        self.seats = seats
        self.marks = XmlMarks(text)
        top = self.marks.elements[0]
        self.scope = text[top.start : top.inner]
        """The start tags whose prefixes reach the place of a change."""
        self.plain = False
        """Whether the change lies where attributes bear no prefix."""
        self.newline = "\r\n" if "\r\n" in text else "\n"

    def set(self, spot: Spot, value: Scalar) -> str:
        """The text with one answer set."""
        written = str(value)
        if _FORBIDDEN.search(written):
            raise WrongUseError(f"the value for {spot.text} holds a character that no answer file can carry")
        body = escape(written).replace("\r", "&#13;")
        if spot.whole:
            remedy = "set one of its settings: ADDRESS=VALUE"
            raise WrongUseError(f"{spot.component} says nothing by its mere presence", remedy=remedy)
        if is_mark(spot.steps[-1][0]):
            return self.set_attribute(spot, written)
        if spot.present is not None:
            element = self.element_of(spot.present)
            name = self.text[element.start + 1 : element.name_end]
            if element.close is None:
                tag = self.text[element.start : element.inner].rstrip("/>").rstrip()
                return self.text[: element.start] + f"{tag}>{body}</{name}>" + self.text[element.inner :]
            comments = "".join(_COMMENT.findall(self.text, element.inner, element.close))
            return self.text[: element.inner] + comments + body + self.text[element.close :]
        return self.insert(spot, body)

    def set_attribute(self, spot: Spot, value: str) -> str:
        """The text with one attribute set; its element is made if it is missing."""
        *way, (name, _, _) = spot.steps
        told = f" {name[1:]}={quoteattr(value)}"
        if spot.present is not None and (found := self.attribute(self.element_of(spot.present), name[1:])):
            return self.text[: found.start()] + told + self.text[found.end() :]
        root, _ = self.block_of(spot)
        here = root
        for step in way:
            here = next((seat for seat in here.children if step_is(seat, step)), None) if here else None
        if here is None:
            return self.insert(spot, value)
        at = self.element_of(here).name_end
        return self.text[:at] + told + self.text[at:]

    def attribute(self, element: Element, name: str) -> re.Match[str] | None:
        """Where an attribute stands in a start tag, with the space before it."""
        pattern = re.compile(rf"""\s+(?:\w+:)?{re.escape(name)}\s*=\s*(?:"[^"]*"|'[^']*')""")
        return pattern.search(self.text, element.name_end, element.inner)

    def unset(self, spot: Spot) -> str:
        """The text without one answer, and without the line that held it alone."""
        if spot.present is None:
            raise WrongUseError(f"{spot.text} is not answered in this file", remedy="nothing was changed")
        element = self.element_of(spot.present)
        if spot.steps and is_mark(spot.steps[-1][0]):
            found = self.attribute(element, spot.steps[-1][0][1:])
            return self.text[: found.start()] + self.text[found.end() :] if found else self.text
        start, end = element.start, element.end
        line = self.text.rfind("\n", 0, start) + 1
        after = re.compile(r"[ \t]*\r?\n").match(self.text, end)
        if not self.text[line:start].strip() and after:
            start, end = line, after.end()
        return self.text[:start] + self.text[end:]

    def insert(self, spot: Spot, body: str) -> str:
        """A new element in the deepest part of its way that is there."""
        self.plain = spot.pass_ == SERVICING
        root, steps = self.block_of(spot)
        here: Seat | None = root
        if root is not None:
            component = self.element_of(root)
            self.scope += self.text[component.start : component.inner]
        adding = spot.setting.repeats and spot.steps[-1][2] is None
        while len(steps) > adding and here is not None:
            below = next((seat for seat in here.children if step_is(seat, steps[0])), None)
            if below is None:
                break
            here, steps = below, steps[1:]
        if root is None:
            return self.insert_component(spot, self.built(spot, 0, body, 1))
        assert here is not None
        alike = [number_of_item(one) for one in here.children if one.name == steps[0][0]]
        number = max((one for one in alike if one < _NO_NUMBER), default=len(alike)) + 1
        return self.insert_into(self.element_of(here), self.built(spot, len(spot.steps) - len(steps), body, number))

    def block_of(self, spot: Spot) -> tuple[Seat | None, tuple[tuple[str, str, str | None], ...]]:
        """The component's block in the pass, if it is there."""
        return next(iter(self.seats.find(spot.pass_, spot.component, "")), None), spot.steps

    def built(self, spot: Spot, at: int, body: str, number: int) -> list[str]:
        """The lines of a new element with all around it that is missing, indented by two.

        ``at`` is the place of its step in the spot, ``number`` what it is numbered if it is an item that has a number.
        """
        name, key, item = spot.steps[at]
        rest = spot.steps[at + 1 :]
        named = bool(item and key and not is_new(item) and place_in(item) is None)
        if named and len(rest) == 1 and rest[0][0] == key:
            if unescape(body) != item:
                remedy = "name it as it shall be called"
                raise WrongUseError(f"{name}[{item}] would be called otherwise at once", remedy=remedy)
            named = is_mark(key)
        if self.plain:
            named_by = {key[1:]: item or ""} if named and is_mark(key) else {}
            last = rest[0][0] if len(rest) == 1 else ""
            told_of = {**named_by, **({last[1:]: unescape(body)} if is_mark(last) else {})}
            tag = name + "".join(f" {one}={quoteattr(value)}" for one, value in told_of.items())
            if is_mark(last):
                return [f"<{tag}/>"]
            if not rest:
                return [f"<{tag}>{body}</{name}>"]
            return [f"<{tag}>", *(f"  {line}" for line in self.built(spot, at + 1, body, 1)), f"</{name}>"]
        action, told = self.item_marks(spot, at, number, named=named)
        if not rest:
            return [f"<{name}{action}>{body}</{name}>"]
        inner = self.built(spot, at + 1, body, 1)
        return [f"<{name}{action}>", *(f"  {line}" for line in [*told, *inner]), f"</{name}>"]

    def item_marks(self, spot: Spot, at: int, number: int, *, named: bool) -> tuple[str, list[str]]:
        """The attributes of a new item of a list, and the lines in it that tell it apart or keep its place."""
        path = "/".join(one[0] for one in spot.steps[: at + 1])
        known = self.seats.catalog.component(spot.component)
        setting = known.setting(path) if known else None
        _, key, item = spot.steps[at]
        if item is None and not (setting is not None and setting.kind == "list"):
            return "", []
        bound = re.search(rf'xmlns:(\w+)\s*=\s*"{re.escape(WCM)}"', self.scope)
        prefix = bound[1] if bound else "wcm"
        action = "" if bound else f' xmlns:wcm="{WCM}"'
        action += f' {prefix}:action="add"'
        if named and is_mark(key):
            action += f" {prefix}:{key[1:]}={quoteattr(item or '')}"
        elif key == VALUE_KEY:
            action += f' {prefix}:{key[1:]}="{number}"'
        told = [f"<{key}>{escape(item or '')}</{key}>"] if named and not is_mark(key) else []
        ordinal = known.ordinal_of(path) if known else None
        if ordinal is not None and spot.steps[at + 1 : at + 2] != ((ordinal.name, "", None),):
            told.append(f"<{ordinal.name}>{number}</{ordinal.name}>")
        return action, told

    def insert_component(self, spot: Spot, lines: list[str]) -> str:
        """A new component, in a new pass if that is missing too."""
        arch = next((root.block.variant for root in self.seats.roots if root.block.variant), "amd64")
        attributes = {"name": spot.component, "processorArchitecture": arch, **COMPONENT_ATTRIBUTES}
        told = " ".join(f'{name}="{value}"' for name, value in attributes.items())
        whole = [f"<component {told}>", *(f"  {line}" for line in lines), "</component>"]
        if self.plain:
            inside = [f"<{SERVICING}>", *(f"  {line}" for line in lines), f"</{SERVICING}>"]
            return self.insert_into(self.marks.elements[0], inside)
        for element in self.marks.elements:
            tag = self.text[element.start : element.inner]
            if re.match(rf"""<settings\b[^>]*\bpass\s*=\s*["']{re.escape(spot.pass_)}["']""", tag):
                return self.insert_into(element, whole)
        wrapped = [f'<settings pass="{spot.pass_}">', *(f"  {line}" for line in whole), "</settings>"]
        return self.insert_into(self.marks.elements[0], wrapped)

    def insert_into(self, element: Element, lines: list[str]) -> str:
        """Lines at the end of an element, indented one step deeper than it."""
        line = self.text.rfind("\n", 0, element.start) + 1
        indent = re.match(r"[ \t]*", self.text[line : element.start])
        margin = (indent[0] if indent else "") + "  "
        block = "".join(f"{margin}{one}{self.newline}" for one in lines)
        if element.close is None:
            name = self.text[element.start + 1 : element.name_end]
            tag = self.text[element.start : element.inner].rstrip("/>").rstrip()
            end = f"{margin[:-2]}</{name}>"
            return self.text[: element.start] + f"{tag}>{self.newline}{block}{end}" + self.text[element.inner :]
        at = self.text.rfind("\n", 0, element.close) + 1
        if self.text[at : element.close].strip():
            return self.text[: element.close] + self.newline + block + margin[:-2] + self.text[element.close :]
        return self.text[:at] + block + self.text[at:]

    def element_of(self, seat: Seat) -> Element:
        """The element that a seat was read from."""
        origin = seat.node.origin
        start = self.marks.offset(origin.line or 1, origin.column or 1)
        return next(one for one in self.marks.elements if one.start == start)
