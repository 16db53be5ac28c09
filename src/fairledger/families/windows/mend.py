"""Corrections that only the syntax of these answer files knows: attributes that are always alike, empty components."""

from __future__ import annotations

import re

from fairledger.families.windows.names import COMPONENT_ATTRIBUTES
from fairledger.families.windows.servicing import SERVICING
from fairledger.families.windows.xml_marks import Element, XmlMarks
from fairledger.model.sheet import Sheet


def mended(text: str, sheet: Sheet) -> tuple[str, str] | None:
    """The text with the first such thing corrected, and what that was; None where there is none."""
    if not sheet.blocks:
        return None
    marks = XmlMarks(text)
    for block in sheet.blocks:
        if block.origin.line is None or block.pass_ == SERVICING:
            continue
        start = marks.offset(block.origin.line, block.origin.column or 1)
        element = next((one for one in marks.elements if one.start == start), None)
        if element is None:
            continue
        if not block.children and not text[element.inner : element.close or element.inner].strip():
            return _without(text, element), f"{block.component} taken out, since it is empty"
        for name, value in COMPONENT_ATTRIBUTES.items():
            new = _with_attribute(text, element, name, value)
            if new != text:
                return new, f'{block.component}: {name}="{value}"'
    return None


def _with_attribute(text: str, element: Element, name: str, value: str) -> str:
    pattern = re.compile(rf"""(\s{name}\s*=\s*)("[^"]*"|'[^']*')""")
    found = pattern.search(text, element.name_end, element.inner)
    if found is None:
        return f'{text[: element.name_end]} {name}="{value}"{text[element.name_end :]}'
    return text[: found.start(2)] + f'"{value}"' + text[found.end(2) :] if found[2][1:-1] != value else text


def _without(text: str, element: Element) -> str:
    """The text without an element, and without the line that held it alone."""
    start, end = element.start, element.end
    line = text.rfind("\n", 0, start) + 1
    after = re.compile(r"[ \t]*\r?\n").match(text, end)
    if not text[line:start].strip() and after:
        start, end = line, after.end()
    return text[:start] + text[end:]
