"""Reads the catalog as people author it: one TOML file per component, a line or a few per setting."""

from __future__ import annotations

import re
import tomllib
from pathlib import Path
from typing import Any, NoReturn

import msgspec

from fairledger.catalog.setting import Component, Setting
from fairledger.catalog.unfold import Rows, UnfoldError, unfolded
from fairledger.model.bounded import trouble
from fairledger.model.errors import CatalogError
from fairledger.model.kinds import KINDS
from fairledger.model.sheet import is_mark
from fairledger.model.suggest import did_you_mean
from fairledger.model.toml_marks import Marks, marks_of
from fairledger.storage.files import read_text
from fairledger.storage.looking import entries, is_file

SHAPES = "shapes.toml"
"""The file of a catalog folder that holds shapes, not a component."""

_HEAD = {name for name in Component.__struct_fields__ if name != "settings"}
_FIELDS = {name for name in Setting.__struct_fields__ if name != "path"}


def component_files(folder: Path) -> list[Path]:
    """The files of a folder that describe components, sorted."""
    return [path for path in entries(folder, ".toml") if path.name != SHAPES]


def read_component(path: Path, shapes: dict[str, Rows] | None = None, family: str = "") -> Component:
    """One component from its file. Raises `CatalogError` with file, line and a remedy.

    ``shapes`` are those of its folder; they are read if nobody gives them. With ``family``, passes and releases that
    do not exist are refused too.
    """
    author = _Author(path)
    component = author.component(read_shapes(path.parent) if shapes is None else shapes)
    if family:
        author.examine_names(component, family)
    return component


def read_shapes(folder: Path) -> dict[str, Rows]:
    """The shapes of a folder; none if it has no such file. Raises `CatalogError`."""
    path = folder / SHAPES
    if not is_file(path):
        return {}
    author = _Author(path)
    for name, shape in author.data.items():
        author.rows(shape, name)
    return author.data


