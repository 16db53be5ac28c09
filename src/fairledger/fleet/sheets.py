"""Tables out of spreadsheets (.xlsx), every cell as text; needs the extra package openpyxl."""

from __future__ import annotations

import datetime as dt
import itertools
import zipfile
from collections.abc import Iterator, Sequence
from io import BytesIO
from pathlib import Path
from typing import Any

from fairledger.fleet.table import MOST_CHARACTERS, MOST_COLUMNS, MOST_ROWS, Number, Table, head_of
from fairledger.model.errors import FileTroubleError, RefusedError
from fairledger.storage.files import read_bytes

_MOST_UNPACKED = 512 * 1024 * 1024
"""A spreadsheet is a packed folder; one that unpacks to more is refused."""


def open_sheet(path: Path) -> Table:
    """The first sheet of a spreadsheet. Raises `RefusedError` without the package, `FileTroubleError`."""
    try:
        import openpyxl
    except ImportError as error:
        told = "tables of a spreadsheet need the extra package openpyxl"
        raise RefusedError(told, file=str(path), remedy='install "fair-ledger[tables]", or save it as CSV') from error
    held = _examined(path)
    try:
        # the whole of it is never held: rows come one by one
        book = openpyxl.load_workbook(held, read_only=True, data_only=True, keep_links=False)
        sheet = book.worksheets[0]
        sheet.reset_dimensions()
        first = next((row for row in _rows(sheet) if any(row[1])), None)
    except (KeyError, IndexError, ValueError, zipfile.BadZipFile, OSError, AttributeError, TypeError) as error:
        raise FileTroubleError("the spreadsheet cannot be read", file=str(path), remedy="save it as CSV") from error
    if first is None:
        raise FileTroubleError("the table is empty", file=str(path), remedy="begin it with names of placeholders")
    head = head_of(_trimmed(first[1]), str(path), first[0])

    def rows() -> Iterator[tuple[int, list[str]]]:
        """The rows behind the head, as long as it is."""
        for line, cells in _rows(sheet):
            if line > first[0]:
                kept = _trimmed(cells)
                yield line, kept + [""] * (len(head) - len(kept)) if kept else []

    return Table(str(path), head, rows)


def _examined(path: Path) -> BytesIO:
    """The file, in memory. Raises `FileTroubleError` for what is no spreadsheet, or would unpack to too much."""
    held = BytesIO(read_bytes(path))
    try:
        with zipfile.ZipFile(held) as packed:
            size = sum(one.file_size for one in packed.infolist())
    except (zipfile.BadZipFile, ValueError, NotImplementedError) as error:
        raise FileTroubleError("this is no spreadsheet", file=str(path), remedy="save it as .xlsx or CSV") from error
    if size > _MOST_UNPACKED:
        raise FileTroubleError("the spreadsheet unpacks to more than 512 MiB", file=str(path), remedy="save it as CSV")
    return held


def _rows(sheet: Any) -> Iterator[tuple[int, list[str]]]:
    for line, row in enumerate(sheet.iter_rows(max_col=MOST_COLUMNS + 1), 1):
        if line > MOST_ROWS:
            return
        yield line, [_text(cell.value) for cell in row]


def _text(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, str):
        return value[: MOST_CHARACTERS + 1]
    if isinstance(value, bool):
        return Number("true" if value else "false")
    if isinstance(value, float):
        return Number(int(value) if value.is_integer() and abs(value) < 1e15 else value)
    if isinstance(value, dt.datetime):
        midnight = value.time() == dt.time()
        return Number(value.date().isoformat() if midnight else value.isoformat(sep=" "))
    return Number(value)


def _trimmed(cells: Sequence[str]) -> list[str]:
    """A row without the empty cells at its end, which a spreadsheet keeps where a format reaches further."""
    return [*itertools.dropwhile(lambda cell: not cell, reversed(cells))][::-1]
