"""The languages in which the vendors' media can be had, by release."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.catalog.targets import all_targets, within
from fairledger.model.target import Target

DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "index" / "spoken.json"


@cache
def _all() -> dict[str, str]:
    """The tags of each release, joined by blanks."""
    found: dict[str, str] = read_packaged(INDEX, dict[str, str], "the languages of media")
    return found


def build() -> bytes:
    """The packaged form of the authored table."""
    import tomllib

    groups = tomllib.loads((DATA / "targets.toml").read_text(encoding="utf-8"))["media"]
    found: dict[str, str] = {}
    for target in all_targets():
        order = [one.id for one in all_targets() if one.line == target.line]
        for group in groups:
            if group["line"] == target.line and within(target.id, group, order):
                found[target.id] = " ".join(group["languages"])
    return lined(found)


def spoken_by(target: Target) -> tuple[str, ...]:
    """The languages of a release's media; empty where nobody says."""
    return tuple(_all().get(target.id, "").split())


@cache
def spoken_in(family: str) -> frozenset[str]:
    """The languages of the media of any release of a family."""
    return frozenset(tag for target in all_targets() if target.family == family for tag in spoken_by(target))
