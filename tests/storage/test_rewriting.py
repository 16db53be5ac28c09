"""Files that are changed where they stand: nobody's change is lost, and links stay links."""

from __future__ import annotations

import os
import subprocess
import sys
import threading

import pytest

from fairledger.model.errors import ChangedError, FileTroubleError, RefusedError
from fairledger.storage import together
from fairledger.storage.files import by_name, into_place, read_bytes, rewrite
from fairledger.storage.together import Piece, write_together


def test_a_file_that_somebody_else_changed_is_not_overwritten(tmp_path):
    file = tmp_path / "desk.toml"
    file.write_bytes(b"other")
    with pytest.raises(ChangedError, match="changed while"):
        rewrite(file, b"mine", b"before")
    assert file.read_bytes() == b"other"
    rewrite(file, b"mine", b"other", private=True)
    assert (file.read_bytes(), [one.name for one in tmp_path.iterdir()]) == (b"mine", ["desk.toml"])


@pytest.mark.skipif(os.name == "nt", reason="links need rights there")
def test_links_and_other_names_stay(tmp_path):
    (tmp_path / "real").mkdir()
    real, other, link = tmp_path / "real/desk.toml", tmp_path / "other.toml", tmp_path / "link.toml"
    real.write_bytes(b"a")
    other.hardlink_to(real)
    link.symlink_to(real)
    rewrite(link, b"bb", b"a")
    rewrite(other, b"c", b"bb")
    assert {one.read_bytes() for one in (real, other, link)} == {b"c"}
    assert link.is_symlink()
    assert real.stat().st_ino == other.stat().st_ino
    os.mkfifo(tmp_path / "pipe")
    with pytest.raises(FileTroubleError, match="pipe"):
        read_bytes(tmp_path / "pipe")


def test_two_at_once_lose_nothing(program):
    program.file("desk.toml", 'format = 1\n[draft]\ntarget = "windows-11-24h2"\n')
    fields = ("owner", "organisation", "name")
    runs = [
        subprocess.Popen(
            [sys.executable, "-m", "fairledger", "set", "desk.toml", f"identity.{field}=LMR-1"],
            cwd=program.folder,
            stdout=subprocess.DEVNULL,
        )
        for field in fields
    ]
    assert [one.wait(60) for one in runs] == [0] * 3
    text = (program.folder / "desk.toml").read_text()
    assert all(f'{field} = "LMR-1"' in text for field in fields)


def files_in(folder):
    return {one.relative_to(folder).as_posix(): one.read_bytes() for one in folder.rglob("*") if one.is_file()}


def test_several_files_are_written_together_or_not_at_all(tmp_path):
    old, new = tmp_path / "a.xml", tmp_path / "below/b.cmd"
    write_together([Piece(old, b"1"), Piece(new, b"2", private=True)])
    assert files_in(tmp_path) == {"a.xml": b"1", "below/b.cmd": b"2"}
    assert os.name == "nt" or new.stat().st_mode & 0o077 == 0
    with pytest.raises(RefusedError, match="exists already"):
        write_together([Piece(tmp_path / "c", b"3"), Piece(old, b"4")])
    (tmp_path / "d").mkdir()
    for bad in (tmp_path / "d", old / "inside"):
        with pytest.raises(FileTroubleError):
            write_together([Piece(old, b"5"), Piece(tmp_path / "e", b"6"), Piece(bad, b"7")], replace=True)
    assert files_in(tmp_path) == {"a.xml": b"1", "below/b.cmd": b"2"}
    write_together([Piece(old, b"8")], replace=True, stale=[new])
    assert files_in(tmp_path) == {"a.xml": b"8"}


def test_a_later_move_that_fails_puts_everything_back(tmp_path, monkeypatch):
    first, second = tmp_path / "a", tmp_path / "b"
    first.write_bytes(b"old")
    moves = []

    def move(beside, path, *, replace):
        moves.append(path)
        if path == second:
            raise OSError(28, "No space left on device", str(path))
        into_place(beside, path, replace=replace)

    monkeypatch.setattr(together, "into_place", move)
    with pytest.raises(FileTroubleError, match="no space"):
        write_together([Piece(first, b"new"), Piece(second, b"more")], replace=True)
    assert moves == [first, second]
    assert files_in(tmp_path) == {"a": b"old"}


def test_what_is_done_last_counts_as_one_of_them(tmp_path):
    (tmp_path / "a").write_bytes(b"old")

    def fails() -> None:
        raise RefusedError("no", remedy="none")

    with pytest.raises(RefusedError):
        write_together([Piece(tmp_path / "a", b"new"), Piece(tmp_path / "b", b"new")], replace=True, then=fails)
    assert files_in(tmp_path) == {"a": b"old"}


def test_where_folders_cannot_be_locked_a_file_stands_for_them(tmp_path):
    """Whoever comes second waits, by whatever spelling of the folder's name."""
    order = []

    def second() -> None:
        with by_name(tmp_path / "x" / ".."):
            order.append("second")

    with by_name(tmp_path):
        other = threading.Thread(target=second)
        other.start()
        other.join(0.2)
        order.append("first")
    other.join()
    assert order == ["first", "second"]
