"""Drafts and profiles as they stand in their files."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from fairledger.intent.disk import Partition
from fairledger.intent.part import Part
from fairledger.intent.sections import SECTION_NAMES
from fairledger.model.errors import ContentError
from fairledger.model.finding import Finding
from fairledger.model.places import NOWHERE, Origin
from fairledger.model.sheet import Extra
from fairledger.model.size import Size
from fairledger.model.suggest import did_you_mean
from fairledger.model.values import parse_text
from fairledger.profiles.decode import Decoder
from fairledger.profiles.raw import EMPTY, Array, Leaf, Raw, Table, parse
from fairledger.profiles.retired import modernised

FORMAT, OLDEST = 1, 1
"""The version of the file form that this program reads and writes."""


class DraftHead(Part, frozen=True, kw_only=True):
    """The table ``[draft]``."""

    target: str
    title: str = ""
    arch: str | tuple[str, ...] | None = None
    """Architecture of the machines, or several of them that one file serves."""
    firmware: Literal["uefi", "bios"] | None = None
    disk_size: Size | None = None
    disk_before: tuple[Partition, ...] = ()
    """What is on a machine's first disk today: the figure then shows before and after."""
    route: str | None = None
    """How the answer file reaches the installer."""
    medium: str | None = None
    """What the machines start from, or a file with facts of it: a path, from the draft's folder on."""
    profiles: tuple[str, ...] = ()
    written: dict[str, str] = {}  # noqa: RUF012 - a record copies it
    """Commands that are to be written by another of their names: part = "partition"."""


class ProfileHead(Part, frozen=True, kw_only=True):
    """The table ``[profile]``."""

    title: str = ""
    about: str = ""
    needs: tuple[str, ...] = ()


class VariantHead(Part, frozen=True, kw_only=True):
    """The table ``[variant.NAME.draft]``: facts that differ in a variant."""

    arch: str | None = None
    firmware: Literal["uefi", "bios"] | None = None
    disk_size: Size | None = None
    medium: str | None = None


class Silence(Struct, frozen=True):
    """A rule that is not to be heard at a place."""

    rule: str
    because: str
    at: str = ""
    """Part of an address; empty for everywhere."""
    origin: Origin = NOWHERE


class Layer(Struct, frozen=True):
    """What one profile, draft or variant says, its sections not yet decoded."""

    sections: Table = EMPTY
    answers: Table = EMPTY
    drop: tuple[Leaf, ...] = ()
    """Addresses of what is taken out of the layers below."""
    extra: tuple[Extra, ...] = ()
    """What an adopted file held beyond passes and components."""


class Document(Struct, frozen=True):
    """A draft or profile, read and looked through."""

    file: str
    head: DraftHead | ProfileHead
    layer: Layer
    raw: Table
    variants: dict[str, tuple[VariantHead, Layer]] = {}
    silences: tuple[Silence, ...] = ()
    values: dict[str, tuple[str, Origin]] = {}
    """What placeholders usually come to, by their names, with where that stands."""
    problems: tuple[Finding, ...] = ()
    """Of head and layout; empty unless they were to be tolerated."""
    told: tuple[Finding, ...] = ()
    """What only has to be said of them."""


def read_document(text: str, file: str, *, tolerant: bool = False) -> Document:
    """Reads a draft or a profile. Raises `ContentError` with every problem of head and layout.

    With ``tolerant`` they are handed on with the document as far as it could be read, so that others join them.
    """
    raw = parse(text, file)
    decoder = Decoder()
    raw = _examined(raw, decoder)
    heads = [name for name in ("draft", "profile") if name in raw.entries]
    head: DraftHead | ProfileHead | None = None
    if len(heads) != 1:
        told = "has both [draft] and [profile]" if heads else "has neither [draft] nor [profile]"
        decoder.problem(raw.origin, f"the file {told}", "a draft begins with [draft] and its target", "head-missing")
    elif heads[0] == "draft":
        head = decoder.table(raw.entries["draft"], DraftHead, ("draft",))
        head = head or (_plain_head(raw.entries["draft"]) if tolerant else None)
    else:
        head = decoder.table(raw.entries["profile"], ProfileHead, ("profile",))
    variants = _variants(raw, decoder) if heads == ["draft"] else {}
    silences = _silences(raw, decoder)
    values = _values(raw, decoder) if heads == ["draft"] else {}
    own = ("variant", "silence", "values") if heads == ["draft"] else ()
    layer = _layer(raw, ("format", "draft", "profile", *own), decoder)
    if head is None or (decoder.problems and not tolerant):
        raise ContentError(decoder.problems)
    return Document(file, head, layer, raw, variants, silences, values, tuple(decoder.problems), tuple(decoder.told))


def _plain_head(raw: Raw) -> DraftHead | None:
    """What of a faulty head is needed to look at the rest: target and profiles."""
    entries = raw.entries if isinstance(raw, Table) else {}
    target, profiles = entries.get("target"), entries.get("profiles")
    if not isinstance(target, Leaf) or not isinstance(target.value, str):
        return None
    named = profiles.items if isinstance(profiles, Array) else ()
    names = [one.value for one in named if isinstance(one, Leaf) and isinstance(one.value, str)]
    return DraftHead(target=target.value, profiles=tuple(names))


