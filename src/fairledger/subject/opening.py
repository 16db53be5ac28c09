"""Opening: the one place in which a file becomes a subject, whatever it is."""

from __future__ import annotations

import re
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.common import Common
from fairledger.catalog.meant import target_named
from fairledger.catalog.own import NOTHING, Own
from fairledger.families.registry import family_named, family_of_file, family_surely
from fairledger.families.stamps import stamped_for
from fairledger.model.errors import ContentError, WrongUseError
from fairledger.model.facts import Facts
from fairledger.model.finding import Finding, Severity
from fairledger.model.target import Target
from fairledger.storage.files import read_bytes, unmarked
from fairledger.subject.subject import FileKind, Opened, Subject, usable

if TYPE_CHECKING:
    from fairledger.profiles.document import Document
    from fairledger.profiles.resolve import Resolved, Selection


class Asked(Struct, frozen=True, kw_only=True):
    """What is said along with a file."""

    target: str | None = None
    """Of an answer file; without it the file itself must tell."""
    facts: Facts = Facts()
    """They count more than those that a draft states."""
    root: Path | None = None
    """The folder in which files that an answer file takes in are looked for."""
    own: Own | None = None
    """What is added to the catalog; without it the folder ``catalog/`` beside a draft."""
    selection: Selection | None = None
    """What is asked of a draft beyond what its file says."""
    common: Common | None = None
    """Saves work where many answer files are much alike."""
    apart: bool = False
    """Whether what stands for several architectures in the same words stays apart, as whoever edits it needs."""


ALONE = Asked()
"""A file of which nothing is said."""


_OURS = re.compile(rb"(?:\xef\xbb\xbf)?(?:[ \t]*(?:#[^\n]*)?\n)*[ \t]*(?:format[ \t]*=|\[draft\]|\[profile\])")


def is_draft(data: bytes, path: Path) -> bool:
    """Whether a file is one of ours rather than an answer file."""
    return path.suffix.lower() == ".toml" or _OURS.match(data[:2_000]) is not None


def opened(path: Path, asked: Asked = ALONE, data: bytes | None = None) -> Subject:
    """A draft or an answer file; ``data`` is what stands in it, if somebody knows that already.

    Raises `ContentError` with all problems if it comes to nothing, `WrongUseError` for a profile, or a target that
    does not exist or is of another family, `FileTroubleError` if it cannot be read, `CatalogError`.
    """
    data = read_bytes(path) if data is None else data
    one = looked_at(path, asked, data)
    if one.kind is FileKind.PROFILE:
        raise WrongUseError("this is a profile, not a draft", file=one.file, remedy="name a draft that uses it")
    subject = usable(one)
    broken = [one for one in subject.findings if one.severity == Severity.ERROR]
    # a file with mistakes is still worth explaining, one of which nothing could be read is not
    nothing = not subject.sheet.blocks and not subject.sheet.extras
    if subject.kind is FileKind.ANSWERS and nothing and broken:
        raise ContentError(broken)
    return subject


def opened_answers(path: Path, asked: Asked = ALONE, data: bytes | None = None) -> Subject:
    """An answer file. Raises as `opened` does, and `WrongUseError` for a draft."""
    data = read_bytes(path) if data is None else data
    if is_draft(data, path):
        remedy = "name an answer file; a draft is carried to another release with: fairledger carry"
        raise WrongUseError("this is a draft or a profile already", file=str(path), remedy=remedy)
    return opened(path, asked, data)


def opened_draft(path: Path, asked: Asked = ALONE, data: bytes | None = None) -> Subject:
    """A draft. Raises as `opened` does, and `WrongUseError` for an answer file."""
    data = read_bytes(path) if data is None else data
    if not is_draft(data, path):
        remedy = (
            f"to read it: fairledger explain {path}; to make a draft of it: fairledger adopt {path} --out desk.toml"
        )
        raise WrongUseError("this is no draft", file=str(path), remedy=remedy)
    return opened(path, asked, data)


def looked_at(path: Path, asked: Asked = ALONE, data: bytes | None = None) -> Opened:
    """The same for any file, profiles and broken ones too, whose findings say what is wrong.

    Raises `WrongUseError` for a target that does not exist or is of another family, `FileTroubleError`, `CatalogError`.
    """
    data = read_bytes(path) if data is None else data
    if is_draft(data, path):
        return _drafted(data, path, asked)
    return _answers(data, path, asked)


