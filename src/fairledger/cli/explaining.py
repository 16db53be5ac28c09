"""Explaining a file: all that is printed of it, made where the file is read."""

from __future__ import annotations

import io
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import msgspec
from msgspec import Struct

from fairledger.catalog.secrecy import is_secret
from fairledger.checks.against import against_medium
from fairledger.cli.against import against_json, sentences, show_against
from fairledger.cli.console import Console
from fairledger.cli.story import as_json, page, show
from fairledger.events.story import story_of
from fairledger.model.errors import LedgerError
from fairledger.model.showing import passwords_in
from fairledger.subject.filling import opened_with
from fairledger.subject.opening import Asked
from fairledger.subject.subject import Subject


class Explained(Struct, frozen=True):
    """A file that was explained, or why it could not be."""

    text: str = ""
    data: dict[str, Any] = {}
    """For machines."""
    trouble: LedgerError | None = None


class Explaining(Struct, frozen=True):
    """How each file is explained, for this terminal."""

    asked: Asked
    values: Mapping[str, str]
    form: str
    coloured: bool
    width: int

    def __call__(self, path: Path, data: bytes | None = None) -> Explained:
        """A file, or what stands in none, explained."""
        try:
            (subject,) = opened_with([path], self.asked, self.values, {path: data} if data is not None else None)
            return self._of(subject)
        except LedgerError as error:
            return Explained(trouble=error)

    def _of(self, subject: Subject) -> Explained:
        told, medium = story_of(subject), against_medium(subject)
        if self.form == "json":
            return Explained(data=msgspec.to_builtins({**as_json(told), **against_json(medium)}))
        if self.form == "html":
            secret = bool(passwords_in(subject.text)) or any(is_secret(seat) and seat.value for seat in subject.seats)
            lines = [text for _, text in sentences(medium)] if medium is not None else []
            return Explained(page(told, subject.data, secret=secret, medium=lines).rstrip("\n") + "\n")
        out = io.StringIO()
        console = Console(colour="always" if self.coloured else "never", out=out)
        console.width = self.width
        show(told, console)
        if medium is not None:
            console.say()
            show_against(medium, console)
        return Explained(out.getvalue())
