"""Answer files that differ in a few values only: what no such value touches is found once for all of them.

The values that differ are taken for placeholders, and the files for fillings of one that has these: which rules a
placeholder reaches is noted already (`fairledger.checks.rule.run_noting`). A file counts as like another one only if
its text is, to the letter, that of the other with other values.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from fairledger.checks.engine import Report, in_order, unknown_in
from fairledger.checks.rule import run, run_noting
from fairledger.checks.view import View
from fairledger.model.errors import LedgerError
from fairledger.model.finding import Finding
from fairledger.model.pattern import pattern
from fairledger.model.sheet import Block, Node
from fairledger.model.values import Scalar, Template, parse_text
from fairledger.subject.subject import FileKind, Subject, refilled, with_sheet

_PLAIN = pattern(r"[^<>&$\s](?:[^<>&$\r\n\t]{0,1000}[^<>&$\s])?")
"""A value in which nothing has a meaning of its own, and that nobody reads otherwise than it stands."""
_ENDS = pattern(r"(?:</[A-Za-z][\w.:-]{0,200}>){1,8}[ \t]{0,200}\r?")
"""Nothing but ends of elements may follow on the line: where else something begins there would move."""
_MOST_HOLES = 12
_MOST_TRIES = 6
"""So often it is tried in vain to take a file for one like the last; then each is looked at by itself."""
_STAMPED = "its first lines say so"
"""How a target is known that no value has a say in; one named at the terminal is held against the image's name."""


class Hole(Struct, frozen=True):
    """Where a value differs: the line from 0, and what stands around the value on it."""

    line: int
    before: str
    behind: str

    def value_in(self, line: str) -> str | None:
        """The value that a line has there; None if the line is another one."""
        if len(line) <= len(self.before) + len(self.behind):
            return None
        if not line.startswith(self.before) or not line.endswith(self.behind):
            return None
        value = line[len(self.before) : len(line) - len(self.behind)]
        return value if _PLAIN.fullmatch(value) else None


class Likeness:
    """The last file that was looked at by itself, and what is known of files like it."""

    def __init__(self) -> None:
        self._base: Subject | None = None
        self._lines: list[str] = []
        self._holes: dict[int, Hole] = {}
        self._known: _Known | None = None
        self._tries = 0

    def learn(self, one: Subject) -> None:
        """Takes a file that was just checked by itself for the one that others may be like."""
        self._base = None
        self._known = None
        self._holes = {}
        whole = not one.findings and one.whole and one.kind is FileKind.ANSWERS
        if self._tries >= _MOST_TRIES or not whole or one.basis != _STAMPED or one.encoding != "utf-8":
            return
        self._base, self._lines = one, one.text.split("\n")

    def report(self, path: Path, data: bytes) -> tuple[Report, Subject] | None:
        """What is found in a file that is like the last one; None if it is not.

        The subject takes over what is known of the others: it can be looked at until the next file.
        """
        if self._base is None or path.parent != self._base.path.parent or self._tries >= _MOST_TRIES:
            return None
        try:
            lines = data.decode("utf-8").split("\n")
        except UnicodeDecodeError:
            return None
        values = self._values(lines)
        if values is None:
            self._tries += 1
            return None
        assert self._known is not None
        return self._known.report(path, data, values)

    def _values(self, lines: list[str]) -> dict[str, str] | None:
        """The values of a file that is like the last one; where other values differ than before, they count too."""
        if len(lines) != len(self._lines):
            return None
        holes = dict(self._holes)
        for at, (mine, line) in enumerate(zip(self._lines, lines, strict=True)):
            if mine != line and at not in holes:
                hole = _hole(at, mine, line)
                if hole is None or len(holes) >= _MOST_HOLES:
                    return None
                holes[at] = hole
        values = {at: hole.value_in(lines[at]) for at, hole in holes.items()}
        if not holes or None in values.values():
            return None
        if holes.keys() != self._holes.keys():
            self._tries += bool(self._holes)
            assert self._base is not None
            self._known = _known(self._base, self._lines, holes)
            if self._known is None:
                self._base = None
                return None
            self._holes = holes
        return {f"v{at}": str(value) for at, value in values.items()}


def _hole(at: int, mine: str, line: str) -> Hole | None:
    """Where the values of two lines differ; None if more than one value does."""
    start = 0
    least = min(len(mine), len(line))
    while start < least and mine[start] == line[start]:
        start += 1
    before = mine[: mine.rfind(">", 0, start) + 1]
    close = mine.find("<", len(before))
    if not before or close < 0 or not _ENDS.fullmatch(mine, close):
        return None
    hole = Hole(at, before, mine[close:])
    return hole if hole.value_in(mine) is not None and hole.value_in(line) is not None else None


def _known(base: Subject, lines: Sequence[str], holes: dict[int, Hole]) -> _Known | None:
    """What is found whatever the values are; None if they do not stand where they seem to."""
    wanted = {(at + 1, str(hole.value_in(lines[at]))): f"v{at}" for at, hole in holes.items()}
    met: list[tuple[int, str]] = []

    def put(_: Block, way: tuple[Node, ...], value: Scalar) -> Scalar:
        key = (way[-1].origin.line or 0, value) if isinstance(value, str) else (0, "")
        if key not in wanted:
            return value
        met.append(key)
        return parse_text(f"${{{wanted[key]}}}")

    sheet = base.sheet.map_values(put)
    if sorted(met) != sorted(wanted):
        return None
    return _Known(with_sheet(base, sheet))


class _Known:
    """A file with open values, and what is found of it before they are filled."""

    def __init__(self, subject: Subject) -> None:
        self.subject = subject
        self.open_blocks = {id(seat.block) for seat in subject.seats.open}
        _ = subject.recognised  # what is understood is worked out first: it belongs to no rule
        self.view = View(subject)
        self.noticed = run_noting(self.view)

    def report(self, path: Path, data: bytes, values: dict[str, str]) -> tuple[Report, Subject] | None:
        """What is found with values in the place of the open ones."""

        def put(_: Block, __: tuple[Node, ...], value: Scalar) -> Scalar:
            return value.fill(values) if isinstance(value, Template) else value

        try:
            filled, same = refilled(self.subject, self.subject.sheet.map_values(put, self.open_blocks))
            if same:
                holds, found = self.noticed.with_values(View(filled, self.view))
                found = [*(self.noticed.before if holds else ()), *found]
            else:
                found = run(View(filled))
        except LedgerError:
            return None
        one = _as(filled, path, data)
        told = [_of(each, self.subject.file, one.file) for each in found]
        return Report(one, in_order(told), unknown_in(one)), one


def _as(filled: Subject, path: Path, data: bytes) -> Subject:
    """A filled subject under the name of its file, with all that was worked out of it."""
    known: dict[str, Any] = {name: value for name, value in filled.__dict__.items() if not name.startswith("_")}
    one = replace(filled, path=path, data=data)
    one.__dict__.update(known)
    return one


def _of(one: Finding, base: str, file: str) -> Finding:
    return replace(one, file=file) if one.line and one.file in (None, "", base) else one
