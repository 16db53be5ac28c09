"""What comes after the bare system: choices as data, each with what it changes, where, and what takes it back.

The authored files are ``data/tidy/SECTION.toml``, with a table ``[choices.NAME]`` each; apps, services that must stay,
and choices that do not go together have files of their own there.
"""

# annotations are kept as types here, not as texts: decoding would compile every one of them at each start

from collections.abc import Iterator
from functools import cache, lru_cache
from pathlib import Path
from typing import Any

from msgspec import Struct

from fairledger.catalog.packaged import read_packaged
from fairledger.catalog.targets import known_target
from fairledger.model.pattern import pattern
from fairledger.model.target import Target

INDEX = Path(__file__).parent / "index" / "tidy.json"

TOPICS = {
    "quiet": "nothing pops up, nothing advertises",
    "private": "nothing leaves the machine that nobody sent",
    "fast": "nothing has to be waited for",
    "safe": "nobody else gets at the machine",
    "findable": "things are where one looks for them",
    "reachable": "the machine is there when somebody needs it from elsewhere",
    "lean": "what nobody uses is not there",
}
"""What a person wants by choices; the lists are ordered by it."""
HIVES = ("machine", "new_users", "first_user", "sign_in_screen")
UNDO = {
    "exact": "exactly: what was there before is recorded",
    "usual": "to what a fresh system has",
    "none": "not at all",
}
KINDS = ("choice", "number", "text", "path")
ANY = "*"
"""Stands for whatever value is chosen, and ``$`` for that value itself."""
_SELF = "$"
BROKEN = pattern("[\x00-\x1f\x7f]")
"""What no line can carry."""
PORTABLE = ("package", "service", "firewall")
"""What a change speaks of that other sections of a family say."""


class Registry(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True):
    """A value of the registry, by the hive that its field names: the key in it, the value's name, and its data."""

    machine: str = ""
    new_users: str = ""
    first_user: str = ""
    sign_in_screen: str = ""
    name: str = ""
    type: str = ""
    """Where the data does not tell: ``expand`` (a text with names of the environment), ``binary`` (hex digits)."""
    data: dict[str, int | str] = {}
    key_alone: tuple[str, ...] = ()
    """The values of the choice that the mere presence of the key says."""
    usual: int | str | None = None
    """What a fresh system has there; None if nothing."""
    whole: str = ""
    """The key that goes when it is taken back, with all in it; empty where only the value goes."""


class Change(Registry, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True):
    """One thing that a choice changes: in the registry, or one of those below."""

    setting: str = ""
    """A setting of the answer file, with its pass; `data` says its values."""
    registry: Registry | None = None
    """What the setting comes to on the machine."""
    firewall: str = ""
    """A group of the firewall's rules, or a service that it knows."""
    service: str = ""
    package: str = ""
    task: str = ""
    feature: str = ""
    """An optional feature, by the name that the servicing tool knows."""
    run: dict[str, str] = {}
    """Command lines by value."""
    back: str = ""
    """The command line that takes those back."""
    when: str = "installed"
    """``installed``: as the system, before its first start; ``sign-in``: as the first account."""
    family: str = "windows"
    since: int = 0
    """First build, or release, that heeds it."""
    until: int = 0
    """Last of them; zero without an end."""
    lines: tuple[str, ...] = ()
    already: tuple[str, ...] = ()
    """Values for which nothing has to be changed there."""

    def fits(self, target: Target) -> bool:
        """Whether a release heeds it."""
        return self.family == target.family and _within(self, target)


