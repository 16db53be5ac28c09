"""Commands that a script before setup writes into a file which the answer file takes in.

What is read of a script are its here-documents and what it says with ``echo`` and ``printf`` into a file by its name,
or by a variable that it sets plainly. Nothing of it is run: of what else it may write, nobody knows.
"""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.seats import Seat, Seats
from fairledger.families.interface import Scripted
from fairledger.families.kickstart.choose import chosen_by
from fairledger.families.kickstart.fields import only
from fairledger.families.kickstart.read import FileReader
from fairledger.families.kickstart.statements import SourceText
from fairledger.families.kickstart.tokens import QuoteError, split
from fairledger.model.pattern import pattern
from fairledger.model.places import Origin
from fairledger.model.sheet import Block, Sheet

_BEFORE = ("pre", "%pre")
_SHELLS = ("sh", "bash", "dash", "ksh", "ash", "busybox")
_DOCUMENT = pattern(r"<<(-?)[ \t]*(['\"]?)([A-Za-z_]\w*)\2")
_INTO = pattern(r">>?[ \t]*(['\"]?)([^\s'\";|&<>()]+)\1")
_SAYS = pattern(r"(?:^|[;&|({]|\b(?:then|do|else)\b)[ \t]*(?:echo|printf)[ \t]+")
_SETS = pattern(r"(?:^|;)[ \t]*(?:export[ \t]+)?([A-Za-z_]\w*)=(['\"]?)([\w./-]+)\2[ \t]*(?:$|;)")
_LONGEST = 10_000


def scripted(seats: Seats) -> tuple[Scripted, ...]:
    """For each line that takes in a file which a script writes: what can be read of that."""
    found = []
    wanted = [root for root in seats.roots if root.component is not None and "takes-in" in root.component.traits]
    for at in wanted:
        file = next((one.text for one in at.children if one.text), "")
        for script in seats.find(*_BEFORE, "body") if file else ():
            text = script.text or ""
            if file in text or _by_variable(file, text):
                sheet = Sheet(tuple(_commands(script, file, seats)))
                ours = chosen_by(text) is not None and only(script.parent, "--erroronfail", "body")
                found.append(Scripted(file, script, at, sheet, ours))
    return tuple(found)


def _by_variable(file: str, text: str) -> bool:
    return any(value == file for value in _variables(text).values())


class _Lines(FileReader):
    """Reads lines that a script writes; what stands in them stands where the script writes it."""

    def __init__(self, file: str, lines: list[tuple[int, str]], seats: Seats) -> None:
        super().__init__(file, own=seats.catalog.own)
        self.catalog, self.source = seats.catalog, SourceText("\n".join(line for _, line in lines))
        self.numbers = [number for number, _ in lines]

    def origin(self, offset: int) -> Origin:
        """Where the script has the line."""
        return Origin(self.file, self.numbers[self.source.position(offset)[0] - 1])


def _commands(script: Seat, file: str, seats: Seats) -> Iterator[Block]:
    interpreter = script.parent.child("--interpreter") if script.parent is not None else None
    if interpreter is not None and (interpreter.text or "").rpartition("/")[2] not in _SHELLS:
        return
    origin = script.place.origin
    said = _written(script.text or "", file)
    lines = [((origin.line or 1) + at, line) for at, text in said for line in text.replace("\\n", "\n").split("\n")]
    reader = _Lines(origin.file, lines, seats)
    for one in reader.source.statements if lines else ():
        yield reader.block(one)


def _variables(text: str) -> dict[str, str]:
    return {match[1]: match[3] for line in text.split("\n")[:_LONGEST] for match in _SETS.finditer(line[:_LONGEST])}


def _written(text: str, file: str) -> Iterator[tuple[int, str]]:
    """The lines that a script writes into a file, by the numbers of its own lines from 0."""
    known = _variables(text)
    lines = text.split("\n")
    at = 0
    while at < min(len(lines), _LONGEST):
        line = lines[at][:_LONGEST]
        document = _DOCUMENT.search(line) if not line.lstrip().startswith("#") else None
        if document is not None:
            mine = _into(line, known, file)
            at += 1
            while at < len(lines) and lines[at].strip("\t" if document[1] else "") != document[3]:
                if mine:
                    yield at, lines[at]
                at += 1
        elif _into(line, known, file) and (said := _said(line)):
            yield at, said
        at += 1


def _into(line: str, known: dict[str, str], file: str) -> bool:
    """Whether a line writes into the file."""
    for match in _INTO.finditer(line):
        name = match[2]
        if name.startswith("$"):
            name = known.get(name.strip("${}"), name)
        if name == file:
            return True
    return False


def _said(line: str) -> str:
    """What a line says with echo or printf, without its quotes."""
    match = _SAYS.search(line)
    if match is None:
        return ""
    try:
        words = split(line[match.end() :])
    except QuoteError:
        return ""
    out: list[str] = []
    for word in words:
        if word.text.startswith((">", "|", ";", "&")):
            break
        if out or word.text not in ("-e", "-n", "-en", "-ne", "--", "%s\\n"):
            out.append(word.text)
    return " ".join(out)
