"""Files brought to where an installer finds them: planned first, allowed in words, read back, and nothing harmed."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import time

import pytest
from hypothesis import given
from hypothesis import strategies as st
from making import NEEDS_MTOOLS

from factories import GATE, WIPING, examples, whole
from fairledger.catalog.meant import target_named
from fairledger.catalog.routes import places_of, route_names, routes_of
from fairledger.catalog.targets import all_targets
from fairledger.delivery import journal, onto, placing
from fairledger.delivery.answerdisc import disc_of
from fairledger.delivery.answerstick import stick_of
from fairledger.delivery.fill import Made
from fairledger.delivery.readback import read_back
from fairledger.delivery.telling import How
from fairledger.media.booting import entries_in, given_argument, wants_argument
from fairledger.media.contents import contents_of, known
from fairledger.media.medium import look_at
from fairledger.model.errors import FileTroubleError, WrongUseError
from fairledger.storage import files
from fairledger.storage.together import Piece

GRUB = """# kept as it is
set default=0
menuentry 'Install' {
\tlinuxefi /images/pxeboot/vmlinuz inst.stage2=hd:LABEL=LMR quiet  inst.ks=http://old/a inst.ks=http://old/b
}
menuentry 'Rescue' {
\tlinux /images/pxeboot/vmlinuz inst.stage2=hd:LABEL=LMR inst.rescue
}
"""
ISOLINUX = "label linux\n  append initrd=initrd.img inst.stage2=hd:LABEL=LMR\r\nlabel local\n  localboot 0xffff\n"
TREE = "[general]\nfamily = Red Hat Enterprise Linux\nversion = 9.4\narch = x86_64\n"


def gate_stick(folder):
    """A stick as made of an installer's disc."""
    for name, text in {".treeinfo": TREE, "EFI/BOOT/grub.cfg": GRUB, "isolinux/isolinux.cfg": ISOLINUX}.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text, newline="")
    return folder


def told(done):
    return json.loads(done.stdout)


def test_what_wipes_by_itself_is_allowed_in_words_or_not_at_all(program):
    program.file("desk.toml", whole(WIPING))
    stick = program.folder / "stick"
    stick.mkdir()
    plan = told(program("deliver", "desk.toml", "--to", "stick:stick", "--dry-run", "--format", "json"))
    assert [(one["action"], one["path"]) for one in plan["plan"]] == [("write", "stick/autounattend.xml")]
    assert (plan["wipes"], plan["by_itself"], plan["delivered"]) == (["disk 0"], True, False)
    assert "--wipes 'disk 0'" in plan["needs"][0]
    assert plan["then"][1] == "disk 0 of LMR-DESK-01 is wiped, and all that is on it is lost"
    for said in ((), ("--wipes", "disk 1"), ("--wipes", "all"), ("--wipes", "disk 0", "--wipes", "disk 1")):
        assert "--wipes 'disk 0'" in program("deliver", "desk.toml", "--to", "stick:stick", *said, status=4).stderr
    assert not [*stick.iterdir()]
    held = program("deliver", "desk.toml", "--to", "stick:stick", "--hold", COLUMNS="200").stdout
    assert "there type: setup.exe /unattend:DRIVE:\\held-autounattend.xml" in held
    assert [one.name for one in stick.iterdir()] == ["held-autounattend.xml"]
    assert look_at(stick).answers == ()
    done = told(program("deliver", "desk.toml", "--to", "stick:stick", "--wipes", "disk 0", "--format", "json"))
    assert done["read_back"] == {"where": "stick/autounattend.xml", "taken": True, "good": True, "wrong": []}
    again = program("deliver", "desk.toml", "--to", "stick:stick", "--wipes", "disk 0").stdout
    assert "nothing is to be done: it stands there already" in again
    share = told(program("deliver", "desk.toml", "--to", "share:stick", "--format", "json"))
    assert (share["by_itself"], share["needs"]) == (False, [])
    assert (
        "other words for --wipes"
        in program("deliver", "desk.toml", "--to", "folder:new", "--wipes", "disk 7", status=4).stderr
    )


