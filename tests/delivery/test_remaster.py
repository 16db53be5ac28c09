"""Discs made anew: the original with the answer file, started by the same firmware, and nothing else changed."""

from __future__ import annotations

import json
import subprocess

import pytest
from installers import (
    GRUB,
    ISOLINUX,
    LABEL,
    NEEDS_MAKERS,
    boot_image,
    boots,
    hypervisor_disc,
    inner_file,
    linux_disc,
    taken_out,
)
from making import NEEDS_GENISOIMAGE, NEEDS_WIMLIB, folder, image_file, run, system

from factories import GATE, WIPING, whole
from fairledger.delivery import rebuild, remaster
from fairledger.delivery.parcel import parcel_of
from fairledger.delivery.telling import How
from fairledger.media.fat_change import with_files
from fairledger.media.medium import look_at
from fairledger.media.programs import run_program
from fairledger.model.errors import FileTroubleError
from fairledger.subject.opening import Asked

KS = f"inst.ks=hd:LABEL={LABEL}:/ks.cfg"
TOLD = GRUB.replace("quiet\n", f"quiet {KS}\n", 1)


def left_in(place):
    return sorted(one.name for one in place.iterdir() if "fairledger-" in one.name)


@NEEDS_MAKERS
@pytest.mark.parametrize("newer", [False, True])
def test_a_linux_disc_made_anew_starts_as_the_original_and_all_its_menus_name_the_file(program, newer):
    at = program.folder
    program.file("gate.toml", GATE.format("lmr-gate-03"))
    original = linux_disc(at / "el9.iso", newer=newer)
    before = original.read_bytes()
    plain = ("deliver", "gate.toml", "--to", "iso:new.iso", "--from", "el9.iso")
    plan = json.loads(program(*plain, "--dry-run", "--format", "json").stdout)
    assert plan["plan"][0]["action"] == "make"
    assert plan["needs"][0].startswith("--wipes 'disk sda'")
    program(*plain, status=4)
    assert not (at / "new.iso").exists()
    done = json.loads(program(*plain, "--wipes", "disk sda", "--format", "json").stdout)
    assert done["read_back"] == {"where": "new.iso", "taken": done["read_back"]["taken"], "good": True, "wrong": []}
    new = at / "new.iso"
    assert original.read_bytes() == before
    assert boots(new) == boots(original)
    assert taken_out(new, "EFI/BOOT/grub.cfg", at / "g").read_text() == TOLD
    menu = taken_out(new, "boot/grub2/grub.cfg" if newer else "isolinux/isolinux.cfg", at / "i").read_text()
    assert menu == (TOLD if newer else ISOLINUX.replace("quiet", f"quiet {KS}"))
    image = taken_out(new, "images/efiboot.img", at / "e")
    assert inner_file(image, "grub.cfg") == TOLD
    if newer:  # the partition behind the tree is what firmware starts
        assert new.read_bytes().count(image.read_bytes()) == 2
    assert "lmr-gate-03" in taken_out(new, "ks.cfg", at / "k").read_text()
    assert program("medium", "new.iso", "--sums").stdout.count("its sum holds") == 1
    assert subprocess.run(["checkisomd5", str(new)], capture_output=True, check=False).returncode == 0
    from hashlib import sha256

    tree = taken_out(new, ".treeinfo", at / "t").read_text()
    assert f"efiboot.img = sha256:{sha256(image.read_bytes()).hexdigest()}\n" in tree
    assert f"other.img = sha256:{'a' * 64}\n" in tree
    assert (look_at(new).label, left_in(at)) == (LABEL, [])


@NEEDS_MAKERS
def test_a_disc_that_is_held_back_keeps_its_menus(program):
    program.file("gate.toml", GATE.format("lmr-gate-03"))
    original = linux_disc(program.folder / "el9.iso")
    to = ("deliver", "gate.toml", "--to", "iso:new.iso", "--from", "el9.iso", "--hold")
    assert f"inst.ks=hd:LABEL={LABEL}:/held-ks.cfg" in program(*to, COLUMNS="200").stdout
    assert [one.answers for one in look_at(program.folder / "new.iso").entries] == [None, None, None]
    assert boots(program.folder / "new.iso") == boots(original)


