"""Where the installation comes from, in the words of kickstart."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.lines import has
from fairledger.families.table import Items, Row, TableSection, item_rows
from fairledger.intent.source import Repository, Source
from fairledger.model.finding import Severity

_LISTS = (("mirrors", "--mirrorlist"), ("metalink", "--metalink"))
_PAPERS = (
    ("authority", "--sslcacert"),
    ("client_certificate", "--sslclientcert"),
    ("client_key", "--sslclientkey"),
)


def _of(kind: str, command: str, *rows: tuple[str, str], off: tuple[tuple[str, str], ...] = ()) -> TableSection:
    """A kind of source: its command, the fields with their options, and those whose option says that they are false."""
    return TableSection(
        Source,
        "source",
        (
            Row("kind", "setup", command, "", "word", kind),
            *(Row(field, "setup", command, option) for field, option in rows),
            *(Row(field, "setup", command, option, "word", False) for field, option in off),
        ),
    )


_VERIFY = ("verify", "--noverifyssl")
_PROXY = ("proxy", "--proxy")
_KINDS: dict[str, TableSection] = {
    "url": _of("url", "url", ("url", "--url"), *_LISTS, _PROXY, *_PAPERS, off=(_VERIFY,)),
    "disc": _of("disc", "cdrom"),
    "network-files": _of("network-files", "nfs", ("server", "--server"), ("folder", "--dir")),
    "drive": _of("drive", "harddrive", ("partition", "--partition"), ("folder", "--dir")),
    "image": _of("image", "liveimg", ("url", "--url"), _PROXY, ("checksum", "--checksum"), off=(_VERIFY,)),
    "tree": _of(
        "tree",
        "ostreesetup",
        ("url", "--url"),
        ("name", "--osname"),
        ("remote", "--remote"),
        ("branch", "--ref"),
        off=(("signed", "--nogpg"),),
    ),
    "container": _of(
        "container",
        "ostreecontainer",
        ("url", "--url"),
        ("name", "--stateroot"),
        ("remote", "--remote"),
        ("transport", "--transport"),
        off=(("signed", "--no-signature-verification"),),
    ),
}
"""The kinds of sources; each has a command of its own. What lies beside it is a table of repositories."""

_REPOSITORIES = TableSection(
    Source,
    "source",
    items=(
        Items(
            "repository",
            Repository,
            "setup",
            "repo",
            (
                *item_rows(
                    "setup",
                    "repo",
                    ("name", "--name"),
                    ("url", "--baseurl"),
                    *_LISTS,
                    _PROXY,
                    *_PAPERS,
                    ("keep", "--install", "flag"),
                ),
                Row("verify", "setup", "repo", "--noverifyssl", "word", False),
            ),
        ),
    ),
)


def _command(kind: str) -> str:
    return _KINDS[kind].rows[0].component


def canonical(value: Source, words: Words) -> Source | None:
    """The fields that the source's own command has."""
    made = Source()
    if value.kind is not None and has(words, _command(value.kind)):
        made = _KINDS[value.kind].canonical(replace(value, repository=()), words) or made
    made = replace(made, repository=_repositories(_REPOSITORIES.canonical(value, words)))
    return made if made != Source() else None


def _repositories(value: Source | None) -> tuple[Repository, ...]:
    return value.repository if value is not None else ()


def translate(value: Source, words: Words) -> None:
    """One command for the source, one line for each further repository."""
    fields = _fields(value)
    if value.kind is not None and has(words, _command(value.kind)):
        held = {row.field for row in _KINDS[value.kind].rows}
        _KINDS[value.kind].translate(Source(**{name: said for name, said in fields.items() if name in held}), words)
        why = f"a source of the kind {value.kind} has nothing of the kind"
        for field in sorted(set(fields) - held):
            instead = "nothing needs to be done if it is meant for others"
            words.cannot(("source", field), f"source.{field}", why, instead, Severity.ADVICE)
    elif value.kind is not None:
        known = any(has(words, _command(kind)) for kind in _KINDS)
        why = "this release has no such source" if known else "its installer takes what it needs from its own medium"
        words.cannot(("source", "kind"), f"a source of the kind {value.kind}", why, "leave it out", Severity.WARNING)
    else:
        for field in sorted(fields):
            why, instead = "nothing says of which kind the source is", 'add kind = "url", or another'
            words.cannot(("source", field), f"source.{field}", why, instead, Severity.WARNING)
    _REPOSITORIES.translate(Source(repository=value.repository), words)


def _fields(value: Source) -> dict[str, Any]:
    """What is said of the source itself."""
    names = (name for name in Source.__struct_fields__ if name != "repository")
    return {name: said for name in names if (said := getattr(value, name)) is not None}


def recognise(reader: Reader) -> Source | None:
    """The first source command, and repositories."""
    made = Source()
    for kind, table in _KINDS.items():
        if reader.find("setup", _command(kind), ""):
            made = table.recognise(reader) or made
            break
    made = replace(made, repository=_repositories(_REPOSITORIES.recognise(reader)))
    return made if made != Source() else None
