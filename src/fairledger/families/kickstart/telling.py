"""Which line of releases a file is for, and which release, told from all that it says."""

from __future__ import annotations

import re

from fairledger.catalog.catalog import Catalog, catalog_of
from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.targets import all_targets
from fairledger.families.kickstart.statements import SourceText, Statement
from fairledger.model.pattern import pattern
from fairledger.model.target import Target

_LINES = (("el", ("el", "fedora"), 0), ("esxi", ("esxi",), 0), ("esx", ("esx",), 1))
"""The lines that are told apart, the likeliest first, with those of which the catalog speaks, and how many unknown
words the others must have more: of an installer of long ago, more is asked."""
_NAME_COUNTS = 2
_VERSION = pattern(r"^#\s*version=(RHEL|F|DEVEL)(\d*)", re.MULTILINE)
_NAMED = {"RHEL": "el", "F": "fedora"}


def line_of(source: SourceText, own: Own = NOTHING) -> str:
    """The line of releases whose installer knows most of what the file says; the likeliest of several."""
    best, fewest = "", -1
    for name, lines, more in _LINES:
        catalog = catalog_of("kickstart", _newest(lines), own)
        unknown = more + sum(_unknown(one, catalog, lines) for one in source.statements)
        if fewest == -1 or unknown < fewest:
            best, fewest = name, unknown
        if not unknown:
            break
    return best


def target_of(source: SourceText, line: str) -> tuple[Target, str] | None:
    """The target that a file is for, and what says so; None for Linux files that do not say their release."""
    match = _VERSION.search(source.text)
    if match and match[2] and match[1] in _NAMED:
        for one in all_targets():
            if one.id == f"{_NAMED[match[1]]}-{match[2]}":
                return one, f"its first lines say {match[0].lstrip('# ')}"
    return None if line == "el" else (_newest((line,)), "it uses commands that only this installer has")


def _newest(lines: tuple[str, ...]) -> Target:
    return [one for one in all_targets() if one.family == "kickstart" and one.line in lines][-1]


def _unknown(one: Statement, catalog: Catalog, lines: tuple[str, ...]) -> int:
    """How much of a statement these lines do not know: its name counts more than one of its options."""
    kept = catalog.kept.setdefault("options by line", {})
    known = kept.get(one.name, kept)
    if known is kept:
        known = _options(one.name, catalog, lines)
        if len(kept) < _MOST_KEPT:
            kept[one.name] = known
    if known is None:
        return _NAME_COUNTS
    if not known:
        return 0
    return sum(token.text.startswith("--") and token.text.partition("=")[0] not in known for token in one.tokens)


_MOST_KEPT = 500


def _options(name: str, catalog: Catalog, lines: tuple[str, ...]) -> frozenset[str] | None:
    """The options that these lines know of a command; None where they do not know it, empty where it takes any."""
    known = catalog.anywhere(name)
    if known is None or (known.lines and not set(known.lines) & set(lines)):
        return None
    if any(setting.form == "rest" for setting in known.settings):
        return frozenset()
    there = (one.name for one in known.settings if not one.lines or set(one.lines) & set(lines))
    return frozenset((*there, ""))
