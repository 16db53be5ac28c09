"""The portable fields as a reference: what each means, what it accepts, an example, and what families make of it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from functools import cache
from pathlib import Path

from msgspec import Struct

from fairledger.catalog.packaged import read_packaged
from fairledger.catalog.search import Entry, Ranked, rank, roots_of, weighed
from fairledger.catalog.targets import known_target
from fairledger.intent.sections import SECTION_NAMES
from fairledger.model.errors import WrongUseError
from fairledger.model.pattern import pattern
from fairledger.model.suggest import nearest
from fairledger.model.target import Target

INDEX = Path(__file__).parent / "reference.json"
"""Written by ``tools/portable_reference.py`` from the sections, their words and the examples of their pages."""


class FieldTold(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """A portable field."""

    path: str
    """``section.field``, with the tables on the way."""
    accepts: str
    values: tuple[str, ...] = ()
    """Where it accepts only certain words."""
    about: str = ""
    words: str = ""
    """What people call it besides."""
    example: str = ""
    """An assignment for ``set``."""
    held: tuple[str, ...] = ()
    """The targets that have a use for it."""
    made: dict[str, tuple[str, ...]] = {}
    """By target, the newest of its line: what becomes of the field in an example."""


@cache
def reference() -> dict[str, FieldTold]:
    """Every portable field by its path. Raises `CatalogError` if the package is damaged."""
    found: tuple[FieldTold, ...] = read_packaged(INDEX, tuple[FieldTold, ...], "the reference of portable fields")
    return {one.path: one for one in found}


def fitting(question: str, target: Target) -> list[Ranked[FieldTold]]:
    """The fields that fit plain words and that a target has a use for, best first."""
    found = rank(question, [_entry(one) for one in reference().values() if target.id in one.held])
    best = found[0].score if found else 0.0
    return [one for one in found if one.hit >= _ENOUGH and one.score >= best * _NEAR]


_SAID = 4.6
"""How much a word counts that people say for a field: nearly as much as its name."""
_ENOUGH, _NEAR = 0.6, 0.5
"""How much of what was asked a field must have, and how near it must come to the best one."""


def _entry(one: FieldTold) -> Entry[FieldTold]:
    above, _, name = one.path.rpartition(".")
    roots = roots_of(name.replace("_", " "))
    said = dict.fromkeys(roots_of(one.words), _SAID)
    weights = weighed(" ".join(one.values), above.replace(".", " "), one.about, "", said, roots)
    return Entry(one, weights, frozenset(roots), name.replace("_", ""))


def named(name: str) -> list[FieldTold]:
    """The field of that path, or all of a section or of a table in it. Raises `WrongUseError` with those near."""
    there = reference()
    bare = _ITEM.sub("", name)
    if bare in there:
        return [there[bare]]
    below = [one for path, one in there.items() if path.startswith(f"{bare}.")]
    if below:
        return below
    ends = [one for path, one in there.items() if "." in bare and path.endswith(f".{bare.partition('.')[2]}")]
    inside = [one for one in ends if one.path.startswith(f"{bare.partition('.')[0]}.")]
    if len(inside) == 1:
        return inside
    near = list(dict.fromkeys([*(one.path for one in inside), *nearest(bare, there, most=4)]))[:4]
    remedy = (
        f"did you mean {' or '.join(near)}?" if near else "fairledger find TARGET WORDS finds fields by plain words"
    )
    raise WrongUseError(f"there is no portable field {name!r}", remedy=remedy)


def native(path: str, family: str, line: str) -> str:
    """What becomes of a field in answer files, by name: of a line of releases, else of any. Empty if nobody knows."""
    one = reference().get(path)
    rows = [(known_target(name), rows) for name, rows in one.made.items()] if one is not None else []
    mine = [(target.line != line, rows) for target, rows in rows if target is not None and target.family == family]
    made = min(mine, default=(True, ()), key=lambda row: row[0])[1]
    names = (row.partition(": ")[2].partition(" = ")[0] for row in made)
    told = dict.fromkeys("/".join(name.split("/")[1:][-2:]) or name for name in names if not name.endswith(_REMARKS))
    return " and ".join([*told][:_MOST_NATIVE])


def sections_making(components: Sequence[str], family: str, line: str) -> list[str]:
    """The portable sections that come to one of some components in a line of releases, those that do so most first."""
    found: Counter[str] = Counter()
    for path, one in reference().items():
        for name, rows in one.made.items():
            target = known_target(name)
            if target is not None and target.family == family and target.line == (line or target.line):
                heads = (row.partition(": ")[2].partition(" = ")[0].partition("/")[0] for row in rows)
                found[path.partition(".")[0]] += sum(head in components for head in heads)
    return [section for section, times in found.most_common() if times]


_REMARKS = ("Description", "@keyValue", "PlainText")
_MOST_NATIVE = 3


def is_field(name: str) -> bool:
    """Whether a name is that of a portable field or of a table in a section, or has the form of one."""
    bare = _ITEM.sub("", name)
    return not set("/:") & set(bare) and bare.partition(".")[0] in SECTION_NAMES


_ITEM = pattern(r"\[[^\]]*\]")
