"""Where the installation comes from, in the words of kickstart."""

from __future__ import annotations

from typing import Any

from msgspec import Struct

from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Rows, Words
from fairledger.families.kickstart.lines import has
from fairledger.families.table import Items, TableSection, item_rows
from fairledger.intent.source import Repository, Source
from fairledger.model.finding import Severity

_LISTS = (("mirrors", "--mirrorlist"), ("metalink", "--metalink"))
_KINDS: dict[str, tuple[str, Rows]] = {
    "url": ("url", (("url", "--url"), *_LISTS, ("proxy", "--proxy"))),
    "disc": ("cdrom", ()),
    "network-files": ("nfs", (("server", "--server"), ("folder", "--dir"))),
    "drive": ("harddrive", (("partition", "--partition"), ("folder", "--dir"))),
}
"""Kind of source: the command, and its fields with their options."""

_REPOSITORIES = TableSection(
    Source,
    "source",
    items=(
        Items(
            "repository",
            Repository,
            "setup",
            "repo",
            item_rows(
                "setup",
                "repo",
                ("name", "--name"),
                ("url", "--baseurl"),
                *_LISTS,
                ("proxy", "--proxy"),
                ("keep", "--install", "flag"),
            ),
        ),
    ),
)
"""A source's own command depends on its kind; the repositories beside it are a table."""


def canonical(value: Source, words: Words) -> Source | None:
    """The fields that the source's own command has."""
    fields: dict[str, Any] = {}
    if value.kind is not None and has(words, _KINDS[value.kind][0]):
        fields["kind"] = value.kind
        fields |= _held(value, *_KINDS[value.kind], words)
    fields["repository"] = _repositories(_REPOSITORIES.canonical(value, words))
    made = Source(**fields)
    return made if made != Source() else None


def _repositories(value: Source | None) -> tuple[Repository, ...]:
    return value.repository if value is not None else ()


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
    else:
        for field in sorted({field for _, rows in _KINDS.values() for field, _ in rows}):
            if getattr(value, field) is not None:
                why, instead = "nothing says of which kind the source is", 'add kind = "url", or another'
                words.cannot(("source", field), f"source.{field}", why, instead, Severity.WARNING)
    _REPOSITORIES.translate(Source(repository=value.repository), words)


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
            reader.take_fields(root, rows, ("source",), fields, text_of)
            if not root.children:
                reader.take_block(root, "source", "kind")
            reader.places.setdefault(("source", "kind"), root.place)
    made = Source(**fields, repository=_repositories(_REPOSITORIES.recognise(reader)))
    return made if made != Source() else None
