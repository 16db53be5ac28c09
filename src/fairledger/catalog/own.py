"""Catalog files that users and vendors add: components of their own, and settings for components that ship.

A folder holds a folder per family, with one TOML file per component in the form of the packaged ones.
"""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.setting import Component, Setting
from fairledger.model.errors import CatalogError, FileTroubleError
from fairledger.model.suggest import did_you_mean

FOLDER = "catalog"
"""What such a folder is called beside a draft."""


class Own(Struct, frozen=True):
    """Components that were added, by family and name."""

    families: dict[str, dict[str, Component]] = {}

    def of(self, family: str) -> dict[str, Component]:
        """Those of a family."""
        return self.families.get(family, {})


NOTHING = Own()


def beside(folder: Path) -> Own:
    """What the folder ``catalog/`` adds there; nothing if there is none. Raises `CatalogError`."""
    added = folder / FOLDER
    return own_catalog(added) if added.is_dir() else NOTHING


def own_catalog(folder: Path) -> Own:
    """What a folder adds. Raises `CatalogError` with file, line and remedy, `FileTroubleError` if it is no folder."""
    from fairledger.catalog.authored import component_files, read_component, read_shapes
    from fairledger.catalog.index import families

    if not folder.is_dir():
        raise FileTroubleError("there is no such folder of catalog files", file=str(folder))
    strays = sorted(folder.glob("*.toml"))
    if strays:
        remedy = f"put it into a folder of its family: {', '.join(f'{name}/' for name in families())}"
        raise CatalogError("a catalog file stands outside of a family's folder", file=str(strays[0]), remedy=remedy)
    found: dict[str, dict[str, Component]] = {}
    for part in sorted(path for path in folder.iterdir() if path.is_dir() and not path.name.startswith(".")):
        if part.name not in families():
            raise CatalogError(
                f"there is no family {part.name!r}", file=str(part), remedy=did_you_mean(part.name, families())
            )
        shapes = read_shapes(part)
        for path in component_files(part):
            component = read_component(path, shapes, part.name)
            if component.name in found.setdefault(part.name, {}):
                raise CatalogError(f"{component.name} stands in two files", file=str(path), remedy="join them")
            found[part.name][component.name] = component
    return Own(found)


def joined(packaged: Component, added: Component) -> Component:
    """A packaged component with settings that were added; where both have one, the added one counts."""
    settings: dict[str, Setting] = {one.path: one for one in packaged.settings}
    settings.update({one.path: one for one in added.settings})
    passes = (*packaged.passes, *(name for name in added.passes if name not in packaged.passes))
    kept = tuple(
        one if one.passes or passes == packaged.passes else replace(one, passes=packaged.passes)
        for one in settings.values()
    )
    return replace(packaged, passes=passes, settings=kept)
