"""What comes after the bare system, at the command line: lists, a draft's choices, the script that takes them back."""

from __future__ import annotations

import json

import pytest

from factories import DESK

DRAFT = f"""format = 1
[draft]
target = "{DESK}"
title = "Observer desk"
profiles = ["tidy/quiet-desk"]
[desktop]
menus = "full"
[services]
disabled = ["Fax"]
"""
CHANGE = {
    "kind",
    "hive",
    "key",
    "name",
    "type",
    "data",
    "service",
    "start",
    "package",
    "feature",
    "command",
    "when",
    "as",
}


@pytest.fixture
def desk(program):
    program.file("desk.toml", DRAFT)
    return program


def test_the_lists_keep_their_contract(program):
    rows = json.loads(program("tidy", "list", DESK, "--format", "json").stdout)["choices"]
    assert len(rows) > 90
    for one in rows:
        assert one.keys() == {"choice", "topic", "about", "usual", "values", "undo"}
        assert all(change.keys() == CHANGE for value in one["values"] for change in value["changes"])
    menus = next(one for one in rows if one["choice"] == "desktop.menus")
    assert [value["value"] for value in menus["values"]] == ["full", "short"]
    (change,) = menus["values"][0]["changes"]
    assert (change["hive"], change["data"], change["as"]) == ("first-user", "", "first-account")
    apps = next(one for one in rows if one["choice"] == "apps.remove")
    assert "photos" in [value["value"] for value in apps["values"]]
    assert json.loads(program("tidy", "about", DESK, "desktop.menus", "--format", "json").stdout)["choices"] == [menus]


def test_plain_words_lead_to_a_choice(program):
    assert "desktop.file_extensions" in program("tidy", "list", DESK, "file", "endings").stdout
    told = program("tidy", "list", DESK, "quiet").stdout
    assert "desktop.tips" in told
    assert "desktop.menus" not in told
    assert "no choice that fits" in program("tidy", "list", DESK, "xyzzy").stdout
    assert "full" in program("about", "desktop.menus").stdout
    assert "name a target too" in program("about", "TimeZone", status=2).stderr
    found = json.loads(program("find", DESK, "right", "click", "--format", "json").stdout)["results"]
    (choice,) = [one for one in found if one["component"] is None]
    assert (choice["path"], choice["passes"], choice["example"]) == ("desktop.menus", [], "desktop.menus=full")


def test_a_draft_shows_what_each_choice_changes_and_who_asked_for_it(desk):
    told = desk("show", "desk.toml", "--tidy").stdout
    assert "desktop.menus = full  desk.toml:7" in told
    assert "desktop.tips = off  tidy/quiet-desk:" in told
    assert "taken back exactly: what was there before is recorded" in told
    rows = json.loads(desk("show", "desk.toml", "--tidy", "--format", "json").stdout)["tidy"]
    fax = next(one for one in rows if one["choice"] == "services.disabled")
    assert (fax["undo"], fax["values"][0]["changes"][0]["service"]) == ("exact", "Fax")


def test_a_choice_that_comes_to_nothing_is_told_beside_those_that_do_something(program):
    program.file(
        "gate.toml", 'format = 1\n[draft]\ntarget = "el-9"\n[remote]\nssh_server = "on"\n[desktop]\nmenus = "full"\n'
    )
    told = program("show", "gate.toml", "--tidy").stdout
    assert "for Enterprise Linux 9: one choice, 1 not to be taken back" in told
    assert "nothing is changed for desktop.menus (fairledger check gate.toml says why)" in told


def test_the_script_that_takes_choices_back_is_written_with_the_file(desk):
    told = desk("write", "--route", "plain", "desk.toml", "--undo", "out/undo.ps1").stdout
    assert "it does not take back apps.remove" in told
    script = (desk.folder / "out/undo.ps1").read_bytes()
    assert script.startswith(b"\xef\xbb\xbf#")
    assert b"\r\n" in script
    before = (desk.folder / "out/unattend.xml").read_bytes()
    assert (
        "exists already"
        in desk("write", "--route", "plain", "desk.toml", "--out", "new", "--undo", "out/undo.ps1", status=4).stderr
    )
    assert not (desk.folder / "new").exists(), "nothing is written by halves"
    desk("write", "--route", "plain", "desk.toml", "--undo", "out/undo.cmd", "--replace")
    assert (desk.folder / "out/unattend.xml").read_bytes() == before
    assert "ends with .ps1 or .cmd" in desk("write", "--route", "plain", "desk.toml", "--undo", "x.sh", status=2).stderr
    desk.file("bare.toml", f'format = 1\n[draft]\ntarget = "{DESK}"\n')
    assert "makes no choice" in desk("write", "--route", "plain", "bare.toml", "--undo", "x.cmd", status=2).stderr


