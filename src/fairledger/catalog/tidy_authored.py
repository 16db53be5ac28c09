"""Reads choices as people author them, with file, line and remedy for what is wrong."""

from __future__ import annotations

import re
import tomllib
from pathlib import Path
from typing import Any, NoReturn

import msgspec

from fairledger.catalog.packaged import lined
from fairledger.catalog.tidy import (
    ANY,
    HIVES,
    INDEX,  # noqa: F401 - with `build`
    KINDS,
    TOPICS,
    UNDO,
    App,
    Change,
    Choice,
    Group,
    Pair,
    Registry,
    Tidy,
)
from fairledger.model.errors import CatalogError
from fairledger.model.pattern import pattern
from fairledger.model.suggest import did_you_mean
from fairledger.model.toml_marks import Marks, marks_of
from fairledger.storage.files import read_text
from fairledger.storage.looking import entries

DATA = Path(__file__).parent / "data" / "tidy"
_APART = ("apps", "services", "together")
"""Files that hold no choices."""
_NAME = pattern(r"[a-z][a-z0-9_]{0,39}")
_WORD = pattern(r"[a-z0-9][a-z0-9-]{0,39}")
_FORBIDDEN = pattern('["%\x00-\x1f\x7f]')
"""Signs that a key, a name or a task cannot hold: they would end, or change, the line in which it is written."""
_HEX = pattern(r"(?:[0-9a-f]{2})*")
_SAYS_WHAT = (*HIVES, "setting", "firewall", "service", "package", "task", "feature", "run")


def build() -> bytes:
    """The packaged form of the authored files. Raises `CatalogError`."""
    return lined(read_shipped(DATA), 3)


def read_shipped(folder: Path) -> Tidy:
    """All files of the catalog. Raises `CatalogError`."""
    groups = {path.stem: read_group(path) for path in entries(folder, ".toml") if path.stem not in _APART}
    apart = {name: _Author(folder / f"{name}.toml") for name in _APART}
    apps = {name: apart["apps"].converted(row, App, name) for name, row in apart["apps"].data.items()}
    pairs = tuple(apart["together"].converted(row, Pair, "pair") for row in apart["together"].data["pair"])
    return Tidy(groups, apps, apart["services"].data["must"], pairs)


def read_group(path: Path) -> Group:
    """The choices of a file. Raises `CatalogError` with file, line and remedy."""
    author = _Author(path)
    rows = author.data.get("choices")
    for key in author.data:
        if key not in Group.__struct_fields__:
            author.trouble(f"unknown key {key!r}", key, remedy=did_you_mean(key, Group.__struct_fields__))
    if not isinstance(rows, dict) or not rows or not all(isinstance(row, dict) for row in rows.values()):
        author.trouble(
            "there is no choice in it", "choices", remedy="write [choices.NAME] with topic, about, values, does"
        )
    choices = {name: author.choice(name, row) for name, row in rows.items()}
    about, says = author.data.get("about", ""), author.data.get("says", "")
    if not isinstance(about, str) or not isinstance(says, str):
        author.trouble("about and says are sentences", "about", "says", remedy='write about = "..."')
    return Group(about, says, choices)


_DATA = {
    "task": ("enable", "disable"),
    "feature": ("enable", "disable"),
    "firewall": ("true", "false", "open"),
    "service": ("enabled", "delayed", "manual", "disabled"),
    "package": ("add",),
}
"""What a change can be told where it stands in a line, or names a field."""


