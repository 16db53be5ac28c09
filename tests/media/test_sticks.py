"""Sticks as partition tables and FAT write them, discs at their usual places, trees of packages, and sums."""

from __future__ import annotations

import gzip
import json
import os
import shutil
import struct
import time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from factories import examples
from fairledger.cli.media import as_json
from fairledger.media import contents, inside
from fairledger.media.contents import contents_of
from fairledger.media.disc import head_of
from fairledger.media.isoreader import ElaborateError, IsoDisc
from fairledger.media.medium import look_at
from fairledger.media.sums import sums_of
from fairledger.media.udfreader import UdfDisc
from fairledger.media.volumes import stick_of, table_of
from fairledger.model.errors import FileTroubleError, LedgerError

from .making import NEEDS_MTOOLS, NEEDS_WIMLIB, NEEDS_XORRISO, disc, folder, image_file, run, stick
from .test_imagefile import GOOD
from .test_medium import TREE, gate

REPOMD = """<?xml version="1.0"?><repomd xmlns="http://linux.duke.edu/metadata/repo">
<data type="primary"><location href="repodata/primary.xml.gz"/></data>
<data type="{1}"><location href="repodata/{0}"/></data></repomd>"""
COMPS = """<?xml version="1.0"?><!DOCTYPE comps PUBLIC "-//Red Hat, Inc.//DTD Comps info//EN" "comps.dtd"><comps>
<group><id>core</id><name>Core</name></group><environment><id>minimal-environment</id></environment></comps>"""


def tree(path, *, kind="group_gz", name="comps.xml.gz", data=None):
    """A tree of packages with two repositories."""
    data = gzip.compress(COMPS.encode()) if data is None else data
    return folder(
        path,
        {
            ".treeinfo": TREE.format("Red Hat Enterprise Linux", "9.4"),
            "BaseOS/repodata/repomd.xml": REPOMD.format(name, kind),
            f"BaseOS/repodata/{name}": data,
            "BaseOS/Packages/vim-enhanced-8.2.2637-20.el9_1.x86_64.rpm": "x",
            "AppStream/repodata/repomd.xml": REPOMD.format("none", "other"),
        },
    )


@NEEDS_MTOOLS
@pytest.mark.parametrize(
    ("table", "fat32", "mib"), [("", True, 40), ("", False, 8), ("dos", True, 40), ("gpt", False, 20)]
)
def test_a_stick_is_read_whatever_stands_in_front_of_it(tmp_path, table, fat32, mib):
    inner = folder(
        tmp_path / "inner",
        {
            "sources/install.wim": GOOD,
            "sources/a long name with blanks in it.txt": "x",
            "EFI/BOOT/BOOTX64.EFI": b"x" * 70_000,
            "Autounattend.xml": "<x/>",
        },
    )
    path = stick(tmp_path / "stick.img", inner, "LMRSTICK", table=table, fat32=fat32, mib=mib)
    medium = look_at(path)
    assert (medium.kind, medium.label, medium.problems) == ("stick", "LMRSTICK", ())
    assert medium.forms == ((({"dos": "mbr"}.get(table, table),) if table else ()) + ("FAT",))
    assert (medium.system.target, medium.starts) == ("windows-11-21h2", (("uefi", "EFI/BOOT/BOOTX64.EFI"),))
    assert [(one.path, one.first) for one in medium.answers] == [("Autounattend.xml", True)]
    found = contents_of(path, stick_of(path).volumes[0].place, places=True)
    assert dict(found.files)["EFI/BOOT/BOOTX64.EFI"] == 70_000
    assert ("sources/a long name with blanks in it.txt", 1) in found.files
    (place, _), *_ = found.places["Autounattend.xml"]
    assert path.read_bytes()[place : place + 4] == b"<x/>"


