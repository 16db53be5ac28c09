"""Explaining files, describing machines and asking for reasons, as the installed program."""

from __future__ import annotations

import json

import pytest

from factories import DESK

DRAFT = f"""format = 1
[draft]
target = "{DESK}"
firmware = "uefi"
disk_size = "256 GB"
[licence]
accept = true
[account]
local = [{{ name = "keeper", groups = ["Administrators"], password = {{ env = "STATION_PW" }} }}]
[[disk]]
which = 0
fate = "wipe"
partition = [{{ role = "firmware", size = "300 MiB" }}, {{ role = "system", size = "100 GiB" }}]
[[command]]
name = "clock"
body = "tzutil /s UTC"
"""
KICKSTART = "#version=RHEL9\nlang en_GB.UTF-8\nclearpart --all\nstrange --thing\nreboot\n"


def found(program, *arguments: str, status: int = 0) -> list[str]:
    done = program("check", *arguments, "--format", "json", status=status)
    return [one["rule"] for one in json.loads(done.stdout)["files"][0]["findings"]]


def test_a_draft_is_explained_without_its_secrets(program):
    program.file("desk.toml", DRAFT)
    program.environment.pop("STATION_PW", None)
    told = program("explain", "desk.toml").stdout
    assert told.index("disk 0 is WIPED") < told.index("one command runs") < told.index("Setup begins")
    assert "keeper with a password, in Administrators, with all rights  (line 9)" in told
    assert program("explain", "desk.toml", STATION_PW="Heron-4-moor").stdout == told
    assert "Heron" not in told


def test_events_come_in_order_with_all_that_is_known(program):
    program.file("gate.ks", KICKSTART)
    value = json.loads(program("explain", "gate.ks", "--format", "json").stdout)
    by_text = {one["what"]: one for one in value["events"]}
    assert value["gist"][0] == "every disk that is found is WIPED without a question: all that is on it is lost"
    wiped = by_text[value["gist"][0]]
    assert (wiped["severity"], wiped["destroys"], wiped["line"]) == ("danger", ["every disk that is found"], 3)
    unknown = by_text["setup: strange/--thing = true (unknown here)"]
    assert (unknown["sure"], unknown["line"], unknown["phase"]) == (False, 4, "setup")
    assert [one["what"] for one in value["events"] if one["restarts"]] == ["at the end the machine restarts"]
    asked = [one["asks"] for one in value["events"] if one["asks"]]
    assert asked == [
        *("the keyboard", "where packages come from", "which software is installed", "the disk and its layout"),
        "a password for root, or an account with all rights",
    ]


@pytest.mark.parametrize(
    ("name", "text", "told"),
    [
        ("open.toml", "format = 1\n[draft\n", "open.toml:2"),
        ("profile.toml", "format = 1\n[profile]\n", "this is a profile, not a draft"),
        ("field.toml", DRAFT.replace("accept", "acept"), "licence has no field 'acept'"),
        ("half.xml", "<unattend>\n<settings", "half.xml"),
    ],
)
def test_what_cannot_be_opened_is_not_explained(program, name, text, told):
    program.file(name, text)
    done = program("explain", name, status=2 if "profile]" in text else 1)
    assert told in done.stderr
    assert done.stdout == ""


def test_the_machine_that_is_described_counts_more_than_the_drafts(program):
    program.file("desk.toml", DRAFT)
    assert found(program, "desk.toml") == found(program, "desk.toml", "--disk-size", "128 GB", "--firmware", "uefi")
    assert "disk-too-small" in found(program, "desk.toml", "--disk-size", "64 GB", status=1)
    assert "firmware-partition-missing" in found(program, "desk.toml", "--firmware", "bios", status=1)
    assert "firmware-partition-missing" not in found(program, "desk.toml")
    assert "64 acres" in program("check", "desk.toml", "--disk-size", "64 acres", status=2).stderr


def test_a_target_of_another_family_is_refused_by_name(program):
    program.file("gate.ks", KICKSTART)
    told = program("check", "gate.ks", "--target", DESK, status=2).stderr
    assert f"a file of the family kickstart, and the target {DESK} is of the family windows" in told
    assert "leave --target out" in told
    program.file("odd", "hm\n")
    assert "strange" not in program("check", "odd", "--target", "el-9", status=1).stderr  # of no family for certain
    done = program("check", "gate.ks", "odd", "--target", DESK, status=3)
    assert "odd" in done.stdout


def test_every_rule_says_on_whose_word_it_stands(program):
    assert "from: the practice of the trade" in program("rule", "disk-wiped").stdout
    program.file("desk.toml", DRAFT)
    done = program("check", "desk.toml", "--format", "sarif", "--firmware", "bios", status=1)
    rules = json.loads(done.stdout)["runs"][0]["tool"]["driver"]["rules"]
    assert rules
    for one in rules:
        assert one["help"]["text"].strip()
    missing = next(one for one in rules if one["id"] == "firmware-partition-missing")
    shown = program("rule", "firmware-partition-missing").stdout
    source = (
        next(line for line in shown.splitlines() if line.strip().startswith("from: ")).strip().removeprefix("from: ")
    )
    assert source in missing["help"]["text"]


def test_a_source_counts_by_its_address_alone(program):
    program.file("gate.toml", 'format = 1\n[draft]\ntarget = "el-9"\n[source]\nurl = "http://192.0.2.10/el9"\n')
    shown = json.loads(program("show", "gate.toml", "--format", "json").stdout)["answers"]
    assert [one["value"] for one in shown] == ["http://192.0.2.10/el9"]
    program.file("gate.toml", 'format = 1\n[draft]\ntarget = "el-9"\n[source]\nfolder = "/el9"\n')
    assert "source.folder: nothing says of which kind" in program("check", "gate.toml").stdout