def test_nothing_is_replaced_unasked_and_one_name_is_one_file_whatever_its_letters(program):
    program.file("desk.toml", whole('[identity]\nname = "LMR-DESK-01"\n[licence]\naccept = true\n'))
    stick = program.folder / "stick"
    stick.mkdir()
    (stick / "AutoUnattend.XML").write_text("old")
    (stick / "unattend.xml").write_text("other")
    refused = program("deliver", "desk.toml", "--to", "stick:stick", status=4)
    assert "--replace, since stick/AutoUnattend.XML stands there already" in refused.stderr
    assert (stick / "AutoUnattend.XML").read_text() == "old"
    done = program("deliver", "desk.toml", "--to", "stick:stick", "--replace").stdout
    assert "unattend.xml stands there too: not for the first pass" in done
    assert sorted(one.name for one in stick.iterdir()) == ["AutoUnattend.XML", "unattend.xml"]
    assert b"LMR-DESK-01" in (stick / "AutoUnattend.XML").read_bytes()


@pytest.mark.parametrize(
    ("to", "status", "says"),
    [
        ("stick:nowhere", 3, "no such folder; name where the stick is mounted"),
        ("stick:desk.toml", 3, "this is no folder"),
        ("stik:x", 2, "did you mean stick"),
        ("stick", 2, "write stick:FOLDER"),
        ("answer-disc:here", 2, "no name of a disc"),
        ("stick:linked", 3, "a link there leads elsewhere"),
        ("stick:taken", 3, "a folder stands where a file is to be put"),
    ],
)
def test_places_where_nothing_can_be_put(program, to, status, says):
    program.file("desk.toml", whole("[licence]\naccept = true\n"))
    (program.folder / "taken" / "autounattend.xml").mkdir(parents=True)
    (program.folder / "linked").mkdir()
    (program.folder / "linked" / "autounattend.xml").symlink_to(program.folder / "secret.xml")
    (program.folder / "secret.xml").write_text("x")
    assert says in program("deliver", "desk.toml", "--to", to, "--replace", status=status).stderr
    assert (program.folder / "secret.xml").read_text() == "x"


def test_a_full_stick_is_told_before_anything_is_written(tmp_path, monkeypatch, program):
    monkeypatch.setattr(placing, "free_in", lambda _: 10)
    path = program.file("desk.toml", whole("[licence]\naccept = true\n"))
    parcel = onto_parcel(path)
    with pytest.raises(FileTroubleError, match="room for 10 bytes"):
        onto.planned(parcel, "stick", tmp_path, How())


def onto_parcel(path):
    from fairledger.delivery.parcel import parcel_of
    from fairledger.subject.opening import Asked

    return parcel_of(path, Asked(), "stick", {}, None)


def test_the_wrong_medium_is_refused_with_what_is_wrong(program):
    program.file("gate.toml", GATE.format("lmr-gate-03").replace("el-9", "el-8"))
    gate_stick(program.folder / "stick")
    plan = told(program("deliver", "gate.toml", "--to", "stick:stick", "--dry-run", "--format", "json"))
    assert any("installs Enterprise Linux 9" in one for one in plan["needs"])
    program("deliver", "gate.toml", "--to", "stick:stick", "--wipes", "disk sda", status=4)
    program.file("desk.toml", whole(WIPING))
    wrong = program("deliver", "desk.toml", "--to", "stick:stick", "--wipes", "disk 0", status=1).stdout
    assert "which reads no file of this kind" in wrong
    assert not (program.folder / "stick" / "autounattend.xml").exists()


