"""An answer file that is to become a draft: for which release, and whether it is not too much."""

from __future__ import annotations

from pathlib import Path

from msgspec.structs import replace

from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.fitting import newest_fitting
from fairledger.catalog.own import NOTHING
from fairledger.storage.files import too_many
from fairledger.subject.opening import Asked, opened_answers
from fairledger.subject.settling import settled
from fairledger.subject.subject import Subject, with_sheet

MOST_VALUES = 100_000
"""A draft of more would not be read by anybody, and takes more than 500 MB to prove."""


def to_take_up(path: Path, asked: Asked, data: bytes) -> tuple[Subject, str]:
    """The settled file, and on what its target rests. Raises `ContentError`, `FileTroubleError` for too large ones."""
    side = opened_answers(path, asked, data)
    basis, own = side.basis, asked.own or NOTHING
    if side.target is None:
        known, why = newest_fitting(side.sheet, side.family.name, side.line, own)
        basis = "the file does not say for which release it is; taken for "
        basis += f"{known.name}" + (f" ({why})" if why else "") + ", say --target where that is wrong"
        side = replace(side, target=known, catalog=catalog_of(side.family.name, known, own))
    side = settled(side)
    side = with_sheet(side, side.sheet.as_in(side.sheet))
    if sum(1 for _ in side.seats) > MOST_VALUES:
        raise too_many(side.file, "values, which is more than can be taken up", MOST_VALUES)
    return side, basis
