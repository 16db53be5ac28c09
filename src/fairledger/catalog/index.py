"""The packaged index of a family's catalog: a small table of names, and bodies read one by one.

``FAMILY.names.json`` maps each component to its passes, its place in ``FAMILY.bodies.json`` (byte offset
and length) and the paths of its settings. Both are built from the authored files by ``tools/build_index.py``;
a test proves that they are current.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.catalog.setting import Component
from fairledger.model.errors import CatalogError

DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "index"


class Entry(Struct, frozen=True, array_like=True):
    """What the table of names says of a component."""

    offset: int
    length: int
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

    names: dict[str, Entry] = {}
    bodies = b""
    shapes = read_shapes(DATA / family)
    for path in component_files(DATA / family):
        component = read_component(path, shapes, family)
        key = key_of(component.name, component.lines)
        if key in names:
            raise CatalogError(f"{key} stands in two files", file=str(path))
        body = msgspec.json.encode(component) + b"\n"
        paths = tuple(setting.path for setting in component.settings)
        names[key] = Entry(len(bodies), len(body), component.passes, paths, component.lines, component.expected)
        bodies += body
    return msgspec.json.encode(names) + b"\n", bodies


@cache
def families() -> tuple[str, ...]:
    """The families that have a catalog."""
    return tuple(sorted(path.name.partition(".")[0] for path in INDEX.glob("*.names.json")))


@cache
def names_of(family: str) -> dict[str, Entry]:
    """The table of names. Raises `CatalogError` if the package is damaged."""
    try:
        return msgspec.json.decode((INDEX / f"{family}.names.json").read_bytes(), type=dict[str, Entry])
    except (OSError, msgspec.DecodeError) as error:
        raise CatalogError(f"the catalog of {family} cannot be read: {error}", remedy="install again") from error


@cache
def component_of(family: str, key: str) -> Component:
    """One component's whole body, all releases, by its key. Raises `CatalogError` if the package is damaged."""
    entry = names_of(family)[key]
    try:
        with (INDEX / f"{family}.bodies.json").open("rb") as file:
            file.seek(entry.offset)
            return msgspec.json.decode(file.read(entry.length), type=Component)
    except (OSError, msgspec.DecodeError) as error:
        raise CatalogError(f"the catalog of {family} cannot be read: {error}", remedy="install again") from error