def test_menus_are_given_the_parameter_and_a_copy_of_each_stays(program):
    program.file("gate.toml", GATE.format("lmr-gate-03"))
    stick = gate_stick(program.folder / "stick")
    plan = told(program("deliver", "gate.toml", "--to", "stick:stick", "--dry-run", "--format", "json"))
    assert [(one["action"], one["path"]) for one in plan["plan"]] == [
        ("change", "stick/EFI/BOOT/grub.cfg"),
        ("change", "stick/isolinux/isolinux.cfg"),
        ("write", "stick/ks.cfg"),
    ]
    assert plan["by_itself"]
    program("deliver", "gate.toml", "--to", "stick:stick", status=4)
    program("deliver", "gate.toml", "--to", "stick:stick", "--wipes", "disk sda")
    assert (stick / "EFI" / "BOOT" / "grub.cfg.before").read_text() == GRUB
    changed = (stick / "EFI" / "BOOT" / "grub.cfg").read_text()
    assert changed == GRUB.replace("inst.ks=http://old/a inst.ks=http://old/b", "inst.ks=hd:LABEL=LMR:/ks.cfg")
    isolinux = (stick / "isolinux" / "isolinux.cfg").read_bytes().decode()
    assert isolinux == ISOLINUX.replace("LABEL=LMR\r\n", "LABEL=LMR inst.ks=hd:LABEL=LMR:/ks.cfg\r\n")
    # once more, and the copy is still that of what stood there first
    program("deliver", "gate.toml", "--to", "stick:stick", "--wipes", "disk sda", "--label", "OTHER NAME", "--replace")
    assert "inst.ks=hd:LABEL=OTHER\\x20NAME:/ks.cfg" in (stick / "isolinux" / "isolinux.cfg").read_text()
    assert (stick / "isolinux" / "isolinux.cfg.before").read_bytes().decode() == ISOLINUX


def test_a_stick_whose_label_nobody_knows_may_be_the_one_that_is_looked_for(program):
    program.file("gate.toml", GATE.format("lmr-gate-03"))
    (program.folder / "stick").mkdir()
    to = ("deliver", "gate.toml", "--to", "stick:stick", "--format", "json", "--dry-run")
    plan = told(program(*to))
    assert (plan["by_itself"], len(plan["needs"])) == (None, 1)
    assert "if the volume is labelled OEMDRV, the installer takes it by itself" in plan["cares"]
    assert (told(program(*to, "--label", "OEMDRV"))["by_itself"], told(program(*to, "--label", "X"))["needs"]) == (
        True,
        [],
    )
    program("deliver", "gate.toml", "--to", "stick:stick", "--wipes", "disk sda")


def test_commands_that_may_erase_disks_are_allowed_in_words_too(program):
    erasing = '[[command]]\nwhen = "setup-starts"\nbody = "diskpart /s X:\\\\clean.txt"\n'
    program.file("desk.toml", whole("[licence]\naccept = true\n" + erasing))
    (program.folder / "stick").mkdir()
    to = ("deliver", "desk.toml", "--to", "stick:stick")
    assert "--wipes 'what its commands erase'" in program(*to, status=4).stderr
    done = program(*to, "--wipes", "what its commands erase", COLUMNS="200").stdout
    assert "also loses what its commands erase: look at them with fairledger explain" in done


WORDS = st.sampled_from(
    ["linux", "append", "inst.ks=a", "inst.ks=b", "inst.stage2=x", "quiet", "é", "\t", "  ", "kernelopt=", "#"]
)


@examples(300)
@given(
    lines=st.lists(st.lists(WORDS, max_size=6).map(" ".join), max_size=5),
    name=st.sampled_from(["grub.cfg", "boot.cfg", "isolinux.cfg"]),
)
def test_a_menu_is_changed_once_and_only_where_an_installer_starts(lines, name):
    before = "\r\n".join(lines).encode()
    after = given_argument(name, before, "inst.ks=new")
    assert given_argument(name, after, "inst.ks=new") == after
    assert len(after.splitlines()) == len(before.splitlines())
    for old, new in zip(before.splitlines(), after.splitlines(), strict=True):
        assert old == new or (new.count(b"inst.ks=") == 1 and b"inst.ks=new" in new)
    for one in entries_in(name, after):
        assert not wants_argument(one) or one.answers == "new"


def test_the_loader_of_the_hypervisor_is_told_too():
    text = b"title=Loading\nkernelopt=runweasel cdromBoot\nmodules=a\n"
    assert given_argument("efi/boot/boot.cfg", text, "ks=usb:/ks.cfg") == text.replace(
        b"cdromBoot", b"cdromBoot ks=usb:/ks.cfg"
    )
    assert given_argument("boot.cfg", b"kernelopt=\n", "ks=usb:/ks.cfg") == b"kernelopt=ks=usb:/ks.cfg\n"
    assert given_argument("boot.cfg", b"kernelopt=ks=a b\n", "ks=usb:/ks.cfg") == b"kernelopt=ks=usb:/ks.cfg b\n"


