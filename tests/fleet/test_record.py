"""What was written is known again: after a run that was cut short, by other parts, and never by a guess."""

from __future__ import annotations

import pytest

from fairledger.fleet.record import Written, is_ours, read_entries
from fairledger.model.errors import FileTroubleError


def written(folder, **files):
    record = Written(folder)
    record.ready()
    record.note([(name, data.encode()) for name, data in files.items()])
    return record


def test_only_what_was_written_is_untouched(tmp_path):
    written(tmp_path, a="one", b="two").keep(done=True)
    again = Written(tmp_path)
    assert again.untouched("a", b"one")
    assert not again.untouched("a", b"two")
    assert not again.untouched("c", b"one")
    again.forget("a")
    again.keep(done=True)
    assert not Written(tmp_path).untouched("a", b"one")
    assert Written(tmp_path).untouched("b", b"two")


def test_a_run_that_was_cut_short_is_known_by_what_was_there_and_what_was_to_come(tmp_path):
    written(tmp_path, a="one").keep(done=True)
    written(tmp_path, a="later")  # and no more
    for record in (Written(tmp_path), Written(tmp_path)):
        assert record.untouched("a", b"one")
        assert record.untouched("a", b"later")
        record.ready()
    assert sorted(path.name for path in tmp_path.iterdir()) == [".fairledger-written"]
    written(tmp_path, a="newest").keep(done=True)
    assert not Written(tmp_path).untouched("a", b"later")
    assert Written(tmp_path).untouched("a", b"newest")


def test_lines_that_were_cut_and_files_without_a_key_count_for_nothing(tmp_path):
    written(tmp_path, a="one").keep(done=True)
    path = tmp_path / ".fairledger-written"
    path.write_bytes(path.read_bytes().rstrip(b"\n")[:-3] + b"\nzz")
    assert not Written(tmp_path).untouched("a", b"one")
    path.write_text("no key\n")
    assert not Written(tmp_path).untouched("a", b"one")
    written(tmp_path, a="one").keep(done=True)
    assert Written(tmp_path).untouched("a", b"one")


def test_what_is_no_manifest_of_ours_is_told_with_its_line(tmp_path):
    path = tmp_path / "manifest.jsonl"
    assert list(read_entries(path)) == []
    path.write_text('{"machine": 3}\n')
    with pytest.raises(FileTroubleError) as caught:
        list(read_entries(path))
    assert caught.value.line == 1
    names = ("manifest.jsonl", "manifest-3-of-8.jsonl", "manifest-x.jsonl", "lmr-gate-03")
    assert [is_ours(one) for one in names] == [True, True, False, False]
