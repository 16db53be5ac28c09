"""Image files: what real ones say, and that none can lie, swell or break out."""

from __future__ import annotations

import json
import shutil
import struct
import subprocess

import pytest
from hypothesis import given
from hypothesis import strategies as st

from factories import examples
from fairledger.media.imagefile import MAGIC, read_image_file
from fairledger.media.medium import look_at
from fairledger.model.errors import FileTroubleError

IMAGE = """<IMAGE INDEX="{0}"><TOTALBYTES>16000000000</TOTALBYTES><WINDOWS><ARCH>9</ARCH><EDITIONID>{3}</EDITIONID>
<INSTALLATIONTYPE>{2}</INSTALLATIONTYPE><LANGUAGES><LANGUAGE>en-GB</LANGUAGE><DEFAULT>en-GB</DEFAULT></LANGUAGES>
<VERSION><MAJOR>10</MAJOR><MINOR>0</MINOR><BUILD>{4}</BUILD><SPBUILD>1742</SPBUILD></VERSION></WINDOWS>
<NAME>{1}</NAME></IMAGE>"""
PRO = IMAGE.format(1, "Windows 11 Pro", "Client", "Professional", "22000")


def image_file(inner=PRO, *, count=1, marks=0, place=208, length=None, encoding="utf-16-le", part=(1, 1), own=208):
    """An image file that is a header and a list of images, and nothing else."""
    told = b"\xff\xfe" + f"<WIM>{inner}</WIM>".encode(encoding)
    length = len(told) if length is None else length
    none = struct.pack("<QQQ", 0, 0, 0)
    head = struct.pack("<8sIIII16sHHI", MAGIC, own, 0x10D00, 0x40002, 32768, b"5" * 16, *part, count)
    head += none + struct.pack("<QQQ", length | marks << 56, place, length) + none + struct.pack("<I", 0) + none
    return head.ljust(208, b"\0") + told


GOOD = image_file()


def read(tmp_path, data):
    path = tmp_path / "install.wim"
    path.write_bytes(data)
    return read_image_file(path)


def test_the_list_tells_images_and_the_system(tmp_path, program):
    two = PRO + IMAGE.format(2, "Windows 11 Home", "Client", "Core", "22000")
    program.file("install.wim", image_file(two, count=2))
    told = json.loads(program("medium", "install.wim", "--format", "json").stdout)
    assert told["system"]["target"] == "windows-11-21h2"
    assert told["system"]["build"] == "22000.1742"
    assert [(one["index"], one["edition"], one["edition_id"]) for one in told["images"]] == [
        (1, "Pro", "Professional"),
        (2, "Home", "Core"),
    ]
    assert told["problems"] == []
    assert (
        "Windows 11, version 21H2 (windows-11-21h2), build 22000.1742, amd64" in program("medium", "install.wim").stdout
    )
    # an update leaves the images' build as it is: nobody knows which release it is
    program.file("other.wim", image_file(PRO.replace("22000", "19041").replace("Windows 11", "Windows 10")))
    told = json.loads(program("medium", "other.wim", "--format", "json").stdout)["system"]
    assert told["target"] is None
    assert told["candidates"] == [f"windows-10-{one}" for one in ("2004", "20h2", "21h1", "21h2", "22h2")]
    program.file("boot.wim", image_file(PRO.replace("Client", "WindowsPE")))
    assert "the setup system alone" in program("medium", "boot.wim").stdout
    assert "is no medium" in program("medium", program.file("a.txt", "x").name, status=3).stderr
    assert "no such file" in program("medium", "b.wim", status=3).stderr


@pytest.mark.parametrize(
    ("data", "told"),
    [
        (image_file(place=1 << 50), "outside of the file"),
        (image_file(place=0), "outside of the file"),
        (GOOD[:-10], "outside of the file"),
        (image_file(length=1 << 40), "too large"),
        (image_file(marks=0x04), "packed"),
        (image_file(length=0), "no list"),
        (image_file('<!DOCTYPE a [<!ENTITY b "c">]>&b;'), "none that the vendor's programs write"),
        (image_file("<IMAGE" * 200_000), "none that the vendor's programs write"),
        (image_file("<IMAGE>"), "not well-formed"),
        (image_file(PRO + PRO, count=2), "the same one twice"),
        (image_file(PRO.replace('"1"', '"-1"')), "too many, or the same one twice"),
        (image_file(count=7), "speaks of 7 images, and its list of 1"),
        (image_file(part=(3, 2)), "part 3 of 2"),
    ],
)
def test_what_a_file_lies_about_is_told_and_not_followed(tmp_path, data, told):
    found = read(tmp_path, data)
    assert any(told in one for one in found.problems), found.problems


