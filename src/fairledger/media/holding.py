"""What a medium's images hold, in the words of the catalog."""

from __future__ import annotations

from collections import defaultdict
from contextlib import suppress
from pathlib import Path

from msgspec.structs import replace

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.own import NOTHING, Own
from fairledger.media.facts import facts_of, is_facts_file, read_facts, with_held
from fairledger.media.imagestore import Stored, abbreviated, stored_in, stored_within
from fairledger.media.kept import identity, kept_or
from fairledger.media.medium import FOLDER, IMAGE_FILE, Medium, look_at
from fairledger.media.stretches import Within
from fairledger.model.errors import FileTroubleError, WrongUseError
from fairledger.model.holdings import HeldFacts, ImageFacts, MediumFacts
from fairledger.storage.looking import size_of


def described(
    path: Path, *, edition: str | None = None, index: int | None = None, own: Own | None = None
) -> MediumFacts:
    """The facts of a medium, with what the one image holds that edition and index mean; or those of a file of facts.

    What cannot be looked into is a problem in them. Raises `FileTroubleError`, `ContentError` where nothing is known.
    """
    if is_facts_file(path):
        return read_facts(path)
    medium = look_at(path)
    facts = facts_of(medium)
    chosen = facts.chosen(edition, index)
    if chosen is None or len(chosen) != 1:
        return facts
    try:
        return with_held(facts, held_in(medium, chosen[0], own))
    except FileTroubleError as error:
        told = f"nobody looked into image {chosen[0].index}: {error.message}"
        return replace(facts, problems=(*facts.problems, f"{told}; {error.remedy}" if error.remedy else told))


def image_of(facts: MediumFacts, index: int) -> ImageFacts:
    """The image of that number. Raises `WrongUseError` where there is none, or several files have one."""
    all_ = facts.images or ()
    own = [one for one in facts.systems or all_ if one.index == index] or [one for one in all_ if one.index == index]
    if len(own) == 1:
        return own[0]
    if own:
        named = " and ".join(one.file for one in own)
        raise WrongUseError(f"{named} each have an image {index}", file=facts.name, remedy="name one of these files")
    there = ", ".join(f"{one.index} {one.title}" for one in all_) or "none"
    raise WrongUseError(f"it has no image {index}", file=facts.name, remedy=f"there are: {there}")


def held_in(medium: Medium, image: ImageFacts, own: Own | None = None) -> HeldFacts:
    """What an image holds. Raises `FileTroubleError` where nobody can look into it."""
    stored = _stored(medium, image)
    names = [
        one.name for one in Catalog("windows", None, own or NOTHING).components() if "no-component" not in one.traits
    ]
    components = lacking = others = None
    unclear: tuple[str, ...] = ()
    if stored.components is not None:
        mine = {name: version for arch, name, version in stored.components if image.arch in (None, arch)}
        by_store: dict[str, list[str]] = defaultdict(list)
        for name in names:
            by_store[abbreviated(name)].append(name)
        there: dict[str, list[str]] = defaultdict(list)
        for short, (first, *more) in by_store.items():
            if short in mine and not more:
                there[mine[short]].append(first)
        components = {version: tuple(sorted(found)) for version, found in sorted(there.items())}
        unclear = tuple(name for short, found in by_store.items() if short in mine and len(found) > 1 for name in found)
        lacking = tuple(sorted(name for short, found in by_store.items() if short not in mine for name in found))
        others = len(mine.keys() - by_store.keys())
    return HeldFacts(
        image=image.index,
        file=image.file,
        components=components,
        lacking=lacking,
        unclear=unclear,
        others=others,
        packages=stored.packages,
        features=stored.features,
        apps=stored.apps,
        answers=stored.answers,
        problems=stored.problems,
    )


def _stored(medium: Medium, image: ImageFacts) -> Stored:
    """What stands in it, looked up where it was seen before."""
    path = medium.path if medium.kind == IMAGE_FILE else medium.path / image.file
    within = medium.kind not in (IMAGE_FILE, FOLDER)
    if within and not medium.places.get(image.file):
        raise FileTroubleError("nobody knows where its image file lies", file=str(medium.path))
    key = ""
    with suppress(OSError), (medium.path if within else path).open("rb") as file:
        if within:
            stretches = medium.places[image.file]
            size = sum(length for _, length in stretches)
            key = identity(Within(file, stretches, size), size, image.index)  # type: ignore[arg-type]
        else:
            key = identity(file, size_of(path), image.index)
    if within:
        return kept_or(key, lambda: stored_within(medium.path, medium.places[image.file], image.index))
    return kept_or(key, lambda: stored_in(path, image.index))
