"""Writing: what stands against it, what is put in last, who may read it, and what is recorded of it."""

from __future__ import annotations

import json
import os
import re
import stat
from hashlib import sha256
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from factories import HEAD, draft, issue, rules_of, whole
from fairledger import __version__
from fairledger.checks.engine import findings_of, in_order
from fairledger.delivery.prepare import LEFT_OUT, prepare
from fairledger.families.windows.passwords import encode
from fairledger.model.errors import ContentError, RefusedError, WrongUseError
from fairledger.model.values import SecretRef, fill
from fairledger.profiles.secrets import Secrets
from fairledger.subject.opening import opened
from fairledger.subject.subject import with_sheet

ACCOUNT = '[account]\nlocal = [{ name = "observer", password = { env = "DESK_PW" } }]\n'


def issued(fragment: str, folder: Path, **asked):
    return issue(draft(fragment), folder / "out", Secrets(folder), **asked)


def test_a_file_with_secrets_is_its_owners_alone(tmp_path, monkeypatch):
    monkeypatch.setenv("DESK_PW", "Heron-4")
    made, done = issued(ACCOUNT, tmp_path)
    path = Path(done.files[0].where)
    assert done.files[0].private
    assert "protects nothing" in made.hiding
    assert encode("Heron-4", "Password") in path.read_text()
    if os.name == "posix":
        assert stat.S_IMODE(path.stat().st_mode) == 0o600
    made, done = issued('[identity]\nowner = "Larkmoor"\n', tmp_path, route="stick")
    assert (done.files[0].private, made.hiding) == (False, "")
    if os.name == "posix":
        assert stat.S_IMODE(Path(done.files[0].where).stat().st_mode) & 0o044


@pytest.mark.parametrize(
    ("fragment", "values", "rule"),
    [
        ('[locale]\nlanguage = "en-UK"\n', {}, "language-unknown"),
        ('[identity]\nname = "LMR-${n}"\n', {}, "placeholder-unfilled"),
        ('[identity]\nname = "LMR-${n}"\n', {"n": "1", "m": "2"}, "placeholder-unknown"),
        ('[identity]\nname = "LMR-${n}"\n', {"n": "a b"}, "machine-name"),
        ('[account]\nlocal = [{ name = "a", password = { file = "${n}.txt" } }]\n', {}, "placeholder-unfilled"),
    ],
)
def test_with_errors_nothing_is_written(tmp_path, fragment, values, rule):
    made, done = issued(fragment, tmp_path, values=values)
    assert rule in rules_of(made.report)
    assert (done, made.files) == (None, ())
    assert not (tmp_path / "out").exists()


def test_secrets_by_machine_are_found_when_their_names_are_filled(tmp_path):
    (tmp_path / "07.txt").write_text("Plover-9\n")
    fragment = '[account]\nlocal = [{ name = "a", password = { file = "${n}.txt" } }]\n'
    made, _ = issued(fragment, tmp_path, values={"n": "07"})
    assert encode("Plover-9", "Password") in made.files[0].data.decode()


def test_what_is_refused_leaves_nothing_behind(tmp_path, monkeypatch):
    monkeypatch.delenv("DESK_PW", raising=False)
    with pytest.raises(RefusedError, match="the password of observer"):
        issued(ACCOUNT, tmp_path)
    monkeypatch.setenv("DESK_PW", "bad\x01")
    issued(ACCOUNT, tmp_path)  # encoded, any character is allowed
    with pytest.raises(WrongUseError, match="no route 'stik'"):
        issued(ACCOUNT, tmp_path, route="stik")
    with pytest.raises(ContentError, match="cannot carry"):
        issued('[identity]\nowner = "${o}"\n', tmp_path, values={"o": "a\x01"}, replace=True)
    assert [path.name for path in (tmp_path / "out").iterdir()] == ["unattend.xml"]


SCRIPT = '[[command]]\nwhen = "installed"\ninterpreter = "powershell"\nfill = true\nbody = "echo ${n}"\n'


def test_a_script_in_the_way_keeps_all_from_being_written(tmp_path):
    made, done = issued(SCRIPT, tmp_path / "a", values={"n": "7"})
    script = Path(done.files[1].where).relative_to(tmp_path / "a" / "out")
    assert (made.files[1].role, b"echo 7\r\n" in made.files[1].data) == ("script", True)
    (tmp_path / "out" / script.parent).mkdir(parents=True)
    (tmp_path / "out" / script).write_text("mine")
    with pytest.raises(RefusedError, match="exists already"):
        issued(SCRIPT, tmp_path, values={"n": "7"})
    assert [one.name for one in (tmp_path / "out").rglob("*") if one.is_file()] == [script.name]


