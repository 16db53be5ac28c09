"""Catalog files that users and vendors add: components of their own, and settings for components that ship.

A folder holds a folder per family, with one TOML file per component in the form of the packaged ones.
"""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.setting import Component, Setting
from fairledger.catalog.tidy import Choice
from fairledger.model.errors import CatalogError, FileTroubleError
from fairledger.model.showing import looks_secret
from fairledger.model.suggest import did_you_mean
from fairledger.storage.looking import entries, is_folder, real

CHOICES = "tidy"
"""What the folder of one's own choices is called beside a draft."""
FOLDER = "catalog"
"""What such a folder is called beside a draft; beside an answer file it counts only where somebody names it."""


class Own(Struct, frozen=True):
    """Components that were added, by family and name."""

    families: dict[str, dict[str, Component]] = {}
    folder: str = ""
    """Where they come from."""
    choices: dict[str, Choice] = {}
    """Choices of one's own, by name."""

    def of(self, family: str) -> dict[str, Component]:
        """Those of a family."""
        return self.families.get(family, {})


NOTHING = Own()


def beside(folder: Path, named: Own | None = None) -> Own:
    """What the folders ``catalog/`` and ``tidy/`` add there; nothing if there are none. Raises `CatalogError`.

    ``named`` stands for the former where somebody names another.
    """
    added = folder / FOLDER
    own = named if named is not None else own_catalog(added) if is_folder(added) else NOTHING
    choices = own_choices(folder / CHOICES) if is_folder(folder / CHOICES) else {}
    return replace(own, choices=choices) if choices else own


def own_choices(folder: Path) -> dict[str, Choice]:
    """The choices that the files of a folder describe, by name. Raises `CatalogError` with file, line and remedy."""
    from fairledger.catalog.tidy_authored import read_group

    found: dict[str, Choice] = {}
    for path in entries(folder, ".toml"):
        if not real(path).is_relative_to(real(folder)):
            raise CatalogError("the file lies outside of the folder of choices", file=str(path), remedy="copy it there")
        for name, choice in read_group(path).choices.items():
            if name in found:
                raise CatalogError(f"the choice {name} stands in two files", file=str(path), remedy="rename one")
            if choice.kind in ("text", "path") and looks_secret(name):
                told = f"the choice {name} sounds like a secret, and would be shown"
                raise CatalogError(told, file=str(path), remedy="write it with a command, from a secret")
            found[name] = choice
    return found


def own_catalog(folder: Path) -> Own:
    """What a folder adds. Raises `CatalogError` with file, line and remedy, `FileTroubleError` if it is no folder."""
    from fairledger.catalog.authored import component_files, read_component, read_shapes
    from fairledger.catalog.index import families

    if not is_folder(folder):
        raise FileTroubleError("there is no such folder of catalog files", file=str(folder))
    strays = entries(folder, ".toml")
    if strays:
        remedy = f"put it into a folder of its family: {', '.join(f'{name}/' for name in families())}"
        raise CatalogError("a catalog file stands outside of a family's folder", file=str(strays[0]), remedy=remedy)
    found: dict[str, dict[str, Component]] = {}
    for part in (path for path in entries(folder) if is_folder(path) and not path.name.startswith(".")):
        if part.name not in families():
            raise CatalogError(
                f"there is no family {part.name!r}", file=str(part), remedy=did_you_mean(part.name, families())
            )
        shapes = read_shapes(part)
        for path in component_files(part):
            if not real(path).is_relative_to(real(part)):
                raise CatalogError(
                    "the file lies outside of the catalog's folder", file=str(path), remedy="copy it there"
                )
            component = read_component(path, shapes, part.name)
            if (open_ := _shows_secret(component)) is not None:
                told = f"{open_.path} sounds like a secret, and would be shown"
                raise CatalogError(told, file=str(path), remedy='write kind = "password", or choices')
            if component.name in found.setdefault(part.name, {}):
                raise CatalogError(f"{component.name} stands in two files", file=str(path), remedy="join them")
            found[part.name][component.name] = component
    return Own(found, str(folder))


def _shows_secret(added: Component) -> Setting | None:
    """A setting that sounds like a secret, and whose kind would show it."""
    return next((one for one in added.settings if looks_secret(one.name) and one.kind in _TELLING), None)


_TELLING = ("text", "path", "command", "hostname")
"""Kinds whose values could be a password."""


def joined(packaged: Component, added: Component, folder: str = "") -> Component:
    """A packaged component with settings that were added. Raises `CatalogError` where one of them ships already."""
    known = {one.path: one for one in packaged.settings}
    stray = [name for name in added.passes if name not in packaged.passes]
    if stray:
        told = f"{added.name} does not stand in {', '.join(stray)}: a folder only adds settings"
        raise CatalogError(told, file=folder, remedy=f"its passes are {', '.join(packaged.passes)}")
    for one in added.settings:
        if one.path in known and not (one.kind == known[one.path].kind and one.kind in ("group", "list")):
            told = f"{added.name}/{one.path} ships with the catalog: a folder only adds"
            raise CatalogError(told, file=folder, remedy="take it out")
    return replace(packaged, settings=(*packaged.settings, *(one for one in added.settings if one.path not in known)))
