"""Places below a folder, leftovers of runs that were cut short, and files of many lines."""

from __future__ import annotations

import os
import stat
import sys

import pytest

from fairledger.model.errors import FileTroubleError
from fairledger.storage.files import write_file
from fairledger.storage.logs import add_privately, text_lines
from fairledger.storage.looking import inside
from fairledger.storage.together import Piece, swept, write_together


@pytest.mark.skipif(sys.platform == "win32", reason="links")
def test_a_place_is_inside_unless_a_link_or_a_step_leads_out(tmp_path):
    out = tmp_path / "out"
    (out / "own").mkdir(parents=True)
    (out / "away").symlink_to(tmp_path)
    (out / "within").symlink_to(out / "own")
    (out / "own" / "file").symlink_to("/etc/hostname")
    for place in ("new", "new/deep/er", "own/other", "within/x", "own"):
        assert inside(out, place), place
    for place in ("away/x", "away", "own/file", "..", "own/../x", "own//x", "./x", ""):
        assert not inside(out, place), place


def test_what_a_run_left_unfinished_is_swept_and_nothing_else(tmp_path):
    names = [
        ".ks.cfg.ab12cd_9.unfinished",
        ".notes.unfinished",
        "ks.cfg.ab12cd_9.unfinished",
        ".ks.cfg.AB12CD_9.unfinished",
    ]
    for name in names:
        (tmp_path / name).write_text("x")
    swept(tmp_path)
    assert sorted(path.name for path in tmp_path.iterdir()) == sorted(names[1:])
    swept(tmp_path / "nowhere")


def test_what_is_written_in_pieces_is_whole_or_not_there(tmp_path):
    path = tmp_path / "long"

    def lines():
        yield b"one\n"
        raise ValueError("cut")

    with pytest.raises(ValueError, match="cut"):
        write_file(path, lines())
    assert list(tmp_path.iterdir()) == []
    write_file(path, (b"a\n", b"b\n"))
    assert list(text_lines(path)) == ["a", "b"]
    write_together([Piece(path, b"c\n")], replace=True)
    assert list(text_lines(path)) == ["c"]
    path.write_bytes(b"x" * (2 << 20))
    with pytest.raises(FileTroubleError, match="more than 1 MiB"):
        list(text_lines(path))
    with pytest.raises(FileTroubleError, match="no file of lines"):
        list(text_lines(tmp_path))


@pytest.mark.skipif(os.name != "posix", reason="rights")
def test_a_private_log_grows_and_is_its_owners_only(tmp_path):
    for data in (b"a\n", b"b\n"):
        add_privately(tmp_path / "log", data)
    assert (tmp_path / "log").read_bytes() == b"a\nb\n"
    assert stat.S_IMODE((tmp_path / "log").stat().st_mode) == 0o600
    with pytest.raises(FileTroubleError):
        add_privately(tmp_path / "no" / "log", b"")
