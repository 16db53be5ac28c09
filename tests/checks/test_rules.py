from __future__ import annotations

import msgspec
import pytest

from factories import DESK, NOWHERE, check, check_answers, checked, draft, resolved, rules_of, whole, without_questions
from fairledger.catalog.meant import target_named
from fairledger.checks import rule as rules
from fairledger.cli.report import as_json
from fairledger.families.registry import family_named
from fairledger.model.facts import Facts
from fairledger.model.finding import Severity
from fairledger.model.values import SecretRef
from fairledger.profiles.seed import for_comparing
from fairledger.subject.opening import of_draft

ALL = rules.all_rules()


@pytest.mark.parametrize("one", ALL, ids=lambda one: one.id)
def test_each_rule_fires_on_its_example_and_not_on_the_other(one):
    fired = [
        finding for finding in check(one.fires, given=one.given, questions=True).findings if finding.rule == one.id
    ]
    assert fired
    assert one.id not in rules_of(check(one.silent, given=one.given, questions=True))
    for finding in fired:
        assert finding.severity in tuple(Severity)
        assert finding.line, "a finding has a place"
        assert finding.message[0].islower() or not finding.message[0].isalpha() or finding.message[0].isupper()
        assert finding.hint, "a finding says what to do"


def test_every_rule_is_described():
    for one in ALL:
        assert one.says.endswith(".")
        assert one.source
        assert not one.source.endswith((".", ", "))
        assert one.severity in tuple(Severity)
    assert len({one.id for one in ALL}) == len(ALL) >= 35
    with pytest.raises(ValueError, match="two rules"):
        rules.found_by_reader("disk-wiped", "error", "x", source="", fires="", silent="")


GOOD = """
[image]
edition = "Pro"
[licence]
accept = true
[locale]
language = "pt-PT"
fallback = "en-GB"
keyboards = ["pt", "us"]
time_zone = "Atlantic/Azores"
[disk]
fate = "wipe"
partition = [
  { role = "firmware", size = "260 MiB" },
  { role = "reserved", size = "16 MiB" },
  { role = "recovery", size = "1 GiB" },
  { role = "system", size = "rest", letter = "C" },
]
[identity]
name = "LMR-${station}"
[account]
local = [{ name = "observer", groups = ["Administrators"], password = { env = "PW" } }]
[account.sign_in]
account = "observer"
count = 1
[bypass]
security_chip = true
"""


def test_a_good_draft_and_its_file_have_no_error_and_no_warning():
    found = resolved(GOOD)
    report = without_questions(checked(of_draft(found, NOWHERE)))
    assert rules_of(report) == ["disk-wiped"]
    sheet = of_draft(found, NOWHERE).sheet
    windows = family_named("windows")

    def filled_in(block, way, value):
        if isinstance(value, SecretRef):
            return windows.conceal(block, way, "Dunlin-4-tarn", form="plain", salt=for_comparing)
        return value if isinstance(value, str) else "LMR-AZ"

    filled = sheet.map_values(filled_in)
    data = windows.write(filled, found.target)
    again = check_answers(data, "autounattend.xml", target=None, facts=Facts(firmware="uefi"))
    assert rules_of(again) == ["disk-wiped"]
    assert again.target.name.startswith("Windows 11")
    assert "Windows 11 Pro" in again.basis
    assert [finding.line for finding in again.findings] == [35]


@pytest.mark.parametrize(
    ("fragment", "rule", "part"),
    [
        (
            GOOD.replace('letter = "C"', 'letter = "C" }, { role = "system", size = "9 GiB"'),
            "field-value",
            "more than one",
        ),
        (
            GOOD.replace('role = "reserved", size = "16 MiB"', 'role = "swap", size = "16 MiB"'),
            "not-expressible",
            "swap",
        ),
        (GOOD.replace('"1 GiB"', '"5%"'), "not-expressible", "disk_size"),
        (GOOD.replace('env = "PW"', 'env = "PW", form = "hash"'), "not-expressible", "hash"),
        (GOOD.replace('"Pro"', '"Prof"'), "field-value", "did you mean Pro"),
        (GOOD.replace("[locale]", '[locale]\nregion = "ZZ"'), "not-expressible", "region"),
        (
            GOOD + '[answers.specialise.Microsoft-Windows-Shell-Setup]\nRegisteredOwner = "x"\n',
            "pass-wrong",
            "specialize",
        ),
        (GOOD + "[answers.specialize.Microsoft-Windows-Shell-Setup]\nTimeZone = 1.5\n", "field-value", "must be text"),
    ],
)
def test_what_the_target_cannot_do_is_said(fragment, rule, part):
    report = check(fragment)
    told = [f"{finding.message} {finding.hint}" for finding in report.findings if finding.rule == rule]
    assert told, report.findings
    assert part in told[0]