@pytest.mark.parametrize("data", [GOOD[:100], b"", MAGIC, image_file(own=9)])
def test_what_is_no_image_file_is_refused(tmp_path, data):
    with pytest.raises(FileTroubleError):
        read(tmp_path, data)


@examples(1_500)
@given(
    changes=st.lists(
        st.tuples(st.integers(0, len(GOOD) - 1) | st.integers(0, 207), st.binary(min_size=1, max_size=24)), max_size=4
    ),
    end=st.none() | st.integers(0, len(GOOD)),
)
def test_no_bytes_make_it_fail(tmp_path_factory, changes, end):
    data = bytearray(GOOD)
    for at, new in changes:
        data[at : at + len(new)] = new
    path = tmp_path_factory.getbasetemp() / "any.wim"
    path.write_bytes(bytes(data[:end]))
    try:
        found = look_at(path)
    except FileTroubleError as error:
        assert error.message
    else:
        assert found.problems or found.images


@pytest.mark.skipif(shutil.which("wimlib-imagex") is None, reason="wimtools is not installed")
def test_files_of_another_program_are_read(tmp_path, program):
    (tmp_path / "tree").mkdir()
    (tmp_path / "tree" / "station.txt").write_bytes(b"wind" * 5000)

    def run(*arguments):
        subprocess.run(["wimlib-imagex", *arguments], cwd=tmp_path, check=True, capture_output=True)

    run("capture", "tree", "a.wim", "Station", "--compress=LZX", "--boot")
    run("append", "tree", "a.wim", "Second")
    run("export", "a.wim", "all", "b.esd", "--solid")
    run("split", "a.wim", "c.swm", "0.0001")
    first = read_image_file(tmp_path / "a.wim")
    assert [(one.index, one.name, one.size) for one in first.images] == [(1, "Station", 20000), (2, "Second", 20000)]
    assert (first.compression, first.boots, first.solid, first.problems) == ("lzx", 1, False, ())
    solid, part = (read_image_file(tmp_path / name) for name in ("b.esd", "c2.swm"))
    assert (solid.solid, solid.compression, len(solid.images)) == (True, "lzms", 2)
    assert (part.part, part.guid) == (2, read_image_file(tmp_path / "c.swm").guid)
    assert "part 2 of" in program("medium", "c2.swm").stdout
    assert "nobody knows what it installs" in program("medium", "a.wim").stdout


def test_a_draft_begins_with_what_its_medium_says(program):
    two = PRO + IMAGE.format(2, "Windows 11 Home", "Client", "Core", "22000")
    program.file("one.wim", image_file())
    program.file("two.wim", image_file(two, count=2))
    program.file("open.wim", image_file(PRO.replace("22000", "26100")))
    told = json.loads(program("start", "a.toml", "--medium", "one.wim", "--format", "json").stdout)
    assert (told["target"], told["arch"], told["edition"]) == ("windows-11-21h2", "amd64", "Pro")
    assert "Pro, Home; say --edition" in program("start", "b.toml", "--medium", "two.wim").stdout
    program("start", "c.toml", "--medium", "two.wim", "--edition", "Home")
    assert 'edition = "Home"' in (program.folder / "c.toml").read_text()
    for more, told in (
        (("two.wim", "--edition", "Education"), "has no edition 'Education'"),
        (("one.wim", "--target", "windows-11-24h2"), "does not install Windows 11, version 24H2"),
        (("one.wim", "--arch", "arm64"), "is for amd64"),
        (("open.wim",), "may be windows-11-24h2 or windows-11-25h2"),
    ):
        assert told in program("start", "d.toml", "--medium", *more, status=2).stderr
    assert "--medium PATH" in program("start", "d.toml", status=2).stderr
    assert not (program.folder / "d.toml").exists()
