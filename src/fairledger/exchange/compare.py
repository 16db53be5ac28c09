"""Two files compared by meaning: order, prefixes, comments, defaults, encodings and spelling do not count."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from fairledger.exchange.differ import Differ, Difference
from fairledger.exchange.exact import Side, told_apart
from fairledger.exchange.spelled import Alike
from fairledger.families.build import sections_of_choices
from fairledger.intent.part import labels_of
from fairledger.intent.walk import names_of, said, told
from fairledger.model.sheet import Block
from fairledger.model.values import Scalar, SecretRef
from fairledger.subject.subject import Subject, with_sheet


class Comparison(Struct, frozen=True):
    """What differs, what is the same in other words, and what could not be compared."""

    differences: tuple[Difference, ...]
    unknown: tuple[Difference, ...] = ()
    """Secrets that are not to be had."""
    equivalences: tuple[str, ...] = ()
    """What is said otherwise and comes to the same, each in words."""
    not_understood: tuple[str, ...] = ()
    """Places of which nobody can tell whether they make a difference."""

    @property
    def verdict(self) -> str:
        """``same answers``, ``same in effect``, ``different`` or ``not told``."""
        if self.differences:
            return "different"
        if self.unknown or self.not_understood:
            return "not told"
        return "same in effect" if self.equivalences else "same answers"

    @property
    def same(self) -> bool:
        """Whether it is certain that both come to the same."""
        return self.verdict.startswith("same")


def compare(a: Subject, b: Subject) -> Comparison:
    """What two settled files say differently."""
    if a.family.name != b.family.name:
        rests = dict.fromkeys(_rest_told(side, block) for side in (a, b) for block in side.recognised.remainder.blocks)
        return Comparison(tuple(_sections(a, b)), (), (), tuple(rests))
    if a.sheet.kinds != b.sheet.kinds or len(a.sheet.kinds) > 1:
        a, b = (with_sheet(one, one.sheet.apart()) for one in (a, b))
    sides = [Side(one.sheet, one.catalog, adds_up=one.family.adds_up) for one in (a, b)]
    apart = told_apart(*sides)
    if not apart and not _open_secrets(a):
        return Comparison(())
    alike = [Alike(one) for one in (a, b)]
    names = {name for one in alike for name in one.sections}
    equal = {name for name in names if alike[0].sections.get(name) == alike[1].sections.get(name)}
    calling = {"command", "disk"} & names
    scripts = not calling <= equal  # what they call means the same otherwise
    differ = Differ(a, b)
    rows = list(differ.sheets(*(one.sheet if scripts else replace(one.sheet, companions=()) for one in (a, b))))
    covering = [_covering(row, alike, equal) for row in rows]
    found = [row for row, sections in zip(rows, covering, strict=True) if not sections]
    used = [f"the section {name} says the same" for sections in covering for name in sorted(sections)] + differ.used
    unknown = tuple(one for one in found if isinstance(one.a, SecretRef) or isinstance(one.b, SecretRef))
    missing = tuple(one for one in unknown if one.a is None or one.b is None)
    rest = tuple(_by_choice([one for one in found if one not in unknown or one in missing], alike, a, b))
    unknown = tuple(one for one in unknown if one not in missing and str(one.a) != str(one.b))
    rows_explained = {f"{row.pass_}:{_bare(row.component)}" for row, by in zip(rows, covering, strict=True) if by}
    renamed = _renamed(a, b)
    used += [f"another name of a command: {place.partition(':')[2]}" for place in sorted(renamed)]
    explained = differ.explained | rows_explained | renamed
    # what is not the same, and of which nobody can say why that makes no difference, is not vouched for
    untold = tuple(place for place in apart if place.partition("/")[0] not in explained)
    return Comparison(rest, unknown, tuple(dict.fromkeys(used)), () if rest else untold)


def _by_choice(rows: list[Difference], sides: list[Alike], a: Subject, b: Subject) -> Iterator[Difference]:
    """Differences, those in what choices come to told as the choices that they are."""
    choices = sections_of_choices(a.family.name)
    within = [row for row in rows if (parts := _parts(row, sides)) and parts <= choices]
    told_ = [row for row in _sections(a, b) if row.component in choices] if within else []
    yield from told_
    yield from (row for row in rows if not told_ or row not in within)


def _parts(row: Difference, sides: list[Alike]) -> set[str]:
    """The sections as which what differs was understood; an empty name where it was not."""
    return {side.understood.get(seen, "") for side, seen in zip(sides, row.seen, strict=True) if seen is not None}


def _renamed(a: Subject, b: Subject) -> set[str]:
    """The components that one file calls by another of their names, with their passes."""
    names = [{(f"{one.pass_}:{one.component}", one.written) for one in side.sheet.blocks} for side in (a, b)]
    there = [{place for place, _ in side} for side in names]
    return {place for place, _ in names[0] ^ names[1]} & there[0] & there[1]


def _bare(title: str) -> str:
    return title.partition("[")[0].partition("@")[0]


def _covering(row: Difference, sides: list[Alike], equal: set[str]) -> set[str]:
    """The sections that both files have alike and of which a difference is a part, wherever it stands in either."""
    parts = [side.understood.get(seen, "") for side, seen in zip(sides, row.seen, strict=True) if seen is not None]
    if parts:
        parts += [side.understood.get(one, "") for side, all_ in zip(sides, row.around, strict=True) for one in all_]
    return set(parts) if parts and set(parts) <= equal else set()


def _rest_told(side: Subject, block: Block) -> str:
    return f"{Path(side.file).name}: {block.component}"


def _open_secrets(side: Subject) -> bool:
    return any(isinstance(node.value, SecretRef) for _, node in side.sheet.scalars())


def _names(*sides: Subject) -> set[str]:
    return {name for side in sides for name in side.intent.sections}


def _section(side: Subject, name: str) -> Any:
    return side.intent.sections.get(name)


def _sections(a: Subject, b: Subject) -> Iterator[Difference]:
    """Of two families, only the portable sections can be compared."""
    for name in sorted(_names(a, b)):
        one, other = (dict(_fields(side, name)) for side in (a, b))
        for field in dict.fromkeys([*one, *other]):
            left, right = one.get(field), other.get(field)
            if left != right:
                yield Difference("", name, field, left, right)


def _fields(side: Subject, name: str) -> Iterator[tuple[str, str]]:
    value = _section(side, name)
    for path in said(value, (name,)) if value is not None else ():
        places = "".join(
            f"[{labels_of(side.intent.at(path[:at]))[step]}]" if isinstance(step, int) else f".{step}"
            for at, step in enumerate(path)
            if at
        )
        yield (places.lstrip(".") or names_of(path)[-1], told(side.intent.at(path)))


class Change(Struct, frozen=True):
    """What became of something that an older file said."""

    by: str
    """``a``, ``b``, ``both`` (the same), or ``conflict`` (differently)."""
    where: Difference
    base: Scalar | None
    a: Scalar | None
    b: Scalar | None


def changes(base: Subject, a: Subject, b: Subject) -> tuple[Change, ...]:
    """Who changed what since the older file."""
    mine = {one.key: one for one in compare(base, a).differences}
    theirs = {one.key: one for one in compare(base, b).differences}
    apart = {one.key for one in compare(a, b).differences}
    out = []
    for key in dict.fromkeys([*mine, *theirs]):
        one, other = mine.get(key), theirs.get(key)
        where = one or other
        assert where is not None
        by = "a" if other is None else "b" if one is None else "conflict" if key in apart else "both"
        out.append(Change(by, where, where.a, one.b if one else where.a, other.b if other else where.a))
    return tuple(out)