def test_what_does_not_fit_into_one_file_is_refused(desk):
    assert (desk.folder / "out/fair-ledger/tidy.cmd").exists() is False
    desk("write", "--route", "plain", "desk.toml", "--out", "two")
    assert (desk.folder / "two/fair-ledger/tidy.cmd").exists()
    desk("write", "--route", "plain", "desk.toml", "--out", "one", "--single-file")
    assert [one.name for one in (desk.folder / "one").iterdir()] == ["unattend.xml"]
    desk.file("long.toml", DRAFT + "[protection]\nnotice_text = '" + "Only for observers. " * 12 + "'\n")
    told = desk("write", "--route", "plain", "long.toml", "--out", "x", "--single-file", status=4).stderr
    assert "long.toml:11: this does not fit into the answer file alone" in told
    assert not (desk.folder / "x").exists()


def test_what_a_strangers_script_does_is_told_in_plain_words(program):
    program.file(
        "stranger.toml",
        f"""format = 1
[draft]
target = "{DESK}"
[[command]]
interpreter = "powershell"
body = '''
Set-ItemProperty -Path 'HKLM:\\SYSTEM\\CurrentControlSet\\Control\\Session Manager\\Power' -Name HiberbootEnabled -Value 0
Get-AppxPackage *Microsoft.BingNews* | Remove-AppxPackage
Start-Process wind.exe
'''
""",
    )
    program("write", "--route", "plain", "stranger.toml")
    told = program("explain", "out/unattend.xml", "--target", DESK).stdout
    assert "= power.fast_start = off (shutting down keeps" in told
    assert "= app goes: Microsoft.BingNews" in told
    assert "= one more line is not understood" in told
    whole = json.loads(program("explain", "out/unattend.xml", "--target", DESK, "--format", "json").stdout)
    assert any(one["says"] for one in whole["events"])


def test_choices_set_by_name_are_held_against_their_values(desk):
    assert "did you mean full" in desk("set", "desk.toml", "desktop.menus=ful", status=2).stderr
    assert "did you mean calculator" in desk("set", "desk.toml", "apps.keep=calculater", status=2).stderr
    desk("set", "desk.toml", "apps.keep=calculator,photos", "apps.others=remove", "power.fast_start=off")
    assert 'keep = ["calculator", "photos"]' in (desk.folder / "desk.toml").read_text()


def test_two_files_are_compared_by_choice_whatever_their_spelling(desk):
    desk("write", "--route", "plain", "desk.toml", "--no-stamp")
    text = (desk.folder / "out/unattend.xml").read_text()
    assert "reg add HKLM\\SOFTWARE\\Policies\\Microsoft\\Dsh /v AllowNewsAndInterests /t REG_DWORD /d 0 /f" in text
    other = text.replace(
        "reg add HKLM\\SOFTWARE\\Policies\\Microsoft\\Dsh /v AllowNewsAndInterests /t REG_DWORD /d 0 /f",
        "REG.exe ADD HKEY_LOCAL_MACHINE\\SOFTWARE\\Policies\\Microsoft\\Dsh /f /v AllowNewsAndInterests /d 0x0 /t REG_DWORD",
    )
    (desk.folder / "out/other.xml").write_text(other)
    told = json.loads(desk("compare", "out/unattend.xml", "out/other.xml", "--format", "json").stdout)
    assert told["verdict"] == "same in effect"
    desk("adopt", "out/unattend.xml", "--target", DESK, "--out", "back.toml")
    back = (desk.folder / "back.toml").read_text()
    assert 'menus = "full"' in back
    assert "reg add" not in back


def test_what_differs_is_told_as_the_choice_that_it_is(desk):
    desk.file("other.toml", DRAFT.replace('menus = "full"', 'widgets = "on"').replace('"Fax"', '"Fax", "Wind"'))
    told = json.loads(desk("compare", "desk.toml", "other.toml", "--format", "json", status=1).stdout)
    rows = {(one["component"], one["setting"]): (one["a"], one["b"]) for one in told["differences"]}
    assert rows == {
        ("desktop", "menus"): ("full", None),
        ("desktop", "widgets"): ("off", "on"),
        ("services", "disabled"): ("Fax", "Fax, Wind"),
    }


def test_choices_of_ones_own_are_listed_with_the_others(program):
    program.file(
        "tidy/station.toml",
        """about = "the stations' own."
says = "."
[choices.station_mode]
topic = "findable"
about = "What the console of a station shows."
values = ["watch", "log"]
does = [{ machine = 'SOFTWARE\\Larkmoor', name = "Mode", data = { watch = 0, log = 1 } }]
""",
    )
    assert "fairledger set FILE 'own[station_mode].value'=watch" in program("tidy", "list", DESK, "station").stdout
    assert "SOFTWARE\\Larkmoor  Mode = 1" in program("tidy", "about", DESK, "own.station_mode").stdout
    assert "no choice that fits" in program("tidy", "list", DESK, "station", "--in", "..").stdout
