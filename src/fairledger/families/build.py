"""From an intent to a sheet, and back from a sheet to an intent."""

from __future__ import annotations

from collections.abc import Collection, Container, Mapping
from functools import cache, cached_property, partial
from importlib import import_module
from pathlib import Path
from typing import Any, cast

from msgspec import NODEFAULT, Struct

from fairledger.catalog.passes import pass_names
from fairledger.catalog.seats import Seats
from fairledger.catalog.tidy import tidy
from fairledger.families.interface import Reader, Words
from fairledger.intent.fields import defaults_of
from fairledger.intent.intent import Intent
from fairledger.intent.sections import SECTION_NAMES, section
from fairledger.intent.walk import FieldPath, changed, names_of, said
from fairledger.model.facts import Facts
from fairledger.model.finding import Finding, Severity
from fairledger.model.places import Placed
from fairledger.model.sheet import Sheet, SheetBuilder
from fairledger.model.target import Target
from fairledger.storage.looking import entries


class Recognised:
    """What a sheet means, and what of it nobody could read."""

    def __init__(self, intent: Intent, reader: Reader, took: Mapping[int, str], tainted: Collection[str]) -> None:
        self.intent = intent
        self.understood = reader.understood
        """The section as which a node or block (by its identity in memory) was understood."""
        self.tainted: frozenset[str] = frozenset(tainted)
        """The sections that were handed an open placeholder while they were looked for."""
        self._reader = reader
        self._took = took
        """What was understood before it was found that some of it says what must go."""

    @property
    def target(self) -> Target | None:
        """The target that it was read for."""
        return self._reader.target

    @cached_property
    def taken(self) -> dict[str, dict[int, str]]:
        """By section: the nodes and blocks that it took, by their identities."""
        found: dict[str, dict[int, str]] = {name: {} for name in SECTION_NAMES}
        for one, name in self._took.items():
            found[name][one] = name
        return found

    @cached_property
    def to_look_for_again(self) -> list[tuple[str, dict[int, str]]]:
        """The tainted sections, each with what others took between the one before and it; what is left comes last."""
        found = []
        between: dict[int, str] = {}
        for name, taken in self.taken.items():
            if name in self.tainted:
                found.append((name, between))
                between = {}
            else:
                between.update(taken)
        return [*found, ("", between)]

    @cached_property
    def untouched(self) -> tuple[dict[str, Any], dict[FieldPath, Placed]]:
        """The sections that are not tainted, and the places of their fields."""
        places = {path: place for path, place in self.intent.places.items() if path[0] not in self.tainted}
        return {name: one for name, one in self.intent.sections.items() if name not in self.tainted}, places

    @cached_property
    def remainder(self) -> Sheet:
        """The sheet without what has been understood."""
        return self._reader.remainder()


def translate(intent: Intent, target: Target, facts: Facts) -> tuple[Sheet, tuple[Finding, ...]]:
    """Puts an intent into the target's words; what it cannot express is a finding."""
    intent = _folded(intent, target)
    words = Words(intent, target, facts, SheetBuilder(pass_names(target.family)))
    for name in SECTION_NAMES:
        value = intent.sections.get(name)
        if value is None:
            continue
        module = _section_module(target.family, name)
        if module is None:
            why = "its installer has nothing of the kind, or no translation yet"
            words.cannot(
                (name,), f"[{name}]", why, "nothing needs to be done if it is meant for others", Severity.WARNING
            )
        else:
            module.translate(value, words)
            _tell_lost(name, value, words, module)
    return words.out.sheet(), tuple(words.findings)


def _tell_lost(name: str, value: Any, words: Words, module: Any) -> None:
    """Says of every field that does not reach the sheet, and of which nothing was said, that it is left out."""
    # what the target can hold is asked of another function than the one that wrote it
    held = module.canonical(value, words)
    if held == value:
        return
    kept = {names_of(path) for path in said(held, (name,))}
    told = set(words.told)
    around = {one[:end] for one in told for end in range(len(one) + 1)}
    again: set[tuple[str, ...]] = set()
    for path in said(value, (name,)):
        names = names_of(path)
        # a word about a table speaks for all in it, and one about a field for its table
        near = names in again or path in around or any(path[:end] in told for end in range(len(path) + 1))
        if names in kept or near or names in section(name).unwritten or _counts(path, value, held, words, module):
            continue
        again.add(names)
        instead = "nothing needs to be done if it is meant for others"
        words.cannot(path, ".".join(names), "its installer has nothing of the kind", instead, Severity.ADVICE)


