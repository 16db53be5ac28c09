"""What differs between the catalogs of two targets."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.setting import Component, Setting
from fairledger.catalog.targets import reached
from fairledger.model.kinds import choices_of
from fairledger.model.target import Target


class Difference(Struct, frozen=True):
    """A setting (or, with an empty path, a whole component) that one target has and the other has not, or otherwise."""

    component: str
    setting: str
    what: str
    """``came``, ``went`` or ``changed``, seen from the first target."""
    told: str = ""
    """What is different, or what to use instead."""
    sure: bool = True


def differences(old: Target, new: Target) -> tuple[Difference, ...]:
    """What comes, goes or changes on the way from one target to another of the same family."""
    before, after = Catalog(old.family, old), Catalog(new.family, new)
    out: list[Difference] = []
    for name in sorted({*before.names(), *after.names()}):
        was, now = before.component(name), after.component(name)
        if was is None or now is None:
            there = was or now
            assert there is not None
            out.append(Difference(name, "", "came" if was is None else "went", there.instead, there.sure))
        else:
            out += _in_component(was, now, old, new)
    return tuple(out)


def _in_component(was: Component, now: Component, old: Target, new: Target) -> Iterator[Difference]:
    sure = was.sure and now.sure
    if reached(new, now.deprecated) and not reached(old, was.deprecated):
        yield Difference(now.name, "", "changed", _instead("out of date", now.instead), sure)
    mine = {one.path: one for one in was.settings}
    others = {one.path: one for one in now.settings}
    for path in sorted({*mine, *others}):
        before, after = mine.get(path), others.get(path)
        there = before or after
        assert there is not None
        if before is None or after is None:
            what = "came" if before is None else "went"
            yield Difference(now.name, path, what, there.instead, sure and there.sure)
        elif told := _told(was, before, now, after, old, new):
            yield Difference(now.name, path, "changed", told, sure and before.sure and after.sure)


def _told(was: Component, before: Setting, now: Component, after: Setting, old: Target, new: Target) -> str:
    """What is different about a setting that both have."""
    changes = []
    for word, one, other in (
        ("kind", before.kind, after.kind),
        ("passes", ", ".join(was.passes_of(before)), ", ".join(now.passes_of(after))),
        ("values", ", ".join(choices_of(before.kind, before)), ", ".join(choices_of(after.kind, after))),
        ("least", before.min, after.min),
        ("most", before.max, after.max),
        ("length", before.max_length, after.max_length),
    ):
        if one != other:
            changes.append(f"{word} {one or 'any'} becomes {other or 'any'}")
    if reached(new, after.deprecated) and not reached(old, before.deprecated):
        changes.append(_instead("out of date", after.instead))
    return "; ".join(changes)


def _instead(told: str, instead: str) -> str:
    return f"{told}; use {instead}" if instead else told
