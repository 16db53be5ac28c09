"""Names that people look up as Windows spells them: firewall groups, features, capabilities, power plans.

From the vendor's public references; the lists are not complete, so another name is no mistake by itself.
"""

# annotations are kept as types here, not as texts: decoding would compile every one of them at each start

from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.catalog.targets import covers, reached
from fairledger.model.target import Target

DATA = Path(__file__).parent / "data" / "values"
INDEX = Path(__file__).parent / "index" / "offers.json"


class Offer(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """One name, and what it is for."""

    value: str
    name: str
    lines: tuple[str, ...] = ()
    """The lines of releases that have it; empty means all."""
    since: tuple[str, ...] = ()
    until: tuple[str, ...] = ()
    fetched: tuple[str, ...] = ()
    """The first releases whose image does not hold it, so that it has to come from somewhere."""

    def there(self, target: Target) -> bool:
        """Whether a release has it."""
        return (not self.lines or target.line in self.lines) and covers(target, self.since, self.until)

    def lacking(self, target: Target) -> bool:
        """Whether a release's image does not hold it."""
        return self.there(target) and reached(target, self.fetched)


class Offers(Struct, frozen=True):
    """All lists."""

    lists: dict[str, tuple[Offer, ...]]
    roles: dict[str, str]
    """What another tool calls a feature, and what the servicing tool does; empty where that is not one feature."""


@cache
def offers() -> Offers:
    """The lists. Raises `CatalogError` if the package is damaged."""
    found: Offers = read_packaged(INDEX, Offers, "the lists of names")
    return found


def build() -> bytes:
    """The packaged form of the authored lists."""
    import tomllib

    table = tomllib.loads((DATA / "offers.toml").read_text(encoding="utf-8"))
    return lined(msgspec.convert({"roles": table.pop("roles"), "lists": table}, Offers), 2)


@cache
def named(kind: str) -> dict[str, Offer]:
    """One of the lists, by name in lower case."""
    return {one.value.casefold(): one for one in offers().lists[kind]}
