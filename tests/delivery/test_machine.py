"""Virtual machines: started from what stays as it is, with a disk of their own, and with nothing that ends an option."""

from __future__ import annotations

import json
import shutil
import subprocess

import pytest
from installers import NEEDS_MAKERS, linux_disc

from factories import GATE, WIPING, whole
from fairledger.delivery import machine
from fairledger.delivery.machine import Machine
from fairledger.model.errors import WrongUseError
from fairledger.model.facts import Facts

NEEDS_QEMU = pytest.mark.skipif(
    not (shutil.which("qemu-img") and shutil.which("qemu-system-x86_64") and machine.uefi_here()),
    reason="qemu and its firmware are not installed",
)
BIOS = 'target = "el-9"\nfirmware = "bios"\ndisk_size = "20 GiB"\n'


def described(disk):
    done = subprocess.run(["qemu-img", "info", "--output=json", str(disk)], capture_output=True, check=True)
    return json.loads(done.stdout)


@NEEDS_MAKERS
@NEEDS_QEMU
def test_a_machine_starts_from_the_untouched_original_with_a_disk_of_its_own(program):
    at = program.folder
    program.file("gate.toml", GATE.format("lmr-gate-03").replace('target = "el-9"\n', BIOS))
    before = linux_disc(at / "el,9.iso").read_bytes()
    to = ("deliver", "gate.toml", "--to", "machine:lab", "--from", "el,9.iso", "--format", "json")
    plan = json.loads(program(*to, "--dry-run").stdout)
    assert [one["path"] for one in plan["plan"]] == ["lab/lmr-gate-03.iso", "lab/lmr-gate-03.qcow2"]
    assert not (at / "lab").exists()
    program(*to, status=4)
    command = json.loads(program(*to, "--wipes", "disk sda").stdout)["machines"][0]["command"]
    assert described(at / "lab/lmr-gate-03.qcow2")["virtual-size"] == 20 << 30
    files = [one.partition("file=")[2] for one in command if "file=" in one]
    assert files == [str(at / "lab/lmr-gate-03.qcow2"), str(at / "el,,9.iso"), str(at / "lab/lmr-gate-03.iso")]
    assert [one for one in command if "bootindex" in one] == [
        "ide-hd,bus=ide.0,drive=disk,bootindex=0",
        "ide-cd,bus=ide.1,drive=disc1,bootindex=1",
    ]
    assert all("readonly=on" in one for one in command if "media=cdrom" in one)
    assert (at / "el,9.iso").read_bytes() == before
    assert "--replace" in program(*to, "--wipes", "disk sda", status=4).stderr
    (at / "t.csv").write_text("number\n03\n04\n")
    program.file("gates.toml", GATE.format("lmr-gate-${number}").replace('target = "el-9"\n', BIOS))
    rows = ("deliver", "gates.toml", "--roster", "t.csv", "--to", "machine:lab2", "--from", "el,9.iso")
    told = json.loads(program(*rows, "--wipes", "disk sda", "--format", "json").stdout)
    assert [one["machine"] for one in told["machines"]] == ["lmr-gate-03", "lmr-gate-04"]
    assert len([*(at / "lab2").glob("*.qcow2")]) == 2


@NEEDS_QEMU
def test_a_generalised_base_stays_as_it_is_and_its_wipes_are_none(program):
    at = program.folder
    program.file("desk.toml", whole('[draft]\ntarget = "windows-11-24h2"\nfirmware = "uefi"\n' + WIPING))
    subprocess.run(["qemu-img", "create", "-q", "-f", "qcow2", str(at / "base.qcow2"), "9G"], check=True)
    before = (at / "base.qcow2").read_bytes()
    to = ("deliver", "desk.toml", "--to", "machine:lab", "--base", "base.qcow2", "--format", "json")
    done = json.loads(program(*to).stdout)
    assert (done["wipes"], done["needs"], done["read_back"]["good"]) == ([], [], True)
    info = described(at / "lab/LMR-DESK-01.qcow2")
    assert (info["virtual-size"], info["full-backing-filename"]) == (9 << 30, str(at / "base.qcow2"))
    assert (at / "base.qcow2").read_bytes() == before
    assert b"unattend.xml" in (at / "lab/LMR-DESK-01.iso").read_bytes()
    program.file("gate.toml", GATE.format("lmr-gate-03"))
    refused = program("deliver", "gate.toml", "--to", "machine:lab", "--base", "base.qcow2", status=2).stderr
    assert "takes no answer file at its next start" in refused
    assert (
        "--base is for machines" in program("deliver", "desk.toml", "--to", "stick:.", "--base", "x", status=2).stderr
    )
    assert "--run starts one machine" in program("deliver", "desk.toml", "--to", "stick:.", "--run", status=2).stderr
    assert "no such file" in program("deliver", "desk.toml", "--to", "machine:lab", "--base", "gone", status=3).stderr


def test_what_a_machine_needs_is_told_and_nothing_stands_for_two_things(tmp_path, monkeypatch):
    facts = Facts(arch="arm64")
    one = Machine(name="a", folder=tmp_path, disc=tmp_path / "a.iso", facts=facts)
    monkeypatch.setenv("PATH", "/nowhere")
    monkeypatch.setattr(machine, "uefi_here", lambda: None)
    needs = " ".join(one.needs(replace=False))
    for said in ("machines of arm64 are not made", "program qemu-img", "firmware for UEFI", "--from DISC.iso"):
        assert said in needs
    assert len([*one.cares()]) == 3
    (tmp_path / "a.iso").write_bytes(b"x")
    same = Machine(name="a", folder=tmp_path, disc=tmp_path / "a.iso", facts=facts, original=tmp_path / "a.iso")
    with pytest.raises(WrongUseError, match="would be changed"):
        same.must_be_right()
    said = Machine(name="a,b", folder=tmp_path, disc=tmp_path / "a.iso", facts=Facts(firmware="bios")).command()
    assert "a,,b" in said
