"""Groups that every Windows has (groups.toml), by identifier: their names change with the display language."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

import msgspec
from msgspec import Struct

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.families.interface import Reader, Words
from fairledger.families.windows.command_lines import (
    FIRST_SIGN_IN,
    POWERSHELL,
    Form,
    add_command,
    commands_at,
    for_build,
)
from fairledger.model.places import Origin
from fairledger.model.values import Text

INDEX = Path(__file__).parent / "groups.json"


class Group(Struct, frozen=True):
    """A well-known group."""

    sid: str
    direct: bool = False
    """Setup understands its English name in every display language."""
    elsewhere: tuple[str, ...] = ()
    """Names in other display languages."""


@cache
def groups() -> dict[str, Group]:
    """The table, by English name."""
    found: dict[str, Group] = read_packaged(INDEX, dict[str, Group], "the table of groups")
    return found


@cache
def spellings() -> dict[str, str]:
    """The groups by all their names in lower case, those of other display languages too."""
    here = {name.casefold(): name for name in groups()}
    return {there.casefold(): name for name, one in groups().items() for there in one.elsewhere} | here


def build() -> bytes:
    """The packaged form of the authored table ``groups.toml``."""
    import tomllib

    text = (Path(__file__).parent / "groups.toml").read_text(encoding="utf-8")
    return lined(msgspec.convert(tomllib.loads(text), dict[str, Group]))


def parted(names: tuple[Text, ...]) -> tuple[tuple[Text, ...], tuple[str, ...]]:
    """The groups that can stand in the account's own setting, and those that are reached by their identifier."""
    direct: list[Text] = []
    by_id: list[str] = []
    for name in names:
        known = _spelled(name)
        if isinstance(known, str) and known in groups() and not groups()[known].direct:
            by_id.append(known)
        else:
            direct.append(known)
    return tuple(dict.fromkeys(direct)), tuple(dict.fromkeys(by_id))


@cache
def _folded() -> dict[str, str]:
    return {name.casefold(): name for name in groups()}


def _spelled(name: Text) -> Text:
    """A well-known name in its own spelling, also where it is written with hyphens."""
    if not isinstance(name, str):
        return name
    return _folded().get(name.casefold()) or _folded().get(name.casefold().replace("-", " "), name)


def add_member(group: str, account: Text, words: Words, origin: Origin) -> None:
    """The command that adds an account to a group by the group's identifier."""
    line = for_build(_ADDS, words.target).line(groups()[group].sid, account)
    add_command(words, FIRST_SIGN_IN, line, f"Member of {group}", origin)


_ADDS = (
    Form(
        (
            "$g = (New-Object Security.Principal.SecurityIdentifier ",
            ").Translate([Security.Principal.NTAccount]).Value.Split('\\')[1]; net.exe localgroup $g ",
            " /add",
        )
    ),
    Form(("Add-LocalGroupMember -SID ", " -Member ", ""), 14393),
)
"""By the group's identifier: its name changes with the display language."""


def recognise_members(reader: Reader, local: list[dict[str, Any]]) -> None:
    """Adds what such commands bring to the accounts' groups."""
    names = {group.sid: name for name, group in groups().items() if not group.direct}
    for item, line in commands_at(reader, FIRST_SIGN_IN, POWERSHELL):
        sid, name = for_build(_ADDS, reader.target).values_in(line) or ("", "")
        if sid not in names:
            continue
        at = next((at for at, one in enumerate(local) if one["name"] == name), None)
        if at is not None and names[sid] not in local[at].get("groups", ()):
            local[at]["groups"] = (*local[at].get("groups", ()), names[sid])
            reader.take(item, "account", "local", at, "groups", whole=True)
