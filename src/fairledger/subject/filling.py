"""Drafts with some of their placeholders filled, to be looked at."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path

from msgspec.structs import replace

from fairledger.model.errors import WrongUseError
from fairledger.model.sheet import Block, Node
from fairledger.model.suggest import did_you_mean
from fairledger.model.values import Scalar, fill
from fairledger.subject.opening import Asked, opened
from fairledger.subject.subject import Subject, with_sheet


def opened_with(
    paths: Iterable[Path], asked: Asked, values: Mapping[str, str], data: Mapping[Path, bytes] | None = None
) -> tuple[Subject, ...]:
    """Drafts and answer files; a variant and values count for the drafts that have them. Raises as `opened`.

    Raises `WrongUseError` too where no file has the variant, or a placeholder that is to be filled.
    """
    subjects = [_with_variant(path, asked, (data or {}).get(path)) for path in paths]
    wanted = asked.selection.variant if asked.selection is not None else ""
    if wanted and all(one.draft is None or wanted not in one.draft.variants for one in subjects):
        known = [name for one in subjects if one.draft is not None for name in one.draft.variants]
        remedy = did_you_mean(wanted, known) or "leave --variant out"
        raise WrongUseError(f"no draft here has a variant {wanted!r}", remedy=remedy)
    blanks = {name for one in subjects for name in one.sheet.blanks()}
    for name in values:
        if name not in blanks:
            remedy = did_you_mean(name, blanks) or "nothing here has placeholders"
            raise WrongUseError(f"no placeholder is called {name!r}", remedy=remedy)
    return tuple(filled_with(one, values) for one in subjects)


def _with_variant(path: Path, asked: Asked, data: bytes | None) -> Subject:
    wanted = asked.selection.variant if asked.selection is not None else ""
    if not wanted:
        return opened(path, asked, data)
    assert asked.selection is not None
    plain = opened(path, replace(asked, selection=replace(asked.selection, variant="")), data)
    return opened(path, asked, data) if plain.draft is not None and wanted in plain.draft.variants else plain


def filled_with(subject: Subject, values: Mapping[str, str]) -> Subject:
    """A draft with values for its placeholders, and their usual ones for the rest; without values as it is."""
    if not values or subject.draft is None:
        return subject
    whole = {**{name: value for name, (value, _) in subject.draft.values.items()}, **values}

    def put(_: Block, __: Sequence[Node], value: Scalar) -> Scalar:
        try:
            return fill(value, whole)
        except ValueError as error:
            raise WrongUseError(str(error), file=subject.file, remedy="fill in another value") from error

    return with_sheet(subject, subject.sheet.map_values(put))