class _Author:
    """One file, with the places of its keys."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.marks: Marks = {}
        text = read_text(path)
        try:
            self.data: dict[str, Any] = tomllib.loads(text)
            self.marks = marks_of(text)
        except (ValueError, RecursionError) as error:
            found = re.search(r"at line (\d+)", str(error))
            line = int(found[1]) if found else None
            raise CatalogError(f"not a catalog file: {error}", file=str(path), line=line) from error

    def trouble(self, message: str, *keys: str, remedy: str = "") -> NoReturn:
        """Raises a `CatalogError` at the first of these keys that the file holds."""
        line = None
        for key in keys:
            line = next((mark[0] for way, mark in self.marks.items() if way and way[-1] == key), None)
            if line:
                break
        raise CatalogError(message, file=str(self.path), line=line, remedy=remedy)

    def component(self, shapes: dict[str, Rows]) -> Component:
        """The component."""
        head = {name: value for name, value in self.data.items() if name not in ("settings", "each")}
        for name in head:
            if name not in _HEAD:
                self.trouble(f"unknown key {name}", name, remedy=did_you_mean(name, _HEAD))
        each = self.data.get("each", [])
        if not isinstance(each, list) or not all(_is_repeated(table) for table in each):
            remedy = "write [[each]] with rows = [{ NAME = VALUE }] and [each.settings]"
            self.trouble("each must be a list of tables with rows", "each", remedy=remedy)
        for one in each:
            self.rows(one.get("settings", {}), "settings")
        try:
            table = unfolded(self.rows(self.data.get("settings", {}), "settings"), each, shapes)
        except UnfoldError as error:
            self.trouble(str(error), str(error).partition(":")[0], remedy="look for it in this file and in shapes.toml")
        settings = [self.setting(key, fields) for key, fields in self.rows(table, "settings").items()]
        try:
            component = msgspec.convert(head, Component)
        except msgspec.ValidationError as error:
            self.trouble(str(error), *re.findall(r"\$\.(\w+)", str(error)), remedy="see the page on the catalog")
        component = msgspec.structs.replace(component, settings=_with_groups(settings, component.passes))
        self.examine(component)
        return component

    def rows(self, table: Any, name: str) -> Rows:
        """Settings and their fields, if that is what they are."""
        if not isinstance(table, dict) or not all(isinstance(fields, dict) for fields in table.values()):
            self.trouble(f"{name} must hold a table for each setting", name, remedy='write "Name" = { kind = "text" }')
        return table

    def setting(self, key: str, fields: dict[str, Any]) -> Setting:
        """One setting."""
        for name in fields:
            if name not in _FIELDS:
                self.trouble(f"{key}: unknown key {name}", key, name, remedy=did_you_mean(name, _FIELDS))
        choices = fields.get("choices", ())
        if isinstance(choices, dict):
            choices = list(choices.items())
        elif isinstance(choices, list):
            choices = [(choice, "") for choice in choices]
        try:
            return msgspec.convert({**fields, "choices": choices, "path": key}, Setting)
        except msgspec.ValidationError as error:
            self.trouble(f"{key}: {error}", key, remedy="see the page on the catalog")

    def examine(self, component: Component) -> None:
        """Refuses what contradicts itself."""
        by_path = {setting.path: setting for setting in component.settings}
        for path, setting in by_path.items():
            where = f"{component.name}/{path}"
            if setting.kind not in KINDS:
                remedy = did_you_mean(setting.kind, KINDS)
                self.trouble(f"{where}: unknown kind {setting.kind}", path, remedy=remedy)
            if stray := set(setting.passes) - set(component.passes):
                self.trouble(f"{where}: its component never stands in {', '.join(sorted(stray))}", path)
            if setting.usual_pass and setting.usual_pass not in component.passes_of(setting):
                self.trouble(f"{where}: usual pass {setting.usual_pass} is not one of its passes", path)
            if setting.kind == "choice" and not setting.choices:
                self.trouble(f"{where}: a choice needs choices", path)
            named = setting.kind == "list" and setting.key and not is_mark(setting.key)
            if named and f"{path}/{setting.key}" not in by_path:
                self.trouble(f"{where}: its key {setting.key} is no setting", path)
            holds = is_mark(setting.name) or not setting.parent or by_path[setting.parent].kind in ("group", "list")
            if not holds:
                self.trouble(f"{where}: it stands in a setting that takes a value", path)
            if setting.pattern and (wrong := trouble(setting.pattern)):
                self.trouble(
                    f"{where}: its pattern could take for ever: {wrong}", path, remedy="write it in a plainer way"
                )

    def examine_names(self, component: Component, family: str) -> None:
        """Refuses passes and releases that do not exist."""
        from fairledger.catalog.passes import pass_names
        from fairledger.catalog.targets import all_targets

        passes, ids = pass_names(family), [target.id for target in all_targets()]
        for name in component.passes:
            if name not in passes:
                self.trouble(f"there is no pass {name!r}", "passes", remedy=did_you_mean(name, passes))
        ranges = [((*one.since, *one.until, *one.deprecated), one.path) for one in component.settings]
        for releases, key in [((*component.since, *component.until, *component.deprecated), "since"), *ranges]:
            for release in releases:
                if release not in ids:
                    remedy = did_you_mean(release, ids, alike=0.8)
                    self.trouble(f"there is no target {release!r}", key, "until", "deprecated", remedy=remedy)


def _is_repeated(table: Any) -> bool:
    rows = table.get("rows", []) if isinstance(table, dict) else None
    return isinstance(rows, list) and all(isinstance(row, dict) for row in rows)


def _with_groups(settings: list[Setting], passes: tuple[str, ...]) -> tuple[Setting, ...]:
    """Settings as authored, groups that nobody wrote directly before the first setting inside them.

    Such a group stands where anything inside it may stand, and came with the first of it.
    """
    by_path = {setting.path: setting for setting in settings}
    order: dict[str, Setting] = {}
    for setting in settings:
        parts = setting.path.split("/")
        for end in range(1, len(parts) + 1):
            way = "/".join(parts[:end])
            if way not in order:
                order[way] = by_path.get(way) or _group(way, settings, passes)
    return tuple(order.values())


def _group(path: str, settings: list[Setting], passes: tuple[str, ...]) -> Setting:
    inside = [one for one in settings if one.path.startswith(f"{path}/")]
    wide = any(not one.passes for one in inside)
    allowed = () if wide else tuple(name for name in passes if any(name in one.passes for one in inside))
    alike = {name: {getattr(one, name) for one in inside} for name in ("since", "until", "lines")}
    shared = {name: found.pop() for name, found in alike.items() if len(found) == 1}
    return Setting(path=path, kind="group", passes=allowed, sure=any(one.sure for one in inside), **shared)
