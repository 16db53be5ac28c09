"""How answer files reach installers: names, places, and what is typed there, by line of releases.

From the vendors' public installation references.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.model.errors import UnsaidError
from fairledger.model.target import Target

DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "index" / "routes.json"


class Route(Struct, frozen=True, kw_only=True):
    """A way for the file to reach the installer."""

    name: str
    lines: tuple[str, ...]
    file: str
    """The name that the installer looks for, with folders below the output folder."""
    goes: str
    """Where the file must lie."""
    typed: str = ""
    """The command or boot parameter that is typed there, if any."""
    at: str = ""
    """How one gets to where it is typed."""
    also: tuple[str, ...] = ()
    """What is typed or known besides."""
    beside: str = ""
    """Where scripts that belong to the file must lie, with their folder."""
    scripts_in: tuple[str, ...] = ()
    """The passes in which scripts that lie there can still be found; empty means in all."""
    copies: bool = False
    """Whether a stick starts the installer that its files were copied to, so that nobody has to write it as a whole."""
    carries: bool = True
    """Whether files that go along are found there once the system is laid down."""
    passes: tuple[str, ...] = ()
    """The passes through which it goes; empty means all."""
    held: str = ""
    """The command or boot parameter for a file under another name, FILE, which nothing takes by itself."""
    to: tuple[str, ...] = ()
    """The kinds of places that it is delivered to on this way."""
    label: str = ""
    """The label of the only volume where the installer looks by itself; empty for any."""

    @property
    def by_itself(self) -> bool:
        """Whether the installer takes the file without being told."""
        return bool(self.held) and not self.typed


def route_wanted(said: str | None, target: Target) -> str:
    """The route that somebody says, else the only one that there is.

    Raises `UnsaidError` with those that fit: a name that no installer looks for is given to no file unasked.
    """
    if said:
        return said
    fitting = routes_of(target)
    looked_for = [one for one in fitting if one.name != PLAIN]
    if len(looked_for) == 1:
        return looked_for[0].name
    widest = max(len(one.name) for one in fitting)
    raise UnsaidError(
        "nobody says on which way the file reaches the installer, which decides what it is called",
        remedy="say --route with one of these, or set draft.route once",
        candidates=[f"{one.name:<{widest}}  {one.goes}" for one in fitting],
    )


PLAIN = "plain"
"""The route on which no installer finds the file by itself."""


class BootFile(Struct, frozen=True):
    """A file that a server of network boot has for one machine; what stands in braces is filled in."""

    path: str
    text: str


class Netboot(Struct, frozen=True, kw_only=True):
    """What a server holds so that machines that start from the network install themselves."""

    lines: tuple[str, ...]
    to: str
    """The kind of place."""
    answers: str
    """Where the answer file of a machine lies."""
    takes: dict[str, str] = {}
    """Files of the installer's own medium, and where they lie on the server."""
    file: tuple[BootFile, ...] = ()
    """For each machine."""
    then: tuple[str, ...] = ()
    """What is done once."""
    each: tuple[str, ...] = ()
    """What is typed for each machine."""


class Without(Struct, frozen=True, kw_only=True):
    """What is done without an answer file."""

    lines: tuple[str, ...]
    name: str
    about: str
    typed: str = ""


class Place(Struct, frozen=True, kw_only=True):
    """A place where an installer looks for an answer file."""

    lines: tuple[str, ...]
    place: str
    names: str
    """The names that it takes there."""
    when: str = ""
    """What must be so; empty where it always looks there."""
    routes: tuple[str, ...] = ()
    """The routes that lead there."""


class _Tables(Struct, frozen=True):
    route: tuple[Route, ...]
    search: tuple[Place, ...]
    netboot: tuple[Netboot, ...] = ()
    without: tuple[Without, ...] = ()


@cache
def _all() -> _Tables:
    found: _Tables = read_packaged(INDEX, _Tables, "the table of routes")
    return found


def routes_of(target: Target) -> tuple[Route, ...]:
    """The ways to a target's installer, the usual one first."""
    return tuple(one for one in _all().route if target.line in one.lines)


def places_of(target: Target) -> tuple[Place, ...]:
    """Where a target's installer looks, in its order: the first file that is found is taken."""
    return tuple(one for one in _all().search if target.line in one.lines)


def netboot_of(target: Target, kind: str) -> Netboot | None:
    """What a server of that kind holds for a target; None where it serves none."""
    return next((one for one in _all().netboot if target.line in one.lines and one.to == kind), None)


def without_answers(target: Target) -> tuple[Without, ...]:
    """What a target does without an answer file."""
    return tuple(one for one in _all().without if target.line in one.lines)


def route_names() -> tuple[str, ...]:
    """What the ways of all targets are called."""
    return tuple(dict.fromkeys(one.name for one in _all().route))


def kinds_of_places() -> tuple[str, ...]:
    """The kinds of places that files of any target are delivered to."""
    return tuple(dict.fromkeys(kind for one in _all().route for kind in one.to))


def build() -> bytes:
    """The packaged form of the authored table."""
    import tomllib

    rows = tomllib.loads((DATA / "routes.toml").read_text(encoding="utf-8"))
    return lined(msgspec.convert(rows, _Tables), 2)
