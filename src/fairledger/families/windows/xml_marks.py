"""Where each element of an XML text begins: the parser tells lines at best, and findings want columns."""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Iterator
from functools import cached_property
from itertools import accumulate

from msgspec import Struct

from fairledger.model.pattern import pattern

_TOKEN = pattern(
    r"""<!--.*?-->|<!\[CDATA\[.*?\]\]>|<\?.*?\?>|<!.*?>|</?[^<>"'!?][^<>"']*(?:"[^"]*"[^<>"']*|'[^']*'[^<>"']*)*>""",
    re.DOTALL,
)
_NAME = pattern(r"[^\s/>]+")


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


_START = pattern(r"<[^/?]")
_HIDDEN = pattern(r"<!--.*?-->|<!\[CDATA\[.*?\]\]>|<\?.*?\?>", re.DOTALL)


def starts(text: str, *, hidden: bool = True) -> Iterator[tuple[int, int]]:
    """Line and column (from 1) of each start tag of a well-formed text without document type, in order.

    Such a text has a ``<`` nowhere but before tags, and (``hidden``) in what is blanked here: comments, literal
    sections, and instructions behind the declaration.
    """
    ends = list(accumulate(map(len, text.split("\n"))))  # without the line ends themselves
    if hidden:
        text = blanked(text)
    line, begin, end = 1, 0, ends[0]
    for found in _START.finditer(text):
        offset = found.start()
        while offset > end:
            begin = end + 1
            end = ends[line] + line
            line += 1
        yield line, offset - begin + 1


def blanked(text: str) -> str:
    """The text with blanks in place of comments, literal sections and instructions."""
    return _HIDDEN.sub(lambda found: " " * len(found[0]), text)


class XmlMarks:
    """Where elements begin and end, in any text that looks like XML."""

    def __init__(self, text: str) -> None:
        self._lines = [0] + [match.end() for match in re.finditer("\n", text)]
        self._text = text

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
