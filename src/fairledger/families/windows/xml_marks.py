"""Where each element of an XML text begins: the parser tells lines at best, and findings want columns."""

from __future__ import annotations

import re
from bisect import bisect_right

_TAG = re.compile(r"""</?[^<>"']*(?:"[^"]*"[^<>"']*|'[^']*'[^<>"']*)*>""")
_SKIPPED = (("<!--", "-->"), ("<![CDATA[", "]]>"), ("<?", "?>"), ("<!", ">"))


class XmlMarks:
    """Start tags in document order, and how deep they go."""

    def __init__(self, text: str) -> None:
        self.starts: list[int] = []
        """Offsets of start tags."""
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

    def _scan(self, text: str) -> None:
        level = 0
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
                level -= 1
            else:
                self.starts.append(at)
                level += not match[0].endswith("/>")
                self.depth = max(self.depth, level)
            at = text.find("<", match.end())
