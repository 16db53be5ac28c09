"""Choices in answer files: in which order they come, what is taken for one, and what is taken back."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from factories import DESK, NOWHERE, check, draft, resolved, rules_of
from fairledger.catalog.seats import Seats
from fairledger.families.build import recognise
from fairledger.model.facts import Facts
from fairledger.subject.opening import of_draft

RUN = "Microsoft-Windows-Deployment"


def lines(subject) -> list[str]:
    """The command lines in their order, without their logs."""
    found = [str(one.value) for one in subject.seats if one.setting is not None and one.setting.kind == "command"]
    return [one.removeprefix('cmd.exe /c "').partition(' >>"%SystemRoot%')[0] for one in found]


def told(fragment: str, target: str = DESK) -> list[str]:
    return [one.message for one in draft(f'[draft]\ntarget = "{target}"\n{fragment}').findings]


def test_the_hive_of_later_users_is_open_just_for_what_is_theirs():
    made = lines(draft('[desktop]\nfile_extensions = "show"\nwidgets = "off"\n[input]\nfive_shifts = "off"\n'))
    assert made[0].startswith(r"reg add HKLM\SOFTWARE\Policies\Microsoft\Dsh ")
    assert made[1] == r'reg load HKU\fair-ledger "%SystemDrive%\Users\Default\NTUSER.DAT"'
    assert all(r"HKU\fair-ledger" in one for one in made[2:4])
    assert made[4:] == [r"reg unload HKU\fair-ledger"]


def test_what_was_there_is_recorded_before_it_is_changed_and_only_once():
    made = lines(draft('[services]\ndisabled = ["Larkmoor Wind"]\n'))
    record = r'"HKLM\SOFTWARE\fair-ledger\services.Larkmoor Wind"'
    assert made == [
        rf'reg query {record} & if errorlevel 1 reg copy "HKLM\SYSTEM\CurrentControlSet\Services\Larkmoor Wind" {record} /f',
        rf"reg add {record} /f",
        'sc.exe config "Larkmoor Wind" start= disabled',
    ]


STRANGER = """
[[answers.specialize.Microsoft-Windows-Deployment.RunSynchronous.RunSynchronousCommand]]
Path = 'reg load HKU\\Def C:\\Users\\Default\\NTUSER.DAT'
[[answers.specialize.Microsoft-Windows-Deployment.RunSynchronous.RunSynchronousCommand]]
Path = 'reg add HKU\\Def\\Software\\Microsoft\\Windows\\CurrentVersion\\Explorer\\Advanced /v HideFileExt /t REG_DWORD /d 0 /f'
<more>
[[answers.specialize.Microsoft-Windows-Deployment.RunSynchronous.RunSynchronousCommand]]
Path = 'reg unload HKU\\Def'
"""
MORE = (
    "[[answers.specialize.Microsoft-Windows-Deployment.RunSynchronous.RunSynchronousCommand]]\n"
    "Path = 'reg add HKU\\Def\\Software\\Larkmoor /v Wind /d 3 /f'"
)


def test_the_hive_stays_open_for_whoever_else_needs_it():
    alone = draft(STRANGER.replace("<more>", "")).intent.sections
    assert alone["desktop"].file_extensions == "show"
    assert "command" not in alone
    shared = draft(STRANGER.replace("<more>", MORE)).intent.sections
    assert shared["desktop"].file_extensions == "show"
    assert [one.body.split()[1] for one in shared["command"]] == ["load", "add", "unload"]


def test_a_value_that_is_written_twice_differently_is_no_choice():
    same = r"reg add HKLM\SOFTWARE\Policies\Microsoft\Dsh /v AllowNewsAndInterests /t REG_DWORD /d {} /f"
    both = "".join(f"[[command]]\nbody = '{same.format(data)}'\n" for data in (0, 1))
    assert "desktop" not in draft(both).intent.sections
    assert draft(both.replace("/d 1", "/d 0x0")).intent.sections["desktop"].widgets == "off"


LONG = "[protection]\nnotice_text = '" + "Only for observers. " * 12 + "'\n[desktop]\nwidgets = 'off'\n"


def test_what_is_too_long_for_a_command_stands_in_one_script_and_is_found_there():
    subject = draft(LONG)
    (script,) = subject.sheet.companions
    assert script.name == "fair-ledger/tidy.cmd"
    assert "AllowNewsAndInterests" not in str(script.body), "what a command holds needs no script"
    assert str(script.body).count("exit code %errorlevel%") == 1
    assert subject.intent.sections.keys() == {"desktop", "protection"}
    assert len([one for one in lines(subject) if "tidy.cmd" in one]) == 1
    edited = replace(script, body=str(script.body).replace("exit /b 0", "format C:\nexit /b 0"))
    again = recognise(Seats(replace(subject.sheet, companions=(edited,)), subject.catalog), subject.target)
    assert again.intent.sections.keys() == {"desktop", "command"}, "a script that does more is nobody's choice"


def test_a_few_apps_go_by_commands_and_many_by_the_script():
    few = draft('[apps]\nremove = ["news", "cards", "photos"]\n')
    assert few.sheet.companions == ()
    assert [one.count("'") for one in lines(few)] == [4, 2]
    many = draft('[apps]\nremove = ["news", "cards", "photos", "weather", "office", "feedback"]\n')
    (script,) = many.sheet.companions
    assert str(script.body).count("powershell.exe") == 1


def test_nothing_lies_beside_a_single_file():
    apps = '[apps]\nothers = "remove"\n'
    assert len(draft(apps).sheet.companions) == 1
    single = of_draft(resolved(apps), NOWHERE, facts=Facts(single_file=True))
    assert single.sheet.companions == ()
    assert len(lines(single)) > 9
    assert all(len(str(one.value)) < 260 for one in single.seats if one.setting and one.setting.kind == "command")
    assert single.intent.sections == draft(apps).intent.sections


@pytest.mark.parametrize(
    ("fragment", "said"),
    [
        ('[apps]\nremove = ["calculater"]\n', "there is no app 'calculater'"),
        ('[apps]\nremove = ["store"]\n', "store must stay"),
        ('[apps]\nremove = ["photos"]\nkeep = ["photos"]\n', "photos is told to go and to stay"),
        ('[apps]\nremove = ["notes"]\n', "the release does not bring it"),
        ('[services]\ndisabled = ["RpcSs"]\n', "RpcSs: it must not be switched off"),
        ('[services]\ndisabled = ["Fax"]\nmanual = ["fax"]\n', "Fax: it stands in manual too"),
        ("[services]\ndisabled = ['Fa\"x']\n", "it is no name of a service"),
        ("[power]\nscreen_after = 9999\n", "cannot be 9999"),
        ('[protection]\nnotice_text = "a\\nb"\n', "line end or another control character"),
        ('[desktop]\nchat = "off"\n', "what it changes went after build 22631"),
        ('[desktop]\nserver_manager = "hide"\n', "it is for other releases of the family"),
        ('[remote]\nssh_server = "on"\n', "nothing is known that does it there"),
        ('[desktop]\nmenus = "short"\n', "it is so already"),
        ('[[own]]\nchoice = "mode"\nvalue = "x"\n', "there is no choice 'mode'"),
    ],
)
def test_what_cannot_be_is_said(fragment, said):
    assert any(said in one for one in told(fragment)), told(fragment)


def test_what_is_taken_back_comes_in_the_reverse_order_with_what_a_fresh_system_has():
    subject = draft(
        '[power]\nfast_start = "off"\nsleep_after = 0\n[remote]\ndesktop = "on"\n[desktop]\nfile_extensions = "show"\nmenus = "full"\n'
        '[services]\nmanual = ["Fax"]\n'
    )
    intent, target = subject.draft.intent, subject.target
    script = subject.family.taken_back(intent, target, ".cmd")
    done = [one.partition(' >>"%log%"')[0] for one in script.split("\n") if one.startswith(("reg ", "netsh", "for "))]
    assert done[0] == r"reg delete HKCU\Software\Classes\CLSID\{86ca1aa0-34aa-4e8b-a509-50c905bae2a2} /f"
    assert "Advanced /v HideFileExt /f" in done[1]
    assert done[2].startswith("reg load")
    assert done[4].startswith("reg unload")
    assert done[5].endswith('group="@FirewallAPI.dll,-28752" new enable=no')
    assert done[8].endswith(r'Session Manager\Power" /v HiberbootEnabled /t REG_DWORD /d 1 /f')
    assert done[-1] == r"reg delete HKLM\SOFTWARE\fair-ledger\services.Fax /f"
    assert "standby" not in script
    left = [one.name for one in subject.family.chosen(intent, target, Facts()) if one.undo == "none"]
    assert left == ["power.sleep_after"]
    assert subject.family.taken_back(intent, target, ".sh") == ""


OWN = """about = "the stations' own."
says = "."
[choices.mode]
topic = "findable"
about = "What the console shows."
values = ["watch", "log"]
undo = "exact"
does = [
  { machine = 'SOFTWARE\\Larkmoor', name = "Mode", data = { watch = 0, log = 1 } },
  { family = "kickstart", service = "larkmoor-log", data = { log = "enabled" } },
]
"""


def test_choices_of_ones_own_do_what_their_file_says(tmp_path):
    (tmp_path / "tidy").mkdir()
    (tmp_path / "tidy/station.toml").write_text(OWN)
    asked = '[[own]]\nchoice = "mode"\nvalue = "log"\n'
    subject = draft(asked, tmp_path)
    assert [one.split()[1] for one in lines(subject)] == ["query", "add", "add"]
    (one,) = subject.family.chosen(subject.draft.intent, subject.target, Facts())
    assert (one.name, one.value, one.undo) == ("own.mode", "log", "exact")
    assert "own.mode" in subject.family.taken_back(subject.draft.intent, subject.target, ".ps1")
    linux = draft('[draft]\ntarget = "el-9"\n' + asked, tmp_path)
    assert linux.intent.sections["services"].enabled == ("larkmoor-log",)
    (there,) = linux.family.chosen(linux.draft.intent, linux.target, Facts())
    assert (there.name, there.effects[0].service) == ("own.mode", "larkmoor-log")
    wrong = draft(asked.replace('"log"', '"lug"'), tmp_path).findings
    assert [(found.message, found.hint) for found in wrong] == [("own.mode cannot be 'lug'", "did you mean log?")]


def test_features_of_choices_are_not_those_of_the_section_of_features():
    subject = draft('[protection]\nold_shares = "off"\n[features]\noff = ["SMB1Protocol", "TelnetClient"]\n')
    made = subject.intent.sections
    assert made["protection"].old_shares == "off"
    assert made["features"].off == ("SMB1Protocol", "TelnetClient")


def test_a_command_that_no_form_describes_is_known_by_its_words():
    subject = draft('[remote]\nguest_tools = "install"\n')
    assert subject.intent.sections["remote"].guest_tools == "install"
    assert all("%d:" in one for one in lines(subject))
    assert rules_of(check('[remote]\nguest_tools = "install"\n')) == ["choice-for-good"]


def test_a_hive_that_nobody_opens_is_nobodys():
    open_ = STRANGER.replace("<more>", "")
    load = open_.partition("HideFileExt")[0].rpartition("[[answers")[0]
    assert "reg load" in load
    assert "desktop" not in draft(open_.replace(load, "")).intent.sections, "its lines fail on the machine"
    assert "desktop" not in draft(open_.replace(load, "") + load).intent.sections, "it is opened too late"


def test_a_picture_that_nothing_lays_down_is_told():
    picture = "[desktop]\nwallpaper = 'C:\\Larkmoor\\sky.png'\n"
    assert rules_of(check(picture)) == ["named-and-not-carried"]
    assert rules_of(check("[desktop]\nwallpaper = 'C:\\Windows\\Web\\sky.png'\n")) == []
