"""Profiles that cannot both be meant: they say different things of the same, and neither builds on the other."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import combinations

from fairledger.intent.sections import items_at
from fairledger.model.finding import Finding, Severity
from fairledger.profiles.document import Document, ProfileHead
from fairledger.profiles.raw import Array, Raw, Table, extends, identity_of, same


def conflicts(sources: Mapping[str, Document]) -> Iterator[Finding]:
    """A finding for every pair of profiles and section, at the later one. ``sources`` are in the order of laying."""
    for (first, low), (second, high) in combinations(sources.items(), 2):
        if first in _all_needs(second, sources):
            continue
        for name in low.layer.sections.entries:
            above = high.layer.sections.entries.get(name)
            clash = _clash(low.layer.sections.entries[name], above, (name,)) if above is not None else None
            if clash is not None:
                way, raw = clash
                told = f"the profiles {first} and {second} disagree about {way}; {second} counts"
                hint = f"leave one of them out, or say in {second} that it needs {first}"
                origin = raw.origin
                yield Finding(
                    "profiles-conflict",
                    Severity.WARNING,
                    told,
                    hint,
                    file=origin.file,
                    line=origin.line,
                    column=origin.column,
                )


def _all_needs(name: str, sources: Mapping[str, Document]) -> set[str]:
    found: set[str] = set()
    waiting = [name]
    while waiting:
        source = sources.get(waiting.pop())
        if source is not None and isinstance(source.head, ProfileHead):
            waiting += [one for one in source.head.needs if one not in found]
            found.update(source.head.needs)
    return found


def _clash(low: Raw, high: Raw, path: tuple[str, ...]) -> tuple[str, Raw] | None:
    """The first thing of which both speak differently; items of lists are compared by what identifies them."""
    listed = items_at(path)
    if listed is None:
        if not isinstance(low, Table) or not isinstance(high, Table):
            return (".".join(path), high) if _plain(low) != _plain(high) else None
        return _in_tables(low, high, path)
    for below in _items(low):
        for above in _items(high):
            if not same(below, above, listed):
                continue
            if listed.EXTENDS:
                if _plain(below) != _plain(above) and not extends(above, listed):
                    return f"{'.'.join(path)} {identity_of(above, listed)}", above
            elif clash := _in_tables(below, above, path):
                return clash
    return None


def _in_tables(low: Table, high: Table, path: tuple[str, ...]) -> tuple[str, Raw] | None:
    for name, below in low.entries.items():
        above = high.entries.get(name)
        clash = _clash(below, above, (*path, name)) if above is not None else None
        if clash is not None:
            return clash
    return None


def _items(raw: Raw) -> tuple[Table, ...]:
    listed = raw.items if isinstance(raw, Array) else (raw,)
    return tuple(one for one in listed if isinstance(one, Table))


def _plain(raw: Raw) -> object:
    """What is said, without its places."""
    if isinstance(raw, Table):
        return {name: _plain(one) for name, one in raw.entries.items()}
    if isinstance(raw, Array):
        return [_plain(one) for one in raw.items]
    return raw.value
