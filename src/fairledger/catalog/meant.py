"""Targets as people call them: ``windows-11``, ``rhel9``, ``server2022``, the vendor's name of a release."""

from __future__ import annotations

from functools import cache

from fairledger.catalog.targets import all_targets, known_target, order_of
from fairledger.model.errors import WrongUseError
from fairledger.model.pattern import pattern
from fairledger.model.suggest import nearest
from fairledger.model.target import Target

_PIECE = pattern(r"\d{1,6}h\d|\d{1,6}(?:\.\d{1,6})?|[a-z]{1,40}")
_MOST, _ALIKE = 3, 0.9


def target_named(name: str, *, file: str | None = None, line: int | None = None) -> Target:
    """The target of that id. Raises `WrongUseError` with those that may be meant."""
    found = known_target(name)
    if found is not None:
        return found
    raise WrongUseError(f"there is no target {name!r}", remedy=suggestion(name), file=file, line=line)


def target_meant(name: str, today: str) -> Target:
    """The target of that id, else the newest supported one of what is called so.

    ``today`` as YYYY-MM-DD. Raises `WrongUseError` with the targets that may be meant.
    """
    found = known_target(name.casefold())
    if found is not None:
        return found
    fits = _fitting(name)
    if fits and len({one.line for one in fits}) == 1:
        return newest(fits, today)
    raise WrongUseError(f"there is no target {name!r}", remedy=suggestion(name, today))


def suggestion(name: str, today: str = "") -> str:
    """What to do about a name that is none, in a sentence; without a day, newer ones come first."""
    ids = likely(name, today)
    listed = "fairledger targets lists them"
    return f"did you mean {' or '.join(ids)}? {listed}" if ids else listed


def _fitting(name: str) -> list[Target]:
    """Those whose words hold all that was said; the one that is not more than that, if there is one."""
    asked = _pieces(name)
    telling = any(not one[0].isdecimal() or "h" in one for one in asked)
    fits = [one for one in all_targets() if telling and asked <= _words(one)]
    whole = [one for one in fits if _pieces(one.id) - asked <= {"windows", "server", "el"}]
    return whole if len(whole) == 1 else fits


def likely(name: str, today: str) -> list[str]:
    """The ids that may be meant by a name that is none, newest and supported ones first."""
    asked = _pieces(name)
    rows = _fitting(name)
    if not rows:
        agreed = {one: sum(2 if piece.isalpha() else 1 for piece in asked & _words(one)) for one in all_targets()}
        most = max(agreed.values())
        rows = [one for one in agreed if most and agreed[one] == most]
    like = nearest(name, [one.id for one in rows], most=1, alike=_ALIKE)
    later = {one.id: len(order_of(one.line)) - order_of(one.line)[one.id] for one in rows}
    ids = [one.id for one in sorted(rows, key=lambda one: (not maintained(one, today), later[one.id]))]
    return list(dict.fromkeys((*like, *ids)))[:_MOST] or [*nearest(name, [one.id for one in all_targets()], alike=0.75)]


def newest(rows: list[Target], today: str) -> Target:
    """The newest certain one that its vendor still maintains; the newest of all where none is."""
    sure = [one for one in rows if one.sure] or rows
    return next((one for one in reversed(sure) if maintained(one, today)), sure[-1])


def maintained(target: Target, today: str) -> bool:
    """Whether a vendor's ordinary support goes on, as far as anybody knows: no day means that it is not certain."""
    days = [day for day in (target.supported_until, target.supported_longer) if day]
    return not days or max(days) >= today


def supported(target: Target, today: str) -> bool:
    """Whether anything of it is supported, long-term editions too."""
    return maintained(target, today) or any(day >= today for _, day in target.edition_support)


@cache
def _words(target: Target) -> frozenset[str]:
    return _pieces(" ".join((target.id, target.name, *target.called)))


def _pieces(name: str) -> frozenset[str]:
    return frozenset(_PIECE.findall(name.casefold()))
