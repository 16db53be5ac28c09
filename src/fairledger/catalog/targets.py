"""The table of targets."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import msgspec

from fairledger.model.errors import CatalogError, WrongUseError
from fairledger.model.suggest import did_you_mean
from fairledger.model.target import Target

DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "index" / "targets.json"


@cache
def all_targets() -> tuple[Target, ...]:
    """Every target, lines together and releases in order of coming."""
    try:
        return msgspec.json.decode(INDEX.read_bytes(), type=tuple[Target, ...])
    except (OSError, msgspec.DecodeError) as error:
        raise CatalogError(f"the table of targets cannot be read: {error}", remedy="install again") from error


def build() -> bytes:
    """The packaged form of the authored table."""
    import tomllib

    rows = tomllib.loads((DATA / "targets.toml").read_text(encoding="utf-8"))["target"]
    return msgspec.json.encode([msgspec.convert(row, Target) for row in rows]) + b"\n"


def target_named(name: str, *, file: str | None = None, line: int | None = None) -> Target:
    """The target of that id. Raises `WrongUseError` with the nearest ids."""
    for target in all_targets():
        if target.id == name:
            return target
    ids = [target.id for target in all_targets()]
    raise WrongUseError(
        f"there is no target {name!r}", remedy=did_you_mean(name, ids), candidates=ids, file=file, line=line
    )


def covers(target: Target, since: tuple[str, ...], until: tuple[str, ...]) -> bool:
    """Whether a range of releases includes the target; a line that a range does not name is not limited."""
    order = [row.id for row in all_targets() if row.line == target.line]
    here = order.index(target.id)
    return not any(name in order and order.index(name) > here for name in since) and not any(
        name in order and order.index(name) < here for name in until
    )
