"""Writing: what stands against it, what is put in last, and who may read it."""

from __future__ import annotations

import os
import stat

import pytest

from factories import draft, rules_of
from fairledger.delivery.issue import issue
from fairledger.families.windows.passwords import encode
from fairledger.model.errors import ContentError, RefusedError, WrongUseError
from fairledger.profiles.secrets import Secrets

ACCOUNT = '[account]\nlocal = [{ name = "observer", password = { env = "DESK_PW" } }]\n'


def issued(fragment: str, folder, **options):
    chosen = {"route": "plain", "values": {}, "replace": False, **options}
    return issue(draft(fragment), folder / "out", secrets=Secrets(folder), **chosen)


def test_a_file_with_secrets_is_its_owners_alone(tmp_path, monkeypatch):
    monkeypatch.setenv("DESK_PW", "Heron-4")
    done = issued(ACCOUNT, tmp_path)
    assert done.secret
    assert "protects nothing" in done.hiding
    assert encode("Heron-4", "Password") in done.path.read_text()
    if os.name == "posix":
        assert stat.S_IMODE(done.path.stat().st_mode) == 0o600
    plain = issued('[identity]\nowner = "Larkmoor"\n', tmp_path, route="stick")
    assert (plain.secret, plain.hiding) == (False, "")
    if os.name == "posix":
        assert stat.S_IMODE(plain.path.stat().st_mode) & 0o044


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
    done = issued(fragment, tmp_path, values=values)
    assert rule in rules_of(done.report)
    assert done.path is None
    assert not (tmp_path / "out").exists()


def test_secrets_by_machine_are_found_when_their_names_are_filled(tmp_path):
    (tmp_path / "07.txt").write_text("Plover-9\n")
    fragment = '[account]\nlocal = [{ name = "a", password = { file = "${n}.txt" } }]\n'
    done = issued(fragment, tmp_path, values={"n": "07"})
    assert encode("Plover-9", "Password") in done.path.read_text()


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