class Choice(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True):
    """One choice, a field of its section."""

    topic: str
    about: str
    loses: str = ""
    words: str = ""
    kind: str = "choice"
    values: tuple[str, ...] = ()
    usual: str = ""
    """How a fresh system behaves; empty where that differs, or where nobody is sure."""
    undo: str = "usual"
    least: int = 0
    most: int = 0
    """The limits of a number."""
    since: int = 0
    until: int = 0
    lines: tuple[str, ...] = ()
    without_editions: tuple[str, ...] = ()
    """Editions on which it has no effect; those without a media player (N) with them."""
    sure: bool = True
    does: tuple[Change, ...]

    def changes(self, target: Target) -> tuple[Change, ...]:
        """What of it a release heeds; nothing where that has no use for the choice."""
        if target.family == "windows" and not _within(self, target):
            return ()
        return tuple(one for one in self.does if one.fits(target))

    def idle_on(self, edition: str) -> bool:
        """Whether an edition is known to ignore it."""
        return edition.removesuffix(" N") in self.without_editions

    @property
    def policy(self) -> bool:
        """Whether all that it does is what central policy would write too."""
        keys = [getattr(one, hive) for one in self.does for hive in HIVES if getattr(one, hive)]
        return bool(keys) and all("\\policies\\" in f"{key}\\".lower() for key in keys)