def test_what_a_killed_delivery_left_is_taken_back(tmp_path, monkeypatch):
    (tmp_path / "old.cfg").write_text("old")
    (tmp_path / "mine.txt").write_text("mine")
    pieces = [Piece(tmp_path / name, b"new") for name in ("sub/new.cmd", "old.cfg", "autounattend.xml")]
    write = journal.write_together

    def killed(some, **more):
        write(list(some)[:2], **more)
        raise SystemExit

    monkeypatch.setattr(journal, "write_together", killed)
    monkeypatch.setattr(journal, "_clear", lambda *_: None)
    with pytest.raises(SystemExit):
        journal.deliver(tmp_path, pieces)
    assert (tmp_path / "old.cfg").read_text() == "new"
    monkeypatch.undo()
    assert journal.unfinished(tmp_path)
    assert {one.name for one in journal.take_back(tmp_path)} == {"new.cmd", "old.cfg"}
    assert (tmp_path / "old.cfg").read_text() == "old"
    assert sorted(one.name for one in tmp_path.iterdir()) == ["mine.txt", "old.cfg", "sub"]
    assert journal.take_back(tmp_path) == ()
    journal.deliver(tmp_path, pieces)
    assert (tmp_path / "autounattend.xml").read_text() == "new"
    assert not [one for one in tmp_path.iterdir() if one.name.startswith(".")]
    for text in ('{"files":[{"path":"../x","digest":"","replaces":false}]}', "{", '{"files":[]}'):
        (tmp_path / journal.NAME).write_text(text)
        (tmp_path.parent / "x").write_text("x")
        try:
            assert journal.take_back(tmp_path) == ()
        except FileTroubleError as error:
            assert "cannot be read" in error.message
            (tmp_path / journal.NAME).unlink()
        assert (tmp_path.parent / "x").exists()


FILES = (
    Made("ks.cfg", "answers", b"text\n"),
    Made("scripts/a long name.sh", "script", b"#!/bin/sh\n"),
    Made("scripts/A-long.sh", "script", b""),
)


def test_an_answer_disc_is_the_same_whenever_and_wherever_it_is_made(tmp_path, monkeypatch):
    first = disc_of(FILES, "OEMDRV")
    monkeypatch.setenv("TZ", "Pacific/Auckland")
    if hasattr(onto, "time") or hasattr(os, "register_at_fork"):
        import time

        time.tzset()
    assert disc_of(FILES, "OEMDRV") == first
    path = tmp_path / "a.iso"
    path.write_bytes(first)
    medium = look_at(path)
    assert (medium.label, [one.path for one in medium.answers if one.first]) == ("OEMDRV", ["ks.cfg"])
    assert dict(contents_of(path).files) == {one.name: len(one.data) for one in FILES}
    for label in ("", "a", "TOO_LONG_FOR_A_DISC", "WITH BLANK"):
        with pytest.raises(WrongUseError, match="cannot have the label"):
            disc_of(FILES, label)


@pytest.mark.skipif(shutil.which("isoinfo") is None, reason="isoinfo is not installed")
def test_other_programs_read_an_answer_disc_in_each_of_its_forms(tmp_path):
    path = tmp_path / "a.iso"
    path.write_bytes(disc_of(FILES, "OEMDRV"))
    read = {more: _isoinfo(path, *more).split("\n") for more in ((), ("-R",), ("-J",))}
    assert "/KS.CFG;1" in read[()]
    for form in (("-R",), ("-J",)):
        assert {"/ks.cfg", "/scripts/a long name.sh", "/scripts/A-long.sh"} <= set(read[form])
    assert _isoinfo(path, "-R", "-x", "/scripts/a long name.sh", listed=False) == "#!/bin/sh\n"
    assert "Volume id: OEMDRV" in _isoinfo(path, "-d", listed=False)


def _isoinfo(path, *more, listed=True):
    command = ["isoinfo", "-i", str(path), *(["-f"] if listed else []), *more]
    return subprocess.run(command, capture_output=True, check=True, text=True).stdout