def _layer(raw: Table, besides: tuple[str, ...], decoder: Decoder) -> Layer:
    """Sections, answers and what is dropped; what else stands there is a problem."""
    known = (*besides, "drop", "answers", "extra", *SECTION_NAMES)
    for name, entry in raw.entries.items():
        if name not in known:
            decoder.problem(entry.origin, f"there is no section {name!r}", did_you_mean(name, known), "field-unknown")
    answers = raw.entries.get("answers", EMPTY)
    if not isinstance(answers, Table):
        decoder.problem(answers.origin, "answers must be tables", "write [answers.PASS.COMPONENT]")
        answers = EMPTY
    drop = raw.entries.get("drop", Array(()))
    addresses = [one for one in drop.items if isinstance(one, Leaf)] if isinstance(drop, Array) else []
    if not isinstance(drop, Array) or any(not isinstance(one.value, str) or not one.value for one in addresses):
        hint = 'write drop = ["account:observer", "oobeSystem:OOBE/HideEULAPage"]'
        decoder.problem(drop.origin, "drop must be a list of addresses", hint)
        addresses = []
    parts = {name: raw.entries[name] for name in SECTION_NAMES if name in raw.entries}
    return Layer(Table(parts, raw.origin), answers, tuple(addresses), _extras(raw, decoder))


def _silences(raw: Table, decoder: Decoder) -> tuple[Silence, ...]:
    """The tables ``[[silence]]``, each with its reason."""
    said = raw.entries.get("silence", Array(()))
    out = []
    for item in said.items if isinstance(said, Array) else (said,):
        parts = item.entries if isinstance(item, Table) else {}
        texts = {name: one.value for name, one in parts.items() if isinstance(one, Leaf) and isinstance(one.value, str)}
        if texts.get("rule") and texts.get("because", "").strip() and set(texts) == set(parts) <= _SILENCE:
            out.append(Silence(texts["rule"], texts["because"], texts.get("at", ""), item.origin))
        else:
            hint = 'write rule = "disk-wiped", because = "the desks are new", and at = "..." for one place only'
            decoder.problem(item.origin, "a silence names a rule and says because of what", hint)
    return tuple(out)


_SILENCE = {"rule", "because", "at"}


def _values(raw: Table, decoder: Decoder) -> dict[str, tuple[str, Origin]]:
    """The table ``[values]``: what a placeholder comes to where nobody fills it."""
    said = raw.entries.get("values", EMPTY)
    out = {}
    for name, one in said.entries.items() if isinstance(said, Table) else ():
        if (
            isinstance(one, Leaf)
            and isinstance(one.value, str)
            and "${" not in one.value
            and parse_text(f"${{{name}}}") != f"${{{name}}}"
        ):
            out[name] = (one.value, one.origin)
        else:
            told = f"values.{name} must be the plain text that is usually filled in for ${{{name}}}"
            decoder.problem(one.origin, told, 'write gateway = "192.0.2.1"')
    if not isinstance(said, Table):
        decoder.problem(said.origin, "values must be a table", 'write [values] and below it gateway = "192.0.2.1"')
    return out


def _extras(raw: Table, decoder: Decoder) -> tuple[Extra, ...]:
    """The tables ``[[extra]]``."""
    said = raw.entries.get("extra", Array(()))
    out = []
    for item in said.items if isinstance(said, Array) else (said,):
        parts = item.entries if isinstance(item, Table) else {}
        values = [one.value for one in (parts.get("place"), parts.get("text")) if isinstance(one, Leaf)]
        if set(parts) == {"place", "text"} and all(isinstance(one, str) for one in values) and len(values) == 2:
            out.append(Extra(values[0], values[1], item.origin))
        else:
            decoder.problem(item.origin, "extra must hold tables with place and text", "write [[extra]]")
    return tuple(out)


def _variants(raw: Table, decoder: Decoder) -> dict[str, tuple[VariantHead, Layer]]:
    """Named sets of overrides."""
    entry = raw.entries.get("variant", EMPTY)
    if not isinstance(entry, Table) or not all(isinstance(one, Table) for one in entry.entries.values()):
        decoder.problem(entry.origin, "variant must hold a table for each variant", "write [variant.NAME.disk]")
        return {}
    out = {}
    for name, table in entry.entries.items():
        assert isinstance(table, Table)
        said = table.entries.get("draft", EMPTY)
        head = decoder.table(said, VariantHead, ("variant", name, "draft")) or VariantHead()
        out[name] = (head, _layer(table, ("draft",), decoder))
    return out


def _examined(raw: Table, decoder: Decoder) -> Table:
    """The file in the newest form, with problems where it says none or one that nobody knows."""
    said = raw.entries.get("format")
    if said is None:
        decoder.problem(raw.origin, "the file does not say its format", f"begin it with format = {FORMAT}", "format")
    elif not isinstance(said, Leaf) or type(said.value) is not int:
        decoder.problem(said.origin, "format must be a whole number", f"write format = {FORMAT}", "format")
    elif not OLDEST <= said.value <= FORMAT:
        hint = f"this program reads format {FORMAT}; a newer one is needed for others"
        decoder.problem(said.origin, f"format {said.value} is unknown", hint, "format")
    elif said.value < FORMAT:
        decoder.tell(
            said.origin,
            f"format {said.value} is an older form; it is still read",
            f"change the names that are told, then write format = {FORMAT}",
            "format-old",
        )
        return modernised(raw, said.value, decoder)
    return raw
