"""Folders, several files and standard input, at the terminal; in one process and in several."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from types import SimpleNamespace

import pytest

from fairledger.cli.many import Hearing, silent
from fairledger.fleet.checking import Checking
from fairledger.fleet.over import over
from fairledger.subject.opening import ALONE

GATE = """#version=RHEL9
lang en_GB.UTF-8
network --device=eno1 --bootproto=static --ip=192.0.2.{0} --netmask=255.255.255.0 --hostname=lmr-gate-{0}
rootpw --lock
keyboard gb
timezone Europe/London --utc
autopart
clearpart --all --initlabel
"""


def gates(program, *numbers: int) -> list[str]:
    for number in numbers:
        program.file(f"answers/deep/{number}.ks", GATE.format(number))
    return [at(f"deep/{number}.ks") for number in numbers]


def at(name: str) -> str:
    """A file of the folder, as this system writes it."""
    return str(Path("answers") / name)


def test_a_folder_stands_for_what_is_in_it_and_what_is_passed_over_is_told(program):
    gates(program, 31, 32)
    program.file("answers/desk.toml", 'format = 1\n[draft]\ntarget = "el-9"\n')
    program.file("answers/pom.xml", "<project/>")
    program.file("answers/.git/old.ks", GATE.format(33))
    told = program("check", "answers", "--summary").stdout
    assert told.count(": ") >= 4
    assert f"{at('deep/31.ks')}: " in told
    assert f"{at('desk.toml')}: " in told
    assert f"passed over, since they are no answer file, draft or profile: {at('pom.xml')}" in told
    assert ".git" not in told
    assert told.splitlines()[-1].startswith("3 files: ")
    program.file("empty/readme.txt", "nothing")
    assert "holds no draft" in program("check", "empty", status=3).stderr


def test_machines_that_share_a_name_or_an_address_are_found(program):
    gates(program, 31)
    program.file("answers/copy.ks", GATE.format(31).replace("lmr-gate-31", "LMR-GATE-31") + "#\n")
    program.file("answers/other.ks", GATE.format(32))
    found = program.json("check", "answers")["files"]
    twice = [(one["file"], finding["line"]) for one in found for finding in one["findings"] if finding["rule"] == TWICE]
    assert twice == [(at("deep/31.ks"), 3)] * 2
    told = " ".join(program("check", "answers").stdout.split())
    assert f"the name 'lmr-gate-31' is in {at('copy.ks')} too" in told
    assert f"the address '192.0.2.31/24' is in {at('copy.ks')} too" in told
    quiet = program.json("check", "answers", "--except", TWICE)
    assert TWICE not in json.dumps(quiet)
    assert quiet["left_out"] == 2
    program.file("answers/copy.ks", GATE.format(31))
    assert f"this is the same file as {at('copy.ks')}" in program("check", "answers").stdout


TWICE = "machine-in-two-files"


def test_a_name_that_stands_for_none_is_no_machines_own(program):
    for name in ("a", "b"):
        text = f"#version=RHEL9\nlang en_GB.UTF-8\nnetwork --bootproto=dhcp --hostname=localhost.localdomain\n#{name}\n"
        program.file(f"{name}.ks", text)
    assert TWICE not in program.any("check", "a.ks", "b.ks").stdout


@pytest.mark.parametrize("system", ["linux", "darwin"])
def test_the_helpers_find_what_one_process_finds(tmp_path, monkeypatch, system):
    """Packets of 25 files: the last one is not full, and one file cannot be read. Elsewhere helpers begin anew."""
    monkeypatch.setattr("fairledger.fleet.helpers.sys", SimpleNamespace(platform=system))
    for number in range(53):
        text = GATE.format(number) if number % 7 else "lang\n"
        (tmp_path / f"{number:02}.ks").write_text(text, encoding="utf-8")
    files = [*sorted(tmp_path.iterdir()), tmp_path / "gone.ks"]
    work = Checking(ALONE, Hearing(leave=("question-key",)), silent, several=True)
    alone, together = ([*over(files, work, workers)] for workers in (1, 2))
    assert [(one.path, one.report, one.own) for one in alone] == [(one.path, one.report, one.own) for one in together]
    assert together[-1].trouble is not None
    assert together[-1].trouble.sentence() == alone[-1].trouble.sentence()
    assert len([one for one in together if one.own]) == 53


def piped(program, text: str, *arguments: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "fairledger", *arguments]
    return subprocess.run(
        command, cwd=program.folder, env=program.environment, input=text, capture_output=True, text=True, check=False
    )


def test_standard_input_is_checked_and_explained(program):
    done = piped(program, GATE.format(31) + "part /boot --size=much\n", "check", "-")
    assert done.returncode == 1
    assert done.stdout.startswith("standard input  ")
    assert "9 | part /boot --size=much" in done.stdout
    assert "the name lmr-gate-31" in piped(program, GATE.format(31), "explain", "-").stdout
    assert "cannot be corrected" in piped(program, GATE.format(31), "check", "-", "--fix").stderr


def test_explain_takes_several_files_and_writes_the_form_of_the_name(program):
    names = gates(program, 31, 32)
    told = program.json("explain", *names)
    assert [one["file"] for one in told["files"]] == names
    program("explain", names[0], "--out", "page.html")
    assert (program.folder / "page.html").read_text().startswith("<!doctype html>")
    program("explain", names[0], "--out", "page.json")
    assert json.loads((program.folder / "page.json").read_text())["file"] == names[0]
    assert "does not say in which form" in program("explain", names[0], "--out", "page.txt", status=2).stderr
    assert "a page explains one file" in program("explain", *names, "--out", "all.html", status=2).stderr


DESK = """format = 1
[draft]
target = "el-9"
[values]
number = "01"
[identity]
name = "lmr-gate-${number}"
[variant.text.installer]
mode = "text"
"""


@pytest.mark.parametrize(("more", "same"), [((), 1), (("--fill", "number=31"), 0)])
def test_compare_fills_and_chooses_a_variant(program, more, same):
    program.file("gate.toml", DESK)
    program.file("gate.ks", "#version=RHEL9\nnetwork --hostname=lmr-gate-31\n")
    program("compare", "gate.toml", "gate.ks", *more, status=same)
    found = program.json("compare", "gate.toml", "gate.ks", "--variant", "text", *more, status=1)
    assert "text" in json.dumps(found["differences"])
    assert "number" in program("compare", "gate.toml", "gate.ks", "--fill", "nmber=1", status=2).stderr
    assert "text" in program("explain", "gate.toml", "--variant", "tex", status=2).stderr
    assert "lmr-gate-07" in program("explain", "gate.toml", "--fill", "number=07").stdout
