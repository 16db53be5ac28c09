"""The profiles that can be had: listing them, showing one, and taking a section of a draft into a new one."""

from __future__ import annotations

import tomllib
from collections.abc import Callable, Iterable, Sequence
from pathlib import Path
from typing import Any

import tomlkit
from msgspec import Struct
from msgspec.structs import replace
from tomlkit.exceptions import TOMLKitError

from fairledger.authoring.secrecy import holds_secret, without_secrets
from fairledger.intent.sections import SECTION_NAMES
from fairledger.model.errors import LedgerError, WrongUseError
from fairledger.model.suggest import did_you_mean
from fairledger.profiles.document import FORMAT, DraftHead, ProfileHead, read_document
from fairledger.profiles.library import SHIPPED, Library, user_library, valid_name
from fairledger.profiles.resolve import resolve
from fairledger.storage.files import read_text, rewrite
from fairledger.storage.looking import entries
from fairledger.storage.together import Piece, write_together


class Shelved(Struct, frozen=True):
    """One profile of the library."""

    name: str
    file: Path
    home: str
    """``project``, ``user`` or ``shipped``."""
    title: str = ""
    about: str = ""
    sections: tuple[str, ...] = ()
    needs: tuple[str, ...] = ()
    used_by: tuple[str, ...] = ()
    """Drafts of the folder that build on it, straight or by way of other profiles."""
    trouble: str = ""
    """What is wrong with it, in a sentence; empty if nothing is."""


def listed(folder: Path) -> tuple[Shelved, ...]:
    """Every profile that drafts in a folder can build on, by name; each file is read once."""
    library = Library(folder)
    shelf = {name: _shelved(name, library) for name in library.names()}
    used: dict[str, list[str]] = {}
    for path in entries(folder, ".toml"):
        try:
            head = read_document(read_text(path), str(path)).head
        except LedgerError:
            continue
        if isinstance(head, DraftHead):
            for name in _with_needs(head.profiles, shelf):
                used.setdefault(name, []).append(path.name)
    return tuple(replace(one, used_by=tuple(used.get(name, ()))) for name, one in shelf.items())


def _shelved(name: str, library: Library) -> Shelved:
    path = library.find(name)
    assert path is not None
    home = "shipped" if path.is_relative_to(SHIPPED) else "yours" if path.is_relative_to(user_library()) else "project"
    try:
        source = read_document(read_text(path), str(path))
    except LedgerError as error:
        return Shelved(name, path, home, trouble=error.message)
    head = source.head
    if not isinstance(head, ProfileHead):
        return Shelved(name, path, home, trouble="it is a draft, not a profile")
    parts = (*source.layer.sections.entries, *(("answers",) if source.layer.answers.entries else ()))
    return Shelved(name, path, home, head.title, head.about, parts, head.needs)


def _with_needs(names: Iterable[str], shelf: dict[str, Shelved]) -> set[str]:
    found: set[str] = set()
    waiting = list(names)
    while waiting:
        name = waiting.pop()
        if name in shelf and name not in found:
            found.add(name)
            waiting += shelf[name].needs
    return found


def found(name: str, library: Library) -> Path:
    """The file of a profile. Raises `WrongUseError` with the nearest names."""
    path = library.find(name)
    if path is None:
        raise WrongUseError(f"there is no profile {name!r}", remedy=library.remedy(name))
    return path


def shown(path: Path) -> str:
    """A profile's text without the secrets that stand in it. Raises `FileTroubleError`."""
    return without_secrets(read_text(path))


class Built(Struct, frozen=True):
    """What a draft builds on after a change of its list of profiles."""

    draft: Path
    profiles: tuple[str, ...]
    changed: tuple[str, ...]
    """Those that came or went; the others were there, or were not, before."""


def add(draft: Path, names: Sequence[str]) -> Built:
    """Makes a draft build on profiles too, behind those that it has. All or none.

    Raises `WrongUseError` for names that do not exist, `ContentError` where the draft would not be right with them.
    """
    library = Library(draft.parent)
    for name in names:
        found(name, library)
    return _listing(draft, lambda there: [*there, *(one for one in dict.fromkeys(names) if one not in there)])