class _Author:
    """One file, with the places of its keys."""

    def __init__(self, path: Path) -> None:
        self.path = path
        text = read_text(path)
        try:
            self.data: dict[str, Any] = tomllib.loads(text)
            self.marks: Marks = marks_of(text)
        except (ValueError, RecursionError) as error:
            found = re.search(r"at line (\d+)", str(error))
            raise CatalogError(
                f"no file of choices: {error}", file=str(path), line=int(found[1]) if found else None
            ) from error

    def trouble(self, message: str, *way: str, remedy: str) -> NoReturn:
        """Raises a `CatalogError` at the deepest part of ``way`` that the file holds."""
        line = None
        for end in range(len(way), 0, -1):
            found = next((mark[0] for path, mark in self.marks.items() if path[:end] == way[:end]), None)
            line = line or found
        raise CatalogError(message, file=str(self.path), line=line, remedy=remedy)

    def converted(self, row: Any, kind: Any, *way: str) -> Any:
        """A table in its form."""
        try:
            return msgspec.convert(row, kind)
        except msgspec.ValidationError as error:
            named = re.search(r"unknown field `(\w+)`", str(error))
            remedy = did_you_mean(named[1], kind.__struct_fields__) if named else "see the page on choices"
            if named and "does" in str(error):
                remedy = did_you_mean(named[1], Change.__struct_fields__) or remedy
            inside = ("does",) if "does" in str(error) else ()
            self.trouble(f"{way[-1]}: {error}", *way, *inside, remedy=remedy or "see the page on choices")

    def choice(self, name: str, row: dict[str, Any]) -> Choice:
        """One choice that does not contradict itself."""
        way = ("choices", name)
        if not _NAME.fullmatch(name):
            self.trouble(f"{name!r} is no name of a choice", *way, remedy="small letters, digits and _")
        one: Choice = self.converted(row, Choice, *way)
        for field, word, known in (("topic", one.topic, TOPICS), ("undo", one.undo, UNDO), ("kind", one.kind, KINDS)):
            if word not in known:
                remedy = did_you_mean(word, known) or f"one of {', '.join(known)}"
                self.trouble(f"{name}: there is no {field} {word!r}", *way, field, remedy=remedy)
        if bool(one.values) != (one.kind == "choice"):
            self.trouble(
                f"{name}: a choice has values, and nothing else has",
                *way,
                "values",
                remedy='write values = ["on", "off"]',
            )
        for word in (*one.values, *([one.usual] if one.usual else [])):
            if not _WORD.fullmatch(word) or (one.usual and word not in one.values):
                self.trouble(
                    f"{name}: {word!r} is none of its values", *way, "usual", remedy="small letters, digits and -"
                )
        if one.kind == "number" and not 0 <= one.least < one.most:
            self.trouble(f"{name}: a number has limits", *way, remedy="write most = ...")
        if not one.does:
            self.trouble(
                f"{name} does nothing",
                *way,
                remedy="write does = [{ machine = 'KEY', name = \"NAME\", data = { on = 1 } }]",
            )
        for change in one.does:
            self.change(name, one, change)
        return one

    def change(self, name: str, one: Choice, change: Change) -> None:
        """Refuses what speaks of two things or of none, and what no line can carry."""
        way = ("choices", name, "does")
        what = [field for field in _SAYS_WHAT if getattr(change, field)]
        if len(what) != 1:
            told = "nothing" if not what else " and ".join(what)
            self.trouble(f"{name}: a change speaks of {told}", *way, remedy=f"one of {', '.join(_SAYS_WHAT)}")
        for row in (change, change.registry):
            if row is not None:
                self.registry(name, one, row)
        texts = (change.setting, change.firewall, change.service, change.package, change.task, change.feature)
        if any(_FORBIDDEN.search(text) for text in texts):
            self.trouble(f"{name}: a name holds a sign that no command can carry", *way, remedy="take it out")
        for line in (*change.run.values(), change.back):
            if any(sign < " " for sign in line):
                self.trouble(f"{name}: a command is one line", *way, remedy="write one change for each command")
        if one.kind != "number" and any("$" in line for line in change.run.values()):
            told = f"{name}: a text would stand in a command as it is, and could end it"
            self.trouble(told, *way, remedy="write it into the registry, where it is escaped")
        allowed = next((words for field, words in _DATA.items() if getattr(change, field)), ())
        for data in change.data.values():
            if allowed and data not in allowed:
                remedy = did_you_mean(str(data), allowed) or f"one of {', '.join(allowed)}"
                self.trouble(f"{name}: {what[0]} cannot be {data!r}", *way, remedy=remedy)
        if change.run and not change.back and one.undo == "usual":
            self.trouble(
                f"{name}: nothing says how its command is taken back",
                *way,
                remedy='write back = "..." or undo = "none"',
            )
        lost = (change.setting and change.registry is None) or (change.firewall and one.usual not in change.data)
        if lost and change.family == "windows" and one.undo == "usual":
            told = f"{name}: nothing says how {what[0]} is taken back"
            self.trouble(told, *way, remedy='write registry = { ... }, usual = "..." or undo = "none"')
        said = {*change.data, *change.run, *change.key_alone, *change.already}
        stray = [word for word in said if word not in (*one.values, ANY)]
        if stray:
            remedy = did_you_mean(stray[0], one.values) or f"its values are {', '.join(one.values) or ANY}"
            self.trouble(f"{name}: a change speaks of {stray[0]!r}, which is none of its values", *way, remedy=remedy)

    def registry(self, name: str, one: Choice, row: Registry) -> None:
        """Refuses data that is not of its type, and texts where what was there is to be recorded."""
        way = ("choices", name, "does")
        for text in (*(getattr(row, hive) for hive in HIVES), row.name, row.whole):
            if (
                _FORBIDDEN.search(text)
                or text.startswith("\\")
                or text.endswith("\\")
                or text.upper().startswith(("HKLM", "HKEY", "HKCU"))
            ):
                self.trouble(
                    f"{name}: {text!r} is no key or name",
                    *way,
                    remedy="write the key below its hive, as 'SOFTWARE\\Larkmoor'",
                )
        for data in (*row.data.values(), *([row.usual] if row.usual is not None else [])):
            if isinstance(data, int) and not 0 <= data < 1 << 32:
                self.trouble(f"{name}: {data} is no number of 32 bits", *way, remedy="from 0 to 4294967295")
            if isinstance(data, str) and any(sign < " " for sign in data):
                self.trouble(f"{name}: a text is one line", *way, remedy="take the line ends out")
            if row.type == "binary" and not (isinstance(data, str) and _HEX.fullmatch(data)):
                self.trouble(f"{name}: {data!r} is not binary", *way, remedy="write hex digits in pairs")
        if row.type not in ("", "expand", "binary"):
            self.trouble(
                f"{name}: there is no type {row.type!r}", *way, remedy="expand or binary; others show in their data"
            )
        numbers = all(isinstance(data, int) for data in row.data.values()) and " " not in row.name
        if (
            one.undo == "exact"
            and not (row.machine and numbers and not row.key_alone)
            and any(getattr(row, hive) for hive in HIVES)
        ):
            self.trouble(
                f"{name}: only numbers of the machine are recorded", *way, remedy='write undo = "usual" or "none"'
            )
