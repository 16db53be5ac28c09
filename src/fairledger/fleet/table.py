"""Tables with a head line: read cell by cell as text, whatever program wrote them, and written again."""

from __future__ import annotations

import codecs
import csv
import io
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from hashlib import sha256
from pathlib import Path

from msgspec import Struct

from fairledger.model.errors import FileTroubleError, WrongUseError
from fairledger.model.showing import quoted
from fairledger.storage.files import MOST_BYTES, read_bytes

MOST_COLUMNS = 1_000
MOST_CHARACTERS = 131_072
"""The most that one cell may hold."""
MOST_ROWS = 1_000_000
SEPARATORS = (",", ";", "\t")
STDIN = Path("-")
"""Instead of a file: what is piped in."""


class Row(Struct, frozen=True, gc=False):
    """A row of a table."""

    number: int
    """From 1, the head not counted."""
    line: int
    """Where it begins in the file, from 1."""
    cells: tuple[str, ...]


class Number(str):
    """A cell that a spreadsheet holds as a number or a date, as it would be written."""

    __slots__ = ()


class Fault(Struct, frozen=True):
    """What is wrong with a row as such."""

    number: int
    line: int
    told: str
    hint: str


class Table:
    """A table that was opened: its head is read, its rows come one by one, as often as they are asked for."""

    def __init__(
        self, file: str, head: tuple[str, ...], rows: Callable[[], Iterator[tuple[int, Sequence[str]]]]
    ) -> None:
        self.file = file
        self.head = head
        self.path = Path(file)
        self._rows = rows
        self.last = 0
        """The number of the last row, as far as the rows were read."""
        self.faults: list[Fault] = []
        """What was wrong with rows that were passed over, as far as the rows were read."""

    def count(self) -> int:
        """How many rows there are. Raises `FileTroubleError`."""
        for _ in self:
            pass
        return self.last

    def digest(self) -> str:
        """The SHA-256 of what stands in it, however it is written. Raises `FileTroubleError`."""
        told = sha256("\0".join(self.head).encode("utf-8", "surrogatepass"))
        for row in self:
            told.update(("\n" + "\0".join(row.cells)).encode("utf-8", "surrogatepass"))
        return told.hexdigest()

    def __iter__(self) -> Iterator[Row]:
        """The rows; those that are empty or of another length are faults. Raises `FileTroubleError`."""
        number, self.faults = 0, []
        self.last = 0
        for line, cells in self._rows():
            if not any(cells):
                if cells:
                    self.faults.append(Fault(number + 1, line, "the row is empty", "take it out"))
                continue
            number += 1
            self.last = number
            if number > MOST_ROWS:
                told = f"the table has more than {MOST_ROWS:,} rows"
                raise FileTroubleError(told, file=self.file, remedy="put them into several tables")
            if len(cells) != len(self.head):
                told = f"the row has {len(cells)} cells, and the head has {len(self.head)}"
                hint = "put quotes around a cell that holds the separator, or mend the row"
                self.faults.append(Fault(number, line, told, hint))
                continue
            yield Row(number, line, tuple(cells))


def separated_table(path: Path, encoding: str | None = None) -> Table:
    """A table of separated values; of what is piped in for ``-``.

    Raises `FileTroubleError` where it is none, `WrongUseError` for an encoding that nobody knows.
    """
    file = "the table" if path == STDIN else str(path)
    text = _decoded(_piped() if path == STDIN else read_bytes(path), file, encoding)
    if "\0" in text:
        line = text.count("\n", 0, text.index("\0")) + 1
        raise FileTroubleError("the table holds a NUL", file=file, line=line, remedy="is it a table of text?")

    def rows() -> Iterator[tuple[int, Sequence[str]]]:
        """The rows behind the head."""
        every = _separated(text, file)
        next((row for row in every if any(row[1])), None)
        return every

    first = next((row for row in _separated(text, file) if any(row[1])), None)
    if first is None:
        raise FileTroubleError("the table is empty", file=file, remedy="begin it with a line of names of placeholders")
    return Table(file, head_of(first[1], file, first[0]), rows)


