"""Builds the packaged index of every family's catalog from the authored files."""

from __future__ import annotations

import portable_reference

from fairledger.catalog import (
    lists,
    offers,
    passes,
    questions,
    routes,
    search,
    setup_keys,
    spoken,
    targets,
    tidy_authored,
    tools,
    uses,
    values,
)
from fairledger.catalog.index import DATA, INDEX, build
from fairledger.families.windows import bypass, groups
from fairledger.intent import tabled

TABLES = (
    values,
    lists,
    offers,
    targets,
    setup_keys,
    spoken,
    passes,
    questions,
    routes,
    tools,
    tidy_authored,
    uses,
    search,
    bypass,
    groups,
    tabled,
)
"""The modules whose authored tables are packaged, each with a `build` and an `INDEX`."""


def main() -> None:
    """Writes two files per family and says how large they are."""
    INDEX.mkdir(exist_ok=True)
    for table in TABLES:
        table.INDEX.write_bytes(table.build())
    for folder in sorted(DATA.iterdir()):
        if folder.is_dir() and folder.name not in ("values", "tidy"):
            names, bodies = build(folder.name)
            (INDEX / f"{folder.name}.names.json").write_bytes(names)
            (INDEX / f"{folder.name}.bodies.json").write_bytes(bodies)
            print(f"{folder.name}: {len(names)} + {len(bodies)} bytes")
    portable_reference.main()  # last: it resolves and translates with all of the others


if __name__ == "__main__":
    main()