def test_the_record_tells_what_the_machine_got_and_from_what(tmp_path):
    (tmp_path / "profiles" / "locale").mkdir(parents=True)
    profile = tmp_path / "profiles" / "locale" / "larkmoor.toml"
    profile.write_text('format = 1\n[profile]\ntitle = "x"\n[locale]\ntime_zone = "Europe/Lisbon"\n')
    head = HEAD + 'profiles = ["locale/larkmoor"]\n[[silence]]\nrule = "machine-name"\nbecause = "for fun"\n'
    path = tmp_path / "desk.toml"
    path.write_text(whole('[identity]\nname = "LMR-${n}"\n', head))
    _, done = issue(opened(path), tmp_path / "out", Secrets(tmp_path), values={"n": "DESK-07"}, route="stick")
    assert (done.machine, done.target, done.route.name) == ("LMR-DESK-07", "windows-11-24h2", "stick")
    assert done.sources == tuple((str(one), sha256(one.read_bytes()).hexdigest()) for one in (path, profile))
    assert done.files[0].digest == sha256((tmp_path / "out" / "autounattend.xml").read_bytes()).hexdigest()
    assert [one.because for one in done.silences] == ["for fun"]
    assert (done.version, done.variant) == (__version__, "")


VALUES = st.dictionaries(
    st.sampled_from(["n", "zone", "card", "ip", "gateway", "disk", "size", "name", "pw", "line"]),
    st.sampled_from(
        ["7", "", "Europe/Lisbon", "192.0.2.30/24", "9 GiB", "a b", "Ä&<\">'\\", "keeper", "reg add HKLM\\x", "lmr-03"]
    ),
)
OPEN = """
[identity]
name = "LMR-${n}"
owner = "${name}"
[locale]
language = "en-GB"
time_zone = "${zone}"
[[disk]]
fate = "wipe"
partition = [{ role = "firmware", size = "1 GiB" }, { role = "system", size = "${size}" }]
[account]
local = [{ name = "${name}", groups = ["Administrators"], password = { file = "${pw}.txt" } }, { name = "keeper" }]
[[network.interface]]
name = "${card}"
method = "static"
gateway = "${gateway}"
address = "${ip}"
[[command]]
when = "installed"
body = "${line}"
fill = true
[[command]]
when = "installed"
body = "echo one\\necho ${n}"
fill = true
"""


@pytest.mark.parametrize("target", ["windows-11-24h2", "windows-server-2022", "el-9", "fedora-43", "esxi-8"])
@given(rows=st.lists(VALUES, min_size=1, max_size=3))
def test_a_prepared_draft_says_of_each_machine_what_it_would_say_of_a_draft_for_that_alone(target, rows):
    subject = draft(f'[draft]\ntarget = "{target}"\n{OPEN}')
    prepared = prepare(subject, "plain", without_secrets=True, stamp=False)
    for row in rows:
        values = {name: value for name, value in row.items() if name in prepared.blanks}
        try:
            sheet = filled_in(subject.sheet, values)
        except ValueError as error:
            with pytest.raises(ContentError, match=re.escape(str(error))):
                prepared.filled(values)
            continue
        found = prepared.judged_with(prepared.filled(values), ())[0]
        assert found == in_order([*subject.findings, *findings_of(with_sheet(prepared.draft, sheet))])
        if not sheet.blanks():
            assert written(prepared.casts, values) == whole_file(subject, sheet)


def filled_in(sheet, values):
    return sheet.map_values(lambda _block, _way, value: fill(value, values))


def written(casts, values):
    try:
        return casts[0].whole(lambda hole: str(fill(hole.value, values)))
    except ContentError as error:
        return str(error)


def whole_file(subject, sheet):
    shown = sheet.map_values(lambda _block, _way, value: LEFT_OUT if isinstance(value, SecretRef) else value)
    try:
        return subject.family.write(shown, subject.target)
    except ContentError as error:
        return str(error)


def test_most_rules_need_not_run_again(tmp_path):
    prepared = prepare(draft('[identity]\nname = "LMR-${n}"\n'), "plain")
    assert "machine-name" in prepared.rules_left
    assert len(prepared.rules_left) < 30


@pytest.mark.parametrize("target", ["windows-7", "windows-server-2022", "el-8", "fedora-42", "esxi-8", "esx-4"])
@pytest.mark.parametrize("title", ["Gate", "", "a --> <b/> -- c-", "two\nlines", "\u202e: x"])
def test_a_written_file_says_for_which_release_it_is(target, title, tmp_path):
    head = f"[draft]\ntarget = '{target}'\ntitle = {json.dumps(title)}\n"
    subject = draft(head + "[locale]\nlanguage = 'en-GB'\ntime_zone = 'UTC'\n")
    made = prepare(subject, "plain").casts[0].whole(lambda hole: str(hole.value))
    again = opened(tmp_path / ("x.xml" if made.startswith(b"<") else "x.ks"), data=made)
    assert (again.target.id, again.basis != "stated") == (target, True)
    assert again.sheet.bare() == opened(tmp_path / "y.ks", data=unstamped(subject)).sheet.bare()
    assert b"answers for" not in unstamped(subject)
    assert sum(line.startswith((b"#", b"<!--")) for line in made.splitlines()) <= 2


def unstamped(subject) -> bytes:
    return prepare(subject, "plain", stamp=False).casts[0].whole(lambda hole: str(hole.value))
