"""Where each key of a TOML text stands.

The standard library's reader tells values but not places; this scanner walks the same text, which the
reader has already found to be valid, and keeps a mark for every key, table and item.
"""

from __future__ import annotations

import re

from fairledger.model.lines import starts_of_lines

Path = tuple[str | int, ...]
Marks = dict[Path, tuple[int, int]]
"""Path of keys and places (from 0) to line and column (from 1)."""

_SPACE = re.compile(r"[ \t]*")
# possessive, since a repeat that may give back keeps a note for every character
_FILL = re.compile(r"(?:[ \t\r\n]++|#[^\n]*+\n)*+(?:#[^\n]*+)?")
_BARE_KEY = re.compile(r"[A-Za-z0-9_-]+")
_STRINGS = re.compile(
    r'"""(?:[^"\\]++|\\.|"{1,2}+(?!"))*+"{3,5}+'
    r"|'''(?:[^']++|'{1,2}+(?!'))*+'{3,5}+"
    r'|"(?:[^"\\\n]++|\\.)*+"'
    r"|'[^'\n]*+'",
    re.DOTALL,
)
_PLAIN = re.compile(r"[^,\]}#\n]*")


class _Scanner:
    def __init__(self, text: str) -> None:
        self.text = text
        self.at = 0
        self.marks: Marks = {}
        self.arrays: dict[Path, int] = {}
        self.line_starts = starts_of_lines(text)

    def run(self) -> Marks:
        current: Path = ()
        while self.fill() < len(self.text):
            start = self.at
            if self.text.startswith("[[", start):
                self.at += 2
                keys = self.keys()
                *way, last = keys
                path = (*self.resolved(tuple(way)), last)
                number = self.arrays.get(path, 0)
                self.arrays[path] = number + 1
                current = (*path, number)
                for end in range(1, len(current) + 1):
                    self.mark(current[:end], start)
                self.at = self.text.index("]]", self.at) + 2
            elif self.text[start] == "[":
                self.at += 1
                current = self.resolved(tuple(self.keys()))
                for end in range(1, len(current) + 1):
                    self.mark(current[:end], start)
                self.at = self.text.index("]", self.at) + 1
            else:
                self.pair(current)
        return self.marks

    def pair(self, table: Path) -> None:
        start = self.at
        keys = self.keys()
        path = table
        for key in keys:
            path = (*path, key)
            self.mark(path, start)
        self.at = self.text.index("=", self.at) + 1
        self.value(path)

    def value(self, path: Path) -> None:
        self.fill()
        char = self.text[self.at]
        if char in "\"'":
            match = _STRINGS.match(self.text, self.at)
            self.at = match.end() if match else len(self.text)
        elif char == "[":
            self.at += 1
            number = 0
            while self.fill() < len(self.text) and self.text[self.at] != "]":
                self.mark((*path, number), self.at)
                self.value((*path, number))
                self.comma()
                number += 1
            self.at += 1
        elif char == "{":
            self.at += 1
            while self.fill() < len(self.text) and self.text[self.at] != "}":
                self.pair(path)
                self.comma()
            self.at += 1
        else:
            match = _PLAIN.match(self.text, self.at)
            self.at = match.end() if match else len(self.text)

    def keys(self) -> list[str]:
        keys = []
        while True:
            self.space()
            if self.text[self.at] in "\"'":
                match = _STRINGS.match(self.text, self.at)
                assert match
                keys.append(_unquoted(match[0]))
            else:
                match = _BARE_KEY.match(self.text, self.at)
                assert match
                keys.append(match[0])
            self.at = match.end()
            self.space()
            if self.text[self.at] != ".":
                return keys
            self.at += 1

    def resolved(self, keys: tuple[str, ...]) -> Path:
        """The path with the place of the latest item after each array of tables."""
        path: Path = ()
        for key in keys:
            path = (*path, key)
            if path in self.arrays:
                path = (*path, self.arrays[path] - 1)
        return path

    def mark(self, path: Path, at: int) -> None:
        if path not in self.marks:
            from bisect import bisect_right

            line = bisect_right(self.line_starts, at)
            self.marks[path] = (line, at - self.line_starts[line - 1] + 1)

    def comma(self) -> None:
        if self.fill() < len(self.text) and self.text[self.at] == ",":
            self.at += 1

    def fill(self) -> int:
        match = _FILL.match(self.text, self.at)
        self.at = match.end() if match else self.at
        return self.at

    def space(self) -> None:
        match = _SPACE.match(self.text, self.at)
        self.at = match.end() if match else self.at


def _unquoted(quoted: str) -> str:
    if quoted[0] == "'":
        return quoted[1:-1]
    import tomllib

    return next(iter(tomllib.loads(f"{quoted} = 0")))


def marks_of(text: str) -> Marks:
    """The marks of a valid TOML text."""
    return _Scanner(text).run()
