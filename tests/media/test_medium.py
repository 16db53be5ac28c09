"""Discs and folders as other programs make them, and broken ones."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import time

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairledger.media import contents
from fairledger.media.booting import entries_in
from fairledger.media.contents import contents_of
from fairledger.media.medium import look_at
from fairledger.model.errors import FileTroubleError

from .test_imagefile import image_file

TREE = "[general]\nfamily = Fedora\nversion = 42\narch = x86_64\n[release]\nname = {0}\nshort = x\nversion = {1}\n"
GRUB = """set timeout=60
menuentry 'Install the gate' --class gnu-linux {
	linuxefi /images/pxeboot/vmlinuz inst.stage2=hd:LABEL=LMR\\x20GATE inst.ks=hd:LABEL=OEMDRV:/ks.cfg quiet
	initrdefi /images/pxeboot/initrd.img
}
menuentry 'Rescue' {
	linux /images/pxeboot/vmlinuz inst.stage2=hd:LABEL=OTHER inst.vncpassword=Kestrel-7
}
"""
NEEDS_XORRISO = pytest.mark.skipif(shutil.which("xorriso") is None, reason="xorriso is not installed")


def folder(path, **files):
    for name, data in files.items():
        file = path / name
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_bytes(data if isinstance(data, bytes) else data.encode())
    return path


def gate(path):
    return folder(
        path,
        **{
            ".treeinfo": TREE.format("Red Hat Enterprise Linux", "9.4"),
            "EFI/BOOT/grub.cfg": GRUB,
            "EFI/BOOT/BOOTX64.EFI": b"x",
            "isolinux/isolinux.bin": b"x" * 4096,
            "images/efiboot.img": b"y" * 4096,
            "ks.cfg": "text\n",
        },
    )


def disc(path, source, label, *more):
    command = ["xorriso", "-as", "mkisofs", "-quiet", "-V", label, "-J", "-R", *more, "-o", str(path), str(source)]
    subprocess.run(command, check=True, capture_output=True)
    return path


@NEEDS_XORRISO
def test_a_disc_tells_its_system_its_starts_and_what_its_menus_look_for(program):
    source = gate(program.folder / "gate")
    boot = "-b isolinux/isolinux.bin -c boot.cat -no-emul-boot -boot-load-size 4 -boot-info-table -eltorito-alt-boot"
    disc(program.folder / "gate.iso", source, "LMR GATE", *boot.split(), "-e", "images/efiboot.img", "-no-emul-boot")
    told = json.loads(program("medium", "gate.iso", "--format", "json").stdout)
    assert (told["medium"]["label"], told["system"]["target"], told["system"]["build"]) == ("LMR GATE", "el-9", "9.4")
    assert {(one["firmware"], one["file"]) for one in told["medium"]["starts"]} == {
        ("bios", "isolinux/isolinux.bin"),
        ("uefi", "images/efiboot.img"),
    }
    plain = disc(program.folder / "plain.iso", source, "PLAIN")
    assert look_at(plain).boots == ()
    assert look_at(source).starts == (("uefi", "EFI/BOOT/BOOTX64.EFI"),)
    assert told["answers"] == [{"path": "ks.cfg", "first": False}]
    assert [one["answers"] for one in told["entries"]] == ["hd:LABEL=OEMDRV:/ks.cfg", None]
    assert "Kestrel" not in json.dumps(told)
    assert [one.partition(" looks")[2] for one in told["problems"]] == [
        " for the label 'OTHER', and the medium's is 'LMR GATE'"
    ]
    disc(program.folder / "own.iso", folder(program.folder / "own", **{"ks.cfg": "text\n"}), "OEMDRV")
    told = program("medium", "own.iso").stdout
    assert "ks.cfg: the installer takes it by itself" in told
    assert "nothing: it has no boot record" in told


@pytest.mark.skipif(shutil.which("genisoimage") is None, reason="genisoimage is not installed")
def test_a_disc_whose_directories_are_written_as_udf_has_its_images_read(tmp_path):
    source = folder(
        tmp_path / "desk",
        **{
            "sources/install.wim": image_file(),
            "sources/ei.cfg": "[EditionID]\r\nProfessional\r\n[Channel]\r\nVolume\r\n[VL]\r\n1\r\n",
            "sources/PID.txt": "[PID]\r\nValue=AAAAA-BBBBB-CCCCC-DDDDD-EEEEE\r\n",
            "Autounattend.xml": "<x/>",
            "boot/etfsboot.com": b"b" * 4096,
        },
    )
    boot = ["-b", "boot/etfsboot.com", "-no-emul-boot"]
    command = ["genisoimage", "-quiet", "-udf", "-V", "LMR_DESK", *boot, "-o", str(tmp_path / "desk.iso"), str(source)]
    subprocess.run(command, check=True, capture_output=True)
    for path in (tmp_path / "desk.iso", source):
        medium = look_at(path)
        assert medium.system.target == "windows-11-21h2"
        assert [(one.file, one.edition) for one in medium.images] == [("sources/install.wim", "Pro")]
        assert (medium.channel, medium.edition, medium.key_given) == ("Volume", "Professional", True)
        assert [(one.path, one.first) for one in medium.answers] == [("Autounattend.xml", True)]
    assert ("bios", "boot/etfsboot.com") in look_at(tmp_path / "desk.iso").starts


def test_folders_tell_what_no_stick_can_hold_and_what_nobody_knows_stays_unknown(tmp_path):
    gate(tmp_path)
    (tmp_path / ".treeinfo").write_text(TREE.format("Larkmoor Linux", "9").replace("Fedora", "Larkmoor"))
    with (tmp_path / "large.img").open("wb") as file:
        file.truncate(5 << 30)
    medium = look_at(tmp_path)
    assert medium.system.targets == ()
    assert medium.too_large == (("large.img", 5 << 30),)
    assert [(one.path, one.first) for one in medium.answers] == [("ks.cfg", None)]
    folder(tmp_path / "esx", **{"EFI/BOOT/BOOT.CFG": "title=Loading ESXi installer\nbuild=8.0.3-0.0.24022510\n"})
    assert look_at(tmp_path / "esx").system.target == "esxi-8"
    (tmp_path / ".treeinfo").write_text(TREE.format("Fedora", "43"))
    assert look_at(tmp_path).system.target == "fedora-43"


def test_menus_of_other_loaders():
    text = b"label linux\n  menu label ^Install\n  kernel vmlinuz\n  append initrd=i inst.ks=nfs:192.0.2.9:/ks.cfg\n"
    (one,) = entries_in("isolinux/isolinux.cfg", text)
    assert (one.title, one.answers) == ("Install", "nfs:192.0.2.9:/ks.cfg")
    assert entries_in("boot.cfg", b"\xff\xfe") == ()
    assert entries_in("grub.cfg", b"menuentry x {\n linux /v 'open\n") != ()


@NEEDS_XORRISO
def test_too_much_is_told_and_never_waited_for(tmp_path, monkeypatch):
    path = disc(tmp_path / "a.iso", gate(tmp_path / "gate"), "LMR-GATE")
    monkeypatch.setattr(contents, "SECONDS", 0.01)
    medium = look_at(path)
    assert (medium.label, medium.problems) == ("LMR-GATE", ("there are too many files to be looked into",))


@NEEDS_XORRISO
@settings(max_examples=12)
@given(data=st.data())
def test_a_broken_disc_comes_to_an_end(tmp_path_factory, data):
    base = tmp_path_factory.getbasetemp()
    good = base / "good.iso"
    if not good.exists():
        disc(good, gate(base / "gate"), "LMR-GATE")
    broken = bytearray(good.read_bytes())
    area = st.integers(16 * 2048, min(len(broken), 60 * 2048) - 1)
    for at, new in data.draw(st.lists(st.tuples(area, st.binary(min_size=1, max_size=16)), min_size=1, max_size=6)):
        broken[at : at + len(new)] = new
    path = base / "broken.iso"
    path.write_bytes(bytes(broken[: data.draw(st.none() | area)]))
    begin = time.monotonic()
    try:
        look_at(path)
        contents_of(path)
    except FileTroubleError as error:
        assert error.message
    assert time.monotonic() - begin < 3 * contents.SECONDS


def test_a_folder_is_looked_at_and_nothing_in_it_is_run_or_followed(program):
    at = gate(program.folder)
    for name in ("pycdlib.py", "msgspec.py", "fairledger/__init__.py"):
        folder(at, **{name: "raise SystemExit('run from the medium')\n"})
    (at / ".treeinfo").unlink()
    (at / "elsewhere").write_text(TREE.format("Fedora", "43"))
    (at / ".treeinfo").symlink_to("elsewhere")
    if hasattr(os, "mkfifo"):
        (at / "media.repo").unlink(missing_ok=True)
        os.mkfifo(at / "media.repo")
    told = json.loads(subprocess.run(COMMAND, cwd=at, capture_output=True, check=True, timeout=30).stdout)
    assert told["system"]["target"] is None
    assert told["problems"] == []


COMMAND = [sys.executable, "-P", "-m", "fairledger", "medium", ".", "--format", "json"]