def head_of(cells: Sequence[str], file: str, line: int = 1) -> tuple[str, ...]:
    """The names in a head line. Raises `FileTroubleError` where one is missing or stands twice."""
    head = tuple(one.strip() for one in cells)
    if len(head) > MOST_COLUMNS:
        told = f"the table has more than {MOST_COLUMNS:,} columns"
        raise FileTroubleError(told, file=file, line=line, remedy="is it the right file?")
    for name, times in Counter(head).items():
        if not name:
            told, remedy = "a column has no name", "name it after a placeholder, or take it out"
            raise FileTroubleError(told, file=file, line=line, remedy=remedy)
        if times > 1:
            told = f"{times} columns are named {quoted(name)}"
            raise FileTroubleError(told, file=file, line=line, remedy="leave one of them")
    return head


def _piped() -> bytes:
    import sys

    data = sys.stdin.buffer.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise FileTroubleError("the table is larger than 64 MiB", file="the table", remedy="is it the right one?")
    return data


def _decoded(data: bytes, file: str, encoding: str | None) -> str:
    if encoding is not None:
        try:
            codecs.lookup(encoding).incrementaldecoder  # noqa: B018 - some codecs are none of text
            return data.decode(encoding)
        except LookupError as error:
            told = f"nobody knows the encoding {quoted(encoding)}"
            raise WrongUseError(told, remedy="such as cp1252, iso-8859-15 or utf-16") from error
        except (UnicodeError, ValueError) as error:
            raise FileTroubleError(f"the table is not {encoding}", file=file, remedy="name another encoding") from error
    marks = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))
    for mark, name in marks:
        if data.startswith(mark):
            return _strictly(data[len(mark) :], name, file)
    return _strictly(data, "utf-8", file)


def _strictly(data: bytes, name: str, file: str) -> str:
    try:
        return data.decode(name)
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        remedy = "save it as UTF-8, or name its encoding: --encoding cp1252"
        raise FileTroubleError(f"the table is not {name.upper()} text", file=file, line=line, remedy=remedy) from error


def _separated(text: str, file: str) -> Iterator[tuple[int, Sequence[str]]]:
    """The lines' numbers and cells."""
    csv.field_size_limit(MOST_CHARACTERS)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=_separator(text), strict=True)
    while True:
        line = reader.line_num + 1
        try:
            cells = next(reader)
        except StopIteration:
            return
        except csv.Error as error:
            raise _broken(error, file, line) from error
        yield line, cells


def _broken(error: csv.Error, file: str, line: int) -> FileTroubleError:
    said = str(error)
    if "field larger" in said:
        told = f"a cell holds more than {MOST_CHARACTERS:,} characters"
        return FileTroubleError(told, file=file, line=line, remedy="is a quote missing?")
    if "unexpected end" in said:
        return FileTroubleError("a quote is opened here and never closed", file=file, line=line, remedy="close it")
    return FileTroubleError(
        "the quotes in this row are not clear", file=file, line=line, remedy='write "" for a quote in quotes'
    )


def _separator(text: str) -> str:
    """The separator that stands most often in the first line with anything in it, outside of quotes."""
    first = next((line for line in text.split("\n", 100) if line.strip()), "")
    outside = "".join(first.split('"')[::2])
    return max(SEPARATORS, key=outside.count)


def table_text(head: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """A table as text: commas, one line a row. No cell begins so that a spreadsheet would run it; see `runs`."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(head)
    writer.writerows(rows)
    return out.getvalue()


def runs(cell: str) -> bool:
    """Whether a spreadsheet would take a cell for a formula."""
    return cell[:1] in ("=", "+", "-", "@", "\t", "\r") and not _is_number(cell)


def _is_number(cell: str) -> bool:
    return cell[1:].replace(".", "", 1).isdecimal() and cell[:1] in "+-"
