"""Setup keys that a vendor publishes for volume activation, by release and edition. They activate nothing."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.catalog.targets import all_targets, within
from fairledger.model.target import Target

DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "index" / "setup_keys.json"


_TRIAL = "Evaluation"


@cache
def _all() -> dict[str, dict[str, str]]:
    """By target and edition."""
    found: dict[str, dict[str, str]] = read_packaged(INDEX, dict[str, dict[str, str]], "the table of setup keys")
    return found


def build() -> bytes:
    """The packaged form of the authored table."""
    import tomllib

    groups = tomllib.loads((DATA / "setup_keys.toml").read_text(encoding="utf-8"))["keys"]
    found: dict[str, dict[str, str]] = {}
    for target in all_targets():
        order = [one.id for one in all_targets() if one.line == target.line]
        for group in groups:
            if group["line"] == target.line and within(target.id, group, order):
                found.setdefault(target.id, {}).update(group["editions"])
    return lined(found)


def editions_with_key(target: Target) -> tuple[str, ...]:
    """The editions of a release for which a key is published."""
    return tuple(name for name in target.editions if setup_key(target, name))


def setup_key(target: Target, image: str) -> str:
    """The published key for an edition, by its name or that of its image; empty if there is none."""
    if _TRIAL in image:
        return ""  # evaluation media take no key
    edition = target.edition_of(image) or image
    return _all().get(target.id, {}).get(edition.removesuffix(" (Core)"), "")


def releases_of(key: str) -> dict[str, str]:
    """The releases, and the edition of each, for which a key is published; none if it is not published."""
    folded = key.strip().upper()
    return {name: edition for name, rows in _all().items() for edition, one in rows.items() if one == folded}
