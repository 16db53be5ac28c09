"""A new roster: the columns that a draft asks for, with names and addresses counted up."""

from __future__ import annotations

import ipaddress
import re
from collections.abc import Iterator, Sequence
from itertools import islice

from fairledger.fleet.roster import MACHINE, Lane
from fairledger.fleet.table import runs, table_text
from fairledger.model.errors import WrongUseError
from fairledger.model.pattern import pattern
from fairledger.model.showing import quoted
from fairledger.model.suggest import did_you_mean
from fairledger.model.values import Blank, Template

_RANGE = pattern(r"\{(\d{1,9})\.\.(\d{1,9})\}")
_NUMBER = pattern(r"\d{1,15}")
MOST_NEW = 100_000
"""Rows that are made at once."""


def names_of(text: str) -> tuple[str, ...]:
    """The names that a pattern stands for: ``lmr-gate-{01..24}`` counts, with zeros as they are written.

    Raises `WrongUseError` where it is no such pattern.
    """
    ranges = list(_RANGE.finditer(text))
    if len(ranges) != 1 or "{" in _RANGE.sub("", text) or "}" in _RANGE.sub("", text):
        raise WrongUseError(f"{quoted(text)} counts nothing", remedy="write one range in it, such as lmr-gate-{01..24}")
    first, last = ranges[0][1], ranges[0][2]
    if not 0 <= int(last) - int(first) < MOST_NEW:
        told = f"the range {ranges[0][0]} is empty, or longer than {MOST_NEW:,}"
        raise WrongUseError(told, remedy="begin with the smaller number")
    width = len(first) if first.startswith("0") or len(first) == len(last) else 0
    return tuple(_RANGE.sub(str(at).zfill(width), text) for at in range(int(first), int(last) + 1))


def counted(start: str) -> Iterator[str]:
    """Values from a first one on: addresses (within their network), hardware addresses, texts with a number at the end.

    Raises `WrongUseError` where a value cannot be counted up, or the network ends.
    """
    if "/" in start or _is_address(start):
        yield from _addresses(start)
        return
    if re.fullmatch(r"(?:[0-9A-Fa-f]{2}[:-]){5}[0-9A-Fa-f]{2}", start):
        sign = start[2]
        number = int(start.replace(sign, ""), 16)
        while number < 1 << 48:
            made = f"{number:012x}" if start == start.lower() else f"{number:012X}"
            yield sign.join(made[at : at + 2] for at in range(0, 12, 2))
            number += 1
        raise WrongUseError("there are no more hardware addresses", remedy="begin with a smaller one")
    last = list(_NUMBER.finditer(start))
    if not last:
        raise WrongUseError(f"{quoted(start)} cannot be counted up", remedy="give an address, or a text with a number")
    before, digits, behind = start[: last[-1].start()], last[-1][0], start[last[-1].end() :]
    at = int(digits)
    while True:
        yield f"{before}{str(at).zfill(len(digits))}{behind}"
        at += 1


def _is_address(text: str) -> bool:
    try:
        ipaddress.ip_address(text)
    except ValueError:
        return False
    return True


def _addresses(start: str) -> Iterator[str]:
    try:
        found = ipaddress.ip_interface(start)
    except ValueError as error:
        raise WrongUseError(f"{quoted(start)} is no address", remedy="such as 192.0.2.31/24") from error
    written, network = "/" in start, found.network
    at = found.ip
    while True:
        yield f"{at}/{network.prefixlen}" if written else str(at)
        try:
            at += 1
        except ipaddress.AddressValueError as error:
            raise WrongUseError("there are no more addresses", remedy="begin with a smaller one") from error
        if written and (at not in network or at == network.broadcast_address):
            told = f"the network {network} has no more addresses behind those"
            raise WrongUseError(told, remedy="begin with a smaller one, or take a larger network")


def new_table(lane: Lane, names: Sequence[str], counts: dict[str, str], rows: int) -> str:
    """A table for a draft. ``counts`` gives the first values of columns. Raises `WrongUseError`."""
    blanks = lane.prepared.blanks
    usual = lane.prepared.usual
    for name in counts:
        if name not in blanks:
            told = f"the draft does not ask for {quoted(name)}"
            raise WrongUseError(told, remedy=did_you_mean(name, blanks) or "it has no placeholders")
    named, values = _naming(lane, names)
    asked = [one for one in blanks if one not in usual or one in counts]
    head = [*([named or MACHINE] if names else []), *(one for one in asked if one != named or not names)]
    columns: dict[str, Sequence[str]] = {name: list(islice(counted(start), rows)) for name, start in counts.items()}
    if names:
        columns[named or MACHINE] = values
    cells = [[columns[name][at] if name in columns else "" for name in head] for at in range(rows)]
    odd = next((cell for row in cells for cell in row if runs(cell)), None)
    if odd is not None:
        raise WrongUseError(f"a spreadsheet would take {quoted(odd)} for a formula", remedy="begin it with a letter")
    return table_text(head, cells)


def _naming(lane: Lane, names: Sequence[str]) -> tuple[str, Sequence[str]]:
    """The placeholder that makes the machines' names, and what it has to be for each; empty if none does alone."""
    template = lane.prepared.machine
    parts = template.parts if isinstance(template, Template) else ()
    blanks = [at for at, one in enumerate(parts) if isinstance(one, Blank)]
    if len(blanks) != 1 or any(not isinstance(one, str | Blank) for one in parts):
        return "", names
    before = "".join(one for one in parts[: blanks[0]] if isinstance(one, str))
    behind = "".join(one for one in parts[blanks[0] + 1 :] if isinstance(one, str))
    values = []
    for name in names:
        inner = name.removesuffix(behind) if behind else name
        # a name without its domain is meant with it
        if not inner.startswith(before) or (inner == name and behind and not behind.startswith(".")):
            return "", names
        values.append(inner.removeprefix(before))
    blank = parts[blanks[0]]
    assert isinstance(blank, Blank)
    return blank.name, values
