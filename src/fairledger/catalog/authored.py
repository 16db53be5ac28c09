"""Reads the catalog as people author it: one TOML file per component, a line or a few per setting."""

from __future__ import annotations

import re
import tomllib
from pathlib import Path
from typing import Any

import msgspec

from fairledger.catalog.setting import Component, Setting
from fairledger.model.errors import CatalogError
from fairledger.model.kinds import KINDS
from fairledger.model.suggest import did_you_mean

_HEAD = {name for name in Component.__struct_fields__ if name != "settings"}
_FIELDS = {name for name in Setting.__struct_fields__ if name != "path"}


def read_component(path: Path) -> Component:
    """One component from its file. Raises `CatalogError` with the place and a remedy."""
    try:
        data = tomllib.loads(path.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError, tomllib.TOMLDecodeError) as error:
        raise CatalogError(f"not a catalog file: {error}", file=str(path)) from error
    table = data.pop("settings", {})
    for name in data:
        if name not in _HEAD:
            raise CatalogError(f"unknown key {name}", file=str(path), remedy=did_you_mean(name, _HEAD))
    settings = [_setting(path, key, fields) for key, fields in table.items()]
    known = {setting.path for setting in settings}
    groups: dict[str, Setting] = {}
    for setting in settings:
        parent = setting.parent
        while parent and parent not in known and parent not in groups:
            groups[parent] = Setting(path=parent, kind="group")
            parent = parent.rpartition("/")[0]
    try:
        component = msgspec.convert(data, Component)
    except msgspec.ValidationError as error:
        raise CatalogError(str(error), file=str(path)) from error
    component = msgspec.structs.replace(component, settings=_in_order([*groups.values(), *settings]))
    _examine(path, component)
    return component


def _in_order(settings: list[Setting]) -> tuple[Setting, ...]:
    """Groups directly before the first setting inside them, else as authored."""
    by_path = {setting.path: setting for setting in settings}
    order: dict[str, Setting] = {}
    for setting in settings:
        parts = setting.path.split("/")
        for end in range(1, len(parts) + 1):
            way = "/".join(parts[:end])
            if setting.kind == "group" and not setting.about and end == len(parts):
                continue
            order.setdefault(way, by_path[way])
    return tuple(order.values())


def _setting(path: Path, key: str, fields: dict[str, Any]) -> Setting:
    for name in fields:
        if name not in _FIELDS:
            raise CatalogError(f"{key}: unknown key {name}", file=str(path), remedy=did_you_mean(name, _FIELDS))
    choices = fields.get("choices", ())
    if isinstance(choices, dict):
        choices = list(choices.items())
    elif choices:
        choices = [(choice, "") for choice in choices]
    try:
        return msgspec.convert({**fields, "choices": choices, "path": key}, Setting)
    except msgspec.ValidationError as error:
        raise CatalogError(f"{key}: {error}", file=str(path)) from error


def _examine(path: Path, component: Component) -> None:
    """Refuses what contradicts itself."""
    for setting in component.settings:
        where = f"{component.name}/{setting.path}"
        if setting.kind not in KINDS:
            raise CatalogError(
                f"{where}: unknown kind {setting.kind}",
                file=str(path),
                remedy=did_you_mean(setting.kind, KINDS),
            )
        if stray := set(setting.passes) - set(component.passes):
            raise CatalogError(f"{where}: its component never stands in {', '.join(sorted(stray))}", file=str(path))
        if setting.usual_pass and setting.usual_pass not in component.passes_of(setting):
            raise CatalogError(f"{where}: usual pass {setting.usual_pass} is not one of its passes", file=str(path))
        if setting.kind == "choice" and not setting.choices:
            raise CatalogError(f"{where}: a choice needs choices", file=str(path))
        named = setting.kind == "list" and setting.key and not setting.key.startswith("@")
        if named and component.setting(f"{setting.path}/{setting.key}") is None:
            raise CatalogError(f"{where}: its key {setting.key} is no setting", file=str(path))
        try:
            re.compile(setting.pattern)
        except re.error as error:
            raise CatalogError(f"{where}: pattern: {error}", file=str(path)) from error
