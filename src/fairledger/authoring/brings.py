"""What a profile brings to a draft: the answers that are there, or otherwise, because of it."""

from __future__ import annotations

from msgspec import Struct

from fairledger.catalog.secrecy import is_secret
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


def brings(without: Subject, with_it: Subject) -> tuple[Brought, ...]:
    """Differences between what a draft comes to without a profile and with it; secrets are never shown."""
    before, after = _answers(without), _answers(with_it)
    keys = [*after, *(key for key in before if key not in after)]
    return tuple(Brought(*key, before.get(key), after.get(key)) for key in keys if before.get(key) != after.get(key))


def _answers(draft: Subject) -> dict[tuple[str, str, str], str]:
    seats = draft.seats
    out: dict[tuple[str, str, str], str] = {}
    titles = {id(root.block): seats.title(root) for root in seats.roots}
    for seat in seats:
        ordinal = seat.setting is not None and seat.setting.ordinal
        if seat.value is not None and not ordinal:
            secret = is_secret(seat)
            out[seat.block.pass_, titles[id(seat.block)], seat.shown] = shown(seat.value, secret=secret)
    return out
