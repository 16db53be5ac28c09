"""Where each element of an XML text begins: the parser tells lines at best, and findings want columns."""

from __future__ import annotations

import re
from bisect import bisect_right
from functools import cached_property

from msgspec import Struct

_TOKEN = re.compile(
    r"""<!--.*?-->|<!\[CDATA\[.*?\]\]>|<\?.*?\?>|<!.*?>|</?[^<>"'!?][^<>"']*(?:"[^"]*"[^<>"']*|'[^']*'[^<>"']*)*>""",
    re.DOTALL,
)
_NAME = re.compile(r"[^\s/>]+")


class Element(Struct):
    """Where the parts of an element stand."""

    start: int
    """Offset of its ``<``."""
    name_end: int
    inner: int
    """Offset behind its start tag."""
    close: int | None = None
    """Offset of its end tag; None for an empty-element tag."""
    end: int = 0
    """Offset behind all of it."""


class XmlMarks:
    """Start tags in document order, and how deep they go."""

    def __init__(self, text: str) -> None:
        self.starts: list[int] = []
        """Offsets of start tags."""
        self.depth = 0
        """The deepest nesting."""
        self._lines = [0] + [match.end() for match in re.finditer("\n", text)]
        self._text = text
        self._scan()

    def position(self, number: int) -> tuple[int, int]:
        """Line and column (from 1) of the element of that number (from 0)."""
        return self.at(self.starts[number]) if number < len(self.starts) else (1, 1)

    def at(self, offset: int) -> tuple[int, int]:
        """Line and column (from 1) of an offset."""
        line = bisect_right(self._lines, offset)
        return line, offset - self._lines[line - 1] + 1

    def offset(self, line: int, column: int) -> int:
        """The offset of a line and column (from 1)."""
        return self._lines[line - 1] + column - 1

    @cached_property
    def elements(self) -> list[Element]:
        """In document order, with their ends."""
        opened: list[Element] = []
        found: list[Element] = []
        for match in _TOKEN.finditer(self._text):
            start, end = match.span()
            mark = self._text[start + 1]
            if mark in "!?":
                continue
            if mark == "/":
                if opened:
                    done = opened.pop()
                    done.close, done.end = start, end
                continue
            named = _NAME.match(self._text, start + 1)
            element = Element(start, named.end() if named else start + 1, end, None, end)
            found.append(element)
            if self._text[end - 2] != "/":
                opened.append(element)
        return found

    def _scan(self) -> None:
        """Notes where start tags begin, and the deepest nesting."""
        text, depth = self._text, 0
        for match in _TOKEN.finditer(text):
            start, end = match.span()
            mark = text[start + 1]
            if mark == "/":
                depth -= 1
            elif mark not in "!?":
                self.starts.append(start)
                if text[end - 2] != "/":
                    depth += 1
                    self.depth = max(self.depth, depth)
