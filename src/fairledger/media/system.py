"""Which system a medium carries: releases by build, as far as its images tell."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from fairledger.catalog.targets import all_targets
from fairledger.media.imagefile import Image
from fairledger.model.target import Target

_LINES = {"client": "client", "server": "server", "server core": "server"}
"""Lines of releases by what an image is installed as."""


class System(Struct, frozen=True, kw_only=True):
    """What a medium installs; what it does not tell is None."""

    family: str | None = None
    targets: tuple[str, ...] = ()
    """What it may be: one if it is known, several where images of several releases name one build."""
    name: str | None = None
    build: str | None = None
    arch: str | None = None
    languages: tuple[str, ...] = ()

    @property
    def target(self) -> str | None:
        """The target, if there is but one that it can be."""
        return self.targets[0] if len(self.targets) == 1 else None


def system_of(images: Sequence[Image]) -> System:
    """What images install; those of the setup system itself tell nothing of that."""
    own = [one for one in images if (one.installation or "").casefold() in _LINES]
    builds = {f"{one.build}.{one.revision}" if one.revision else one.build for one in own if one.build}
    found = [targets_of(one) for one in own]
    common = [target for target in found[0] if all(target in others for others in found)] if found else []
    arches = {one.arch for one in own}
    languages = dict.fromkeys(language for one in own for language in one.languages)
    return System(
        family="windows" if own else None,
        targets=tuple(one.id for one in common),
        name=common[0].name if len(common) == 1 else None,
        build=builds.pop() if len(builds) == 1 else None,
        arch=arches.pop() if len(arches) == 1 else None,
        languages=tuple(languages),
    )


def targets_of(image: Image) -> list[Target]:
    """The releases that an image may be one of."""
    line = _LINES.get((image.installation or "").casefold())
    return [one for one in all_targets() if one.line == line and image.build and image.build in one.image_builds]


def edition_of(image: Image, targets: Sequence[Target]) -> str | None:
    """The edition of an image, by the names under which the vendor and its tools know it."""
    found = {one.edition_of(name) for one in targets for name in (image.name, image.shown) if name} - {""}
    return found.pop() if len(found) == 1 else None
