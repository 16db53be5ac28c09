"""``fairledger routes``: the ways on which an answer file reaches an installer."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from fairledger.cli.console import Console
from fairledger.cli.options import NamedTarget
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.catalog.routes import Place, Route, Without
    from fairledger.model.target import Target


EXAMPLES = ("fairledger routes windows-11",)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The target."""
    parser.add_argument(
        "target", action=NamedTarget, metavar="TARGET", help="a target's name, as in: fairledger targets"
    )
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints the routes, the usual one first, and where the installer looks by itself."""
    from fairledger.catalog.meant import target_named
    from fairledger.catalog.routes import places_of, routes_of, without_answers

    target = target_named(options.target)
    routes, places = routes_of(target), places_of(target)
    if console.json:
        console.write_json(
            {
                "target": target.id,
                "routes": [
                    {
                        "name": one.name,
                        "file": one.file,
                        "goes": one.goes,
                        "by_itself": one.by_itself,
                        "typed": one.typed or None,
                        "at": one.at or None,
                        "beside": one.beside or None,
                        "passes": list(one.passes) or None,
                        "label": one.label or None,
                        "to": list(one.to),
                    }
                    for one in routes
                ],
                "without": [
                    {"name": one.name, "about": one.about, "typed": one.typed or None}
                    for one in without_answers(target)
                ],
                "search": [
                    {"order": order, "place": one.place, "names": one.names, "when": one.when or None}
                    for order, one in enumerate(places, 1)
                ],
            }
        )
        return Status.DONE
    _show(target, routes, places, console)
    return Status.DONE


def _show(target: Target, routes: tuple[Route, ...], places: tuple[Place, ...], console: Console) -> None:
    from fairledger.catalog.routes import without_answers

    console.say(console.style(f"{target.name}: where the installer looks, in this order", "bold"))
    hang = " " * 5
    for order, one in enumerate(places, 1):
        console.paragraph(f"{order:>2}  {one.place}", indent="", hang=hang)
        told = f"name: {one.names}" + (f"; {one.when}" if one.when else "")
        console.paragraph(told, indent=hang, hang=hang + "  ", style="dim")
    last = "; the first file that is found is taken" if len(places) > 1 else ""
    console.say(f"    nowhere else{last}")
    console.say()
    console.say(console.style("routes", "bold") + console.style("  the usual one first", "dim"))
    width = max(len(route.name) for route in routes)
    for route in routes:
        taken = "taken by itself" if route.by_itself else ""
        console.say(
            f"  {console.style(route.name.ljust(width), 'bold')}  {route.file}  {console.style(taken, 'good')}".rstrip()
        )
        indent = " " * (width + 4)
        console.paragraph(f"goes to {route.goes}", indent=indent, hang=indent + "  ")
        if route.typed:
            console.paragraph(f"there type: {route.typed}", indent=indent, hang=indent + "  ")
        if route.at:
            console.paragraph(f"to get there: {route.at}", indent=indent, hang=indent + "  ", style="dim")
        for line in route.also:
            console.paragraph(line, indent=indent, hang=indent + "  ")
        if route.passes:
            console.paragraph(
                f"only the passes {', '.join(route.passes)}", indent=indent, hang=indent + "  ", style="dim"
            )
    _show_without(without_answers(target), width, console)
    console.say()
    kinds = ", ".join(dict.fromkeys(kind for route in routes for kind in route.to if kind != "base"))
    told = f"put there   fairledger deliver DRAFT --to KIND:PLACE   with the kinds {kinds}"
    console.paragraph(told, indent="  ", hang=" " * 14)


def _show_without(rows: tuple[Without, ...], width: int, console: Console) -> None:
    indent = " " * (width + 4)
    for one in rows:
        console.say(f"  {console.style(one.name.ljust(width), 'bold')}  no answer file")
        console.paragraph(one.about, indent=indent, hang=indent + "  ")
        if one.typed:
            console.paragraph(f"there type: {one.typed}", indent=indent, hang=indent + "  ")