@NEEDS_MTOOLS
def test_what_of_a_stick_cannot_be_read_is_told(tmp_path, program):
    inner = folder(tmp_path / "inner", {"Autounattend.xml": "<x/>", "sub/b.txt": "x"})
    path = stick(program.folder / "stick.img", inner, "LMR", table="dos")
    data = bytearray(path.read_bytes())
    data[446 + 16 : 446 + 32] = struct.pack("<B3xB3xII", 0, 7, 4096, 2048)
    at = 4096 * 512
    ntfs = bytearray(data)
    ntfs[at : at + 512] = (b"\xeb\x52\x90NTFS    ").ljust(510, b"\0") + b"\x55\xaa"
    path.write_bytes(ntfs)
    told = program("medium", "stick.img").stdout
    assert "stick (mbr, FAT, NTFS), label LMR" in told
    assert "volume 2 (NTFS) is not looked into" in told
    # a chain of clusters that leads back to itself
    volume = stick_of(path).volumes[0].place
    reserved, copies, size = struct.unpack_from("<H", data, volume + 14)[0], data[volume + 16], 0
    size = struct.unpack_from("<I", data, volume + 36)[0] or struct.unpack_from("<H", data, volume + 22)[0]
    first = volume + reserved * 512
    for copy in range(copies):
        table = first + copy * size * 512
        data[table + 8 : table + 400] = b"".join(struct.pack("<I", 2) for _ in range(98))
    path.write_bytes(data)
    begin = time.monotonic()
    medium = look_at(path)
    assert time.monotonic() - begin < contents.SECONDS + 3
    assert [one for one in medium.problems if "cannot be read" in one or "too many" in one]
    plain = program.file("plain.img", "no stick at all" * 100)
    assert "is no medium that can be looked at" in program("medium", plain.name, status=3).stderr


@NEEDS_XORRISO
def test_the_usual_places_tell_of_a_disc_what_all_of_it_tells(tmp_path):
    inner = tree(gate(tmp_path / "gate"))
    folder(inner, {"sources/install.wim": GOOD})
    boot = "-b isolinux/isolinux.bin -c boot.cat -no-emul-boot -boot-load-size 4 -boot-info-table -eltorito-alt-boot"
    more = (*boot.split(), "-e", "images/efiboot.img", "-no-emul-boot")
    appended = ("-append_partition", "2", "0xef", str(inner / "images/efiboot.img"), "-appended_part_as_gpt")
    for path in (
        disc(tmp_path / "a.iso", inner, "LMR", *more),
        disc(tmp_path / "b.iso", inner, "LMR", *more, *appended, "-iso-level", "3"),
    ):
        some, whole = inside._usual(path), inside._of_disc(path, all_places=False)
        assert some.partly
        assert not whole.partly
        assert (some.texts, some.images.keys()) == (whole.texts, whole.images.keys())
        assert {**some.images} == {**whole.images}
        assert {how for how, _ in some.starts} == {how for how, _ in whole.starts} == {"bios", "uefi"}
        assert set(some.files) <= set(whole.files)
    assert table_of(tmp_path / "b.iso") == "gpt"
    assert "gpt in front, so that it is a stick as well" in look_at(tmp_path / "b.iso").forms


@NEEDS_XORRISO
def test_discs_are_read_as_the_library_reads_them(tmp_path):
    inner = tree(gate(tmp_path / "in"))
    deep = "/".join("abcdefghijklm")
    folder(inner, {"Long name. With dots.txt": "x", "ünïcode.txt": "y", "empty.bin": b"", f"{deep}/b.txt": "z"})
    for number, more in enumerate((["-J", "-R"], ["-J"], ["-R"], [], ["-R", "-D"])):
        path = tmp_path / f"{number}.iso"
        run("xorriso", "-as", "mkisofs", "-quiet", "-V", "LMR", *more, "-iso-level", "3", "-o", path, inner)
        own, other = inside._of_disc(path, all_places=True), inside._of_library(path, all_places=True)
        assert own.files == other.files, more
        assert (own.texts, own.tree, own.starts, set(own.forms)) == (
            other.texts,
            other.tree,
            other.starts,
            set(other.forms),
        )
        filled = {name for name, size in own.files if size}
        assert {name: own.places[name] for name in filled} == {name: other.places[name] for name in filled}
    if shutil.which("genisoimage"):
        for number, more in enumerate(([], ["-J", "-R"])):
            path = tmp_path / f"udf{number}.iso"
            run("genisoimage", "-quiet", "-udf", "-V", "LMR", *more, "-o", path, inner)
            own, other = inside._of_disc(path, all_places=True), inside._of_library(path, all_places=True)
            assert (own.files, own.texts, own.tree) == (other.files, other.texts, other.tree)
            filled = {name for name, size in own.files if size}
            assert {name: own.places[name] for name in filled} == {name: other.places[name] for name in filled}
            some = inside._usual(path)
            assert (some.texts, set(some.files) <= set(own.files)) == (own.texts, True)
    # what stands in a record that goes on elsewhere is left to the library
    long = folder(tmp_path / "long", {"n" * 250 + ".txt": "x"})
    path = disc(tmp_path / "long.iso", long, "LMR")
    with path.open("rb") as file, pytest.raises(ElaborateError):
        IsoDisc(file).all_files(9)
    assert inside._of_disc(path, all_places=False).files == (("n" * 250 + ".txt", 1),)


