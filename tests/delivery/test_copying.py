"""An installer copied onto a stick: in parts where one file is too large, and taken up again where it was cut short."""

from __future__ import annotations

import random
import subprocess
from pathlib import Path

import pytest
from making import NEEDS_GENISOIMAGE, NEEDS_WIMLIB, folder, image_file, run, system

from factories import GATE, WIPING, whole
from fairledger.delivery import copying, formatting
from fairledger.delivery.copying import Copying
from fairledger.media import medium
from fairledger.media.imagefile import read_image_file
from fairledger.model.errors import FileTroubleError, RefusedError, WrongUseError

FILES = {"bootmgr": "b", "efi/boot/bootx64.efi": "e" * 500, "sources/boot.txt": "t", "setup.exe": "s" * 900}


def nothing(_what, _done, _of):
    pass


@pytest.fixture
def desk(tmp_path):
    """The files of a desk's installer."""
    tree = folder(tmp_path / "tree", {**FILES, "AutoUnattend.xml": "<old/>"})
    store = folder(system(tmp_path / "system"), {"Windows/large.bin": random.Random(7).randbytes(1_000_000)})
    image_file(tree / "sources/install.wim", store, "Windows 11 Home", "Windows 11 Pro")
    return tree


@NEEDS_WIMLIB
@NEEDS_GENISOIMAGE
@pytest.mark.parametrize("solid", [False, True])
def test_an_image_that_no_fat32_holds_comes_in_parts_with_all_that_it_held(desk, tmp_path, monkeypatch, solid):
    image = desk / "sources/install.wim"
    if solid:
        run("wimlib-imagex", "export", image, "all", desk / "sources/install.esd", "--solid")
        image.unlink()
        image = desk / "sources/install.esd"
    run("genisoimage", "-quiet", "-udf", "-V", "LMR_DESK", "-o", tmp_path / "w.iso", desk)
    monkeypatch.setattr(medium, "LARGEST", image.stat().st_size - 1)
    monkeypatch.setattr(copying, "_PART", 0.3)
    for source in (tmp_path / "w.iso", desk):
        stick = folder(tmp_path / f"stick-{source.name}", {"kept.txt": "mine"})
        job = Copying(source, stick, "autounattend.xml", replace=False)
        assert [*job.needs()] == []
        steps = [*job.steps()]
        assert [one.action for one in steps] == ["copy", "split"]
        assert ("packed anew" in steps[1].source) == solid
        job.run(nothing)
        parts = sorted((stick / "sources").glob("install*.swm"))
        assert read_image_file(parts[0]).parts == len(parts) > 2
        assert not [*(stick / "sources").glob("install.[we]*")]
        assert [one.image.name for one in medium.look_at(stick).images] == ["Windows 11 Home", "Windows 11 Pro"]
        assert {name: (stick / name).read_text() for name in FILES} == FILES
        assert not (stick / "AutoUnattend.xml").exists()
        again = Copying(source, stick, "autounattend.xml", replace=False)
        assert ([*again.needs()], [*again.steps()], again.wanted()) == ([], [], 0)
        (stick / "sources/install9.swm").write_bytes(parts[-1].read_bytes())
        assert "parts of another image" in " ".join(again.needs())
        Copying(source, stick, "autounattend.xml", replace=True).run(nothing)
        assert sorted((stick / "sources").glob("install*.swm")) == parts
        # what another program makes of the parts
        run("wimlib-imagex", "verify", parts[0], f"--ref={stick}/sources/install*.swm")
        assert [one.name for one in stick.iterdir() if "fairledger" in one.name] == []


