"""The errors a user can meet, sorted by what can be done about them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from fairledger.model.finding import Finding


class LedgerError(Exception):
    """An expected error: one sentence, where it happened, and what to do.

    Fields: ``message`` (without place or remedy), ``file``, ``line`` (1-based) and ``remedy``, each of
    which but the first may be missing.
    """

    def __init__(self, message: str, *, file: str | None = None, line: int | None = None, remedy: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.file = file
        self.line = line
        self.remedy = remedy

    def __reduce__(self) -> tuple[Any, ...]:
        """It may come from another process, and is then the same."""
        return _again, (type(self), self.args, self.__dict__)

    def sentence(self) -> str:
        """The whole message in one line: ``FILE:LINE: what is wrong; what to do``."""
        place = f"{self.file}:" if self.file else ""
        if self.file and self.line:
            place += f"{self.line}:"
        text = f"{place} {self.message}".strip()
        return f"{text}; {self.remedy}" if self.remedy else text


def _again(kind: type[LedgerError], args: tuple[Any, ...], fields: dict[str, Any]) -> LedgerError:
    made = kind.__new__(kind, *args)
    made.__dict__.update(fields)
    return made


class WrongUseError(LedgerError):
    """The command was called in a way that cannot work: exit status 2.

    ``candidates`` are the names that would have been possible, best first.
    """

    def __init__(
        self,
        message: str,
        *,
        remedy: str = "",
        candidates: Sequence[str] = (),
        file: str | None = None,
        line: int | None = None,
    ) -> None:
        super().__init__(message, remedy=remedy, file=file, line=line)
        self.candidates = tuple(candidates)


class UnsaidError(WrongUseError):
    """Something that somebody has to say before anything can be done; it is asked for once, not for each machine."""


class FileTroubleError(LedgerError):
    """A file cannot be read or written, is no text, or exceeds a limit: exit status 3."""


class RefusedError(LedgerError):
    """Refused for safety: would overwrite, would expose, or a secret is not to be had. Exit status 4."""


class ChangedError(RefusedError):
    """Somebody else changed the file since it was read, and that change would be lost."""


class ContentError(LedgerError):
    """A readable file holds something wrong: exit status 1. Carries every problem as a finding."""

    def __init__(self, findings: Sequence[Finding]) -> None:
        first = findings[0]
        super().__init__(first.message, file=first.file, line=first.line, remedy=first.hint)
        self.findings = tuple(findings)


class CatalogError(LedgerError):
    """A catalog file is broken. A broken catalog is an error, never an empty one. Exit status 3."""