def test_an_answer_disc_for_each_machine_of_a_roster(program):
    program.file("gate.toml", GATE.format("lmr-gate-${n}"))
    program.file("gates.csv", "n\n01\n02\n")
    to = ("--roster", "gates.csv", "--to", "answer-disc:discs")
    plan = told(program("deliver", "gate.toml", *to, "--dry-run", "--format", "json"))
    assert [one["path"] for one in plan["plan"]] == ["discs/lmr-gate-01.iso", "discs/lmr-gate-02.iso"]
    assert (plan["wipes"], plan["delivered"]) == (["disk sda"], False)
    assert not (program.folder / "discs").exists()
    assert "--wipes 'disk sda'" in program("deliver", "gate.toml", *to, status=4).stderr
    program("deliver", "gate.toml", *to, "--wipes", "disk sda")
    assert look_at(program.folder / "discs" / "lmr-gate-02.iso").label == "OEMDRV"
    again = told(program("deliver", "gate.toml", *to, "--wipes", "disk sda", "--format", "json"))
    assert {one["action"] for one in again["plan"]} == {"keep"}
    (program.folder / "discs" / "lmr-gate-01.iso").write_text("edited")
    assert "the disc exists already" in program("deliver", "gate.toml", *to, "--wipes", "disk sda", status=4).stderr
    program.file("both.toml", GATE.format("lmr-gate-${n}").replace('"sda"', '"${disk}"'))
    program.file("both.csv", "n,disk\n01,sda\n02,vda\n")
    both = told(program("deliver", "both.toml", "--roster", "both.csv", *to[2:], "--dry-run", "--format", "json"))
    assert both["wipes"] == ["disk sda", "disk vda"]
    program.file("gates.csv", "n\n01\n01\n")
    assert "nothing was delivered" in program("deliver", "gate.toml", *to, status=1).stdout


def test_an_answer_file_from_elsewhere_comes_with_the_scripts_that_it_calls(program):
    program.file(
        "desk.toml", whole('[licence]\naccept = true\n[[command]]\nwhen = "installed"\nbody = "echo a\\necho b"\n')
    )
    program("write", "desk.toml", "--route", "stick", "--out", "made")
    (program.folder / "stick").mkdir()
    program("deliver", "made/autounattend.xml", "--to", "stick:stick")
    made = {one.relative_to(program.folder / "made") for one in (program.folder / "made").rglob("*")}
    assert {one.relative_to(program.folder / "stick") for one in (program.folder / "stick").rglob("*")} == made
    assert len(made) > 1
    for script in (program.folder / "made").rglob("*.cmd"):
        script.unlink()
    lost = program("deliver", "made/autounattend.xml", "--to", "stick:stick", "--replace", status=3).stderr
    assert "which does not lie beside it" in lost
    assert (
        "nothing to fill in"
        in program("deliver", "made/autounattend.xml", "--to", "stick:stick", "--fill", "a=b", status=2).stderr
    )


def test_what_the_stick_did_not_keep_is_told_though_it_could_be_read(tmp_path, program):
    parcel = onto_parcel(
        program.file("desk.toml", whole('[identity]\nname = "LMR-DESK-01"\n[licence]\naccept = true\n'))
    )
    stick = tmp_path / "stick"
    stick.mkdir()
    delivery = onto.planned(parcel, "stick", stick, How())
    onto.carried_out(delivery)
    assert read_back(delivery, parcel, "stick").good
    answers = delivery.answers
    answers.write_bytes(answers.read_bytes().replace(b"LMR-DESK-01", b"LMR-DESK-02"))
    assert read_back(delivery, parcel, "stick").wrong == (f"{answers} does not hold what was written",)


def test_routes_tell_where_each_installer_looks(program):
    rows = told(program("routes", "windows-11-24h2", "--format", "json"))
    order = [one["place"] for one in rows["search"]]
    assert order.index("the top folder of sticks, by drive letters") < order.index(
        "the top folder of discs, by drive letters"
    )
    assert {one["name"]: one["by_itself"] for one in rows["routes"]}["stick"]
    text = program("routes", "el-9").stdout
    assert "the top folder of a volume with the label OEMDRV" in text
    for target in all_targets():
        assert places_of(target), target.id
        named = {name for one in places_of(target) for name in one.routes}
        assert named <= {one.name for one in routes_of(target)} <= set(route_names())
        for one in routes_of(target):
            assert not one.by_itself or one.name in named, "what is taken by itself stands in the order of search"


