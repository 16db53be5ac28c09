"""Checks drafts and answer files alike: each becomes a sheet with an intent, and one set of rules runs."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.catalog import Catalog, catalog_of
from fairledger.catalog.common import Common
from fairledger.catalog.own import NOTHING, Own, beside
from fairledger.catalog.seats import Seats
from fairledger.catalog.targets import target_named
from fairledger.checks.rule import View, run
from fairledger.checks.silence import heard
from fairledger.families.build import recognise
from fairledger.families.registry import family_named, family_of_file
from fairledger.model.errors import ContentError
from fairledger.model.finding import Finding
from fairledger.model.sheet import Sheet
from fairledger.model.target import Facts, Target
from fairledger.storage.files import is_draft, read_bytes, read_text

if TYPE_CHECKING:
    from fairledger.profiles.resolve import Resolved, Wish


class Report(Struct, frozen=True):
    """What was found in one file."""

    file: str
    family: str | None
    target: Target | None
    basis: str
    """How the target is known: stated, or guessed from what."""
    findings: tuple[Finding, ...]
    """Worst first."""
    sheet: Sheet = Sheet()
    text: str = ""
    """The file's text, for showing lines."""
    own: Own = NOTHING
    """What was added to the catalog."""


def check_file(
    path: Path,
    *,
    target: str | None = None,
    facts: Facts | None = None,
    root: Path | None = None,
    own: Own | None = None,
    wish: Wish | None = None,
    common: Common | None = None,
) -> Report:
    """Checks a draft, a profile or an answer file. Raises `FileTroubleError`, `CatalogError` and `WrongUseError`.

    ``own`` adds to the catalog; without it the folder ``catalog/`` beside the file does. ``common`` saves work where
    many answer files are much alike.
    """
    data = read_bytes(path)
    if is_draft(data[:200].decode("utf-8", "replace"), path):
        return check_draft(read_text(path), path, own, wish)
    added = beside(path.parent) if own is None else own
    return check_answer_file(
        data, str(path), target=target, facts=facts or Facts(), root=root, own=added, common=common
    )


def check_draft(text: str, path: Path, own: Own | None = None, wish: Wish | None = None) -> Report:
    """Checks a draft, or a profile by itself."""
    from fairledger.profiles.draft import ProfileHead, read_source
    from fairledger.profiles.library import Library
    from fairledger.profiles.resolve import examine_profile, resolve_text

    file = str(path)
    try:
        source = read_source(text, file, tolerant=True)
        if isinstance(source.head, ProfileHead):
            findings = (*source.problems, *examine_profile(source))
            return Report(file, None, None, "a profile", _sorted(findings), text=text)
        resolved = resolve_text(text, file, Library(path.parent, own), wish)
    except ContentError as error:
        return Report(file, None, None, "", _sorted(error.findings), text=text)
    return check_resolved(resolved, text)


def check_resolved(resolved: Resolved, text: str = "") -> Report:
    """Checks what a draft came to."""
    from fairledger.subject.finish import finish

    target = resolved.target
    catalog = resolved.catalog()
    finished = finish(resolved, catalog)
    found = (*finished.findings, *findings_of(finished.sheet, catalog, target, resolved.facts))
    findings = heard(found, resolved.silences)
    return Report(resolved.file, target.family, target, "stated", _sorted(findings), finished.sheet, text, resolved.own)


def check_answer_file(
    data: bytes,
    file: str,
    *,
    target: str | None,
    facts: Facts,
    root: Path | None = None,
    own: Own = NOTHING,
    common: Common | None = None,
) -> Report:
    """Checks an answer file, whoever wrote it; with ``root`` also the files that it takes in from there."""
    if common is not None:
        common.make_room()
    if own is not NOTHING:
        common = None  # a catalog that belongs to this file alone
    told = target_named(target) if target else None
    family = family_named(told.family if told else family_of_file(data, file))
    reading = family.read(data, file, root, own, common)
    known, basis = told, "stated" if told else ""
    if known is None and (guess := family.guess(reading)):
        known, basis = guess
    catalog = catalog_of(family.name, known, own)
    findings = [*reading.findings]
    other = family.disagrees(reading, told) if told else ""
    if told and other:
        hint = "leave --target out, or check the file that is meant"
        message = f"the file is checked for {told.name}, but {other}"
        findings.append(Finding("target-other", "warning", message, hint, file=file, line=1, column=1))
    if reading.sheet.blocks:
        findings += findings_of(reading.sheet, catalog, known, facts, file, reading.common)
    named = [replace(one, file=file) if one.line and not one.file else one for one in findings]
    return Report(file, family.name, known, basis, _sorted(named), reading.sheet, own=own)


def findings_of(
    sheet: Sheet,
    catalog: Catalog,
    target: Target | None,
    facts: Facts,
    file: str = "",
    common: Common | None = None,
) -> Sequence[Finding]:
    """What the rules find in a sheet, which is that of an answer file if there is a name of one."""
    seats = Seats(sheet, catalog, common)
    recognised = recognise(sheet, catalog, target, seats)
    family = family_named(catalog.family)
    view = View(
        family, target, catalog, seats, recognised.intent, facts, family.limits(target), file, recognised.understood
    )
    found = run(view)
    seats.let_go()
    return found


def _sorted(findings: Sequence[Finding]) -> tuple[Finding, ...]:
    return tuple(sorted(dict.fromkeys(findings), key=lambda finding: finding.sort_key))
