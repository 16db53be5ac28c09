"""The text of a new draft."""

from __future__ import annotations

from pathlib import Path

import tomlkit
from msgspec import Struct

from fairledger.catalog.targets import target_named
from fairledger.model.errors import WrongUseError
from fairledger.model.suggest import did_you_mean
from fairledger.profiles.draft import FORMAT
from fairledger.profiles.library import Library
from fairledger.profiles.resolve import resolve_text


class Wishes(Struct, frozen=True, kw_only=True):
    """What is known of the job at its beginning."""

    target: str
    title: str
    edition: str | None = None
    arch: str | None = None
    firmware: str | None = None
    profiles: tuple[str, ...] = ()


def starter(wishes: Wishes, path: Path) -> str:
    """The new draft's text. Raises `WrongUseError` for names that do not exist, `ContentError` for bad profiles."""
    target = target_named(wishes.target)
    if wishes.arch and wishes.arch not in target.architectures:
        hint = did_you_mean(wishes.arch, target.architectures)
        raise WrongUseError(f"{target.name} does not exist for {wishes.arch!r}", remedy=hint)
    if wishes.edition and target.editions and wishes.edition not in target.editions:
        hint = did_you_mean(wishes.edition, target.editions)
        raise WrongUseError(f"{target.name} has no edition {wishes.edition!r}", remedy=hint, candidates=target.editions)
    library = Library(path.parent)
    for name in wishes.profiles:
        if library.find(name) is None:
            raise WrongUseError(f"there is no profile {name!r}", remedy=library.remedy(name))
    text = _text(wishes, target.architectures[0], licensed=bool(target.editions))
    resolve_text(text, str(path), library)
    return text


def _text(wishes: Wishes, arch: str, *, licensed: bool) -> str:
    document = tomlkit.document()
    document["format"] = FORMAT
    head = tomlkit.table()
    head["title"] = wishes.title
    head["target"] = wishes.target
    head["arch"] = wishes.arch or arch
    if wishes.firmware:
        head["firmware"] = wishes.firmware
    if wishes.profiles:
        profiles = tomlkit.array()
        profiles.extend(wishes.profiles)
        head["profiles"] = profiles.multiline(len(wishes.profiles) > 2)
    document["draft"] = head
    if wishes.edition:
        document["image"] = {"edition": wishes.edition}
    if licensed:
        licence = tomlkit.table()
        accept = tomlkit.item(True)
        accept.comment("by this you accept the vendor's licence terms")
        licence["accept"] = accept
        document["licence"] = licence
    return tomlkit.dumps(document)
