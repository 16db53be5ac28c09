"""The table of targets."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

import msgspec

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.model.errors import WrongUseError
from fairledger.model.size import parse_size
from fairledger.model.suggest import did_you_mean
from fairledger.model.target import Target

DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "index" / "targets.json"


@cache
def all_targets() -> tuple[Target, ...]:
    """Every target, lines together and releases in order of coming."""
    found: tuple[Target, ...] = read_packaged(INDEX, tuple[Target, ...], "the table of targets")
    return found


def build() -> bytes:
    """The packaged form of the authored tables of releases and editions."""
    import tomllib

    table = tomllib.loads((DATA / "targets.toml").read_text(encoding="utf-8"))
    lines = table["line"]
    editions = tomllib.loads((DATA / "editions.toml").read_text(encoding="utf-8"))["edition"]
    rows = []
    for line, told in lines.items():
        shared = {name: value for name, value in told.items() if name != "releases"}
        order = [release["id"] for release in told["releases"]]
        wants = [group for group in table["least"] if group["line"] == line]
        mine = [group for group in editions if group["line"] == line]
        for release in told["releases"]:
            prefix = release.get("image_prefix", "")
            here = [group for group in mine if within(release["id"], group, order)]
            images = {name: image for group in here for name, image in _images(group.get("names", {}), prefix)}
            row = {
                **shared,
                **release,
                "line": line,
                "edition_images": list(images.items()),
                "shown_images": [pair for group in here for pair in _images(group.get("shown", {}), prefix)],
                "edition_support": [
                    (name, group["supported_until"])
                    for group in here
                    if "supported_until" in group
                    for name in group["names"]
                ],
            }
            least = next((_least(group) for group in wants if within(release["id"], group, order)), {})
            rows.append(msgspec.convert({**row, **least}, Target))
    return lined(rows)


def within(release: str, group: dict[str, Any], order: list[str]) -> bool:
    """Whether a group of an authored table holds for a release of its line."""
    if "only" in group:
        return release in group["only"]
    here, first, last = order.index(release), group.get("since", order[0]), group.get("until", order[-1])
    return order.index(first) <= here <= order.index(last)


_SIZES = ("disk", "memory", "system", "recovery")


def _least(group: dict[str, Any]) -> dict[str, Any]:
    sizes = {f"least_{name}_mib": parse_size(group[name]).mib for name in _SIZES if name in group}
    return {**sizes, "firmware": group.get("firmware", [])}


def _images(names: list[str] | dict[str, str], prefix: str) -> list[tuple[str, str]]:
    if isinstance(names, list):
        return [(name, prefix + name) for name in names]
    return [(name, image.replace("<prefix>", prefix)) for name, image in names.items()]


def known_target(name: str) -> Target | None:
    """The target of that id; None if there is none."""
    return next((target for target in all_targets() if target.id == name), None)


def covers(target: Target, since: tuple[str, ...], until: tuple[str, ...]) -> bool:
    """Whether a range of releases includes the target; a line that a range does not name is not limited."""
    order = order_of(target.line)
    here = order[target.id]
    return not any(order.get(name, here) > here for name in since) and not any(
        order.get(name, here) < here for name in until
    )


@cache
def order_of(line: str) -> dict[str, int]:
    """The releases of a line with their places in it."""
    return {row.id: at for at, row in enumerate(one for one in all_targets() if one.line == line)}


def reached(target: Target, since: tuple[str, ...]) -> bool:
    """Whether the target is, or comes after, one of these releases; lines that are not named are never reached."""
    order = order_of(target.line)
    return any(name in order and order[name] <= order[target.id] for name in since)


def name_of(release: str) -> str:
    """The vendor's name of a target."""
    return next((row.name for row in all_targets() if row.id == release), release)


def releases_from(first: str, target: Target) -> frozenset[str]:
    """The releases of the target's line from one of them on. Raises `WrongUseError` if it is of another line."""
    order = order_of(target.line)
    if first not in order:
        raise WrongUseError(
            f"{first!r} is no release of the line of {target.name}",
            remedy=did_you_mean(first, order, alike=0.8) or f"name one of them, such as {target.id}",
            candidates=tuple(order),
        )
    return frozenset(name for name, at in order.items() if at >= order[first])