@NEEDS_WIMLIB
def test_a_copy_that_was_cut_short_goes_on_and_what_starts_it_comes_last(desk, tmp_path, monkeypatch):
    stick = folder(tmp_path / "stick", {})
    stick.mkdir(exist_ok=True)
    job = Copying(desk, stick, "autounattend.xml", replace=False)
    copied = []
    real = job.tree.copy

    def cut(name, place, count):
        if len(copied) == 3:
            raise KeyboardInterrupt
        copied.append(name)
        real(name, place, count)

    monkeypatch.setattr(job.tree, "copy", cut)
    with pytest.raises(KeyboardInterrupt):
        job.run(nothing)
    assert not {"bootmgr", "efi/boot/bootx64.efi"} & set(copied)
    again = Copying(desk, stick, "autounattend.xml", replace=False)
    assert [*again.needs()] == []
    assert 0 < again.wanted() < sum(again.tree.sizes.values())
    again.run(nothing)
    assert (stick / "efi/boot/bootx64.efi").read_text() == FILES["efi/boot/bootx64.efi"]
    (stick / "setup.exe").write_text("x" * 900)  # of the same size, and something else
    with pytest.raises(RefusedError, match="something else stands there"):
        again.run(nothing)


@NEEDS_WIMLIB
def test_what_stands_in_the_way_of_a_copy_is_in_the_plan(desk, tmp_path, monkeypatch):
    stick = folder(tmp_path / "stick", {"setup.exe": "other"})
    (stick / "sources").symlink_to(tmp_path)
    found = " ".join(Copying(desk, stick, "a.xml", replace=False).needs())
    assert "--replace, since" in found
    assert "sources/" in found
    assert "leads elsewhere" in found
    monkeypatch.setattr(medium, "LARGEST", 499)
    monkeypatch.setenv("PATH", "/nowhere")
    found = " ".join(Copying(desk, stick, "a.xml", replace=True).needs())
    assert "FAT32 does not hold /setup.exe" in found
    assert "dism /Split-Image /ImageFile:D:\\sources\\install.wim /SWMFile:E:\\sources\\install.swm" in found
    monkeypatch.setattr(copying, "free_in", lambda _: 5)
    found = " ".join(Copying(desk, stick, "a.xml", replace=True).needs())
    assert "room on the stick: there are 5 bytes" in found
    for one in (desk, desk / "sources", tmp_path):
        with pytest.raises(WrongUseError, match="lie in each other"):
            Copying(desk, one, "a.xml", replace=True)
    folder(desk, {"Setup.EXE": "x"})
    with pytest.raises(FileTroubleError, match="are one name"):
        Copying(desk, stick, "a.xml", replace=True)


@NEEDS_WIMLIB
def test_the_program_copies_and_says_how_an_empty_stick_is_made_ready(program, desk):
    program.file("desk.toml", whole(WIPING))
    program.file("gate.toml", GATE.format("lmr-gate-03"))
    (program.folder / "stick").mkdir()
    to = ("deliver", "desk.toml", "--to", "stick:stick", "--from", str(desk), "--wipes", "disk 0")
    plan = program(*to, "--dry-run").stdout
    assert "mkfs.vfat -F 32 -n SETUP /dev/STICK1" in plan
    assert not [*(program.folder / "stick").iterdir()]
    program(*to)
    found = medium.look_at(program.folder / "stick")
    assert [one.path for one in found.answers] == ["autounattend.xml"]
    assert found.boots == ("uefi",)
    again = program(*to).stdout
    assert "nothing is to be done" in again
    refused = program("deliver", "gate.toml", "--to", "stick:stick", "--from", str(desk), status=1).stdout
    assert "nothing was delivered" in refused


def test_every_system_and_firmware_has_its_own_commands():
    for host in ("linux", "darwin", "win32"):
        for firmware in ("uefi", "bios"):
            lines = [*formatting.commands(firmware, "Lärkmoor desk 2026", Path("/m/a b"), host)]
            assert any("L_RKMOOR_DE" in line for line in lines)
            assert ("mbr" in " ".join(lines).lower() or "msdos" in " ".join(lines)) == (firmware == "bios")
    assert [*formatting.commands(None, "", Path("x"), "plan9")] == []
    lines = [*formatting.commands(None, "", Path("/m/a b"), "linux")]
    assert lines[-1] == "sudo mount -o uid=$(id -u) /dev/STICK1 '/m/a b'"
    done = subprocess.run(["sh", "-n", "-c", "\n".join(lines)], capture_output=True, check=False)
    assert done.returncode == 0