def _counts(path: FieldPath, value: Any, held: Any, words: Words, module: Any) -> bool:
    """Whether a field that has no place of its own is said in another way: without it something else is held."""

    def emptied(here: FieldPath, one: Any) -> Any:
        return usual if here == path[1:] else one

    table = value
    for step in path[1:-1]:
        table = table[step] if isinstance(step, int) else getattr(table, step)
    usual = defaults_of(cast("type[Struct]", type(table))).get(str(path[-1]), NODEFAULT)
    return usual is not NODEFAULT and module.canonical(changed(value, emptied), words) != held


def before_upgrade(intent: Intent, target: Target, facts: Facts) -> tuple[str, tuple[Finding, ...]]:
    """The text of a command file to run before an upgrade in place; empty where there is nothing to run."""
    words = Words(intent, target, facts, SheetBuilder(()))
    module = _section_module(target.family, "bypass")
    value = intent.sections.get("bypass")
    text = module.before_upgrade(value, words) if module is not None and value else ""
    return text, tuple(words.findings)


def recognise(seats: Seats, target: Target | None, without: Container[str] = ()) -> Recognised:
    """What a sheet means. Never fails: what cannot be read stays in the remainder.

    Sections ``without`` which it is read are not looked for, so that others may take what they would have taken.
    """
    reader = Reader(seats, target)
    found, tainted = {}, []
    for name in SECTION_NAMES:
        if name in without:
            continue
        value, handed = seats.trace.around(partial(_recognised, name, reader))
        if value:
            found[name] = value
        if handed:
            tainted.append(name)
    took = reader.understood
    for name in reader.misread():
        found.pop(name, None)
    return Recognised(Intent(found, reader.places), reader, took, tainted)


def recognise_again(before: Recognised, seats: Seats, changed: Mapping[int, int]) -> Recognised | None:
    """What a sheet means once its placeholders are filled: only the sections that were handed one are looked for again.

    ``seats`` are those of ``before``, refilled, and ``changed`` tells which nodes are now others. None where a section
    takes other nodes than it did: then the others have to be looked for as well.
    """
    reader = Reader(seats, before.target)
    found, reader.places = dict(before.untouched[0]), dict(before.untouched[1])
    for name, earlier in before.to_look_for_again:
        reader.understood.update(_renewed(earlier, changed))
        if not name:
            break
        value = _recognised(name, reader)
        if {one for one, by in reader.understood.items() if by == name} != set(_renewed(before.taken[name], changed)):
            return None
        if value:
            found[name] = value
    took = reader.understood
    for name in reader.misread():
        found.pop(name, None)
    return Recognised(Intent(found, reader.places), reader, took, ())


def _renewed(taken: dict[int, str], changed: Mapping[int, int]) -> dict[int, str]:
    """What was taken, where some nodes are others now."""
    there = changed.keys() & taken.keys()
    if not there:
        return taken
    return {changed.get(one, one): name for one, name in taken.items()}


def _recognised(name: str, reader: Reader) -> Any:
    module = _section_module(reader.catalog.family, name)
    reader.section = name
    return module.recognise(reader) if module is not None else None


def canonical(intent: Intent, target: Target, facts: Facts) -> Intent:
    """The intent as the target's words can hold it; what it cannot express is gone."""
    found = {}
    intent = _folded(intent, target)
    for name in SECTION_NAMES:
        module = _section_module(target.family, name)
        if name in intent.sections and module is not None:
            value = module.canonical(intent.sections[name], Words(intent, target, facts, SheetBuilder(())))
            if value:
                found[name] = value
    return Intent(found)


def _folded(intent: Intent, target: Target) -> Intent:
    """The intent in which choices are said by other sections, where a family says them so."""
    if "tidy" not in _modules(target.family) or not intent.sections.keys() & {*tidy().groups, "own"}:
        return intent
    module = import_module(f"fairledger.families.{target.family}.tidy")
    found: Intent = module.folded(intent, target)
    return found


@cache
def sections_of_choices(family: str) -> frozenset[str]:
    """The sections that a family translates as choices."""
    if "tidy" not in _modules(family):
        return frozenset()
    return frozenset(import_module(f"fairledger.families.{family}.tidy").SECTIONS)


@cache
def _modules(family: str) -> frozenset[str]:
    """The names of a family's modules."""
    return frozenset(path.stem for path in entries(Path(__file__).parent / family, ".py"))


@cache
def _section_module(family: str, name: str) -> Any:
    """What translates and recognises a section: its module, or that of all choices; None if the family has neither."""
    if name in sections_of_choices(family):
        return import_module(f"fairledger.families.{family}.tidy").of(name)
    return import_module(f"fairledger.families.{family}.{name}") if name in _modules(family) else None
