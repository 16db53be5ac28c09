"""Fragments of drafts in the words of kickstart, and what somebody's file means."""

from __future__ import annotations

from factories import NOWHERE, resolved
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.seats import Seats
from fairledger.families.build import recognise
from fairledger.families.registry import family_named
from fairledger.subject.opening import of_draft

KICKSTART = family_named("kickstart")


def written(fragment: str, target: str = "el-9") -> tuple[list[str], list[str]]:
    """The lines of the answer file, and the messages about what cannot be expressed."""
    found = resolved(f'[draft]\ntarget = "{target}"\n{fragment}')
    finished = of_draft(found, NOWHERE)
    plain = finished.sheet.map_values(lambda _block, _way, value: value if isinstance(value, str) else str(value))
    lines = KICKSTART.write(plain, found.target).decode().splitlines()
    return [line for line in lines if line], [finding.message for finding in finished.findings]


def understood(text: str):
    """The intent behind somebody's file, and the components of which something is left."""
    reading = KICKSTART.read(text.encode(), "x.ks")
    guess = KICKSTART.guess(reading)
    target = guess[0] if guess else None
    found = recognise(Seats(reading.sheet, Catalog("kickstart", target)), target)
    return found.intent, [block.component for block in found.remainder.blocks]
