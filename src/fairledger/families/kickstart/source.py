"""Where the installation comes from, in the words of kickstart."""

from __future__ import annotations

from typing import Any

from msgspec import Struct

from fairledger.catalog.seats import Seat
from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.fields import on
from fairledger.families.kickstart.lines import command, has
from fairledger.intent.source import Repository, Source
from fairledger.model.finding import Severity

Rows = tuple[tuple[str, str], ...]
"""Fields with their options."""

_LISTS = (("mirrors", "--mirrorlist"), ("metalink", "--metalink"))
_KINDS: dict[str, tuple[str, Rows]] = {
    "url": ("url", (("url", "--url"), *_LISTS, ("proxy", "--proxy"))),
    "disc": ("cdrom", ()),
    "network-files": ("nfs", (("server", "--server"), ("folder", "--dir"))),
    "drive": ("harddrive", (("partition", "--partition"), ("folder", "--dir"))),
}
"""Kind of source: the command, and its fields with their options."""

_REPOSITORY = (("name", "--name"), ("url", "--baseurl"), *_LISTS, ("proxy", "--proxy"))


def canonical(value: Source, words: Words) -> Source | None:
    """The fields that the source's own command has."""
    fields: dict[str, Any] = {}
    if value.kind is not None and has(words, _KINDS[value.kind][0]):
        fields["kind"] = value.kind
        fields |= _held(value, *_KINDS[value.kind], words)
    if has(words, "repo"):
        kept = (_canonical_repository(one, words) for one in value.repository)
        fields["repository"] = tuple(kept)
    made = Source(**fields)
    return made if made != Source() else None


def _canonical_repository(one: Repository, words: Words) -> Repository:
    return Repository(**_held(one, "repo", _REPOSITORY, words), keep=one.keep or None)


def _held(value: Struct, name: str, rows: Rows, words: Words) -> dict[str, Any]:
    """The fields that the release's command has an option for."""
    return {field: getattr(value, field) for field, option in rows if words.catalog.setting(name, option) is not None}


def translate(value: Source, words: Words) -> None:
    """One command for the source, one line for each further repository."""
    known = value.kind is not None and has(words, _KINDS[value.kind][0])
    if known and value.kind is not None:
        name, fields = _KINDS[value.kind]
        block = words.out.block("setup", name, words.origin("source", "kind"))
        _put(block, value, name, fields, ("source",), words)
        others = {field for _, rows in _KINDS.values() for field, _ in rows} - {field for field, _ in fields}
        why = f"a source of the kind {value.kind} has nothing of the kind"
        words.leave_out(("source",), value, tuple(sorted(others)), why)
    elif value.kind is not None:
        why = "its installer takes what it needs from its own medium"
        words.cannot(("source", "kind"), f"a source of the kind {value.kind}", why, "leave it out", Severity.WARNING)
    for at, one in enumerate(value.repository):
        path = ("source", "repository", at)
        if not has(words, "repo"):
            why = "its installer knows no repositories"
            words.cannot(path, f"the repository {one.name}", why, "leave it out", Severity.WARNING)
            continue
        line = command(words, "repo", words.origin(*path))
        _put(line, one, "repo", _REPOSITORY, path, words)
        if one.keep:
            line.put("--install", "true", words.origin(*path, "keep"))


def _put(line: Any, value: Struct, name: str, rows: Rows, path: tuple[str | int, ...], words: Words) -> None:
    for field, setting in rows:
        if getattr(value, field) is not None and words.catalog.setting(name, setting) is not None:
            line.put(setting, getattr(value, field), words.origin(*path, field))


def recognise(reader: Reader) -> Source | None:
    """The first source command, and repositories."""
    fields: dict[str, Any] = {}
    for kind, (name, rows) in _KINDS.items():
        for root in reader.find("setup", name, ""):
            if "kind" in fields:
                continue
            fields["kind"] = kind
            _take(reader, root, rows, ("source",), fields)
            if not root.children:
                reader.take_block(root, "source", "kind")
            reader.places.setdefault(("source", "kind"), root.place)
    repositories: list[Repository] = []
    for root in reader.find("setup", "repo", ""):
        if not text_of(root.child("--name")):
            continue
        found: dict[str, Any] = {}
        path = ("source", "repository", len(repositories))
        reader.places[path] = root
        _take(reader, root, _REPOSITORY, path, found)
        if on(root, "--install"):
            found["keep"] = True
            reader.take(root.child("--install"), *path, "keep")
        repositories.append(Repository(**found))
    made = Source(**fields, repository=tuple(repositories))
    return made if made != Source() else None


def _take(reader: Reader, root: Seat, rows: Rows, path: tuple[str | int, ...], fields: dict[str, Any]) -> None:
    for field, setting in rows:
        text = text_of(root.child(setting))
        if text is not None:
            fields[field] = text
            reader.take(root.child(setting), *path, field)