@NEEDS_MAKERS
@NEEDS_GENISOIMAGE
def test_the_hypervisors_disc_keeps_its_names_in_capitals(program):
    hypervisor_disc(program.folder / "esxi.iso")
    (program.folder / "ks.cfg").write_text(
        "vmaccepteula\ninstall --disk=mpx.vmhba0:C0:T0:L0\nrootpw --iscrypted $6$abcdefgh$" + "x" * 86 + "\nreboot\n"
    )
    to = ("deliver", "ks.cfg", "--target", "esxi-8", "--to", "iso:new.iso", "--from", "esxi.iso", "--format", "json")
    plan = json.loads(program(*to, "--dry-run").stdout)
    said = [word for one in plan["wipes"] for word in ("--wipes", one)]
    program(*to, *said)
    new = look_at(program.folder / "new.iso")
    assert [one.arguments for one in new.entries] == ["runweasel cdromBoot ks=cdrom:/KS.CFG"] * 2
    listed = subprocess.run(["isoinfo", "-f", "-i", str(program.folder / "new.iso")], capture_output=True, check=True)
    assert {"/KS.CFG;1", "/BOOT.CFG;1", "/EFI/BOOT/BOOT.CFG;1"} <= set(listed.stdout.decode().split())


@NEEDS_WIMLIB
@NEEDS_GENISOIMAGE
def test_a_windows_disc_keeps_udf_and_both_its_boot_images_or_is_refused(program, tmp_path):
    at, tree = program.folder, tmp_path / "tree"
    program.file("desk.toml", whole(WIPING))
    image_file(
        folder(tree, {"sources/empty.txt": ""}) / "sources/install.wim", system(tmp_path / "system"), "Windows 11 Pro"
    )
    boot_image(tree / "efi/microsoft/boot/efisys.bin", {"BOOTX64.EFI": b"e" * 5000}, 1)
    folder(tree, {"boot/etfsboot.com": b"b" * 4096, "AutoUnattend.xml": "<old/>"})
    said = ["-udf", "-V", "LMR_DESK", "-b", "boot/etfsboot.com", "-no-emul-boot", "-eltorito-alt-boot"]
    run(
        "genisoimage", "-quiet", *said, "-e", "efi/microsoft/boot/efisys.bin", "-no-emul-boot", "-o", at / "w.iso", tree
    )
    to = ("deliver", "desk.toml", "--to", "iso:new.iso", "--from", "w.iso", "--wipes", "disk 0")
    program(*to)
    new, old = look_at(at / "new.iso"), look_at(at / "w.iso")
    assert (new.label, new.starts, "udf" in new.forms) == ("LMR_DESK", old.starts, True)
    assert [one.path for one in new.answers] == ["AutoUnattend.xml"]
    assert b"LMR-DESK-01" in (at / "new.iso").read_bytes()
    assert [one.image.name for one in new.images] == ["Windows 11 Pro"]
    program("deliver", "desk.toml", "--to", "iso:w.iso", "--from", "w.iso", "--wipes", "disk 0", "--replace", status=4)
    refused = program(*to, status=4).stderr
    assert "--replace, since new.iso stands there already" in refused
    (tree / "efi/microsoft/boot/efisys.bin").rename(tree / "efisys.bin")
    run("genisoimage", "-quiet", *said, "-e", "efisys.bin", "-no-emul-boot", "-o", at / "w.iso", tree)
    refused = program(*to, "--replace", status=3).stderr
    assert "efi/microsoft/boot/efisys.bin does not stand on it; use an answer disc" in refused


def of_gate(program):
    path = program.file("gate.toml", GATE.format("lmr-gate-03"))
    return parcel_of(path, Asked(), "iso", {}, None), How(source=linux_disc(program.folder / "el9.iso"))


