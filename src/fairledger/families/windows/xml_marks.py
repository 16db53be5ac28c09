"""Where each element of an XML text begins: the parser tells lines at best, and findings want columns."""

from __future__ import annotations

import re
from bisect import bisect_right

from msgspec import Struct

_TAG = re.compile(r"""</?[^<>"']*(?:"[^"]*"[^<>"']*|'[^']*'[^<>"']*)*>""")
_NAME = re.compile(r"[^\s/>]+")
_SKIPPED = (("<!--", "-->"), ("<![CDATA[", "]]>"), ("<?", "?>"), ("<!", ">"))


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
        self.elements: list[Element] = []
        """In document order."""
        self.depth = 0
        """The deepest nesting."""
        self._lines = [0] + [match.end() for match in re.finditer("\n", text)]
        self._scan(text)

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

    def _scan(self, text: str) -> None:
        opened: list[Element] = []
        at = text.find("<")
        while at != -1:
            skipped = next((ends for starts, ends in _SKIPPED if text.startswith(starts, at)), None)
            if skipped is not None:
                end = text.find(skipped, at)
                if end == -1:
                    return
                at = text.find("<", end + len(skipped))
                continue
            match = _TAG.match(text, at)
            if match is None:
                return
            if text[at + 1] == "/":
                if opened:
                    done = opened.pop()
                    done.close, done.end = at, match.end()
            else:
                self.starts.append(at)
                named = _NAME.match(text, at + 1)
                element = Element(at, named.end() if named else at + 1, match.end(), None, match.end())
                self.elements.append(element)
                if not match[0].endswith("/>"):
                    opened.append(element)
                    self.depth = max(self.depth, len(opened))
            at = text.find("<", match.end())
