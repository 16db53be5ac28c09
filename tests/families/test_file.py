"""Files that go along: named, found again, carried onto the medium, and laid down by what really runs there."""

from __future__ import annotations

import json
import os
import subprocess

import pytest

from factories import GATE, whole
from fairledger.intent.file import CARRIED, FILE, File
from fairledger.subject.opening import opened, opened_answers

LINUX = """
[[file]]
source = "branding/motd"
to = "/etc/larkmoor/it's here"
mode = "640"
[[file]]
source = "branding/motd"
to = "/etc/motd"
owner = "keeper"
""".replace("it's here", "its-here")
DESK = """
[licence]
accept = true
[[file]]
source = "branding/sky.png"
to = 'C:\\Larkmoor Pictures\\sky.png'
[[file]]
source = "drivers"
on_medium = "$WinPEDriver$/net"
"""


def laid(program, **files):
    for name, text in files.items():
        path = program.folder / name.replace("__", "/").replace("_", ".")
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text)


def test_a_kickstarts_files_lie_on_the_disc_and_its_script_lays_them_down(program, tmp_path):
    laid(program, branding__motd="larkmoor\n")
    program.file("gate.toml", GATE.format("lmr-gate-03") + LINUX)
    program("deliver", "gate.toml", "--to", "folder:made")
    made = program.folder / "made"
    assert sorted(one.name for one in (made / CARRIED).iterdir()) == ["its-here", "motd"]
    script = opened_answers(made / "ks.cfg").sheet
    body = next(str(node.value) for node in script.at("post", "%post", "body"))
    (tmp_path / "root" / "etc").mkdir(parents=True)
    (tmp_path / "bin").mkdir()
    stub = tmp_path / "bin" / "chroot"
    stub.write_text(f'#!/bin/sh\necho "$@" >> {tmp_path}/owners\n')
    stub.chmod(0o755)
    for old, new in (("/run/install/repo", made), ("/mnt/sysroot", tmp_path / "root"), ("/tmp/fair-ledger", tmp_path)):
        body = body.replace(old, str(new))
    environment = {**os.environ, "PATH": f"{tmp_path}/bin:{os.environ['PATH']}"}
    subprocess.run(["sh", "-eu", "-c", body], env=environment, check=True)
    placed = tmp_path / "root/etc/larkmoor/its-here"
    assert (placed.read_text(), placed.stat().st_mode & 0o777) == ("larkmoor\n", 0o640)
    assert (tmp_path / "root/etc/motd").stat().st_mode & 0o777 == 0o644
    owners = (tmp_path / "owners").read_text().splitlines()
    assert [one.split(" ", 1)[1] for one in owners] == [
        "chown root:root /etc/larkmoor/its-here",
        "chown keeper:keeper /etc/motd",
    ]
    # what is not found stops the installation, and is not passed over
    (made / CARRIED / "motd").unlink()
    assert subprocess.run(["sh", "-c", body], env=environment, capture_output=True, check=False).returncode == 1


