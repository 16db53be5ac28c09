"""What ``check`` prints of several files."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from fairledger.checks.engine import Report
from fairledger.cli.console import Console
from fairledger.cli.report import show_report, verdict
from fairledger.model.finding import Finding
from fairledger.model.showing import visible

_MOST_NAMED = 5


class Hearing(Struct, frozen=True):
    """What is heard of a report: with ``only`` some rules these, never those of ``leave``."""

    only: tuple[str, ...] = ()
    leave: tuple[str, ...] = ()

    def __call__(self, report: Report) -> Report:
        """The report without what nobody wants to hear, which is counted."""
        if not self.only and not self.leave:
            return report
        kept = tuple(
            one for one in report.findings if (not self.only or one.rule in self.only) and one.rule not in self.leave
        )
        return replace(report, findings=kept, left_out=len(report.findings) - len(kept))


class Teller(Struct, frozen=True):
    """Prints a report into a text, for this terminal."""

    coloured: bool
    width: int

    def __call__(self, report: Report) -> str:
        """The text."""
        out = io.StringIO()
        console = Console(colour="always" if self.coloured else "never", out=out)
        console.width = self.width
        show_report(report, console)
        return out.getvalue()


def silent(_: Report) -> str:
    """For forms that are written at the end."""
    return ""


def summary_line(report: Report) -> str:
    """How it stands with a file, in a line."""
    return f"{report.file}: {verdict([report])}"


def show_beside(found: Sequence[Finding], console: Console) -> None:
    """What files have in common that only one should have."""
    if found:
        console.say("\n" + console.style("beside each other", "bold"))
    for one in found:
        mark = console.style(f"{one.severity:<8}", one.severity)
        place = f"{one.file}, line {one.line}: " if one.line else f"{one.file}: "
        console.paragraph(f"{mark} {visible(place + one.message)}", indent="  ", hang=" " * 11)
        console.paragraph(f"-> {visible(one.hint)}  [{one.rule}]", indent=" " * 11, hang=" " * 14)


def show_passed_over(files: Sequence[Path], console: Console) -> None:
    """Which files of a folder nobody looked at."""
    if files:
        names = ", ".join(str(one) for one in files[:_MOST_NAMED])
        more = f" and {len(files) - _MOST_NAMED} more" if len(files) > _MOST_NAMED else ""
        told = f"passed over, since they are no answer file, draft or profile: {names}{more}"
        console.say()
        console.paragraph(told, style="dim")
