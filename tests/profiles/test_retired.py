"""Names that drafts had once are read as what stands in their place, and told."""

from __future__ import annotations

from pathlib import Path

import pytest

from factories import check, draft, rules_of
from fairledger.intent.fields import fields_of
from fairledger.intent.sections import section
from fairledger.profiles.retired import retired_names

PAGE = (Path(__file__).parents[2] / "docs/old-names.md").read_text()
DISK = '[[disk]]\nfate = "wipe"\npartition = [{ role = "system", size = "rest" }]\n'


def told(fragment: str) -> list[tuple[str, int | None]]:
    return [(one.rule, one.line) for one in draft(fragment).findings if one.rule == "name-retired"]


@pytest.mark.parametrize(
    ("old", "new"),
    [
        (DISK + 'recovery = "none"\n', DISK + "without_recovery = true\n"),
        (DISK + 'recovery = "inside"\n', DISK),
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
    assert name not in known
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