def test_a_desks_files_lie_beside_it_and_commands_lay_them_down(program):
    laid(program, branding__sky_png="png", drivers__a_inf="inf", drivers__sub__b_sys="sys")
    program.file("desk.toml", whole(DESK))
    (program.folder / "stick").mkdir()
    program("deliver", "desk.toml", "--to", "stick:stick")
    stick = program.folder / "stick"
    found = sorted(str(one.relative_to(stick)) for one in stick.rglob("*") if one.is_file())
    drivers = ["$WinPEDriver$/net/a.inf", "$WinPEDriver$/net/sub/b.sys"]
    assert found == [*drivers, "autounattend.xml", "fair-ledger/files/sky.png"]
    subject = opened_answers(stick / "autounattend.xml")
    line = next(
        str(one.value)
        for one in subject.sheet.at(
            "specialize", "Microsoft-Windows-Deployment", "RunSynchronous", "RunSynchronousCommand", "Path"
        )
    )
    assert line.endswith('xcopy %d:\\fair-ledger\\files\\sky.png "C:\\Larkmoor Pictures\\\\" /i /h /y"')
    assert subject.intent.get(FILE) == (File(source=f"{CARRIED}/sky.png", to="C:\\Larkmoor Pictures\\sky.png"),)
    told = program("explain", "stick/autounattend.xml", COLUMNS="200").stdout
    assert "fair-ledger/files/sky.png is laid down as C:\\Larkmoor Pictures\\sky.png" in told
    # an answer file that somebody else delivers takes its files with it, or nothing goes
    program("deliver", "stick/autounattend.xml", "--to", "answer-disc:a.iso")

    (stick / "fair-ledger/files/sky.png").unlink()
    assert (
        "sky.png does not lie beside"
        in program("deliver", "stick/autounattend.xml", "--to", "answer-disc:b.iso", status=1).stderr
    )
    assert "does not lie there" in program("check", "stick/autounattend.xml").stdout


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ('source = "a"\nto = "C:/x/a"', "no whole path"),
        ('source = "a"\nto = "C:\\\\x\\\\a b.txt"', "plain letters"),
        ('source = "a"\nto = "C:\\\\x&y\\\\a"', "no whole path"),
        ('source = "../a"\nto = "C:\\\\x\\\\a"', "leads elsewhere"),
        ('source = "a"\non_medium = "autounattend.xml"', "taken for an answer file"),
        ('source = "a"\non_medium = "UNATTEND.xml"', "taken for an answer file"),
        ('source = "a"\non_medium = "b/c"\n[[file]]\nsource = "b"\non_medium = "B"', "which is there already"),
        ('source = "gone"\nto = "C:\\\\x\\\\gone"', "does not lie there"),
        ('source = "b"\nto = "C:\\\\x\\\\b"', "is a folder, and one file is laid down"),
        ('source = "a"\nto = "C:\\\\x\\\\a"\n[[file]]\nsource = "b/c"\nto = "D:\\\\A"', "another file is called A"),
        ('source = "a"\nto = "C:\\\\' + "x" * 200 + '\\\\a"', "too long for a command"),
    ],
)
def test_files_that_cannot_go_along_are_told_before_anything_is_written(program, text, says):
    laid(program, a="a", b__c="c")
    program.file("desk.toml", whole(f"[licence]\naccept = true\n[[file]]\n{text}\n"))
    done = program.any("deliver", "desk.toml", "--to", "folder:out", COLUMNS="500")
    assert says in " ".join((done.stdout + done.stderr).split())
    assert done.returncode in (1, 3)
    assert not (program.folder / "out").exists()


@pytest.mark.parametrize(("said", "told"), [('mode = "rw"', "are no rights"), ('owner = "a b"', "is no owner")])
def test_owners_and_rights_that_are_none(program, said, told):
    laid(program, a="a")
    program.file("gate.toml", GATE.format("lmr-gate-03") + f'[[file]]\nsource = "a"\nto = "/etc/a"\n{said}\n')
    assert told in program("check", "gate.toml", status=1, COLUMNS="200").stdout


def test_the_hypervisor_says_that_its_scripts_reach_no_medium(program):
    laid(program, a="a")
    program.file("h.toml", 'format = 1\n[draft]\ntarget = "esxi-8"\n[[file]]\nsource = "a"\nto = "/etc/a"\n')
    assert "its installer's scripts reach no medium" in program("check", "h.toml", status=1, COLUMNS="200").stdout


def test_each_machine_of_a_roster_gets_them(program):
    laid(program, branding__motd="larkmoor\n")
    program.file("gates.toml", GATE.format("lmr-gate-${number}") + LINUX)
    (program.folder / "t.csv").write_text("number\n03\n04\n")
    to = ("deliver", "gates.toml", "--roster", "t.csv", "--to", "answer-disc:discs", "--wipes", "disk sda")
    assert len(json.loads(program(*to, "--format", "json").stdout)["plan"]) == 2
    for one in ("03", "04"):
        assert b"larkmoor\n" in (program.folder / f"discs/lmr-gate-{one}.iso").read_bytes()
    assert opened(program.folder / "gates.toml").draft.intent.get(FILE)[0].source == "branding/motd"