@NEEDS_XORRISO
def test_what_was_found_first_is_told_where_the_rest_takes_too_long(tmp_path, monkeypatch):
    path = disc(tmp_path / "a.iso", tree(gate(tmp_path / "gate")), "LMR")
    done = contents.subprocess.run([*_command(path)], capture_output=True, check=True).stdout
    first = 8 + int.from_bytes(done[:8], "little")
    for end in (first, first + 3, len(done) - 1):
        monkeypatch.setattr(contents.subprocess, "run", _late(done[:end]))
        medium = look_at(path)
        assert medium.partly
        assert medium.problems[0] == "there are too many files to be looked into: only the usual places were"
        assert (medium.system.target, medium.tree) == ("el-9", None)
        assert as_json(medium)["too_large"] is None
        with pytest.raises(FileTroubleError, match="cannot be summed"):
            [*sums_of(path)]
        assert medium.boots == ()
    monkeypatch.setattr(contents.subprocess, "run", _late(done))
    assert not look_at(path).partly


def _command(path):
    return [contents.sys.executable, "-P", "-m", "fairledger.media.inside", str(path), "-"]


def _late(output):
    def run(command, **_):
        raise contents.subprocess.TimeoutExpired(command, 5, output=output)

    return run


def test_a_tree_tells_its_repositories_packages_and_groups(tmp_path):
    told = look_at(tree(tmp_path / "a")).tree
    assert told.repositories == ("AppStream", "BaseOS")
    assert (told.packages, told.groups, told.environments) == (("vim-enhanced",), ("core",), ("minimal-environment",))
    # what is packed in a form that nobody here reads leaves the groups unknown, and so does what is none
    assert look_at(tree(tmp_path / "b", kind="group_zst", name="comps.xml.zst")).tree.groups is None
    assert look_at(tree(tmp_path / "c", data=b"no archive")).tree.groups is None
    bomb = COMPS.replace('"comps.dtd"', '"comps.dtd" [<!ENTITY a "aaaa">]').replace("core", "&a;")
    assert look_at(tree(tmp_path / "d", data=gzip.compress(bomb.encode()))).tree.groups is None
    plain = look_at(tree(tmp_path / "e", kind="group", name="comps.xml", data=COMPS.encode())).tree
    assert plain.groups == ("core",)
    only = look_at(folder(tmp_path / "f", {".treeinfo": TREE.format("Fedora", "43")})).tree
    assert (only.repositories, only.packages) == ((), ())
    assert look_at(folder(tmp_path / "g", {"a.txt": "x"})).tree is None


@pytest.mark.skipif(shutil.which("implantisomd5") is None, reason="implantisomd5 is not installed")
@NEEDS_XORRISO
def test_a_disc_that_was_not_copied_well_is_told_by_the_sum_in_it(program):
    inner = folder(program.folder / "in", {"a.bin": bytes(3_000_000)})
    path = disc(program.folder / "a.iso", inner, "LMR")
    assert "it carries no sums" in program("medium", "a.iso", "--sums").stdout
    run("implantisomd5", path)
    assert "its sum holds: it was copied well" in program("medium", "a.iso", "--sums").stdout
    data = bytearray(path.read_bytes())
    data[1_000_000] ^= 1
    path.write_bytes(data)
    told = json.loads(program("medium", "a.iso", "--sums", "--format", "json", status=1).stdout)
    assert told["sums"] == [{"what": "a.iso", "kind": "md5", "holds": False, "why": None}]
    path.write_bytes(data[:-1_000_000])
    assert "the disc has" in program("medium", "a.iso", "--sums", status=1).stdout


