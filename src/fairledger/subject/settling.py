"""A subject as what it means: its secrets fetched and in one spelling, its placeholders filled, its scripts read."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace

from fairledger.model.errors import LedgerError
from fairledger.model.sheet import Block, Node, Sheet
from fairledger.model.values import Scalar, SecretRef
from fairledger.profiles.secrets import Secrets
from fairledger.profiles.seed import for_comparing
from fairledger.storage.files import read_text
from fairledger.storage.looking import is_file
from fairledger.subject.subject import FileKind, Subject, with_sheet

Fetch = Callable[[SecretRef], str | None]
"""A secret, or None if it is not to be had."""


def fetching(folder: Path) -> Fetch:
    """Fetches what is to be had without asking anybody; relative files are looked for in the folder."""
    secrets = Secrets(folder)

    def fetch(ref: SecretRef) -> str | None:
        try:
            return secrets.fetch(ref, "")
        except LedgerError:
            return None

    return fetch


def settled(
    subject: Subject, fetch: Fetch | None = None, filled: Callable[[Scalar], Scalar] = lambda value: value
) -> Subject:
    """A subject that can be compared. Secrets that ``fetch`` does not have stay references."""
    fetch = fetch or fetching(subject.path.parent)
    family = subject.family
    if subject.kind is FileKind.ANSWERS:
        return with_sheet(subject, family.unveiled(with_companions(subject).sheet).gathered())
    plains: dict[str, str] = {}

    def reveal(block: Block, way: tuple[Node, ...], value: Scalar) -> Scalar:
        whole = filled(value)
        plain = fetch(whole) if isinstance(whole, SecretRef) else None
        if not isinstance(whole, SecretRef) or plain is None:
            return whole
        hidden = family.conceal(block, way, plain, form=whole.form, salt=for_comparing)
        # two hashes of one password differ: only the password tells that they mean the same
        if whole.form == "plain":
            plains[hidden] = plain
        return hidden

    sheet = family.unveiled(subject.sheet.map_values(reveal)).gathered()
    return replace(with_sheet(subject, sheet), plains=plains)


def with_companions(subject: Subject) -> Subject:
    """An answer file with the scripts that it calls and that lie beside it; those that are not there are left out."""
    there = []
    for name in subject.family.companions_of(subject.sheet) if subject.kind is FileKind.ANSWERS else ():
        path = subject.path.parent / name
        if is_file(path):
            try:
                there.append(subject.family.companion(name, read_text(path).replace("\r\n", "\n")))
            except LedgerError:
                continue
    if not there:
        return subject
    return with_sheet(subject, Sheet(subject.sheet.blocks, subject.sheet.extras, tuple(there)))
