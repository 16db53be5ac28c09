"""Opening tables of any form."""

from __future__ import annotations

from pathlib import Path

from fairledger.fleet.table import Table, separated_table

SPREADSHEETS = (".xlsx", ".xlsm")


def open_table(path: Path, encoding: str | None = None) -> Table:
    """A table of separated values, or of a spreadsheet by its ending.

    Raises `FileTroubleError` where it is none, `WrongUseError` for an encoding that nobody knows, `RefusedError`
    where a spreadsheet cannot be read here.
    """
    if path.suffix.lower() in SPREADSHEETS:
        from fairledger.fleet.sheets import open_sheet

        return open_sheet(path)
    return separated_table(path, encoding)