@NEEDS_WIMLIB
def test_an_image_file_tells_which_piece_of_it_is_damaged(tmp_path):
    inner = folder(tmp_path / "in", {"a.bin": bytes(range(256)) * 4_000})
    path = image_file(tmp_path / "a.wim", inner, "one", check=True)
    assert [one.holds for one in sums_of(path)] == [True]
    data = bytearray(path.read_bytes())
    data[400] ^= 1
    path.write_bytes(data)
    (told,) = sums_of(path)
    assert (told.holds, told.why) == (False, "what stands from byte 208 on is not what was written")
    path.write_bytes(data[:300])
    assert [one.holds for one in sums_of(path)] == [False]
    assert [*sums_of(image_file(tmp_path / "b.wim", inner, "one"))] == []


@NEEDS_XORRISO
def test_lists_of_sums_are_gone_through_in_folders_and_on_discs_and_lead_nowhere_else(tmp_path):
    from hashlib import md5, sha256

    lines = (
        f"{md5(b'abc').hexdigest()}  ./a.txt\n{md5(b'x').hexdigest()} *gone.txt\n{md5(b'x').hexdigest()}  ../secret\n"
    )
    info = f"[checksums]\nimages/boot.iso = sha256:{sha256(b'boot').hexdigest()}\nb.txt = crc:1\n"
    inner = folder(tmp_path / "in", {"a.txt": "abc", "md5sum.txt": lines, ".treeinfo": info, "images/boot.iso": "boot"})
    (tmp_path / "secret").write_text("x")
    for path in (inner, disc(tmp_path / "a.iso", inner, "LMR")):
        told = {one.what: one.holds for one in sums_of(path)}
        assert told == {"images/boot.iso": True, "a.txt": True, "gone.txt": False, "../secret": False}


def test_what_differs_between_two_media(program):
    for name, label, languages in (("a", "ONE", '["en-GB"]'), ("b", "TWO", '["en-GB", "pt-PT"]')):
        text = f'format = 1\n[medium]\nname = "{name}"\nlabel = "{label}"\nlanguages = {languages}\n'
        text += '[[medium.images]]\nindex = 1\nname = "Pro"\n' + ('build = "26100"\n' if name == "b" else "")
        text += "[[medium.held]]\nimage = 1\n" + (
            'features = ["TFTP"]\napps = []\n' if name == "a" else "features = []\n"
        )
        program.file(f"{name}.toml", text)
    told = json.loads(program("medium", "a.toml", "--compare", "b.toml", "--format", "json", status=1).stdout)
    assert [(one["part"], one["item"], one["a"], one["b"]) for one in told["differences"]] == [
        ("label", None, "ONE", "TWO"),
        ("language", "pt-PT", None, "pt-PT"),
        ("image", "Pro", "index 1", "index 1, build 26100"),
        ("feature", "Pro: TFTP", "TFTP", None),
    ]
    assert told["not_compared"] == ["app"]
    text = program("medium", "a.toml", "--compare", "b.toml", status=1).stdout
    assert "only b.toml: pt-PT" in text
    assert "not compared, since nobody knows it of both: app" in text
    assert "nothing differs" in program("medium", "a.toml", "--compare", "a.toml").stdout


@NEEDS_XORRISO
@examples(700)
@given(data=st.data())
def test_any_bytes_in_a_head_come_to_an_end_without_a_crash(tmp_path_factory, data):
    path, good = _heads(tmp_path_factory)
    kind = data.draw(st.sampled_from(sorted(good)))
    broken = bytearray(good[kind])
    low, high = {"disc": (16 * 2048, 40 * 2048), "udf": (16 * 2048, 300 * 2048), "gpt": (0, 2048), "mbr": (440, 512)}[
        kind
    ]
    for at, new in data.draw(
        st.lists(st.tuples(st.integers(low, high - 8), st.binary(min_size=1, max_size=8)), max_size=5)
    ):
        broken[at : at + len(new)] = new
    path.write_bytes(broken[: data.draw(st.none() | st.integers(0, len(broken)))])
    for look in (head_of, stick_of, table_of):
        look(path)
    with path.open("rb") as file:
        try:
            disc_ = IsoDisc(file)
            assert len([*disc_.files(contents.known().texts)]) < 20
            assert len([*disc_.starts()]) < 64
            for reader in (disc_, UdfDisc(file)) if kind == "udf" else (disc_,):
                assert len(reader.all_files(50)) <= 50
        except (ElaborateError, ValueError, MemoryError, struct.error) as error:
            # these are what its caller expects, and tells in a line
            assert "\n" not in str(error)


