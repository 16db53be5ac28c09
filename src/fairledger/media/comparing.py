"""What differs between two media, as far as both are known."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from msgspec import Struct

from fairledger.model.holdings import HeldFacts, ImageFacts, MediumFacts


class Differing(Struct, frozen=True):
    """Something that one medium has or says, and the other one not so; None where it is not there."""

    part: str
    item: str
    a: str | None
    b: str | None


class MediaCompared(Struct, frozen=True):
    """How two media differ."""

    differences: tuple[Differing, ...]
    not_compared: tuple[str, ...]
    """The parts of which nobody knows what one of the two has."""


_SAID: tuple[tuple[str, Callable[[MediumFacts], str | None]], ...] = (
    ("label", lambda one: one.label),
    ("family", lambda one: one.family),
    ("release", lambda one: " or ".join(one.targets) or one.release),
    ("build", lambda one: one.build),
    ("arch", lambda one: one.arch),
    ("channel", lambda one: one.channel),
)
_LISTED: tuple[tuple[str, Callable[[MediumFacts], tuple[str, ...] | None]], ...] = (
    ("language", lambda one: one.languages),
    ("boots", lambda one: one.boots),
    ("repository", lambda one: one.tree.repositories),
    ("package", lambda one: one.tree.packages),
    ("group", lambda one: one.tree.groups),
    ("environment", lambda one: one.tree.environments),
    ("answer file", lambda one: None if one.answers is None else tuple(found.path for found in one.answers)),
)
_HELD: tuple[tuple[str, Callable[[HeldFacts], tuple[str, ...] | None]], ...] = (
    ("package", lambda one: one.packages),
    ("feature", lambda one: one.features),
    ("app", lambda one: one.apps),
    ("answer file", lambda one: one.answers),
)


def compared(a: MediumFacts, b: MediumFacts) -> MediaCompared:
    """What differs. What neither knows is no difference, and named where only one knows it."""
    unknown: dict[str, None] = {}
    found: list[Differing] = []
    for part, told in _SAID:
        one, other = told(a), told(b)
        if (one is None) != (other is None):
            unknown[part] = None
        elif one != other:
            found.append(Differing(part, "", one, other))
    for part, listed in _LISTED:
        found += _items(part, listed(a), listed(b), unknown)
    found += _images(a, b, unknown)
    return MediaCompared(tuple(found), tuple(unknown))


def _items(
    part: str, a: tuple[str, ...] | None, b: tuple[str, ...] | None, unknown: dict[str, None], of: str = ""
) -> Iterator[Differing]:
    if a is None or b is None:
        if a is not b:
            unknown[part] = None
        return
    before = f"{of}: " if of else ""
    for name in sorted(set(a) ^ set(b)):
        yield Differing(part, before + name, name if name in a else None, name if name in b else None)


def _images(a: MediumFacts, b: MediumFacts, unknown: dict[str, None]) -> Iterator[Differing]:
    if a.images is None or b.images is None:
        if a.images is not b.images:
            unknown["image"] = None
        return
    ours, theirs = _by_name(a.images), _by_name(b.images)
    dark = 0
    for key in dict.fromkeys((*ours, *theirs)):
        one, other = ours.get(key), theirs.get(key)
        if one is None or other is None:
            yield Differing("image", key, _row(one), _row(other))
            continue
        if _row(one) != _row(other):
            yield Differing("image", key, _row(one), _row(other))
        held = a.held_by(one), b.held_by(other)
        dark += held == (None, None)
        yield from _held(key, *held, unknown)
    if dark:
        unknown[f"what {dark} of the images {'holds' if dark == 1 else 'hold'}"] = None


def _by_name(images: tuple[ImageFacts, ...]) -> dict[str, ImageFacts]:
    """Images by what they are called; of the same name by their order too."""
    out: dict[str, ImageFacts] = {}
    for one in images:
        name, number = one.title, 1
        while (key := name if number == 1 else f"{name} #{number}") in out:
            number += 1
        out[key] = one
    return out


def _row(one: ImageFacts | None) -> str | None:
    if one is None:
        return None
    told = [f"index {one.index}", *([f"build {one.build}"] if one.build else []), *([one.arch] if one.arch else [])]
    return ", ".join((*told, *one.languages))


def _held(of: str, a: HeldFacts | None, b: HeldFacts | None, unknown: dict[str, None]) -> Iterator[Differing]:
    for part, listed in _HELD:
        yield from _items(part, listed(a) if a else None, listed(b) if b else None, unknown, of)
    one, other = (_versions(held) for held in (a, b))
    if one is None or other is None:
        if one is not other:
            unknown["component"] = None
    else:
        yield from _differing_versions(of, one, other)


def _differing_versions(of: str, one: dict[str, str], other: dict[str, str]) -> Iterator[Differing]:
    for name in sorted({*one, *other}):
        if one.get(name) != other.get(name):
            yield Differing("component", f"{of}: {name}", one.get(name), other.get(name))


def _versions(held: HeldFacts | None) -> dict[str, str] | None:
    if held is None or held.components is None:
        return None
    return {name: version for version, names in held.components.items() for name in names}
