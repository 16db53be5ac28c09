"""Resolving: a draft and its profiles become an intent and the direct answers, each with its origin."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.meant import target_named
from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.routes import routes_of
from fairledger.catalog.seats import Seat
from fairledger.intent.intent import Intent
from fairledger.intent.sections import items_at, sections
from fairledger.model.errors import ContentError, FileTroubleError, LedgerError, WrongUseError
from fairledger.model.facts import Facts, machine
from fairledger.model.finding import Finding, Severity
from fairledger.model.places import Origin
from fairledger.model.suggest import did_you_mean
from fairledger.model.target import Target
from fairledger.profiles.conflicts import conflicts
from fairledger.profiles.decode import Decoder
from fairledger.profiles.document import Document, DraftHead, Layer, ProfileHead, Silence, VariantHead, read_document
from fairledger.profiles.drops import is_section, without
from fairledger.profiles.library import Library
from fairledger.profiles.raw import EMPTY, Array, Leaf, Table, merged
from fairledger.storage.files import MOST_FILES, MOST_LEVELS, read_bytes, unmarked


class Resolved(Struct, frozen=True):
    """What a draft comes to."""

    file: str
    head: DraftHead
    target: Target
    facts: Facts
    intent: Intent
    layers: tuple[Layer, ...]
    """Direct answers by layer, and what each takes out of those below; the last one is the strongest."""
    profiles: tuple[tuple[str, str], ...]
    """Name and file of each profile, in the order in which they were laid."""
    own: Own = NOTHING
    """What is added to the catalog."""
    findings: tuple[Finding, ...] = ()
    """What should be told of the layers, although it does not hinder."""
    variants: tuple[str, ...] = ()
    """What variants the draft has."""
    silences: tuple[Silence, ...] = ()
    """Rules that the draft silences."""
    values: dict[str, tuple[str, Origin]] = {}
    """What placeholders usually come to, with where that stands."""
    variant: str = ""
    """The variant that was chosen."""
    read: tuple[tuple[str, bytes], ...] = ()
    """The files of the profiles, with what stood in them."""


class _Gathering:
    """Profiles in order, each once, those it needs before it."""

    def __init__(self, library: Library, leave_out: str = "") -> None:
        self.library = library
        self.leave_out = leave_out
        self.sources: dict[str, Document] = {}
        self.read: dict[str, bytes] = {}
        self.problems: list[Finding] = []

    def visit(self, name: str, asked: Origin, above: tuple[str, ...]) -> None:
        """Takes one in, after those it needs. Raises `FileTroubleError` where there are too many."""
        if name in above:
            way = " needs ".join([*above[above.index(name) :], name])
            self.problem(asked, f"a profile needs itself: {way}", "take one of them out of needs", "profile-cycle")
            return
        if name in self.sources or name == self.leave_out:
            return
        if len(above) >= MOST_LEVELS or len(self.sources) >= MOST_FILES:
            told = f"profiles need each other more than {MOST_LEVELS} deep"
            if len(above) < MOST_LEVELS:
                told = f"more than {MOST_FILES:,} profiles are built on"
            raise FileTroubleError(told, file=asked.file, line=asked.line, remedy="put them into fewer profiles")
        path = self.library.find(name)
        if path is None:
            self.problem(asked, f"there is no profile {name!r}", self.library.remedy(name), "profile-missing")
            return
        try:
            data = read_bytes(path)
            document = read_document(unmarked(data, str(path)), str(path))
        except ContentError as error:
            self.problems += [one for one in error.findings if one not in self.problems]
            return
        if not isinstance(document.head, ProfileHead):
            self.problem(
                asked,
                f"{name} is a draft, not a profile",
                "name a file with a [profile] head",
                "profile-missing",
            )
            return
        for at, needed in enumerate(document.head.needs):
            self.visit(needed, _origin_of(document, "profile", "needs", at), (*above, name))
        self.sources[name] = document
        self.read[str(path)] = data

    def problem(self, origin: Origin, message: str, hint: str, rule: str) -> None:
        self.problems.append(
            Finding(rule, Severity.ERROR, message, hint, file=origin.file, line=origin.line, column=origin.column)
        )


def _origin_of(document: Document, table: str, key: str, at: int) -> Origin:
    entry = document.raw.table(table).entries.get(key)
    if isinstance(entry, Array):
        return entry.items[at].origin
    return entry.origin if entry else document.raw.origin


class Selection(Struct, frozen=True, kw_only=True):
    """What is asked of a draft beyond what its file says."""

    variant: str = ""
    on_top: tuple[str, ...] = ()
    """Profiles that are laid last of all."""
    leave_out: str = ""
    """A profile that is left out, to see what it brings."""


def resolve(document: Document, library: Library, selection: Selection | None = None) -> Resolved:
    """Resolves a draft that was read, perhaps tolerantly. Raises `ContentError` with all problems, `WrongUseError`."""
    selection = selection or Selection()
    head = document.head
    assert isinstance(head, DraftHead)
    variant = _variant(document, selection.variant)
    problems: list[Finding] = list(document.problems)
    facts, target = _target(document, head, variant[0], problems)
    below, above = _Gathering(library, selection.leave_out), _Gathering(library)
    for at, name in enumerate(head.profiles):
        below.visit(name, _origin_of(document, "draft", "profiles", at), ())
    for name in selection.on_top:
        above.visit(name, Origin(), ())
    problems += [*below.problems, *above.problems]
    profiles = {**below.sources, **above.sources}
    layers = [
        *(one.layer for one in below.sources.values()),
        document.layer,
        variant[1],
        *(one.layer for one in above.sources.values()),
    ]
    told: list[Finding] = [*conflicts(below.sources), *document.told]
    told += [finding for one in profiles.values() for finding in one.told]
    whole = _merged(layers, told)
    decoder = Decoder()
    intent = decode_intent(whole, decoder)
    if library.own.choices:
        intent = replace(intent, own=library.own.choices)
    problems += decoder.problems
    told += decoder.told
    if problems or target is None:
        raise ContentError(sorted(problems, key=lambda one: one.sort_key))
    return Resolved(
        document.file,
        head,
        target,
        facts,
        intent,
        tuple(layers),
        tuple((name, one.file) for name, one in profiles.items()),
        library.own,
        tuple(told),
        tuple(document.variants),
        document.silences,
        document.values,
        selection.variant,
        tuple({**below.read, **above.read}.items()),
    )


def _variant(document: Document, name: str) -> tuple[VariantHead, Layer]:
    if not name:
        return VariantHead(), Layer()
    if name not in document.variants:
        listed = tuple(document.variants)
        remedy = did_you_mean(name, listed) or f"write [variant.{name}.SECTION], or leave --variant out"
        raise WrongUseError(f"the draft has no variant {name!r}", file=document.file, remedy=remedy, candidates=listed)
    return document.variants[name]


def _merged(layers: list[Layer], told: list[Finding]) -> Table:
    """All sections, one layer over the other, each after what it takes out of those below."""
    whole = EMPTY
    for layer in layers:
        for address in layer.drop:
            if not is_section(str(address.value)):
                continue  # answers are taken out when the sheet is there
            left = without(whole, str(address.value))
            if left is None:
                told.append(nothing_dropped(address))
            else:
                whole = left
        whole = merged(whole, layer.sections, items_at)
    return whole


def nothing_dropped(address: Leaf) -> Finding:
    """What is told of a drop that hits nothing."""
    told = f"drop takes nothing out: no layer below brings {address.value}"
    hint = "correct the address (fairledger show tells them), or take it out of drop"
    origin = address.origin
    return Finding(
        "drop-nothing", Severity.WARNING, told, hint, file=origin.file, line=origin.line, column=origin.column
    )


def asked_again(address: Leaf, seat: Seat) -> Finding:
    """What is told of a drop whose hit a later layer asks for."""
    told = f"drop does not reach {address.value}: {seat.node.origin} asks for it, which counts more"
    hint = "drop it there, or take it out of drop"
    origin = address.origin
    return Finding("drop-later", Severity.ADVICE, told, hint, file=origin.file, line=origin.line, column=origin.column)


def examine_profile(document: Document) -> tuple[Finding, ...]:
    """Every problem of a profile by itself."""
    decoder = Decoder()
    decode_intent(document.layer.sections, decoder)
    return (*decoder.problems, *document.told, *decoder.told)


def decode_intent(whole: Table, decoder: Decoder) -> Intent:
    """Typed sections from merged tables; problems gather in the decoder."""
    found = {}
    for section in sections():
        raw = whole.entries.get(section.name)
        if raw is None:
            continue
        if section.many:
            items = raw.items if isinstance(raw, Array) else (raw,)
            decoder.label(items, (section.name,))
            tables = [decoder.table(item, section.table, (section.name, at)) for at, item in enumerate(items)]
            value = tuple(table for table in tables if table is not None)
        else:
            value = decoder.table(raw, section.table, (section.name,))
        if value:
            found[section.name] = value
    return Intent(found, decoder.places)


def _target(
    document: Document, head: DraftHead, variant: VariantHead, problems: list[Finding]
) -> tuple[Facts, Target | None]:
    """The facts of draft and variant, and the target."""
    size = variant.disk_size or head.disk_size
    said = variant.arch or head.arch
    first, *others = (said,) if isinstance(said, str) or said is None else said or (None,)
    facts = machine(
        arch=first,
        firmware=variant.firmware or head.firmware,
        disk_mib=size.mib if size else None,
        route=head.route,
        medium=_from(document.file, variant.medium or head.medium),
    )
    try:
        target = target_named(head.target)
    except LedgerError as error:
        problems.append(_head_problem(document, "target", error.message, error.remedy, "target-unknown"))
        return facts, None
    routes = [one.name for one in routes_of(target)]
    if head.route is not None and head.route not in routes:
        told = f"there is no route {head.route!r} for {target.name}"
        hint = did_you_mean(head.route, routes) or f"there are {', '.join(routes)}"
        problems.append(_head_problem(document, "route", told, hint, "route-unknown"))
    for one in (first, *others):
        if one is not None and one not in target.architectures:
            hint = did_you_mean(one, target.architectures)
            told = f"{target.name} does not exist for {one!r}"
            problems.append(_head_problem(document, "arch", told, hint, "arch-unknown"))
    rest = tuple(dict.fromkeys(one for one in others if one is not None and one != first))
    if rest and not target.several:
        told, hint = f"a file for {target.name} is for one kind of machine", "name one architecture"
        problems.append(_head_problem(document, "arch", told, hint, "arch-unknown"))
    return replace(facts, arch=facts.arch or target.architectures[0], others=rest or None), target


def _from(file: str, medium: str | None) -> str | None:
    """A path that a draft names, which is meant from its own folder on."""
    return str(Path(file).parent / medium) if medium else None


def _head_problem(document: Document, key: str, message: str, hint: str, rule: str) -> Finding:
    entry = document.raw.table("draft").entries.get(key, Leaf(None))
    origin = entry.origin
    return Finding(rule, Severity.ERROR, message, hint, file=document.file, line=origin.line, column=origin.column)
