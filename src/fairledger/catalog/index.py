"""The packaged index of a family's catalog: a small table of names, and bodies that are decoded one by one.

``FAMILY.names.json`` maps each component to its passes and the paths of its settings; its body is the line of
``FAMILY.bodies.json`` at the same place, so that nothing moves when another component changes. Both are built from the
authored files by ``tools/build_index.py``; a test proves that they are current.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.catalog.setting import Component
from fairledger.model.errors import CatalogError
from fairledger.storage.looking import entries

DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "index"


class Entry(Struct, frozen=True, array_like=True):
    """What the table of names says of a component."""

    passes: tuple[str, ...]
    paths: tuple[str, ...]
    lines: tuple[str, ...] = ()
    expected: str = ""


def key_of(name: str, lines: tuple[str, ...]) -> str:
    """What a component is filed under: its name, and the first of its lines if it is limited to some."""
    return f"{name}@{lines[0]}" if lines else name


def build(family: str) -> tuple[bytes, bytes]:
    """The two files of the index, from the authored ones. Raises `CatalogError`."""
    from fairledger.catalog.authored import component_files, read_component, read_shapes

    found: dict[str, Component] = {}
    shapes = read_shapes(DATA / family)
    for path in component_files(DATA / family):
        component = read_component(path, shapes, family)
        key = key_of(component.name, component.lines)
        if key in found:
            raise CatalogError(f"{key} stands in two files", file=str(path))
        found[key] = component
    names = {
        key: Entry(one.passes, tuple(setting.path for setting in one.settings), one.lines, one.expected)
        for key, one in found.items()
    }
    bodies = [msgspec.json.encode(one) for one in found.values()]
    return lined(names), b"\n".join(bodies) + b"\n"


@cache
def families() -> tuple[str, ...]:
    """The families that have a catalog."""
    return tuple(sorted(path.name.partition(".")[0] for path in entries(INDEX, ".names.json")))


@cache
def names_of(family: str) -> dict[str, Entry]:
    """The table of names. Raises `CatalogError` if the package is damaged."""
    path = INDEX / f"{family}.names.json"
    found: dict[str, Entry] = read_packaged(path, dict[str, Entry], f"the catalog of {family}")
    return found


@cache
def _bodies(family: str) -> dict[str, bytes]:
    """The bodies by key, not decoded."""
    lines = (INDEX / f"{family}.bodies.json").read_bytes().splitlines()
    return dict(zip(names_of(family), lines, strict=True))


@cache
def component_of(family: str, key: str) -> Component:
    """One component's whole body, all releases, by its key. Raises `CatalogError` if the package is damaged."""
    try:
        return msgspec.json.decode(_bodies(family)[key], type=Component)
    except (OSError, ValueError) as error:  # damaged, or of another length than the table of names
        raise CatalogError(f"the catalog of {family} cannot be read: {error}", remedy="install again") from error
