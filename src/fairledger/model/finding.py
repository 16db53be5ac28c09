"""What a check has to say."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum

from msgspec import Struct

from fairledger.model.places import Place


class Severity(StrEnum):
    """How bad a finding is, from worst to mildest."""

    ERROR = "error"
    WARNING = "warning"
    ADVICE = "advice"

    @property
    def rank(self) -> int:
        """0 for the worst."""
        return _RANKS[self]


_RANKS = {one: rank for rank, one in enumerate(Severity)}


class Finding(Struct, frozen=True, gc=False):
    """One thing that a check found, complete at birth."""

    rule: str
    severity: Severity
    message: str
    hint: str = ""
    """What to do about it."""
    pass_: str | None = None
    component: str | None = None
    setting: str | None = None
    file: str | None = None
    line: int | None = None
    """1-based."""
    column: int | None = None
    """1-based, in characters."""
    item: str = ""
    """Which of several uses of the component."""

    @property
    def sort_key(self) -> tuple[int, str, int, int, str, str]:
        """Worst first, then in the order of the file."""
        return (self.severity.rank, self.file or "", self.line or 0, self.column or 0, self.rule, self.message)

    @property
    def where(self) -> str:
        """``pass:component/setting``, as far as known."""
        title = f"{self.component}[{self.item}]" if self.component and self.item else self.component
        inner = "/".join(part for part in (title, self.setting) if part)
        return f"{self.pass_}:{inner}" if self.pass_ and inner else (inner or self.pass_ or "")


def finding_at(rule: str, severity: Severity, message: str, place: Place, hint: str = "", item: str = "") -> Finding:
    """A finding whose position is that of ``place``."""
    origin = place.origin
    return Finding(
        rule,
        severity,
        message,
        hint,
        place.pass_,
        place.component,
        place.setting,
        origin.file or None,
        origin.line,
        origin.column,
        item,
    )


def reaches(findings: Iterable[Finding], severity: Severity) -> bool:
    """Whether any finding is at least as bad as ``severity``."""
    return any(finding.severity.rank <= severity.rank for finding in findings)
