"""The script that takes a draft's choices back, and what may not lie beside an answer file."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from fairledger.catalog.tidy import Chosen
from fairledger.model.errors import ContentError, RefusedError, WrongUseError
from fairledger.model.finding import Severity, reaches
from fairledger.storage.files import write_file
from fairledger.storage.looking import is_there
from fairledger.subject.subject import Subject

_WITH_MARK = ".ps1"
"""PowerShell takes a script without a mark for one of another encoding."""


class Undo(Struct, frozen=True):
    """A script that is still to be written."""

    path: Path
    data: bytes
    left: tuple[Chosen, ...]
    """The choices that it does not take back."""

    def write(self, *, replace: bool) -> None:
        """Writes it. Raises `RefusedError`, `FileTroubleError`."""
        write_file(self.path, self.data, replace=replace)


def undo_of(draft: Subject, path: Path, *, replace: bool) -> Undo:
    """The script for a file, by the ending of its name.

    Raises `WrongUseError` where there is nothing to take back, or the ending is of no script that the target runs;
    `RefusedError` if the file exists and may not be replaced.
    """
    target, resolved = draft.target, draft.draft
    assert target is not None
    assert resolved is not None
    chosen = draft.family.chosen(resolved.intent, target, draft.facts)
    if not any(one.undo != "none" for one in chosen):
        told = "the draft makes no choice that can be taken back" if chosen else "the draft makes no choice"
        remedy = "leave --undo out; fairledger show FILE --tidy tells what it changes"
        raise WrongUseError(told, file=draft.file, remedy=remedy)
    text = draft.family.taken_back(resolved.intent, target, path.suffix.lower())
    if not text:
        remedy = "name a file that ends with .ps1 or .cmd"
        raise WrongUseError(f"{target.name} runs no script {path.name}", remedy=remedy)
    if is_there(path) and not replace:
        raise RefusedError("the file exists already", file=str(path), remedy="allow it with --replace, or name another")
    data = text.replace("\n", "\r\n").encode("utf-8-sig" if path.suffix.lower() == _WITH_MARK else "utf-8")
    return Undo(path, data, tuple(one for one in chosen if one.undo == "none"))


def must_be_alone(draft: Subject) -> None:
    """Raises `RefusedError` where something would lie beside the answer file."""
    wrong = [one for one in draft.findings if reaches((one,), Severity.ERROR)]
    if wrong:
        raise ContentError(wrong)
    beside = draft.sheet.companions
    if not beside:
        return
    first = beside[0]
    more = f", and {len(beside) - 1} more" if len(beside) > 1 else ""
    told = f"this does not fit into the answer file alone, but needs {first.name} beside it{more}"
    remedy = "shorten it, or write without --single-file"
    raise RefusedError(told, file=first.origin.file, line=first.origin.line, remedy=remedy)
