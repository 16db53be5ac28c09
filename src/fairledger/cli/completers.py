"""What may be typed next, for shells that ask: by the word that a command's help has for it."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

Completer = Callable[..., list[str]]
_MOST = 400


def complete() -> None:
    """Answers the shell that asks, and ends the program."""
    from argcomplete import autocomplete

    from fairledger.cli.parser import full_parser

    parser = full_parser()
    for action in _every(parser):
        name = action.metavar if isinstance(action.metavar, str) else action.dest.upper()
        if name in COMPLETERS:
            action.completer = COMPLETERS[name]  # type: ignore[attr-defined]
    autocomplete(parser, always_complete_options="long")


def _every(parser: argparse.ArgumentParser) -> Iterator[argparse.Action]:
    from fairledger.cli.parser import inner_parsers

    yield from parser._actions  # noqa: SLF001 - argparse has no other way to them
    for inner in inner_parsers(parser).values():
        yield from _every(inner)


def _targets(**_: Any) -> list[str]:
    from fairledger.catalog.targets import all_targets

    return [one.id for one in all_targets()]


def _profiles(**_: Any) -> list[str]:
    from fairledger.authoring.shelf import listed

    return [one.name for one in listed(Path())]


def _rules(**_: Any) -> list[str]:
    from fairledger.checks.rule import all_rules

    return [one.id for one in all_rules()]


def _routes(**_: Any) -> list[str]:
    from fairledger.catalog.routes import route_names

    return list(route_names())


def _topics(**_: Any) -> list[str]:
    from fairledger.cli.commands.help import topics
    from fairledger.cli.parser import COMMANDS

    return [*topics(), *COMMANDS]


def _names(prefix: str, parsed_args: argparse.Namespace, **_: Any) -> list[str]:
    """Portable fields, and settings of the target that was typed or that the draft is for."""
    from fairledger.catalog.catalog import Catalog
    from fairledger.catalog.targets import known_target
    from fairledger.intent.sections import sections
    from fairledger.intent.walk import fields_below

    fields = [".".join(one.names) for part in sections() for one in fields_below(part.table, part.name)]
    target = known_target(str(getattr(parsed_args, "target", None) or _target_of(getattr(parsed_args, "file", None))))
    paths = (
        [one.path for part in Catalog(target.family, target).components() for one in part.settings] if target else []
    )
    ends = ["/".join(path.split("/")[-2:]) for path in paths]
    return [one for one in dict.fromkeys((*fields, *paths, *ends)) if one and one.startswith(prefix)][:_MOST]


def _assigned(prefix: str, parsed_args: argparse.Namespace, **_: Any) -> list[str]:
    return [f"{name}=" for name in _names(prefix, parsed_args)]


def _target_of(file: object) -> str:
    """The target that a draft names; empty where it cannot be read."""
    from fairledger.model.errors import LedgerError
    from fairledger.profiles.document import read_document
    from fairledger.storage.files import decode, read_bytes

    try:
        path = Path(str(file))
        head = read_document(decode(read_bytes(path), str(path)), str(path), tolerant=True).head
    except (LedgerError, OSError, ValueError):
        return ""
    return getattr(head, "target", "")


COMPLETERS: dict[str, Completer] = {
    "TARGET": _targets,
    "PROFILE": _profiles,
    "KIND/TITLE": _profiles,
    "RULE": _rules,
    "ROUTE": _routes,
    "TOPIC": _topics,
    "SETTING": _names,
    "ADDRESS": _names,
    "ADDRESS=VALUE": _assigned,
}
"""By the placeholder that stands in a command's help."""
