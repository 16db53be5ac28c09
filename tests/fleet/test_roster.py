"""Rosters: each row is judged as its whole file would be, all beside each other, and written whole or not at all."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairledger.cli.main import main
from fairledger.fleet.judge import Judge
from fairledger.fleet.opening import open_table
from fairledger.fleet.roster import Roster, Wishes

GATE = """format = 1
[draft]
target = "el-9"
[values]
gateway = "192.0.2.1"
[locale]
language = "en-GB"
keyboards = ["gb"]
time_zone = "UTC"
[identity]
name = "lmr-gate-${number}"
[source]
url = "http://192.0.2.10/el9"
[[disk]]
which = "sda"
fate = "wipe"
partition = [{ role = "system", size = "20 GiB" }]
[account.administrator]
password = { env = "ROOT_PW" }
[[network.interface]]
name = "eno1"
method = "static"
address = "${address}/24"
gateway = "${gateway}"
[variant.quiet.installer]
mode = "text"
"""
DESK = """format = 1
[draft]
target = "windows-11-24h2"
[identity]
name = "LMR-DESK-${number}"
owner = "${owner}"
[branding]
support_hours = "${hours}"
[[command]]
name = "note"
body = "cmd /c echo ${owner} >> C:\\\\note.txt"
"""
GOOD = "number,address\n01,192.0.2.31\n02,192.0.2.32\n"


def judged(tmp_path, table, draft=GATE, **wishes):
    (tmp_path / "gate.toml").write_text(draft)
    (tmp_path / "t.csv").write_text(table)
    judge = Judge(Roster(tmp_path / "gate.toml", open_table(tmp_path / "t.csv"), Wishes(**wishes)))
    good = [one.name for one in judge.run()]
    notes = [one for one in judge.judged().notes if one.row is not None or one.heading is not None]
    return good, [(one.row, one.heading, one.finding.rule, one.finding.line) for one in notes]


def test_good_rows_are_silent(tmp_path):
    assert judged(tmp_path, GOOD) == (["lmr-gate-01", "lmr-gate-02"], [])


@pytest.mark.parametrize(
    ("row", "heading", "rule"),
    [
        ("03,192.0.2.999", "address", "value-wrong"),
        ("03,192.0.2.255", "address", "address-unusable"),
        ("03,", "address", "placeholder-unfilled"),
        ("b c,192.0.2.33", "number", "machine-name"),
        ("03,192.0.2.31", "address", "machine-twice"),
        ("01,192.0.2.33", "number", "machine-twice"),
        ("\uff10\uff11,192.0.2.33", "number", "machine-twice"),
        ("03", None, "row-malformed"),
        ("=3,192.0.2.33", "number", "cell-formula"),
        ("1E5,192.0.2.33", "number", "cell-rounded"),
        ("03 ,192.0.2.33", "number", "cell-blanks"),
    ],
)
def test_a_wrong_row_is_told_with_its_column(tmp_path, row, heading, rule):
    _, notes = judged(tmp_path, f"{GOOD}{row}\n")
    found = [one for one in notes if one[2] in (rule, "name-form")]
    assert any(one[0] == 3 and one[3] == 4 and one[1] in (heading, None) for one in found), notes
    assert {one[0] for one in notes} == {3}


def test_usual_values_count_where_a_cell_is_empty_and_gateways_are_judged_with_the_address(tmp_path):
    table = "number,address,gateway\n01,192.0.2.31,\n02,198.51.100.9,\n03,198.51.100.10,198.51.100.1\n"
    good, notes = judged(tmp_path, table)
    assert good == ["lmr-gate-01", "lmr-gate-03"]
    assert {(one[0], one[2]) for one in notes} == {(2, "gateway-outside")}


def test_columns_choose_the_variant_and_the_name_and_others_are_told(tmp_path):
    table = "number,address,variant,machine,colour,serial\n01,192.0.2.31,quiet,one,red,7\n02,192.0.2.32,,two,red,7\n"
    good, notes = judged(tmp_path, table)
    assert (good, notes) == (["one"], [(2, "serial", "machine-twice", 3), (None, "colour", "column-unasked", 1)])
    good, notes = judged(tmp_path, table.replace(",7\n", ",\n"), unique=("colour",))
    assert notes == [(2, "colour", "machine-twice", 3)]
    good, notes = judged(tmp_path, table.replace(",quiet,", ",loud,"), pass_over=("colour", "serial"))
    assert notes[0][:3] == (1, None, "row-refused")
    good, notes = judged(tmp_path, "number,address,draft\n01,192.0.2.31,../gate.toml\n")
    assert notes[0][:3] == (1, None, "row-refused")


@settings(max_examples=15)
@given(
    st.lists(
        st.tuples(
            st.integers(1, 99),
            st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs")), min_size=1).map(str.strip),
        ),
        max_size=4,
    )
)
def test_a_row_comes_to_the_very_bytes_that_writing_it_alone_gives(tmp_path_factory, rows):
    work = tmp_path_factory.mktemp("roster")
    (work / "desk.toml").write_text(DESK, encoding="utf-8")
    table = "number,owner,hours\n" + "".join(
        f'{n},"{o.replace(chr(34), chr(34) * 2)}","{o}"\n' for n, o in rows if '"' not in o
    )
    (work / "t.csv").write_text(table, encoding="utf-8", newline="")
    main(
        [
            "roster",
            "write",
            "--route",
            "plain",
            str(work / "desk.toml"),
            str(work / "t.csv"),
            "--out",
            str(work / "all"),
            "--keep-going",
        ]
    )
    for number, owner in rows:
        fills = [
            one
            for name, value in (("number", number), ("owner", owner), ("hours", owner))
            for one in ("--fill", f"{name}={value}")
        ]
        alone = work / f"alone-{number}"
        status = main(["write", "--route", "plain", str(work / "desk.toml"), *fills, "--out", str(alone), "--replace"])
        made = work / "all" / f"LMR-DESK-{number}" / "unattend.xml"
        if made.exists() and [one for one, _ in rows].count(number) == 1:
            assert (status, made.read_bytes()) == (0, (alone / "unattend.xml").read_bytes())


def tree(folder: Path) -> dict[str, bytes]:
    return {one.relative_to(folder).as_posix(): one.read_bytes() for one in folder.rglob("*") if one.is_file()}


def test_writing_is_all_or_nothing_and_only_what_changed(program):
    program.file("gate.toml", GATE)
    program.file("t.csv", GOOD + "03,192.0.2.31\n")

    def write(*more, status=0):
        return program(
            "roster", "write", "--route", "plain", "gate.toml", "t.csv", *more, status=status, ROOT_PW="Heron-4-x"
        )

    out = program.folder / "out"
    assert "nothing was written; --keep-going" in write(status=1).stdout
    assert not out.exists()
    program.file("t.csv", GOOD)
    assert "not to be had" in program("roster", "write", "--route", "plain", "gate.toml", "t.csv", status=4).stderr
    assert not out.exists()
    assert "wrote 2 machines" in write().stdout
    first = tree(out)
    assert set(first) == {"lmr-gate-01/ks.cfg", "lmr-gate-02/ks.cfg", "manifest.jsonl", ".fairledger-written"}
    assert b"Heron" not in b"".join(first.values())
    assert (out / "lmr-gate-01/ks.cfg").stat().st_mode & 0o077 == 0
    assert "wrote 0 machines below out; 2 stayed" in write().stdout
    assert tree(out) == first
    (out / "lmr-gate-02/ks.cfg").write_text("by hand")
    assert "not as it was written last" in write(status=4).stderr
    assert "wrote 1 machine " in write("--replace").stdout
    assert tree(out) == first
    program.file("t.csv", GOOD.replace("02,", "03,"))
    assert "lmr-gate-02/ks.cfg" in write().stdout
    (out / "lmr-gate-02/mine.txt").write_text("mine")
    write("--prune")
    assert set(tree(out)) == set(first) - {"lmr-gate-02/ks.cfg"} | {"lmr-gate-03/ks.cfg", "lmr-gate-02/mine.txt"}
    program.file("t.csv", GOOD.replace("01,", "01,").replace("192.0.2.31", "192.0.2.41"))
    done = program("roster", "write", "--route", "plain", "gate.toml", "t.csv", "lmr-gate-02", ROOT_PW="Heron-4-x")
    assert "wrote 1 machine " in done.stdout
    rows = [json.loads(line) for line in (out / "manifest.jsonl").read_text().splitlines()]
    assert [(row["machine"], row["row"]) for row in rows] == [
        ("lmr-gate-01", 1),
        ("lmr-gate-02", 2),
        ("lmr-gate-03", 2),
    ]


def test_a_manifests_digest_tells_nothing_of_a_password(program):
    program.file("gate.toml", GATE)
    program.file("t.csv", GOOD)
    digests = []
    for secret in ("Heron-4-x", "Heron-5-y"):
        program("roster", "write", "--route", "plain", "gate.toml", "t.csv", "--replace", ROOT_PW=secret)
        text = (program.folder / "out/manifest.jsonl").read_text()
        digests.append(re.findall(r'"sha256": "(\w+)"', text))
    assert digests[0] == digests[1]


def test_nothing_is_written_through_a_link_or_out_of_the_folder(program):
    program.file("gate.toml", GATE.replace("lmr-gate-${number}", "${number}"))
    program.file("t.csv", "number,address\n..,192.0.2.31\n")
    assert (
        "begins with a dot"
        in program("roster", "write", "--route", "plain", "gate.toml", "t.csv", status=1, ROOT_PW="x").stdout
    )
    program.file("t.csv", "number,address\na,192.0.2.31\n")
    (program.folder / "elsewhere").mkdir()
    (program.folder / "out").mkdir()
    (program.folder / "out/a").symlink_to(program.folder / "elsewhere")
    assert (
        "leads out of it"
        in program("roster", "write", "--route", "plain", "gate.toml", "t.csv", status=4, ROOT_PW="x").stderr
    )
    assert tree(program.folder / "elsewhere") == {}


def test_what_the_commands_tell(program):
    program.file("gate.toml", GATE)
    program(
        "roster",
        "new",
        "t.csv",
        "--for",
        "gate.toml",
        "--pattern",
        "lmr-gate-{07..09}",
        "--count-up",
        "address=192.0.2.7",
    )
    assert (program.folder / "t.csv").read_text().splitlines()[:2] == ["number,address", "07,192.0.2.7"]
    told = json.loads(program("roster", "check", "gate.toml", "t.csv", "--format", "json").stdout)
    assert (told["command"], told["rows"], told["machines"], told["errors"]) == ("roster", 3, 3, 0)
    assert all({"rule", "message", "row", "heading"} <= set(one) for one in told["findings"])
    shown = program("roster", "show", "gate.toml", "t.csv", "lmr-gate-08").stdout
    assert re.search(r"address +192\.0\.2\.8\n +column address; stands in network/--ip", shown)
    assert re.search(r"gateway +192\.0\.2\.1\n +usual value, gate.toml, line 5", shown)
    assert "no machine 'lmr-gate-8'" in program("roster", "show", "gate.toml", "t.csv", "lmr-gate-8", status=2).stderr


def test_a_password_is_hashed_for_the_account_of_the_very_row(tmp_path, monkeypatch):
    monkeypatch.setenv("ROOT_PW", "Heron-4-x")
    draft, table = tmp_path / "g.toml", tmp_path / "t.csv"
    draft.write_text(GATE.replace("[account.administrator]", '[[account.local]]\nname = "${user}"'))
    table.write_text("number,address,user\n01,192.0.2.31,anna\n02,192.0.2.32,bert\n")
    assert main(["roster", "write", "--route", "plain", str(draft), str(table), "--out", str(tmp_path / "all")]) == 0
    for number, address, user in (("01", "192.0.2.31", "anna"), ("02", "192.0.2.32", "bert")):
        fills = [f"number={number}", f"address={address}", f"user={user}"]
        line = ["write", "--route", "plain", str(draft), *(one for fill in fills for one in ("--fill", fill))]
        assert main([*line, "--out", str(tmp_path / "alone"), "--replace"]) == 0
        made = (tmp_path / "all" / f"lmr-gate-{number}" / "ks.cfg").read_bytes()
        assert made == (tmp_path / "alone/ks.cfg").read_bytes()


def test_a_column_that_fills_a_secret_is_told_and_never_shown(program):
    program.file("gate.toml", GATE.replace('{ env = "ROOT_PW" }', '"${pw}"'))
    table = program.file("t.csv", "number,address,pw\n01,192.0.2.31,=Heron-4-x\n02,192.0.2.32,=Heron-4-x\n")
    table.chmod(0o644)
    lines = ["check gate.toml t.csv --unique pw", "show gate.toml t.csv lmr-gate-01", "write gate.toml t.csv"]
    lines += [f"{line} --format json" for line in lines]
    lines = [line.replace("write ", "write --route plain ") for line in lines]
    for line in lines:
        done = program.any("roster", *line.split())
        assert "Heron" not in done.stdout + done.stderr
        assert "others may read the table" in done.stdout or line.startswith("show")
    written = (program.folder / "out/manifest.jsonl").read_text() + (
        program.folder / "out/.fairledger-written"
    ).read_text()
    assert "Heron" not in written
    table.chmod(0o600)
    assert "others may" not in program.any("roster", *lines[0].split()).stdout
    program.file("gate.toml", GATE.replace('"el-9"', '"el-99"').replace('{ env = "ROOT_PW" }', '"${pw}"'))
    told = program.any("roster", "check", "gate.toml", "t.csv")
    assert "Heron" not in told.stdout + told.stderr, "nobody knows what its columns fill"


def test_a_roster_asks_once_on_which_way_its_files_go(program):
    program.file("gate.toml", GATE)
    program.file("t.csv", "number,address\n01,192.0.2.31\n02,192.0.2.32\n")
    told = program("roster", "write", "gate.toml", "t.csv", status=2, ROOT_PW="Heron-4-x").stderr
    assert told.count("nobody says on which way") == 1
    assert "boot-parameter" in told
    assert not (program.folder / "out").exists()
    program("roster", "check", "gate.toml", "t.csv")
    program("set", "gate.toml", "draft.route=share")
    program("roster", "write", "gate.toml", "t.csv", ROOT_PW="Heron-4-x")


def test_files_that_a_roster_wrote_lead_back_to_it_and_others_are_left_out(program):
    draft = GATE.replace("[locale]", '[answers.setup.syspurpose]\n"--role" = "${role}-x"\n[locale]')
    program.file("gate.toml", draft)
    table = 'number,address,role\n01,192.0.2.31,"a, b"\n02,192.0.2.32,c\n'
    program.file("t.csv", table)
    program("roster", "write", "--route", "plain", "gate.toml", "t.csv", ROOT_PW="Heron-4-x")
    files = [f"out/lmr-gate-{at}/ks.cfg" for at in ("01", "02")]
    done = program("roster", "gather", "gate.toml", *files, "--out", "again.csv")
    assert "2 of 2 files became rows" in done.stdout
    assert "whether their passwords" in done.stdout
    heads, *rows = (line for line in (program.folder / "again.csv").read_text().splitlines())
    assert sorted(heads.split(",")) == ["address", "number", "role"]
    program("roster", "check", "gate.toml", "again.csv")
    assert len(rows) == 2
    first, second = (program.folder / name for name in files)
    first.write_text(first.read_text().replace("Etc/UTC", "Europe/Paris"))
    second.write_text(second.read_text().replace("192.0.2.32", "=192.0.2.32"))
    done = program("roster", "gather", "gate.toml", *files, "no.ks", "--out", "b.csv", "--format", "json", status=1)
    told = json.loads(done.stdout)
    assert told["written"] is None
    assert [bool(one["trouble"]) for one in told["files"]] == [True, True, True]
    assert told["files"][0]["differences"]
    assert not (program.folder / "b.csv").exists()


def test_what_no_file_can_carry_is_told_of_its_row_before_anything_is_written(program):
    program.file("desk.toml", DESK.replace("[identity]", '[values]\nolder = "x"\n[identity]'))
    program.file("t.csv", "number,owner,hours\n1,a,9 to 5\n2,b,9 \x07 5\nmanifest.jsonl,c,\n")
    done = program("roster", "check", "desk.toml", "t.csv", "--format", "json", status=1)
    found = {(one["row"], one["rule"]) for one in json.loads(done.stdout)["findings"]}
    assert {(2, "character-forbidden"), (3, "placeholder-unfilled"), (None, "value-unused")} <= found
    assert (1, "value-unused") not in found


def test_machines_whose_name_stands_nowhere_are_told_apart_by_their_files(tmp_path):
    draft = GATE.replace('name = "lmr-gate-${number}"', 'name = "lmr"').replace("${address}/24", "192.0.2.9/24")
    _, notes = judged(tmp_path, "machine,number\none,1\ntwo,2\n", draft, pass_over=("number",))
    assert (2, None, "machine-twice", 3) in notes
    _, notes = judged(tmp_path, "machine,number,address\nManifest.JSONL,1,192.0.2.9\n", GATE)
    assert [one[2] for one in notes] == ["machine-name"]


def test_a_script_that_is_called_no_more_goes_with_the_file_that_called_it(program):
    program.file("desk.toml", DESK.replace('body = "cmd', 'body = "echo one\\ncmd'))
    program.file("t.csv", "number,owner,hours\n1,a,9 to 5\n")
    program("roster", "write", "--route", "plain", "desk.toml", "t.csv")
    before = set(tree(program.folder / "out"))
    program.file("desk.toml", DESK)
    told = program("roster", "write", "--route", "plain", "desk.toml", "t.csv").stdout
    gone = before - set(tree(program.folder / "out"))
    assert len(gone) == 1
    assert f"took away, which only the replaced files called: {gone.pop()}" in re.sub(r"\s+", " ", told)
    assert "left the table" not in told


def test_a_variant_is_made_of_what_a_file_says_otherwise_and_writes_that_file(program):
    program.file("gate.toml", GATE)
    program.file("t.csv", GOOD + "03,192.0.2.33\n")
    program("roster", "write", "--route", "plain", "gate.toml", "t.csv", ROOT_PW="Heron-4-x")
    files = [program.folder / f"out/lmr-gate-{at}/ks.cfg" for at in ("01", "02", "03")]
    for path in files[1:]:
        path.write_text(path.read_text().replace("Etc/UTC", "Europe/Oslo") + "\nskipx\n")
    files[2].write_text(files[2].read_text().replace("--name=", "--oops="))
    said = [path.read_text() for path in files]
    names = [str(path) for path in files]
    done = program("roster", "gather", "gate.toml", *names, "--out", "g.csv", "--variant-for", "oslo")
    assert "gate.toml has a variant oslo now, for 2 of them" in done.stdout
    assert "Heron" not in (program.folder / "gate.toml").read_text()
    assert (program.folder / "g.csv").read_text().splitlines()[0].split(",")[0] == "variant"
    program("roster", "write", "--route", "plain", "gate.toml", "g.csv", "--out", "again", ROOT_PW="Heron-4-x")
    for at, text in zip(("01", "02", "03"), said, strict=True):
        again = (program.folder / f"again/lmr-gate-{at}/ks.cfg").read_text()
        assert sorted(filter(None, again.splitlines())) == sorted(filter(None, text.splitlines()))
    # a name that is taken, and a draft that stays as it is where nothing is to be said
    before = (program.folder / "gate.toml").read_text()
    program("roster", "gather", "gate.toml", *names[:1], "--out", "h.csv", "--variant-for", "more")
    assert (program.folder / "gate.toml").read_text() == before
    files[0].write_text(said[0] + "\neula --agreed\n")
    told = program(
        "roster", "gather", "gate.toml", names[0], "--out", "i.csv", "--variant-for", "oslo", status=2
    ).stderr
    assert "has a variant 'oslo' already" in told


def test_a_draft_in_a_folder_of_its_own_has_its_own_secrets_as_when_it_is_written_alone(program):
    own = GATE.replace('{ env = "ROOT_PW" }', '{ file = "secrets/root.txt" }')
    for at, secret in ((".", "Heron-4-x"), ("hill", "Plover-5-y")):
        program.file(f"{at}/gate.toml", own)
        program.file(f"{at}/secrets/root.txt", secret)
        program.file(f"{at}/.fairledger-seed", ("1" if at == "." else "2") * 32)
    program.file("t.csv", "draft,number,address\n,01,192.0.2.31\nhill/gate.toml,02,192.0.2.32\n")
    program("roster", "write", "--route", "plain", "gate.toml", "t.csv", "--workers", "2")
    fill = ("--fill", "number=02", "--fill", "address=192.0.2.32")
    program("write", "--route", "plain", "hill/gate.toml", *fill, "--out", "alone")
    assert (program.folder / "out/lmr-gate-02/ks.cfg").read_bytes() == (program.folder / "alone/ks.cfg").read_bytes()


def test_rules_that_only_ask_for_single_values_are_run_again_where_one_has_something(tmp_path):
    draft = GATE.replace("[locale]", '[answers.setup.syspurpose]\n"--role" = "${role}"\n[locale]')
    table = "number,address,role\n01,192.0.2.31,a\n02,192.0.2.32,b\u200b\n03,192.0.2.33,c\n"
    _, notes = judged(tmp_path, table, draft)
    assert [(row, rule) for row, _, rule, _ in notes] == [(2, "characters-hidden")]


@pytest.mark.parametrize(
    ("reference", "cell", "fits"),
    [
        ("keys/${key}", "a", True),
        ("keys/${key}", "north/a", True),
        ("keys/${key}", "/a", True),  # below the folder all the same
        ("keys/${key}", "../a", False),
        ("keys/${key}", "north\\..\\..\\a", False),
        ("keys/${key}${key}", "..", True),  # "....", a name
        ("keys/.${key}/a", ".", False),
        ("${key}", "/etc/a", False),
        ("${key}", "~keeper/a", False),
        ("${key}", "C:a", False),
    ],
)
def test_a_filled_secrets_file_stays_in_its_folder(tmp_path, reference, cell, fits):
    draft = GATE.replace('{ env = "ROOT_PW" }', f'{{ file = "{reference}" }}')
    good, notes = judged(tmp_path, f"number,address,key\n01,192.0.2.31,{cell}\n", draft)
    assert bool(good) == fits
    assert fits or (1, "key", "value-refused", 2) in notes


def test_what_is_asked_for_is_the_same_for_all(tmp_path):
    draft = GATE.replace('{ env = "ROOT_PW" }', '{ env = "PW_${number}", ask = true }')
    assert judged(tmp_path, GOOD, draft)[1][0][2] == "row-refused"
