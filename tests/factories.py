"""Makes drafts, sheets and reports for the tests."""

from __future__ import annotations

from pathlib import Path

from fairledger.checks.engine import Report, check_answer_file, check_draft
from fairledger.model.target import Facts
from fairledger.profiles.library import Library
from fairledger.profiles.resolve import Resolved, resolve_text

DESK = "windows-11-24h2"
HEAD = f'format = 1\n[draft]\ntarget = "{DESK}"\nfirmware = "uefi"\n'


def whole(fragment: str, head: str = HEAD) -> str:
    """A draft's whole text from its sections; a fragment with a head of its own gets only the format."""
    return ("format = 1\n" if "[draft]" in fragment else head) + fragment


def check(text: str, folder: Path = Path("nowhere"), given: str = "") -> Report:
    """Checks a fragment of a draft, or the text of an answer file; ``given`` are options of the command."""
    told = dict(zip(given.split()[::2], given.split()[1::2], strict=True))
    root, facts = told.get("--root"), Facts(route=told.get("--route"))
    if text.lstrip().startswith("<") or not text.strip():
        return check_answer_file(text.encode(), "answer.xml", target=DESK, facts=facts)
    if text.startswith(("#version=", "accepteula")):
        return check_answer_file(
            text.encode(),
            "answer.ks",
            target="el-9" if "--target" in told else None,
            facts=facts,
            root=Path(root) if root else None,
        )
    return check_draft(whole(text), folder / "desk.toml")


def rules_of(report: Report) -> list[str]:
    """The ids of what was found."""
    return [finding.rule for finding in report.findings]


def resolved(fragment: str, folder: Path = Path("nowhere")) -> Resolved:
    """A resolved draft from a fragment."""
    return resolve_text(whole(fragment), "desk.toml", Library(folder))
