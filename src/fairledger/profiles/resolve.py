"""Resolving: a draft and its profiles become an intent and the direct answers, each with its origin."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.targets import target_named
from fairledger.model.errors import ContentError, LedgerError, WrongUseError
from fairledger.model.finding import Finding
from fairledger.model.places import Origin
from fairledger.model.suggest import did_you_mean
from fairledger.model.target import Facts, Target
from fairledger.profiles.decode import Decoder
from fairledger.profiles.draft import DraftHead, ProfileHead, Source, read_source
from fairledger.profiles.files import read_text
from fairledger.profiles.intent import Intent
from fairledger.profiles.library import Library
from fairledger.profiles.raw import EMPTY, Array, Leaf, Table, merged
from fairledger.profiles.sections import list_key, sections


class Resolved(Struct, frozen=True):
    """What a draft comes to."""

    file: str
    head: DraftHead
    target: Target
    facts: Facts
    intent: Intent
    answers: tuple[Table, ...]
    """Direct answers by layer, the last one strongest."""
    profiles: tuple[tuple[str, str], ...]
    """Name and file of each profile, in the order in which they were laid."""
    own: Own = NOTHING
    """What is added to the catalog."""

    def catalog(self) -> Catalog:
        """The catalog of its target."""
        return Catalog(self.target.family, self.target, self.own)


class _Gathering:
    """Profiles in order, each once, those it needs before it."""

    def __init__(self, library: Library) -> None:
        self.library = library
        self.sources: dict[str, Source] = {}
        self.problems: list[Finding] = []

    def visit(self, name: str, asked: Origin, above: tuple[str, ...]) -> None:
        if name in above:
            way = " needs ".join([*above[above.index(name) :], name])
            self.problem(asked, f"a profile needs itself: {way}", "take one of them out of needs", "profile-cycle")
            return
        if name in self.sources:
            return
        path = self.library.find(name)
        if path is None:
            self.problem(asked, f"there is no profile {name!r}", self.library.remedy(name), "profile-missing")
            return
        try:
            source = read_source(read_text(path), str(path))
        except ContentError as error:
            self.problems += [one for one in error.findings if one not in self.problems]
            return
        if not isinstance(source.head, ProfileHead):
            self.problem(
                asked,
                f"{name} is a draft, not a profile",
                "name a file with a [profile] head",
                "profile-missing",
            )
            return
        for at, needed in enumerate(source.head.needs):
            self.visit(needed, _origin_of(source, "profile", "needs", at), (*above, name))
        self.sources[name] = source

    def problem(self, origin: Origin, message: str, hint: str, rule: str) -> None:
        self.problems.append(
            Finding(rule, "error", message, hint, file=origin.file, line=origin.line, column=origin.column)
        )


def _origin_of(source: Source, table: str, key: str, at: int) -> Origin:
    entry = source.raw.table(table).entries.get(key)
    if isinstance(entry, Array):
        return entry.items[at].origin
    return entry.origin if entry else source.raw.origin


def resolve_file(path: Path, library: Library | None = None) -> Resolved:
    """Resolves a draft's file. Raises `ContentError` with all problems, `FileTroubleError`, `WrongUseError`."""
    return resolve_text(read_text(path), str(path), library or Library(path.parent))


def resolve_text(text: str, file: str, library: Library) -> Resolved:
    """Resolves a draft's text; ``file`` is what its problems are reported under."""
    source = read_source(text, file)
    head = source.head
    if not isinstance(head, DraftHead):
        raise WrongUseError("this is a profile, not a draft", file=file, remedy="name a draft that uses it")
    problems: list[Finding] = []
    target = _target(source, head, problems)
    gathering = _Gathering(library)
    for at, name in enumerate(head.profiles):
        gathering.visit(name, _origin_of(source, "draft", "profiles", at), ())
    problems += gathering.problems
    layers = [*gathering.sources.values(), source]
    whole = EMPTY
    for layer in layers:
        whole = merged(whole, layer.sections, list_key)
    decoder = Decoder()
    intent = decode_intent(whole, decoder)
    problems += decoder.problems
    if problems or target is None:
        raise ContentError(sorted(problems, key=lambda one: one.sort_key))
    return Resolved(
        file,
        head,
        target,
        Facts(
            arch=head.arch or target.architectures[0],
            firmware=head.firmware,
            disk_mib=head.disk_size.mib if head.disk_size else None,
        ),
        intent,
        tuple(layer.answers for layer in layers if layer.answers.entries),
        tuple((name, one.file) for name, one in gathering.sources.items()),
        library.own,
    )


def examine_profile(source: Source) -> tuple[Finding, ...]:
    """Every problem of a profile by itself."""
    decoder = Decoder()
    decode_intent(source.sections, decoder)
    return tuple(decoder.problems)


def decode_intent(whole: Table, decoder: Decoder) -> Intent:
    """Typed sections from merged tables; problems gather in the decoder."""
    found = {}
    for section in sections():
        raw = whole.entries.get(section.name)
        if raw is None:
            continue
        if section.many_by:
            items = raw.items if isinstance(raw, Array) else (raw,)
            tables = [decoder.struct(item, section.table, (section.name, at)) for at, item in enumerate(items)]
            value = tuple(table for table in tables if table is not None)
        else:
            value = decoder.struct(raw, section.table, (section.name,))
        if value:
            found[section.name] = value
    return Intent(found, decoder.places)


def _target(source: Source, head: DraftHead, problems: list[Finding]) -> Target | None:
    try:
        target = target_named(head.target)
    except LedgerError as error:
        problems.append(_head_problem(source, "target", error.message, error.remedy, "target-unknown"))
        return None
    if head.arch is not None and head.arch not in target.architectures:
        hint = did_you_mean(head.arch, target.architectures)
        told = f"{target.name} does not exist for {head.arch!r}"
        problems.append(_head_problem(source, "arch", told, hint, "arch-unknown"))
    return target


def _head_problem(source: Source, key: str, message: str, hint: str, rule: str) -> Finding:
    entry = source.raw.table("draft").entries.get(key, Leaf(None))
    origin = entry.origin
    return Finding(rule, "error", message, hint, file=source.file, line=origin.line, column=origin.column)
