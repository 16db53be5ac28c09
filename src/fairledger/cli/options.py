"""Options that several commands share."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from fairledger.catalog.own import Own
    from fairledger.model.facts import Facts
    from fairledger.subject.opening import Asked


class NamedTarget(argparse.Action):
    """Takes a target as people call it, and keeps a sentence where that was not its id."""

    def __call__(
        self,
        _: argparse.ArgumentParser,
        namespace: argparse.Namespace,
        values: str | Sequence[Any] | None,
        __: str | None = None,
    ) -> None:
        """Raises `WrongUseError` where there is no such target."""
        if values is None or isinstance(values, str):
            setattr(namespace, self.dest, values and _meant(values, namespace))
        else:
            setattr(namespace, self.dest, [_meant(str(one), namespace) for one in values])


def _meant(name: str, namespace: argparse.Namespace) -> str:
    from datetime import date

    from fairledger.catalog.meant import maintained, target_meant

    today = date.today().isoformat()
    found = target_meant(name, today)
    if found.id != name:
        over = "" if maintained(found, today) else " (its support has ended)"
        namespace.said_aloud = [*getattr(namespace, "said_aloud", ()), f"{name} means {found.id}, {found.name}{over}"]
    return found.id


def add_target(parser: argparse.ArgumentParser, told: str = "") -> None:
    """The target of a file that does not say it itself."""
    told = told or "the target of an answer file, such as windows-11 (default: guessed from what it says)"
    parser.add_argument("--target", action=NamedTarget, help=told)


def add_catalog(parser: argparse.ArgumentParser) -> None:
    """The folder of catalog files that are added."""
    parser.add_argument(
        "--catalog",
        type=Path,
        metavar="FOLDER",
        help="catalog files of your own (default: the folder catalog/ beside the file)",
    )


def add_layers(parser: argparse.ArgumentParser) -> None:
    """A draft's variant, and profiles on top of it."""
    parser.add_argument("--variant", default="", metavar="NAME", help="a variant that the draft holds")
    parser.add_argument(
        "--with",
        dest="on_top",
        action="append",
        default=[],
        metavar="PROFILE",
        help="a profile laid over everything else; may be repeated",
    )


def add_filling(parser: argparse.ArgumentParser) -> None:
    """What a draft's placeholders come to."""
    told = "fill a placeholder of a draft; may be repeated"
    parser.add_argument("--fill", action="append", default=[], metavar="NAME=VALUE", help=told)


def add_image(parser: argparse.ArgumentParser) -> None:
    """A medium, and one of its images."""
    told = "say what is on this medium too: a disc, a folder, an image file, or a file of facts of one"
    parser.add_argument("--medium", type=Path, metavar="MEDIUM", help=told)
    parser.add_argument(
        "--index", type=int, metavar="N", help="the medium's image that is meant (default: its only one)"
    )


def add_medium(parser: argparse.ArgumentParser) -> None:
    """What the machines start from."""
    parser.add_argument(
        "--medium",
        type=Path,
        metavar="MEDIUM",
        help="what the machines start from: a disc, a folder, an image file, or a file of facts of one "
        "(default: as a draft says)",
    )


def asked_of(options: argparse.Namespace, facts: Facts | None = None) -> Asked:
    """What was said along with a file. Raises `CatalogError`, `FileTroubleError` for catalog files."""
    from fairledger.model.facts import Facts
    from fairledger.subject.opening import Asked

    facts = facts or Facts()
    if getattr(options, "medium", None) is not None:
        facts = Facts(medium=str(options.medium)).over(facts)
    selection = None
    if getattr(options, "variant", "") or getattr(options, "on_top", ()):
        from fairledger.profiles.resolve import Selection

        selection = Selection(variant=options.variant, on_top=tuple(options.on_top))
    return Asked(
        target=getattr(options, "target", None),
        root=getattr(options, "root", None),
        own=own_of(options),
        facts=facts,
        selection=selection,
    )


def pairs_of(given: list[str], told: str, remedy: str) -> dict[str, str]:
    """What was said as NAME=VALUE, once or several times. Raises `WrongUseError` for what is no such thing."""
    from fairledger.model.errors import WrongUseError

    values = {}
    for one in given:
        name, equals, value = one.partition("=")
        if not equals or not name:
            raise WrongUseError(f"{one!r} {told}", remedy=remedy)
        values[name] = value
    return values


def own_of(options: argparse.Namespace) -> Own | None:
    """What that folder adds; None if nobody named one. Raises `CatalogError`, `FileTroubleError`."""
    if options.catalog is None:
        return None
    from fairledger.catalog.own import own_catalog

    return own_catalog(options.catalog)


def route_of(name: str | None) -> str | None:
    """The route as it was given. Raises `WrongUseError` if there is none of that name."""
    if name is None:
        return None
    from fairledger.catalog.routes import route_names
    from fairledger.model.errors import WrongUseError
    from fairledger.model.suggest import did_you_mean

    if name not in route_names():
        hint = did_you_mean(name, route_names()) or f"there are {', '.join(route_names())}"
        raise WrongUseError(f"there is no route {name!r}", remedy=hint)
    return name