@NEEDS_MAKERS
def test_a_disc_that_did_not_come_out_right_is_never_left(program, monkeypatch):
    """Whatever goes wrong in the making: it is found by reading, and the place stays as it was."""
    parcel, how = of_gate(program)
    place = program.folder / "new.iso"
    delivery = remaster.Remaster(parcel, place, how).delivery()

    def spoilt(said, found):
        def run_it(name, arguments, **more):
            return run_program(name, said(list(arguments)), **more)

        monkeypatch.setattr(rebuild, "run_program", run_it)
        with pytest.raises(FileTroubleError, match=found):
            delivery.run(lambda _what, _done, _of: None)
        assert not place.exists()
        assert not left_in(program.folder)

    ends = ["-commit"]
    spoilt(lambda said: [*said[:-1], "-volid", "OTHER", *ends], "its label is another")
    spoilt(lambda said: [*said[:-1], "-rm", "/images/pxeboot/vmlinuz", "--", *ends], "vmlinuz is missing")
    spoilt(lambda said: [*said[:-1], "-boot_image", "any", "discard", *ends], "the same firmware|would not start")
    spoilt(lambda said: [one if one != "on" else "off" for one in said], "no longer written as joliet, rock ridge")
    spoilt(lambda said: [*said[:-1], "-mv", "/ks.cfg", "/ks2.cfg", "--", *ends], "ks2?.cfg")
    spoilt(lambda said: [*said[:-1], "-map", str(how.source), "/EFI/BOOT/grub.cfg", *ends], "grub.cfg has")
    spoilt(lambda said: ["-no_such_thing", *said], "xorriso failed")
    monkeypatch.setattr(remaster, "free_in", lambda _: 1000)
    with pytest.raises(FileTroubleError, match="there is room for 1,000 bytes"):
        delivery.run(lambda _what, _done, _of: None)


@NEEDS_MAKERS
@pytest.mark.parametrize(
    ("to", "source", "status", "says"),
    [
        ("iso:new.iso", None, 2, "name the original: --from DISC.iso"),
        ("iso:new", "el9.iso", 2, "no name of a disc"),
        ("iso:el9.iso", "el9.iso", 4, "the original is never changed"),
        ("iso:linked.iso", "el9.iso", 4, "the original is never changed"),
        ("iso:new.iso", "gate.toml", 3, "this is no medium that can be looked at"),
        ("iso:new.iso", "gone.iso", 3, "no such file"),
        ("iso:new.iso", "plain.iso", 4, "nobody knows of an installer on it"),
        ("iso:new.iso", "el9.tree", 3, "this is no disc"),
    ],
)
def test_originals_and_places_that_are_none(program, to, source, status, says):
    at = program.folder
    program.file("gate.toml", GATE.format("lmr-gate-03"))
    linux_disc(at / "el9.iso")
    (at / "linked.iso").symlink_to(at / "el9.iso")
    run("xorriso", "-as", "mkisofs", "-quiet", "-o", at / "plain.iso", folder(at / "p", {"a.txt": "a"}))
    before = (at / "el9.iso").read_bytes()
    said = ["deliver", "gate.toml", "--to", to, *(["--from", source] if source else []), "--replace"]
    assert says in program(*said, "--wipes", "disk sda", status=status).stderr
    assert (at / "el9.iso").read_bytes() == before


@NEEDS_MAKERS
def test_without_the_program_the_plan_says_how_it_is_got(program, monkeypatch):
    parcel, how = of_gate(program)
    monkeypatch.setenv("PATH", "relative:/nowhere")
    needs = remaster.Remaster(parcel, program.folder / "new.iso", how).delivery().plan.needs
    assert "the program xorriso" in needs[0]
    assert "an answer disc beside the untouched original needs none" in needs[0]


@NEEDS_MAKERS
@pytest.mark.parametrize("size", [10, 3000, 90_000])
def test_a_file_in_a_boot_image_may_grow_and_nothing_else_of_it_changes(tmp_path, size):
    image = boot_image(tmp_path / "i" / "a.img", {"BOOTX64.EFI": b"e" * 5000, "grub.cfg": GRUB, "A Long Name.txt": "x"})
    new = {"EFI/BOOT/grub.cfg": b"g" * size, "EFI/BOOT/A Long Name.txt": b"y" * size}
    image.write_bytes(with_files(image.read_bytes(), new))
    assert inner_file(image, "grub.cfg") == "g" * size
    assert inner_file(image, "A Long Name.txt") == "y" * size
    assert inner_file(image, "BOOTX64.EFI") == "e" * 5000
    with pytest.raises(FileTroubleError, match="it is full"):
        with_files(image.read_bytes(), {"EFI/BOOT/grub.cfg": bytes(4 << 20)})
