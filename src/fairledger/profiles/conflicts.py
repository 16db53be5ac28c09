"""Profiles that cannot both be meant: they say different things of the same, and neither builds on the other."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from fairledger.intent.sections import items_at
from fairledger.model.finding import Finding, Severity
from fairledger.profiles.document import Document, ProfileHead
from fairledger.profiles.raw import Array, Raw, Table, extends, identity_of, same


def conflicts(sources: Mapping[str, Document]) -> Iterator[Finding]:
    """A finding for every profile and section with the last one before that says otherwise.

    ``sources`` are in the order of laying. Profiles that say the same of a section are compared once.
    """
    needed = _all_needs(sources)
    spoke: dict[str, dict[str, tuple[Raw, int]]] = {}
    """For each section what was said of it, with who said so, as bits; what was said last stands last."""
    names = list(sources)
    for at, (second, high) in enumerate(sources.items()):
        for name, above in high.layer.sections.entries.items():
            before, said = spoke.setdefault(name, {}), repr(_plain(above))
            for other, (below, speakers) in reversed(before.items()):
                unrelated = speakers & ~needed[at]
                clash = _clash(below, above, (name,)) if unrelated and other != said else None
                if clash is not None:
                    yield _told(names[unrelated.bit_length() - 1], second, *clash)
                    break
            before[said] = (above, before.pop(said, (above, 0))[1] | 1 << at)


def _told(first: str, second: str, way: str, raw: Raw) -> Finding:
    told = f"the profiles {first} and {second} disagree about {way}; {second} counts"
    hint = f"leave one of them out, or say in {second} that it needs {first}"
    place = raw.origin
    return Finding(
        "profiles-conflict", Severity.WARNING, told, hint, file=place.file, line=place.line, column=place.column
    )


def _all_needs(sources: Mapping[str, Document]) -> list[int]:
    """For each profile those that it builds on, as bits of their places: what is needed always stands before."""
    places = {name: at for at, name in enumerate(sources)}
    found: list[int] = []
    for source in sources.values():
        needs = source.head.needs if isinstance(source.head, ProfileHead) else ()
        bits = 0
        for one in needs:
            if places.get(one, len(found)) < len(found):
                bits |= found[places[one]] | 1 << places[one]
        found.append(bits)
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