_HEADS = {}


def _heads(tmp_path_factory):
    base = tmp_path_factory.getbasetemp()
    if not _HEADS:
        iso = disc(base / "heads.iso", gate(base / "heads"), "LMR")
        _HEADS["disc"] = iso.read_bytes()[: 200 * 2048]
        if shutil.which("genisoimage"):
            run("genisoimage", "-quiet", "-udf", "-o", base / "udf.iso", base / "heads")
            _HEADS["udf"] = (base / "udf.iso").read_bytes()[: 320 * 2048]
        entry = bytes(range(1, 33)) + struct.pack("<QQ", 40, 80) + bytes(80)
        gpt = bytes(512) + b"EFI PART".ljust(72, b"\0") + struct.pack("<QII", 2, 4, 128)
        _HEADS["gpt"] = gpt.ljust(1024, b"\0") + entry * 4 + bytes(80 * 512)
        _HEADS["mbr"] = bytes(446) + struct.pack("<B3xB3xII", 0, 12, 1, 80) * 4 + b"\x55\xaa" + bytes(80 * 512)
    return base / "head.img", _HEADS


@NEEDS_MTOOLS
@examples(10)
@given(data=st.data())
def test_a_broken_stick_comes_to_an_end(tmp_path_factory, data):
    base = tmp_path_factory.getbasetemp()
    good = base / "good.img"
    if not good.exists():
        stick(good, folder(base / "stick", {"a/b/c.txt": "x", "sources/install.wim": GOOD}), "LMR", fat32=False, mib=2)
    broken = bytearray(good.read_bytes())
    area = st.integers(0, 90) | st.integers(512, 24_000)
    for at, new in data.draw(st.lists(st.tuples(area, st.binary(min_size=1, max_size=16)), min_size=1, max_size=6)):
        broken[at : at + len(new)] = new
    path = base / "bad.img"
    path.write_bytes(broken)
    begin = time.monotonic()
    try:
        look_at(path)
    except LedgerError as error:
        assert error.message
    assert time.monotonic() - begin < 3 * contents.SECONDS


@NEEDS_XORRISO
def test_folders_in_each_other_come_to_an_end_at_once(tmp_path):
    inner = folder(tmp_path / "in", {f"{name}/x.txt": "x" for name in "abc"})
    path = tmp_path / "a.iso"
    run("xorriso", "-as", "mkisofs", "-quiet", "-V", "L\x01BEL", "-o", path, inner)
    data = bytearray(path.read_bytes())
    root = struct.unpack_from("<I", data, 16 * 2048 + 158)[0]
    for name in b"ABC":
        at = data.index(bytes([1, name]), root * 2048)
        data[at - 30 : at - 26] = struct.pack("<I", root)
    path.write_bytes(data)
    begin = time.monotonic()
    medium = look_at(path)
    assert medium.problems == ("its directories cannot be read (ValueError)",)
    assert time.monotonic() - begin < contents.SECONDS


@pytest.mark.skipif(not hasattr(os, "mkfifo"), reason="the system has no pipes in folders")
def test_pipes_devices_and_what_nobody_may_read_are_one_line(program):
    os.mkfifo(program.folder / "pipe.iso")
    for name in ("pipe.iso", "/dev/null", "/dev/zero"):
        told = program("medium", name, status=3).stderr
        assert "this is a pipe or a device, not a file" in told
        assert told.count("\n") == 1
    program.file("empty.iso", "")
    assert "is no medium" in program("medium", "empty.iso", status=3).stderr
    assert "not a file" in program("medium", "pipe.iso", "--sums", status=3).stderr
    if os.geteuid() != 0:
        locked = folder(program.folder / "locked", {"a.txt": "x"})
        locked.chmod(0)
        assert "access is denied" in program.any("medium", "locked/a.txt").stderr
