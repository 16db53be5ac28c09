"""Tables that are authored as TOML and packaged as JSON, an entry a line: branches that add some do not meet."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any, TypeVar

import msgspec

from fairledger.model.errors import CatalogError

T = TypeVar("T")


def lined(value: Any, levels: int = 1) -> bytes:
    """JSON with a line for each entry of a mapping or list, down to a number of levels below it."""
    return _lined(msgspec.to_builtins(value), levels) + b"\n"


def _lined(plain: Any, levels: int) -> bytes:
    encode = msgspec.json.encode
    # a line an entry, and no counts or offsets: two branches that add one each do not meet
    if not levels or not plain or not isinstance(plain, Mapping | list | tuple):
        return encode(plain)
    if isinstance(plain, Mapping):
        rows = [encode(key) + b":" + _lined(one, levels - 1) for key, one in plain.items()]
        return b"{\n" + b",\n".join(rows) + b"\n}"
    return b"[\n" + b",\n".join(_lined(one, levels - 1) for one in plain) + b"\n]"


def read_packaged(path: Path, form: Callable[..., T] | Any, what: str) -> T:
    """A packaged table in its form. Raises `CatalogError` if the package is damaged."""
    try:
        found: T = msgspec.json.decode(path.read_bytes(), type=form)
    except (OSError, msgspec.DecodeError) as error:
        raise CatalogError(f"{what} cannot be read: {error}", remedy="install again") from error
    return found
