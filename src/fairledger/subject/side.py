"""One file, draft or answer file, as what it means: a sheet with its secrets settled, and the intent behind it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.own import NOTHING, Own, beside
from fairledger.catalog.targets import all_targets, target_named
from fairledger.families.build import Recognised, recognise
from fairledger.families.interface import Family, Reading
from fairledger.families.registry import family_named, family_of_file
from fairledger.model.errors import ContentError, LedgerError, WrongUseError
from fairledger.model.finding import Finding
from fairledger.model.sheet import Block, Companion, Node, Sheet
from fairledger.model.target import Target
from fairledger.model.values import Scalar, SecretRef
from fairledger.profiles.secrets import Secrets
from fairledger.storage.files import is_draft, read_bytes, read_text

if TYPE_CHECKING:
    from fairledger.profiles.resolve import Resolved


class Side(Struct, frozen=True):
    """A file, understood."""

    file: str
    family: Family
    target: Target | None
    basis: str
    """How the target is known: stated, guessed from what, or taken for want of a better one."""
    catalog: Catalog
    sheet: Sheet
    found: Recognised
    plains: dict[str, str] = {}
    """Secrets behind hashes, where a draft says them; never shown."""
    draft: bool = False
    line: str = ""
    """The line of releases that an answer file seems to be for."""
    findings: tuple[Finding, ...] = ()


def load(path: Path, *, target: str | None = None, own: Own | None = None) -> Side:
    """A draft or an answer file. Raises `ContentError` where it cannot be understood, `FileTroubleError`."""
    data = read_bytes(path)
    added = beside(path.parent) if own is None else own
    if is_draft(data[:200].decode("utf-8", "replace"), path):
        return _draft(path, added)
    return read_side(data, path, target=target, own=added)


def read_side(data: bytes, path: Path, *, target: str | None = None, own: Own = NOTHING) -> Side:
    """An answer file. Raises `ContentError` if nothing of it can be read."""
    family, reading, known, basis = made_out(data, path, target, own)
    broken = [one for one in reading.findings if one.severity == "error"]
    if not reading.sheet.blocks and broken:
        raise ContentError(broken)
    catalog = Catalog(family.name, known, own)
    sheet = family.unveiled(with_companions(reading.sheet, family, path.parent))
    found = recognise(sheet, catalog, known)
    return Side(
        str(path),
        family,
        known,
        basis,
        catalog,
        sheet,
        found,
        findings=reading.findings,
        line=reading.hints.get("line", ""),
    )


def made_out(data: bytes, path: Path, target: str | None, own: Own) -> tuple[Family, Reading, Target | None, str]:
    """The family of an answer file, what was read, and its target, stated or guessed."""
    told = target_named(target) if target else None
    if is_draft(data[:200].decode("utf-8", "replace"), path):
        remedy = "name an answer file; a draft is carried to another release with: fairledger carry"
        raise WrongUseError("this is a draft or a profile already", file=str(path), remedy=remedy)
    looks = family_of_file(data, str(path))
    if told is not None and told.family != looks:
        remedy = "name a target of that family, or leave --target out"
        raise WrongUseError(f"the file is of the family {looks}, {told.name} is not", file=str(path), remedy=remedy)
    family = family_named(looks)
    reading = family.read(data, str(path), own=own)
    if told is not None:
        return family, reading, told, "stated"
    guess = family.guess(reading)
    return (family, reading, *guess) if guess else (family, reading, None, "")


def newest(family: str, line: str) -> Target:
    """The newest certain release of a line, else of the family's first: what a file is taken for that does not say."""
    own = [one for one in all_targets() if one.family == family and one.sure]
    return [one for one in own if one.line == (line or own[0].line)][-1]


def with_companions(sheet: Sheet, family: Family, folder: Path) -> Sheet:
    """A sheet with the scripts that it calls and that lie beside it; those that are not there are left out."""
    there = []
    for name in family.companions_of(sheet):
        path = folder / name
        if path.is_file():
            try:
                there.append(Companion(name, read_text(path).replace("\r\n", "\n")))
            except LedgerError:
                continue
    return Sheet(sheet.blocks, sheet.extras, tuple(there)) if there else sheet


def _draft(path: Path, own: Own) -> Side:
    from fairledger.profiles.library import Library
    from fairledger.profiles.resolve import resolve_file

    secrets = Secrets(path.parent)

    def fetch(ref: SecretRef) -> str | None:
        try:
            return secrets.fetch(ref, "")
        except LedgerError:
            return None

    return side_of(resolve_file(path, Library(path.parent, own)), fetch)


def side_of(
    resolved: Resolved,
    fetch: Callable[[SecretRef], str | None],
    filled: Callable[[Scalar], Scalar] = lambda value: value,
) -> Side:
    """A resolved draft. Secrets that ``fetch`` does not have stay references."""
    from fairledger.subject.finish import finish

    catalog = resolved.catalog()
    family = family_named(resolved.target.family)
    plains: dict[str, str] = {}

    def settled(block: Block, way: tuple[Node, ...], value: Scalar) -> Scalar:
        whole = filled(value)
        plain = fetch(whole) if isinstance(whole, SecretRef) else None
        if not isinstance(whole, SecretRef) or plain is None:
            return whole
        hidden = family.conceal(block, way, plain, form=whole.form, machine="")
        if whole.form == "plain":
            plains[hidden] = plain
        return hidden

    finished = finish(resolved, catalog)
    sheet = family.unveiled(finished.sheet.map_values(settled))
    found = recognise(sheet, catalog, resolved.target)
    findings = tuple(one for one in finished.findings if one.severity == "error")
    return Side(
        resolved.file, family, resolved.target, "stated", catalog, sheet, found, plains, draft=True, findings=findings
    )
