"""Good files broken in one way each: the mistake is found, by the rule that is meant for it."""

from __future__ import annotations

import re
import tomllib
from functools import cache
from pathlib import Path

import pytest

from factories import check_answers
from fairledger.model.facts import DiskFacts, Facts
from mistakes import TABLES

FILES = Path(__file__).parent / "files"


FIRST = [f"question-{one}" for one in ("key", "account", "privacy", "start-terms", "start-network")]
"""What a client asks that is told of its disks and little else."""


@cache
def text_of(name: str) -> str:
    return (FILES / name).read_text(encoding="utf-8")


def found(text: str, name: str, target: str) -> list[tuple[str, str]]:
    facts = Facts(firmware="bios" if name in ("extended.xml", "older.xml", "thin.ks", "seven.ks") else "uefi")
    report = check_answers(text, name, questions=True, target=target, facts=facts)
    return [(finding.rule, finding.severity) for finding in report.findings]


@pytest.mark.parametrize(
    ("name", "target", "rules"),
    [
        ("desk.xml", "windows-11-24h2", {"disk-wiped", "question-key", "question-start-network"}),
        ("older.xml", "windows-7", {"disk-wiped", "password-missing", "question-name"}),
        (
            "extended.xml",
            "windows-10-22h2",
            {"disk-wiped", "question-edition", *FIRST, "question-setup-language", "question-region"},
        ),
        ("gate.ks", "el-9", {"disk-wiped"}),
        ("cloned.ks", "el-8", {"name-usual", "question-end"}),
        ("host.ks", "esxi-8", {"disk-wiped", "first-start-unsigned"}),
        ("server.xml", "windows-server-2022", {"disk-wiped", "recovery-partition-small"}),
        ("audit.xml", "windows-11-24h2", set()),
        ("core.xml", "windows-server-2019", {"disk-wiped", "password-readable"}),
        ("netboot.xml", "windows-10-22h2", {"disk-wiped", "password-readable", *FIRST}),
        ("disks.xml", "windows-server-2022", {"disk-wiped"}),
        ("thick.ks", "el-9", {"disk-wiped", "password-readable"}),
        ("subvolumes.ks", "fedora-42", {"disk-wiped"}),
        ("thin.ks", "el-9", {"disk-wiped", "parameter-gone"}),
        ("seven.ks", "el-7", {"disk-wiped"}),
        ("sealed.ks", "el-8", {"disk-wiped", "password-readable"}),
        ("bonded.ks", "el-9", {"disk-wiped"}),
        ("desktop.ks", "fedora-42", {"disk-wiped"}),
        ("plain.xml", "windows-11-24h2", {"question-disk", "password-readable"}),
        ("plain.ks", "el-9", {"disk-wiped"}),
    ],
)
def test_good_files_have_no_error(name, target, rules):
    rows = found(text_of(name), name, target)
    assert {rule for rule, _ in rows} == rules
    assert "error" not in {severity for _, severity in rows}


def broken(text: str, old: str, new: str) -> str:
    if old.startswith("re:"):
        changed = re.sub(old[3:], new, text, flags=re.DOTALL if "<" in old else 0)
    else:
        count = -1 if old in ("ComputerName>", "<Type>EFI</Type>", "<Format>FAT32", "unattend", "0809:00000809") else 1
        changed = text.replace(old, new, count)
    assert changed != text
    return changed


@pytest.mark.parametrize(
    ("name", "old", "new", "rule"), [(name, *row) for name, (_, rows) in TABLES.items() for row in rows]
)
def test_a_file_broken_in_one_way(name, old, new, rule):
    rows = found(broken(text_of(name), old, new), name, TABLES[name][0])
    assert rule in {one for one, _ in rows}


AMD64 = 'processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS"'
ADD = 'wcm:action="add"'
ONCE_SILENT = tomllib.loads((FILES.parent / "once_silent.toml").read_text(encoding="utf-8"))["mistake"]


def plain(text: str) -> str:
    """A text without what the table leaves out: margins, and what stands in every component."""
    return re.sub(r"\n\s*", "\n", text.replace(AMD64, "{amd64}").replace(ADD, "{add}"))


@pytest.mark.parametrize("row", ONCE_SILENT, ids=lambda row: row["says"])
def test_a_mistake_that_was_once_silent(row):
    name = row["base"]
    text = row.get("text") or plain(text_of(name))
    for old, new in row.get("edits", ()):
        assert old in text
        text = text.replace(old, new)
    disks = (DiskFacts(mib=row["disk_mib"]),) if "disk_mib" in row else None
    facts = Facts(firmware=row.get("firmware"), disks=disks, route=row.get("route"))
    report = check_answers(
        text.replace("{amd64}", AMD64).replace("{add}", ADD), name, questions=True, target=row["target"], facts=facts
    )
    assert row["rule"] in {one.rule for one in report.findings}
