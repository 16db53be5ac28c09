"""``fairledger targets``: what operating systems it knows, and what differs between two of them."""

from __future__ import annotations

import argparse

from fairledger.cli.console import Console
from fairledger.cli.options import NamedTarget
from fairledger.cli.status import Status

EXAMPLES = (
    "fairledger targets",
    "fairledger targets --editions windows-11",
    "fairledger targets --compare windows-10 windows-11",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """All of them, the editions of one, or two to compare."""
    parser.add_argument(
        "--editions", action=NamedTarget, metavar="TARGET", help="the editions of one, with the names of their images"
    )
    parser.add_argument(
        "--compare",
        nargs=2,
        action=NamedTarget,
        metavar=("OLD", "NEW"),
        help="settings that came, went or changed between two targets",
    )
    parser.add_argument("--all", action="store_true", help="also those that nobody supports any more")
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints the table of targets, or what was asked of it."""
    from datetime import date

    from fairledger.catalog.meant import supported, target_named
    from fairledger.catalog.targets import all_targets
    from fairledger.cli.listing import show_editions, show_targets

    if options.compare:
        return _compare(target_named(options.compare[0]), target_named(options.compare[1]), console)
    if options.editions:
        row = target_named(options.editions)
        if console.json:
            console.write_json(_as_json(row))
        else:
            show_editions(row, console)
        return Status.DONE
    today = date.today().isoformat()
    rows = [one for one in reversed(all_targets()) if options.all or supported(one, today)]
    if console.json:
        console.write_json({"targets": [_as_json(row) for row in rows]})
    else:
        show_targets(rows, len(all_targets()) - len(rows), today, console)
    return Status.DONE


def _as_json(row) -> dict[str, object]:  # type: ignore[no-untyped-def]
    import msgspec

    from fairledger.catalog.setup_keys import editions_with_key

    own = ("edition_images", "shown_images", "edition_support")
    fields = {name: value for name, value in msgspec.to_builtins(row).items() if name not in own}
    support, keys = dict(row.edition_support), editions_with_key(row)
    editions = [
        {"name": name, "image": image, "supported_until": support.get(name), "key_published": name in keys}
        for name, image in row.edition_images
    ]
    return {**fields, "editions": editions}


def _compare(old, new, console: Console) -> int:  # type: ignore[no-untyped-def]
    from fairledger.catalog.differ import differences
    from fairledger.cli.listing import show_differences
    from fairledger.model.errors import WrongUseError

    if old.family != new.family:
        told = f"{old.name} and {new.name} have answer files of different families"
        raise WrongUseError(told, remedy="compare targets of one family")
    found = differences(old, new)
    if console.json:
        console.write_json({"old": old.id, "new": new.id, "differences": found})
    else:
        show_differences(old, new, found, console)
    return Status.DONE