class Effect(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """One concrete change of a machine. What does not belong to its kind is empty."""

    kind: str
    """registry, setting, firewall, service, package, task, feature, command or app."""
    hive: str = ""
    key: str = ""
    name: str = ""
    type: str = ""
    """``dword``, ``string``, ``expand``, ``binary``; ``key`` for a key without a value."""
    data: int | str = ""
    service: str = ""
    start: str = ""
    package: str = ""
    command: str = ""
    when: str = "installed"

    @property
    def seat(self) -> tuple[str, ...]:
        """What it changes, whatever to: no two choices may differ about it."""
        if self.kind in ("registry", "setting", "firewall"):
            name = self.name.lower() if self.kind == "registry" else ""
            return self.kind, self.hive, self.key.lower(), name
        return self.kind, self.service.lower() or self.package.lower() or self.command


class App(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True):
    """An app that comes with releases for desks."""

    package: str
    words: str = ""
    since: int = 0
    until: int = 0
    lines: tuple[str, ...] = ("client",)
    stays: str = ""
    """What goes wrong without it; empty if it can be taken away."""

    def there(self, target: Target) -> bool:
        """Whether a release brings it."""
        return target.family == "windows" and _within(self, target)


class Pair(Struct, frozen=True, forbid_unknown_fields=True):
    """Two choices that do not go together: ``section.choice``, with ``=value`` where only that value is meant."""

    a: str
    b: str
    why: str


class Group(Struct, frozen=True, forbid_unknown_fields=True):
    """The choices of a section."""

    about: str
    says: str
    choices: dict[str, Choice]


class Tidy(Struct, frozen=True):
    """All of it."""

    groups: dict[str, Group]
    apps: dict[str, App]
    must: dict[str, str]
    """Services that nobody may switch off, and why."""
    pairs: tuple[Pair, ...]


def _within(one: Change | Choice | App, target: Target) -> bool:
    build = int(target.build) if target.build.isdecimal() else 0
    return (
        (not one.lines or target.line in one.lines)
        and (not one.since or build >= one.since)
        and (not one.until or 0 < build <= one.until)
    )


@cache
def tidy() -> Tidy:
    """All that ships. Raises `CatalogError` if the package is damaged."""
    found: Tidy = read_packaged(INDEX, Tidy, "the table of choices")
    return found


@cache
def choices_of(section: str) -> dict[str, Choice]:
    """The choices of a section by name; none where it has none."""
    group = tidy().groups.get(section)
    return group.choices if group is not None else {}


def all_choices() -> Iterator[tuple[str, str, Choice]]:
    """Section, name and choice of each that ships."""
    for section, group in tidy().groups.items():
        for name, one in group.choices.items():
            yield section, name, one


def effects(choice: Choice, value: Any, target: Target) -> tuple[Effect, ...]:
    """What a value of a choice changes on a release, in the order in which it is done."""
    return tuple(effect for change in choice.changes(target) for effect in of_change(change, value))


@lru_cache(maxsize=4096)
def shipped(section: str, name: str, value: Any, release: str) -> tuple[Effect, ...]:
    """What a value of a choice that ships changes on a release (its id), as `possible` tells it."""
    target = known_target(release)
    return possible(choices_of(section)[name], value, target) if target is not None else ()


def possible(choice: Choice, value: Any, target: Target) -> tuple[Effect, ...]:
    """What a value changes; nothing where the release does not heed it, or nothing can carry it."""
    if isinstance(value, str) and choice.kind != "choice" and BROKEN.search(value):
        return ()
    if isinstance(value, int) and not choice.least <= value <= choice.most:
        return ()
    return effects(choice, value, target)


def of_change(change: Change, value: Any) -> Iterator[Effect]:
    """What one of its changes comes to."""
    word = str(value)
    if change.run:
        line = change.run.get(word, change.run.get(ANY))
        if line is not None:
            yield Effect(kind="command", command=line.replace(_SELF, word), when=change.when)
        return
    if word in change.key_alone:
        yield from _in_registry(change, "key", "")
    data = change.data.get(word, change.data.get(ANY))
    if data is None:
        return
    data = value if data == _SELF else data
    if change.setting:
        yield Effect(kind="setting", key=change.setting, data=data)
    elif change.firewall:
        yield Effect(kind="firewall", key=change.firewall, data=data)
    elif change.service:
        yield Effect(kind="service", service=change.service, start=str(data))
    elif change.package:
        yield Effect(kind="package", package=change.package)
    elif change.task or change.feature:
        yield Effect(kind="task" if change.task else "feature", command=change.task or change.feature, data=data)
    else:
        yield from _in_registry(change, change.type or ("dword" if isinstance(data, int) else "string"), data)


def _in_registry(row: Registry, kind: str, data: int | str) -> Iterator[Effect]:
    for hive in HIVES:
        key = getattr(row, hive)
        if key:
            when = "sign-in" if hive == "first_user" else "installed"
            yield Effect(kind="registry", hive=hive, key=key, name=row.name, type=kind, data=data, when=when)


def known(target: Target) -> dict[str, App]:
    """The apps that a release brings, by plain name."""
    return {name: one for name, one in tidy().apps.items() if one.there(target)}


class Chosen(Struct, frozen=True, kw_only=True):
    """A choice that was made, and what it comes to on a release."""

    path: tuple[str, str]
    """Its section and its field."""
    place: tuple[str | int, ...]
    """Where it is made."""
    value: str
    topic: str
    about: str
    usual: str = ""
    loses: str = ""
    effects: tuple[Effect, ...] = ()
    undo: str = "usual"
    how: str = ""
    """What brings it about, in words."""

    @property
    def name(self) -> str:
        """As it is typed."""
        return ".".join(self.path)

    @property
    def lost(self) -> str:
        """What is lost by it; nothing where the system does so anyway."""
        return self.loses if self.value != self.usual else ""


def in_contract(one: Effect) -> dict[str, object]:
    """A change as it is told to programs; what does not belong to its kind is null."""
    told: dict[str, object] = {"kind": one.kind, "hive": one.hive.replace("_", "-") or None, "key": one.key or None}
    registry = one.kind == "registry"
    told |= {"name": one.name if registry else None, "type": one.type or None}
    told |= {"data": str(one.data) if not isinstance(one.data, int) else one.data}
    if one.data == "" and not (registry and one.type == "string"):
        told["data"] = None
    told |= {name: getattr(one, name) or None for name in ("service", "start", "package")}
    late = one.when == "sign-in"
    feature = one.command if one.kind == "feature" else None
    command = one.command if one.kind != "feature" else ""
    return {**told, "feature": feature, "command": command or None, "when": one.when, "as": _AS[late]}


_AS = {False: "system", True: "first-account"}
