"""What a new draft takes from the medium that it is for."""

from __future__ import annotations

from msgspec import Struct

from fairledger.catalog.meant import target_named
from fairledger.model.errors import WrongUseError
from fairledger.model.holdings import MediumFacts
from fairledger.model.showing import visible
from fairledger.model.suggest import did_you_mean


class Taken(Struct, frozen=True, kw_only=True):
    """What a medium decides of a draft."""

    target: str
    arch: str | None
    edition: str | None
    editions: tuple[str, ...]
    """Those that are on it, as far as the catalog knows them."""


def taken_from(facts: MediumFacts, file: str, *, target: str | None, arch: str | None, edition: str | None) -> Taken:
    """What a medium says of a draft's target, architecture and edition, together with what was said.

    Raises `WrongUseError` where both do not go together, and where the medium leaves open what must be known.
    """
    if target is None:
        target = facts.targets[0] if len(facts.targets) == 1 else None
    elif facts.targets and target_named(target).id not in facts.targets:
        told = f"the medium does not install {target_named(target).name}, but {_listed(facts.targets)}"
        raise WrongUseError(told, file=file, remedy="name another medium, or leave --target out")
    if target is None:
        told = f"it may be {_listed(facts.targets)}" if facts.targets else "nobody knows what the medium installs"
        raise WrongUseError(told, file=file, remedy="say which: --target TARGET")
    if arch and facts.arch and arch != facts.arch:
        told = f"the medium is for {facts.arch}, not for {visible(arch)}"
        raise WrongUseError(told, file=file, remedy="leave --arch out")
    own = facts.systems or ()
    editions = tuple(dict.fromkeys(one.edition for one in own if one.edition is not None))
    known = all(one.edition is not None for one in own)
    edition = _meant(edition, facts)
    if edition is not None and own and known and edition not in editions:
        told = f"the medium has no edition {edition!r}"
        raise WrongUseError(told, file=file, remedy=did_you_mean(edition, editions), candidates=editions)
    if edition is None and known and len(editions) == 1:
        edition = editions[0]
    return Taken(target=target, arch=arch or facts.arch, edition=edition, editions=editions)


def _meant(edition: str | None, facts: MediumFacts) -> str | None:
    """The edition of the one image whose name, or the edition's, somebody wrote with other signs and letters."""
    if edition is None:
        return None
    rows = [(one.edition, name) for one in facts.systems or () for name in (one.edition, one.name, one.shown) if name]
    found = {own for own, name in rows if own and _plain(name) == _plain(edition)}
    return found.pop() if len(found) == 1 else edition


def _plain(name: str) -> str:
    return "".join(sign for sign in name.casefold() if sign.isalnum())


def _listed(targets: tuple[str, ...]) -> str:
    return " or ".join(target_named(one).id for one in targets)