def test_placeholders_are_skipped_by_rules_on_values():
    fragment = GOOD.replace('"pt-PT"', '"${language}"').replace("which = 0", 'which = "${disk}"')
    fragment = fragment.replace('language = "${language}"', 'language = "${language}"\nformats = "${f}"')
    fragment = fragment.replace('letter = "C"', 'letter = "${letter}", label = "${label}"').replace(
        "count = 1", 'count = "${n}"'
    )
    assert rules_of(check(fragment)) == ["disk-wiped"]


def test_percentages_count_on_a_stated_disk():
    head = f'[draft]\ntarget = "{DESK}"\nfirmware = "uefi"\ndisk_size = "100 GiB"\n'
    report = check(head + GOOD.replace('"1 GiB"', '"5%"'))
    assert rules_of(report) == ["disk-wiped"]
    sizes = [node.value for _, node in report.of.sheet.scalars() if node.name == "Size"]
    assert sizes == ["260", "16", "5120"]


def test_bios_layouts_need_an_active_partition():
    head = f'[draft]\ntarget = "{DESK}"\nfirmware = "bios"\n'
    layout = '[disk]\nfate = "wipe"\npartition = [{ role = "system", size = "rest", active = %s }]\n'
    assert "firmware-partition-missing" in rules_of(check(head + layout % "false"))
    assert "firmware-partition-missing" not in rules_of(check(head + layout % "true"))
    assert "firmware-partition-missing" in rules_of(check(head + GOOD))


def test_findings_point_at_the_answer_that_asked():
    (finding,) = check('[locale]\nlanguage = "en-GB"\nfallback = "en-GB"\n').findings
    assert (finding.file, finding.line, finding.pass_) == ("nowhere/desk.toml", 7, "oobeSystem")
    assert finding.setting == "UILanguageFallback"


def test_a_rule_that_fails_is_a_finding_and_the_others_go_on(monkeypatch):
    def broken(_view):
        raise RuntimeError("Heron-4")

    extra = rules.Rule("broken", "error", "x.", "", "", "", check=broken)
    monkeypatch.setattr(rules, "rules_for", lambda family: (extra, *ALL))
    monkeypatch.delenv("PYTEST_CURRENT_TEST")
    report = check('[locale]\nlanguage = "en-UK"\nkeyboards = ["gb"]\n')
    assert sorted(rules_of(report)) == ["language-unknown", "rule-failed"]
    assert "Heron" not in str(report.findings)


def test_without_a_target_the_whole_family_serves():
    data = whole("").encode()
    report = check_answers(check_bytes(), "a.xml")
    assert data
    assert report.target is None
    assert rules_of(report) == []


def check_bytes() -> bytes:
    target = target_named(DESK)
    return family_named("windows").write(draft('[identity]\nowner = "L"\n').sheet, target)


def test_the_json_contract():
    value = msgspec.json.decode(
        msgspec.json.encode(as_json([check('[locale]\nlanguage = "en-UK"\nkeyboards = ["gb"]\n')]))
    )
    assert list(value) == ["command", "files", "errors", "warnings", "advice", "questions", "silenced", "left_out"]
    assert (value["command"], value["errors"], value["warnings"], value["advice"]) == ("check", 1, 0, 0)
    (file,) = value["files"]
    assert (file["family"], file["target"]) == ("windows", DESK)
    (finding,) = file["findings"]
    assert set(finding) >= {"rule", "severity", "message", "pass", "component", "setting", "line", "column", "hint"}