def _answers(data: bytes, path: Path, asked: Asked) -> Subject:
    file, own, common = str(path), asked.own or NOTHING, asked.common
    if common is not None:
        # before a file is read, not while its nodes are in use
        common.make_room()
    if own is not NOTHING:
        common = None  # a catalog that belongs to this file alone
    told = target_named(asked.target) if asked.target else None
    if told is not None:
        _of_one_family(data, file, told)
    family = family_named(told.family if told else family_of_file(data, file))
    reading = family.read(data, file, asked.root, own, common)
    known, basis = told, "stated" if told else ""
    if known is None and (stamped := stamped_for(data, family.name)) is not None:
        known, basis = stamped, "its first lines say so"
    elif known is None and (guess := family.guess(reading)):
        known, basis = guess
    findings = list(reading.findings)
    other = family.disagrees(reading, told) if told else ""
    if told and other:
        hint = "leave --target out, or check the file that is meant"
        message = f"the file is checked for {told.name}, but {other}"
        findings.append(Finding("target-other", Severity.WARNING, message, hint, file=file, line=1, column=1))
    return Subject(
        path=path,
        data=data,
        kind=FileKind.ANSWERS,
        findings=tuple(findings),
        family=family,
        target=known,
        basis=basis,
        line=reading.hints.get("line", ""),
        catalog=catalog_of(family.name, known, own),
        facts=asked.facts,
        sheet=reading.sheet if asked.apart else reading.sheet.gathered(),
        common=reading.common,
    )


def _of_one_family(data: bytes, file: str, told: Target) -> None:
    """Raises `WrongUseError` if an answer file is beyond doubt of another family than the target stated for it."""
    looks = family_surely(data, file)
    if looks and looks != told.family:
        message = f"this is a file of the family {looks}, and the target {told.id} is of the family {told.family}"
        raise WrongUseError(message, file=file, remedy="name a target of that family, or leave --target out")


def _drafted(data: bytes, path: Path, asked: Asked) -> Opened:
    from fairledger.profiles.document import DraftHead, read_document
    from fairledger.profiles.library import Library
    from fairledger.profiles.resolve import examine_profile, resolve

    file = str(path)
    try:
        document = read_document(unmarked(data, file), file, tolerant=True)
    except ContentError as error:
        return Opened(path=path, data=data, kind=FileKind.DRAFT, findings=error.findings)
    if not isinstance(document.head, DraftHead):
        findings = (*document.problems, *examine_profile(document))
        return Opened(path=path, data=data, kind=FileKind.PROFILE, findings=findings, document=document)
    library = Library(path.parent, asked.own)
    try:
        resolved = resolve(document, library, asked.selection)
    except ContentError as error:
        return _broken(data, path, document, asked.own or library.own, error)
    return of_draft(resolved, path, data=data, document=document, facts=asked.facts)


def _broken(data: bytes, path: Path, document: Document, own: Own, error: ContentError) -> Opened:
    """A draft that comes to nothing; with its catalog, if its target at least is known."""
    from fairledger.catalog.targets import known_target
    from fairledger.profiles.document import DraftHead

    head = document.head
    target = known_target(head.target) if isinstance(head, DraftHead) else None
    if target is None:
        return Opened(path=path, data=data, kind=FileKind.DRAFT, findings=error.findings, document=document)
    return Subject(
        path=path,
        data=data,
        kind=FileKind.DRAFT,
        findings=error.findings,
        document=document,
        family=family_named(target.family),
        target=target,
        basis="stated",
        catalog=catalog_of(target.family, target, own),
        facts=Facts(),
        whole=False,
    )


def of_draft(
    resolved: Resolved, path: Path, *, data: bytes = b"", document: Document | None = None, facts: Facts = ALONE.facts
) -> Subject:
    """The subject of a draft that is resolved already."""
    from fairledger.subject.laying import laid

    target = resolved.target
    catalog = catalog_of(target.family, target, resolved.own)
    described = facts.over(resolved.facts)
    sheet, findings = laid(resolved, catalog, described)
    return Subject(
        path=path,
        data=data,
        kind=FileKind.DRAFT,
        findings=findings,
        document=document,
        family=family_named(target.family),
        target=target,
        basis="stated",
        catalog=catalog,
        facts=described,
        sheet=sheet,
        draft=resolved,
    )
