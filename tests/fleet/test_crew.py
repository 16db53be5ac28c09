"""Several processes and several parts come to what one alone comes to, however they end."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
import time
from pathlib import Path
from types import SimpleNamespace

import pytest

from fairledger.fleet.crew import Crew, Hands
from fairledger.fleet.judge import Judge
from fairledger.fleet.opening import open_table
from fairledger.fleet.roster import Roster, Wishes
from fairledger.model.errors import ChangedError, ContentError, LedgerError, RefusedError
from fairledger.model.finding import Finding, Severity

from .test_roster import GATE, GOOD, tree

PASSWORD = {"ROOT_PW": "Heron-4-x"}
DOCS = Path(__file__).parents[2] / "docs" / "rosters.md"


def table(count, *more):
    rows = [f"{number:05d},10.0.{number // 250}.{number % 250 + 1}" for number in range(count)]
    return "number,address\n" + "".join(f"{row}\n" for row in (*rows, *more))


@pytest.fixture
def gates(program):
    """A program with a draft whose machines are in one large network."""
    program.file("gate.toml", GATE.replace("/24", "/8").replace('"192.0.2.1"', '"10.9.9.9"'))
    program.file(".fairledger-seed", "5" * 32)
    program.environment.update(PASSWORD)
    return program


def test_several_processes_find_and_write_what_one_does(gates):
    gates.file("t.csv", table(230, "x y,10.0.0.1", "00007,10.8.0.1", "300,10.8.0.2,", "301,"))
    alone, three = (
        gates("roster", "check", "gate.toml", "t.csv", "--workers", str(count), "--format", "json", status=1).stdout
        for count in (1, 3)
    )
    assert alone == three
    assert {one["rule"] for one in json.loads(alone)["findings"]} > {"machine-twice", "machine-name", "row-malformed"}
    for count in (1, 3):
        arguments = ("gate.toml", "t.csv", "--keep-going", "--workers", str(count), "--out", f"out{count}")
        gates("roster", "write", "--route", "plain", *arguments, status=1)
    one, other = (tree(gates.folder / f"out{count}") for count in (1, 3))
    del one[".fairledger-written"], other[".fairledger-written"]
    assert one == other
    assert len(one) == 230 - 2 + 1  # two rows have the address or the name of a later one


def test_helpers_that_begin_anew_find_the_same(tmp_path):
    (tmp_path / "gate.toml").write_text(GATE)
    (tmp_path / "t.csv").write_text("number,address\n01,192.0.2.31\n02,192.0.2.31\n03,192.0.2.999\n04,\n")
    found = []
    for workers in (1, 2):
        roster = Roster(tmp_path / "gate.toml", open_table(tmp_path / "t.csv"), Wishes())
        with Crew(Hands(roster), workers) as crew:
            judge = Judge(roster, crew)
            found.append(([one.name for one in judge.run()], judge.judged()))
    assert found[0] == found[1]
    assert found[0][1].machines == 0


def test_errors_are_the_same_when_they_come_from_another_process():
    import pickle

    finding = Finding("rule", Severity.ERROR, "told", "hint", file="a", line=3)
    for error in (RefusedError("no", file="x", line=2, remedy="do"), ContentError([finding])):
        again: LedgerError = pickle.loads(pickle.dumps(error))
        assert type(again) is type(error)
        assert again.sentence() == error.sentence()
        assert vars(again) == vars(error)


@pytest.mark.skipif(sys.platform == "win32", reason="signals")
@pytest.mark.parametrize("sign", [signal.SIGKILL, signal.SIGINT])
def test_a_run_that_is_cut_short_leaves_nothing_half_and_the_next_goes_on(gates, sign):
    gates.file("t.csv", table(1200))
    out = gates.folder / "out"
    running = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "fairledger",
            "roster",
            "write",
            "--route",
            "plain",
            "gate.toml",
            "t.csv",
            "--workers",
            "2",
        ],
        cwd=gates.folder,
        env=gates.environment,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.default_int_handler),  # noqa: PLW1509
    )
    while running.poll() is None and (not out.is_dir() or sum(1 for _ in out.iterdir()) < 200):
        time.sleep(0.005)
    os.kill(running.pid, sign)
    assert running.wait() in (-9, 130)
    time.sleep(0.5)  # helpers end by themselves
    there = list(out.rglob("ks.cfg"))
    assert 0 < len(there) < 1200
    assert len({len(path.read_text().splitlines()) for path in there}) == 1
    # what was written is no edit by hand, although the draft says something else now
    draft = (gates.folder / "gate.toml").read_text()
    gates.file("gate.toml", draft.replace("20 GiB", "21 GiB"))
    assert "wrote 1,200 machines" in gates("roster", "write", "--route", "plain", "gate.toml", "t.csv").stdout
    left = {path.name for path in out.rglob("*") if path.is_file()}
    assert left == {"ks.cfg", "manifest.jsonl", ".fairledger-written"}
    assert "1,200 stayed" in gates("roster", "write", "--route", "plain", "gate.toml", "t.csv").stdout


def test_parts_come_to_the_whole_and_what_crosses_them_is_found(gates):
    gates.file("t.csv", table(20))
    gates("roster", "write", "--route", "plain", "gate.toml", "t.csv", "--out", "whole")
    for part in (1, 2, 3):
        if part == 3:
            done = gates("roster", "join", "out", "--format", "json", status=1)
            assert [one["rule"] for one in json.loads(done.stdout)["findings"]] == ["shard-missing"]
        gates("roster", "write", "--route", "plain", "gate.toml", "t.csv", "--shard", f"{part}/3")
    assert "3 shards, 20 rows, 20 machines, 20 files" in gates("roster", "join", "out").stdout
    whole, joined = (
        {name: data for name, data in tree(gates.folder / at).items() if "-of-" not in name and name[0] != "."}
        for at in ("whole", "out")
    )
    assert whole == joined
    assert "20 stayed" in gates("roster", "write", "--route", "plain", "gate.toml", "t.csv").stdout
    assert (
        "the whole table"
        in gates(
            "roster", "write", "--route", "plain", "gate.toml", "t.csv", "--shard", "1/3", "--prune", status=2
        ).stderr
    )
    # the third part from another table: nobody looked at it together with the first
    gates.file("t.csv", table(20).replace("10.0.0.3\n", "10.0.0.1\n"))
    gates("roster", "write", "--route", "plain", "gate.toml", "t.csv", "--shard", "3/3")
    (gates.folder / "out" / "lmr-gate-00001" / "ks.cfg").unlink()
    told = json.loads(gates("roster", "join", "out", "--format", "json", status=1).stdout)
    found = {(one["rule"], one["message"].partition(":")[0]) for one in told["findings"]}
    assert found >= {
        ("machine-twice", "row 3"),
        ("shard-table", "the shard was written from another table than the first"),
    }
    assert {rule for rule, _ in found} == {"machine-twice", "shard-table", "shard-file"}
    assert told["written"] is None


def test_a_part_without_a_row_to_write_is_no_missing_one(gates):
    gates.file("t.csv", table(2, "x y,10.0.0.9"))
    for part, status in ((1, 0), (2, 0), (3, 1), (4, 0)):
        gates(
            "roster",
            "write",
            "--route",
            "plain",
            "gate.toml",
            "t.csv",
            "--keep-going",
            "--shard",
            f"{part}/4",
            status=status,
        )
    told = gates("roster", "join", "out").stdout
    assert "rows came to no machine: 3" in told
    assert "4 shards, 3 rows, 2 machines, 2 files" in told


def test_a_secret_column_is_in_no_manifest_and_join_says_what_it_cannot_know(gates):
    gates.file("gate.toml", GATE.replace('{ env = "ROOT_PW" }', '{ value = "${serial}" }'))
    gates.file("t.csv", "number,address,serial\n1,192.0.2.31,Kestrel-7-x\n2,192.0.2.32,Kestrel-7-x\n")
    gates.folder.joinpath("t.csv").chmod(0o600)
    for part in (1, 2):
        gates("roster", "write", "--route", "plain", "gate.toml", "t.csv", "--shard", f"{part}/2")
    done = gates("roster", "join", "out", "--format", "json")
    assert {one["rule"] for one in json.loads(done.stdout)["findings"]} == {"shard-untold"}
    manifests = [path.read_text() for path in (gates.folder / "out").glob("manifest*")]
    assert len(manifests) == 3
    assert not any("Kestrel" in text or '"serial ' in text for text in manifests)


def test_forms_for_build_servers_name_the_row(gates):
    gates.file("t.csv", table(3, "300,10.0.0.1"))
    done = gates("roster", "check", "gate.toml", "t.csv", "--format", "sarif", status=1)
    results = json.loads(done.stdout)["runs"][0]["results"]
    twice = next(one for one in results if one["ruleId"] == "machine-twice")
    assert twice["message"]["text"].startswith("row 4, address: ")
    assert twice["locations"][0]["physicalLocation"]["region"]["startLine"] == 5
    done = gates("roster", "check", "gate.toml", "t.csv", "--format", "junit", status=1)
    assert re.search(r'<failure message="row 4, address: ', done.stdout)


def test_the_cluster_of_the_docs_writes_all_parts(gates):
    pytest.importorskip("distributed")
    gates.file("gates.csv", table(24))
    code = DOCS.read_text().partition("```python\n")[2].partition("```")[0]
    code = code.replace('Client("lmr-build-01.larkmoor.example:8786")', "Client(n_workers=2, dashboard_address=None)")
    code = code.replace('["fairledger"', '[sys.executable, "-m", "fairledger"').replace(
        "/srv/stations", str(gates.folder)
    )
    gates.file("cluster.py", "import sys\n" + code)
    done = subprocess.run(
        [sys.executable, "cluster.py"],
        cwd=gates.folder,
        env=gates.environment,
        capture_output=True,
        text=True,
        timeout=120,
    )
    assert done.returncode == 0, done.stderr
    assert done.stdout.count("wrote 3 machines") == 8
    assert "8 shards, 24 rows, 24 machines" in done.stdout


def test_named_machines_are_written_whatever_is_wrong_with_others_but_not_what_clashes(gates):
    gates.file("t.csv", table(4, "x y,10.0.0.9", "00009,10.0.0.3"))
    gates(
        "roster", "write", "--route", "plain", "gate.toml", "t.csv", "lmr-gate-00001", "--out", "out", "lmr-gate-00000"
    )
    assert {path.parent.name for path in gates.folder.rglob("ks.cfg")} == {"lmr-gate-00000", "lmr-gate-00001"}
    for name in ("lmr-gate-00002", "lmr-gate-00009"):
        assert (
            "machine-twice" in gates("roster", "write", "--route", "plain", "gate.toml", "t.csv", name, status=1).stdout
        )


def test_a_draft_that_changes_meanwhile_is_told(tmp_path, monkeypatch):
    monkeypatch.setattr("fairledger.fleet.helpers.sys", SimpleNamespace(platform="darwin"))  # helpers begin anew there
    (tmp_path / "gate.toml").write_text(GATE)
    (tmp_path / "t.csv").write_text(GOOD)
    roster = Roster(tmp_path / "gate.toml", open_table(tmp_path / "t.csv"), Wishes())
    roster.lane(next(iter(roster.rows())))
    (tmp_path / "gate.toml").write_text(GATE + "# later\n")
    with Crew(Hands(roster), 2) as crew, pytest.raises(ChangedError, match="changed while it was worked on"):
        list(Judge(roster, crew).run())


def test_rows_that_come_to_no_machine_are_told_by_their_part_and_no_file_of_another_part_is_called_left(gates):
    gates.file("t.csv", table(6, "00002,10.0.0.99"))  # a name twice: rows 3 and 7, of one part
    for part in (1, 2):
        gates(
            "roster",
            "write",
            "--route",
            "plain",
            "gate.toml",
            "t.csv",
            "--keep-going",
            "--shard",
            f"{part}/2",
            status=2 - part,
        )
    told = gates("roster", "join", "out").stdout
    assert "rows came to no machine: 3, 7" in told
    # a row in front: every machine is in the other part now
    gates.file("t.csv", table(6).replace("address\n", "address\n00077,10.0.0.77\n"))
    for part in (1, 2):
        assert (
            "left"
            not in gates("roster", "write", "--route", "plain", "gate.toml", "t.csv", "--shard", f"{part}/2").stdout
        )
    assert "still there" not in gates("roster", "join", "out").stdout
    gates.file("t.csv", table(5))
    for part in (1, 2):
        gates("roster", "write", "--route", "plain", "gate.toml", "t.csv", "--shard", f"{part}/2")
    assert "lmr-gate-00077/ks.cfg" in gates("roster", "join", "out").stdout
    pruned = gates("roster", "write", "--route", "plain", "gate.toml", "t.csv", "--prune").stdout
    assert re.search(r"took away.*lmr-gate-00077/ks.cfg", re.sub(r"\s+", " ", pruned))