@NEEDS_MTOOLS
@pytest.mark.parametrize("size", [10, 3_000_000])
def test_an_answer_disc_in_the_form_of_a_stick_is_read_by_other_programs(tmp_path, size):
    files = [
        Made("fair-ledger/files/A Long Name.png", "file", b"p" * size),
        Made("fair-ledger/1-installed.cmd", "script", b"echo"),
        Made("autounattend.xml", "answers", b"<unattend/>" * 900),
    ]
    image = tmp_path / "a.img"
    image.write_bytes(stick_of(files, "OEMDRV"))
    time.sleep(2.1)  # as fine as the times in it are
    assert stick_of(files, "OEMDRV") == image.read_bytes()
    for one in files:
        done = subprocess.run(["mtype", "-i", str(image), f"::/{one.name}"], capture_output=True, check=True)
        assert done.stdout == one.data
    label = subprocess.run(["mlabel", "-s", "-i", str(image), "::"], capture_output=True, check=True).stdout
    assert b"OEMDRV" in label
    found = look_at(image)
    assert (found.label, [(one.path, one.first) for one in found.answers]) == ("OEMDRV", [("autounattend.xml", True)])
    with pytest.raises(WrongUseError, match="it would have"):
        stick_of([Made("a", "file", bytes(500 << 20))], "A")
    with pytest.raises(WrongUseError, match="cannot have the label"):
        stick_of(files, "a label")


@NEEDS_MTOOLS
def test_answer_discs_as_sticks_by_the_program(program):
    program.file("gate.toml", GATE.format("lmr-gate-${number}"))
    (program.folder / "t.csv").write_text("number\n03\n04\n")
    to = ("deliver", "gate.toml", "--as", "fat", "--wipes", "disk sda", "--to")
    filled = ("--fill", "number=03")
    assert "answer-disc:a.iso/answers.img" in program(*to, "answer-disc:a.iso", *filled, status=2).stderr
    assert "--as fat is for answer discs" in program(*to, "folder:x", status=2).stderr
    done = told(program(*to, "answer-disc:a.img", "--fill", "number=03", "--format", "json"))
    assert done["read_back"] == {"where": "a.img", "taken": True, "good": True, "wrong": []}
    program(*to, "answer-disc:discs", "--roster", "t.csv")
    assert sorted(one.name for one in (program.folder / "discs").iterdir()) == ["lmr-gate-03.img", "lmr-gate-04.img"]


@pytest.mark.parametrize(("target", "family"), [("windows-11-24h2", "windows"), ("el-9", "kickstart")])
def test_what_media_tell_of_answer_files_is_where_installers_look(target, family):
    places, routes = places_of(target_named(target)), routes_of(target_named(target))
    labels = {one.label for one in routes if one.label}
    mine = [one for one in known().answers if one.family == family]
    assert {one.label for one in mine if one.label} == labels
    names = [place.names.lower() for place in places if {"stick", "disc"} & set(place.routes)]
    first = {word.strip() for told in names for word in told.partition(";")[0].split(",")}
    later = {told.rpartition(" ")[2] for told in names if "after the first" in told}
    for one in mine:
        assert one.path.rpartition("/")[2] in (later if one.later else first), one
    taken = {one.file.lower() for one in routes if one.by_itself and not one.passes}
    assert taken <= {one.path for one in mine}


def test_what_goes_along_may_be_larger_than_any_answer_file(program, monkeypatch):
    (program.folder / "sky.png").write_bytes(b"s" * 50_000)
    path = program.file(
        "desk.toml", whole("[licence]\naccept = true\n[[file]]\nsource = 'sky.png'\non_medium = 'sky'\n")
    )
    monkeypatch.setattr(files, "MOST_BYTES", 20_000)
    parcel, stick = onto_parcel(path), program.folder / "stick"
    stick.mkdir()
    for how in (How(), How(replace=True)):  # the second one over another file of that size
        delivery = onto.planned(parcel, "stick", stick, how)
        onto.carried_out(delivery)
        assert read_back(delivery, parcel, "stick").good
        assert (stick / "sky").read_bytes() == b"s" * 50_000
        (stick / "sky").write_bytes(b"x" * 50_000)
