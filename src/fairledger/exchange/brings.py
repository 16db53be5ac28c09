"""What a profile brings to a draft: the answers that are there, or otherwise, because of it."""

from __future__ import annotations

from msgspec import Struct

from fairledger.exchange.differ import Differ
from fairledger.model.showing import shown
from fairledger.subject.subject import Subject


class Brought(Struct, frozen=True):
    """An answer that a profile brings, changes or takes out."""

    pass_: str
    component: str
    setting: str
    before: str | None
    """Without the profile; None if there is no such answer then."""
    after: str | None
    """With it; None if it takes the answer out."""


def brings(without: Subject, with_it: Subject) -> tuple[tuple[Brought, ...], tuple[str, ...]]:
    """Differences between what a draft comes to without a profile and with it; secrets are never shown.

    Then what is said otherwise and makes no difference, each in words.
    """
    differ = Differ(without, with_it)
    rows = [
        Brought(*row.key, *(None if one is None else shown(one, secret=row.secret) for one in (row.a, row.b)))
        for row in differ.sheets(without.sheet, with_it.sheet)
    ]
    return tuple(rows), tuple(dict.fromkeys(differ.used))
