"""Names that drafts had once are read as what stands in their place, and told."""

from __future__ import annotations

from pathlib import Path

import pytest

from factories import check, draft, rules_of
from fairledger.checks.engine import check as checked
from fairledger.intent.fields import fields_of
from fairledger.intent.sections import section
from fairledger.profiles import document, retired
from fairledger.profiles.retired import Retired, retired_names
from fairledger.subject.opening import looked_at, opened

PAGE = (Path(__file__).parents[2] / "docs/old-names.md").read_text()
DISK = '[[disk]]\nfate = "wipe"\npartition = [{ role = "system", size = "rest" }]\n'


def told(fragment: str) -> list[tuple[str, int | None]]:
    return [(one.rule, one.line) for one in draft(fragment).findings if one.rule == "name-retired"]


@pytest.mark.parametrize(
    ("old", "new"),
    [
        (DISK + 'recovery = "none"\n', DISK + "without_recovery = true\n"),
        (DISK + 'recovery = "inside"\n', DISK),
        ('[[command]]\nbody = "x"\nwhen = "end"\n', '[[command]]\nbody = "x"\nwhen = "installed"\n'),
        ('[[command]]\nbody = "x"\nwhen = "new-user"\n',
         '[[command]]\nbody = "x"\nwhen = "sign-in"\nrun_as = "each-account"\n'),
        ('[draft]\ntarget = "el-9"\n[[command]]\nbody = "x"\noutside = true\n',
         '[draft]\ntarget = "el-9"\n[[command]]\nbody = "x"\nrun_as = "setup"\n'),
        ('[privacy]\nevery = "off"\nspeech = "on"\n', '[privacy]\nspeech = "on"\n' + "".join(
            f'{name} = "off"\n' for name in ("diagnostics", "location", "advertising", "typing", "find_device")
        )),
    ],
)  # fmt: skip
def test_an_old_name_means_what_it_meant(old, new):
    assert draft(old).sheet.bare() == draft(new).sheet.bare()
    assert len(told(old)) == 1
    assert told(old)[0][1] is not None
    assert told(new) == []


@pytest.mark.parametrize("old", sorted(retired_names()))
def test_every_row_leads_to_fields_that_there_are(old):
    row = retired_names()[old]
    table, _, name = old.rpartition(".")
    known = fields_of(section(table).table)
    assert name not in known or not set(row.values) & set(known[name].choices)
    assert {*row.to, *(field for new in row.values.values() for field in new)} <= set(known)
    assert f"`{old}" in PAGE
    assert row.since in PAGE
    assert row.say


def test_what_an_old_name_never_meant_is_a_mistake():
    assert "field-unknown" in rules_of(check(DISK + 'recovery = "elsewhere"\n'))
    assert "field-unknown" in rules_of(check(DISK + "recovery = true\n"))
    wrong = rules_of(check('[privacy]\nevery = "sideways"\n'))
    assert wrong.count("field-value") == 6


def test_a_later_layer_counts_more_than_an_old_name_below(tmp_path):
    (tmp_path / "profiles/privacy").mkdir(parents=True)
    (tmp_path / "profiles/privacy/old.toml").write_text(
        'format = 1\n[profile]\ntitle = "Old"\n[privacy]\nevery = "off"\n'
    )
    head = '[draft]\ntarget = "windows-11-24h2"\nprofiles = ["privacy/old"]\n'
    subject = draft(head + '[privacy]\nlocation = "on"\n', tmp_path)
    found = subject.intent.sections["privacy"]
    assert (found.location, found.speech) == ("on", "off")
    (finding,) = [one for one in subject.findings if one.rule == "name-retired"]
    assert (str(finding.file).endswith("old.toml"), finding.line) == (True, 5)


def test_what_cannot_be_cannot_be_said():
    report = check('[[command]]\nwhen = "setup-starts"\nrun_as = "each-account"\nbody = "x"\n')
    (found,) = [one for one in report.findings if one.rule == "field-value"]
    assert "at setup-starts a command runs as setup, not each-account" in found.message


def test_a_file_of_an_older_format_is_read_as_what_it_meant(monkeypatch, tmp_path):
    rows = {
        "locale.clock": Retired("locale.clock", "2026-01", "write time_zone", ("time_zone",), format=0),
        "account.local.mate": Retired(
            "account.local.mate", "2026-01", "write display_name", ("display_name",), format=0
        ),
    }
    monkeypatch.setattr(retired, "retired_names", lambda: rows)
    old = 'format = 0\n[draft]\ntarget = "el-9"\nprofiles = ["a/b"]\n[[account.local]]\nname = "keeper"\nmate = "K"\n'
    (tmp_path / "profiles/a").mkdir(parents=True)
    profile = tmp_path / "profiles/a/b.toml"
    profile.write_text('format = 0\n[profile]\ntitle = "B"\n[locale]\nclock = "Europe/Lisbon"\n')
    path = tmp_path / "old.toml"
    path.write_text(old)
    assert {"format 0 is unknown"} <= {one.message for one in checked(looked_at(path)).findings}
    monkeypatch.setattr(document, "OLDEST", 0)
    subject = opened(path)
    assert (subject.intent.sections["locale"].time_zone, subject.intent.sections["account"].local[0].display_name) == (
        "Europe/Lisbon",
        "K",
    )
    told = [(one.rule, str(one.file), one.line) for one in subject.findings if one.rule.startswith(("format", "name"))]
    assert told == [
        ("format-old", str(path), 1),
        ("name-retired", str(path), 7),
        ("format-old", str(profile), 1),
        ("name-retired", str(profile), 5),
    ]
    path.write_text(old.replace("format = 0", "format = 2"))
    assert "format 2 is unknown" in [one.message for one in checked(looked_at(path)).findings]
    # what was gone before the newest format is no name in it
    path.write_text(old.replace("format = 0", "format = 1"))
    assert "field-unknown" in rules_of(checked(looked_at(path)))
