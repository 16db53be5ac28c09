"""The user's files: what is read, what is refused, and that nothing is lost when something is written."""

from __future__ import annotations

import os
import stat
import sys
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairledger.model.errors import FileTroubleError, LedgerError, RefusedError
from fairledger.storage import files
from fairledger.storage.files import declared_as, decode_as, encoded, read_bytes, read_text, write_file

TEXT = '<?xml version="1.0" encoding="{}"?>\n<unattend>Lärkmoor</unattend>\n'
POSIX = pytest.mark.skipif(sys.platform == "win32", reason="files have no such modes there")


@pytest.mark.parametrize(
    ("declared", "written", "known_as"),
    [
        ("utf-8", "utf-8", "utf-8"),
        ("utf-8", "utf-8-sig", "utf-8-sig"),
        ("utf-16", "utf-16", "utf-16-le-sig"),
        ("utf-16", "utf-16-le", "utf-16-le"),
        ("utf-16", "utf-16-be", "utf-16-be"),
        ("utf-16", "utf-8", "utf-8"),  # saved again by an editor that did not look at the declaration
        ("utf-8", "utf-16", "utf-16-le-sig"),
        ("Windows-1252", "windows-1252", "windows-1252"),
        ("ISO-8859-1", "iso-8859-1", "iso-8859-1"),
    ],
)
def test_encodings_are_told_apart_and_lead_back(declared, written, known_as):
    text = TEXT.format(declared)
    data = text.encode(written)
    assert decode_as(data, "x.xml") == (text, known_as)
    assert encoded(text, known_as, "x.xml") == data
    assert declared_as(text) == declared.lower()


def test_a_text_without_a_declaration_declares_nothing():
    assert declared_as("#version=RHEL9\n") == ""
    assert decode_as(b"#version=RHEL9\n", "x.ks") == ("#version=RHEL9\n", "utf-8")


@pytest.mark.parametrize(
    ("data", "line", "told"),
    [
        (TEXT.format("utf-7").encode(), 1, "the encoding utf-7 is not read"),
        (b"lang en_GB.UTF-8\ntimezone L\xe4rkmoor\n", 2, "the file is not UTF-8 text"),
        (b"\xff\xfe<\0u", 1, "the file is not UTF-16-LE text"),
    ],
)
def test_what_is_no_text_is_refused_with_its_line(data, line, told):
    with pytest.raises(FileTroubleError) as caught:
        decode_as(data, "x.xml")
    assert (caught.value.file, caught.value.line) == ("x.xml", line)
    assert told in str(caught.value)


@given(st.binary(max_size=200))
def test_any_bytes_lead_back_or_are_refused(data):
    try:
        text, encoding = decode_as(data, "x")
    except LedgerError:
        return
    assert encoded(text, encoding, "x") == data


def test_reading_says_what_is_in_the_way(tmp_path, monkeypatch):
    bad = tmp_path / "bad.toml"
    bad.write_bytes(b"format = 1\n# L\xe4rkmoor\n")
    cases = [
        (tmp_path, "this is a folder"),
        (tmp_path / "none.toml", "there is no such file"),
        (tmp_path / "bad.toml/x", "not a directory"),
        (bad, "the file is not UTF-8 text"),
    ]
    for path, told in cases:
        with pytest.raises(FileTroubleError, match=told) as caught:
            read_text(path)
        assert caught.value.file == str(path)
    assert caught.value.line == 2
    monkeypatch.setattr(files, "MOST_BYTES", 10)
    (tmp_path / "ten").write_bytes(b"x" * 10)
    (tmp_path / "eleven").write_bytes(b"x" * 11)
    assert len(read_bytes(tmp_path / "ten")) == 10
    with pytest.raises(FileTroubleError, match="larger than"):
        read_bytes(tmp_path / "eleven")


def test_a_file_that_exists_is_replaced_only_when_allowed(tmp_path):
    path = tmp_path / "deep/in/desk.xml"
    write_file(path, b"one")
    with pytest.raises(RefusedError, match="exists already"):
        write_file(path, b"two")
    assert path.read_bytes() == b"one"
    write_file(path, b"two", replace=True)
    assert path.read_bytes() == b"two"
    with pytest.raises(FileTroubleError, match="this is a folder"):
        write_file(path.parent, b"", replace=True)
    with pytest.raises(FileTroubleError, match="is a file, not a folder"):
        write_file(path / "x.xml", b"")
    assert [one.name for one in path.parent.iterdir()] == ["desk.xml"]


@pytest.mark.parametrize("links", [True, False])
def test_a_failing_write_leaves_everything_as_it_was(tmp_path, monkeypatch, links):
    path = tmp_path / "desk.xml"
    path.write_bytes(b"old")

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(Path, "replace", full)
    with pytest.raises(FileTroubleError, match="no space left"):
        write_file(path, b"new", replace=True)
    if not links:
        monkeypatch.setattr(Path, "hardlink_to", full)
        with pytest.raises(FileTroubleError, match="no space left"):
            write_file(tmp_path / "gate.xml", b"new")
    assert [(one.name, one.read_bytes()) for one in tmp_path.iterdir()] == [("desk.xml", b"old")]


def test_a_file_that_comes_meanwhile_is_not_lost(tmp_path, monkeypatch):
    path = tmp_path / "desk.xml"
    link = Path.hardlink_to

    def overtaken(new: Path, target: Path) -> None:
        new.write_bytes(b"somebody else's")
        link(new, target)

    monkeypatch.setattr(Path, "hardlink_to", overtaken)
    with pytest.raises(RefusedError, match="exists already"):
        write_file(path, b"ours")
    assert [one.read_bytes() for one in tmp_path.iterdir()] == [b"somebody else's"]


@POSIX
def test_private_files_are_the_owners_and_others_keep_their_mode(tmp_path):
    def mode(path: Path) -> int:
        return stat.S_IMODE(path.stat().st_mode)

    secret, plain = tmp_path / "secret.xml", tmp_path / "plain.xml"
    plain.write_bytes(b"")
    plain.chmod(0o640)
    before = os.umask(0o022)
    try:
        write_file(secret, b"", private=True)
        write_file(plain, b"", replace=True)
        write_file(tmp_path / "new.xml", b"")
        assert os.umask(0o022) == 0o022
    finally:
        os.umask(before)
    assert (mode(secret), mode(plain), mode(tmp_path / "new.xml")) == (0o600, 0o640, 0o644)
