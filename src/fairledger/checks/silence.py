"""Rules that a draft silences at a place, with a written reason; one that silences nothing any more is told."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fairledger.checks.rule import all_rules, can_be_silenced
from fairledger.model.finding import Finding, Severity
from fairledger.model.suggest import did_you_mean

if TYPE_CHECKING:
    from fairledger.profiles.document import Silence


def heard(findings: Sequence[Finding], silences: Sequence[Silence]) -> tuple[tuple[Finding, ...], tuple[Finding, ...]]:
    """What nobody silenced, with what is wrong with the silences themselves; and what is silenced."""
    out, silenced = list(findings), []
    for one in silences:
        quiet = [finding for finding in out if finding.rule == one.rule and _there(finding, one.at)]
        if quiet and can_be_silenced(one.rule):
            out = [finding for finding in out if finding not in quiet]
            silenced += quiet
        else:
            out.append(_unused(one, found=bool(quiet)))
    return tuple(out), tuple(silenced)


def _there(finding: Finding, at: str) -> bool:
    """Whether a finding is at a place, which may be any part of its address that ends or begins it."""
    if not at:
        return True
    # a place that names no use of a command means all of them
    for where in (finding.where, replace(finding, item="").where):
        near = where.startswith((f"{at}/", f"{at}[", f"{at}:")) or where.endswith((f"/{at}", f":{at}"))
        if where == at or near:
            return True
    return False


def _unused(one: Silence, *, found: bool) -> Finding:
    known = [rule.id for rule in all_rules()]
    place = f" at {one.at}" if one.at else ""
    if one.rule not in known:
        told, hint = f"there is no rule {one.rule!r} to be silenced", did_you_mean(one.rule, known)
    elif found:
        told, hint = f"the rule {one.rule} cannot be silenced", "correct what it finds, and take this out"
    else:
        told, hint = f"the rule {one.rule} finds nothing{place}, so that it need not be silenced", "take this out"
    origin = one.origin
    return Finding(
        "silence-unused", Severity.WARNING, told, hint, file=origin.file, line=origin.line, column=origin.column
    )
