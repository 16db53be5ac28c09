"""The statements of an answer file with their places: what reading and small corrections both work on."""

from __future__ import annotations

import re
from bisect import bisect_right
from functools import cached_property

from msgspec import Struct

from fairledger.families.kickstart.tokens import QuoteError, Token, split
from fairledger.model.lines import starts_of_lines
from fairledger.model.pattern import pattern
from fairledger.storage.files import MOST_PARTS, too_many

SECTIONS = (
    *("packages", "pre", "pre-install", "post", "onerror", "traceback"),
    *("addon", "anaconda", "certificate", "firstboot"),
)
_NO_SECTIONS = ("end", "include", "ksappend")
_QUOTE = pattern(r"[\"'\\]")
_HEADER = pattern(r"%([a-z-]+)")


def section_of(line: str) -> str:
    """The name behind the percent sign, if that is a line's first word; else nothing. Words that go on are others."""
    match = _HEADER.fullmatch(line.split(None, 1)[0]) if "%" in line and line.strip() else None
    return match[1] if match else ""


def _header(line: str) -> str:
    """As `section_of`, for a line that stands in no section: there the installer takes the quotes off first."""
    named = section_of(line)
    if named or "%" not in line or _QUOTE.search(line.split(None, 1)[0]) is None:
        return named
    try:
        words = split(line)
    except QuoteError:
        return ""
    return section_of(words[0].text) if words and words[0].text.split() == [words[0].text] else ""


def taken_in(body: str) -> list[int]:
    """The lines of a section's text (from 0) that take in another file, wherever in the text they stand."""
    if "%include" not in body:
        return []
    return [at for at, line in enumerate(body.split("\n")) if section_of(line) == "include"]


class Statement(Struct, frozen=True):
    """A command with its words, or a section's header with its body."""

    name: str
    """The command, or ``%section``."""
    tokens: tuple[Token, ...]
    """The words behind the name; offsets count in the whole text."""
    start: int
    """Offset of the first character."""
    end: int
    """Offset behind the last one, line end not counted; for sections behind the header."""
    body: str | None = None
    body_start: int = 0
    closed: bool = True
    """Whether a section ends with ``%end``."""


class Fault(Struct, frozen=True):
    """A line that cannot be read."""

    at: int
    message: str
    hint: str


class SourceText:
    """A file's text, its statements, and what could not be read."""

    def __init__(self, text: str, file: str = "") -> None:
        self.text = text
        self.file = file
        self.statements: list[Statement] = []
        self.faults: list[Fault] = []
        self.foreign: list[Statement] = []
        """Sections of which nobody knows what they are, whole."""
        self._starts = starts_of_lines(text)
        self.words = 0
        """How many words the commands have, and lines the lists."""
        self._read()

    def position(self, offset: int) -> tuple[int, int]:
        """Line and column (from 1) of an offset."""
        line = bisect_right(self._starts, offset)
        return line, offset - self._starts[line - 1] + 1

    def offset(self, line: int, column: int) -> int:
        """The offset of a line and column (from 1)."""
        return self._starts[line - 1] + column - 1

    def _line(self, number: int) -> tuple[int, str]:
        start = self._starts[number]
        end = self._starts[number + 1] if number + 1 < len(self._starts) else len(self.text)
        return start, self.text[start:end].rstrip("\r\n")

    def _read(self) -> None:
        number = 0
        while number < len(self._starts):
            if len(self.statements) > MOST_PARTS:
                raise too_many(self.file, "statements")
            if self.words > MOST_PARTS:
                raise too_many(self.file, "words of commands and lists")
            start, line = self._line(number)
            bare = line.strip()
            header = _header(bare)
            if not bare or bare.startswith("#"):
                number += 1
            elif header in SECTIONS:
                number = self._section(number, header)
            elif header and header not in _NO_SECTIONS and self._ends(number):
                number = self._section(number, header)
                self.foreign.append(self.statements.pop())
            elif header == "end":
                self.faults.append(Fault(start, "%end closes nothing", "take it out, or add the section's header"))
                number += 1
            else:
                number = self._command(number)

    def _ends(self, number: int) -> bool:
        """Whether a line of an unknown name begins a section: one that is closed before another one begins."""
        at = bisect_right(self._marks, number, key=lambda mark: mark[0])
        return at < len(self._marks) and self._marks[at][1] == "end"

    @cached_property
    def _marks(self) -> list[tuple[int, str]]:
        """The lines that end a section or begin one of a known name."""
        found = ((at, section_of(self._line(at)[1])) for at in range(len(self._starts)))
        return [(at, one) for at, one in found if one == "end" or one in SECTIONS]

    def _command(self, number: int) -> int:
        start, line = self._line(number)
        last, at, more = number, start, line
        while more.endswith("\\") and last + 1 < len(self._starts):
            last += 1
            at, more = self._line(last)
        flat = re.sub(r"\\\r?\n", lambda match: " " * len(match[0]), self.text[start : at + len(more)])
        self._statement(flat, start)
        return last + 1

    def _statement(self, line: str, start: int) -> Token | None:
        try:
            tokens = [Token(one.text, one.start + start, one.end + start) for one in split(line)]
        except QuoteError as error:
            hint = "close the quote, or put a backslash before it"
            self.faults.append(Fault(start + error.at, str(error), hint))
            return None
        if not tokens:  # a backslash that joins nothing with nothing
            return None
        self.words += len(tokens)
        first, *rest = tokens
        end = tokens[-1].end
        self.statements.append(Statement(first.text, tuple(rest), first.start, end))
        return first

    def _section(self, number: int, name: str) -> int:
        start, line = self._line(number)
        if self._statement(line, start) is None:
            self.statements.append(Statement(f"%{name}", (), start, start + len(line)))
        head = self.statements.pop()
        last = number + 1
        closed = False
        while last < len(self._starts):
            _, inner = self._line(last)
            begun = section_of(inner)
            if begun == "end":
                closed = True
                break
            if begun in SECTIONS:
                break
            last += 1
        from_ = self._starts[number + 1] if number + 1 < len(self._starts) else len(self.text)
        to = self._starts[last] if last < len(self._starts) else len(self.text)
        body = self.text[from_:to]
        if name == "packages":
            self.words += last - number
        self.statements.append(Statement(f"%{name}", head.tokens, head.start, head.end, body, from_, closed))
        return last + 1 if closed else last