def drop(draft: Path, names: Sequence[str]) -> Built:
    """Takes profiles from those that a draft builds on. All or none.

    Raises `WrongUseError` for one that it does not name itself, `ContentError` where the draft would not be right then.
    """

    def left(there: list[str]) -> list[str]:
        for name in names:
            if name not in there:
                remedy = did_you_mean(name, there) or "it builds on none"
                raise WrongUseError(f"the draft does not name {name!r}", file=str(draft), remedy=remedy)
        return [one for one in there if one not in names]

    return _listing(draft, left)


def _listing(draft: Path, change: Callable[[list[str]], list[str]]) -> Built:
    text = read_text(draft)
    source = read_document(text, str(draft))
    if not isinstance(source.head, DraftHead):
        raise WrongUseError("this is a profile, not a draft", file=str(draft), remedy="name a draft")
    before = list(source.head.profiles)
    after = change(list(before))
    document = tomlkit.parse(text)
    listed = document["draft"].setdefault("profiles", tomlkit.array())
    for at in reversed([at for at, one in enumerate(before) if one not in after]):
        listed.pop(at)
    for one in after[len(listed) :]:
        listed.append(one)
    if not after:
        document["draft"].remove("profiles")
    new = tomlkit.dumps(document)
    resolve(read_document(new, str(draft)), Library(draft.parent))
    if before != after:
        rewrite(draft, new.encode(), text.encode())
    changed = [one for one in (*before, *after) if (one in before) != (one in after)]
    return Built(draft, tuple(after), tuple(changed))


class Saved(Struct, frozen=True):
    """A section that became a profile."""

    profile: Path
    draft: Path


def save(draft: Path, section: str, name: str, *, title: str = "", own: bool = False, replace: bool = False) -> Saved:
    """Takes a section out of a draft into a profile to which the draft then refers.

    ``own`` puts the profile into the user's library instead of the folder ``profiles/`` beside the draft. Raises
    `WrongUseError` if the draft has no such section, `RefusedError` if the profile exists and may not be replaced.
    """
    if not valid_name(name):
        remedy = "a profile is named kind/title, in small letters, digits and dashes, such as disk/desk"
        raise WrongUseError(f"{name!r} cannot name a profile", remedy=remedy)
    text = read_text(draft)
    source = read_document(text, str(draft))
    if not isinstance(source.head, DraftHead):
        raise WrongUseError("this is a profile, not a draft", file=str(draft), remedy="name a draft")
    if section not in source.layer.sections.entries:
        there = tuple(source.layer.sections.entries)
        remedy = did_you_mean(section, there or SECTION_NAMES)
        raise WrongUseError(f"the draft has no section {section!r} of its own", file=str(draft), remedy=remedy)
    document, profile = _parted(text, section, title or f"{section.capitalize()} of {source.head.title or draft.stem}")
    names = [one for one in source.head.profiles if one != name]
    document["draft"]["profiles"] = [*names, name]
    folder = user_library() if own else draft.parent / "profiles"
    path = folder / f"{name}.toml"
    made, rest = tomlkit.dumps(profile), tomlkit.dumps(document)
    read_document(rest, str(draft))
    piece = Piece(path, made.encode(), private=holds_secret(made))
    write_together([piece], replace=replace, then=lambda: rewrite(draft, rest.encode(), text.encode()))
    return Saved(path, draft)


def _parted(text: str, section: str, title: str) -> tuple[tomlkit.TOMLDocument, tomlkit.TOMLDocument]:
    """The draft without the section, and a profile with it; comments inside the section go with it."""
    profile = tomlkit.document()
    profile["format"] = FORMAT
    head = tomlkit.table()
    head["title"] = title
    profile["profile"] = head
    document = tomlkit.parse(text)
    plain: dict[str, Any] = tomllib.loads(text)
    try:
        profile[section] = document[section]
        whole = tomllib.loads(tomlkit.dumps(profile)).get(section) == plain[section]
    except (TOMLKitError, ValueError):
        whole = False
    if not whole:  # tables of the section stand apart in the draft
        profile[section] = tomlkit.item(plain[section])
    document.remove(section)
    return document, profile
