"""Opening: every kind of file becomes one value, or is refused with what would do instead."""

from __future__ import annotations

from pathlib import Path

import pytest

from factories import DESK, NOWHERE, rules_of, whole
from fairledger.catalog.own import own_catalog
from fairledger.checks.engine import check as checked
from fairledger.model.errors import ContentError, FileTroubleError, WrongUseError
from fairledger.model.facts import DiskFacts, Facts, machine
from fairledger.model.sheet import Block, Companion, Node, Sheet
from fairledger.model.values import SecretRef, SecretSource
from fairledger.profiles.resolve import Selection
from fairledger.subject.opening import Asked, is_draft, looked_at, opened, opened_answers, opened_draft
from fairledger.subject.settling import fetching, settled, with_companions
from fairledger.subject.subject import FileKind, Subject, with_sheet

FILES = Path(__file__).parents[1] / "checks" / "files"
PROFILE = 'format = 1\n[profile]\ntitle = "Desk disks"\n'
GATE = b"#version=RHEL9\nlang en_GB.UTF-8\nstrange\n"


def look(text: str, name: str = "desk.toml", **asked):
    return looked_at(NOWHERE / name, Asked(**asked), text.encode())


@pytest.mark.parametrize(
    ("data", "name", "drafted"),
    [
        (b"format = 1\n", "x", True),
        (b"\n  [draft]\n", "x.txt", True),
        (b"[profile]\n", "x.xml", True),
        (b"anything", "X.TOML", True),
        (b"<unattend/>", "x.xml", False),
        (b"# format = 1\nlang en_GB\n", "x.ks", False),
        (b"", "x", False),
    ],
)
def test_our_own_files_are_told_from_answer_files(data, name, drafted):
    assert is_draft(data, Path(name)) == drafted


def test_a_draft_knows_everything_of_itself():
    found = look(whole('[identity]\nowner = "Larkmoor"\n'))
    assert isinstance(found, Subject)
    assert (found.kind, found.whole, found.basis) == (FileKind.DRAFT, True, "stated")
    assert found.target is not None
    assert found.target.id == DESK
    assert found.facts.firmware == "uefi"
    assert found.intent.sections["identity"].owner == "Larkmoor"
    assert found.text.startswith("format = 1")
    assert found.file == str(NOWHERE / "desk.toml")


def test_an_answer_file_says_how_its_target_is_known():
    guessed = opened(NOWHERE / "gate.ks", data=GATE)
    assert guessed.target is not None
    assert guessed.target.family == "kickstart"
    assert guessed.basis not in ("", "stated")
    stated = opened(NOWHERE / "gate.ks", Asked(target="el-8"), GATE)
    assert stated.target is not None
    assert (stated.target.id, stated.basis) == ("el-8", "stated")
    assert "target-other" in [one.rule for one in stated.findings]
    assert "target-other" not in [one.rule for one in guessed.findings]
    unknown = opened(NOWHERE / "gate.ks", data=b"lang en_GB.UTF-8\n")
    assert (unknown.target, unknown.basis) == (None, "")


def test_a_profile_is_examined_and_never_taken_for_a_draft():
    found = look(PROFILE + '[identity]\nownr = "x"\n')
    assert (found.kind, isinstance(found, Subject)) == (FileKind.PROFILE, False)
    assert any("ownr" in one.message and one.line == 5 for one in found.findings)
    with pytest.raises(WrongUseError, match="this is a profile, not a draft") as caught:
        opened(NOWHERE / "disks.toml", data=PROFILE.encode())
    assert "draft that uses it" in str(caught.value.remedy)


@pytest.mark.parametrize(
    ("text", "known"),
    [
        ("format = 1\n[draft\n", False),
        ('format = 1\n[draft]\ntarget = "windows-12"\n', False),
        (whole('[identity]\nownr = "x"\n'), True),
        (whole("").replace("[draft]", '[draft]\nprofiles = ["none/such"]'), True),
    ],
)
def test_a_broken_draft_is_looked_at_but_nothing_is_made_of_it(text, known):
    found = look(text)
    assert found.findings
    assert isinstance(found, Subject) == known
    if isinstance(found, Subject):
        assert not found.whole
        assert found.sheet.blocks == ()
        assert found.catalog.target is found.target
    with pytest.raises(ContentError) as caught:
        opened(NOWHERE / "desk.toml", data=text.encode())
    assert all(one.line for one in caught.value.findings)


def test_what_is_not_meant_is_refused_with_the_way_on(tmp_path):
    (tmp_path / "gate.ks").write_bytes(GATE)
    (tmp_path / "desk.toml").write_text(whole(""))
    with pytest.raises(WrongUseError, match="this is no draft") as caught:
        opened_draft(tmp_path / "gate.ks")
    assert "fairledger adopt " in str(caught.value.remedy)
    with pytest.raises(WrongUseError, match="draft or a profile already"):
        opened_answers(tmp_path / "desk.toml")
    with pytest.raises(
        WrongUseError, match="file of the family kickstart, and the target windows-11-24h2 is of the family windows"
    ):
        opened(tmp_path / "gate.ks", Asked(target=DESK))
    with pytest.raises(WrongUseError, match="windows-12"):
        opened(tmp_path / "gate.ks", Asked(target="windows-12"))
    with pytest.raises(ContentError):
        opened(tmp_path / "x.xml", data=b"<unattend")
    with pytest.raises(FileTroubleError, match="no such file"):
        opened(tmp_path / "none.toml")
    assert opened_draft(tmp_path / "desk.toml").kind is FileKind.DRAFT
    assert opened_answers(tmp_path / "gate.ks").kind is FileKind.ANSWERS


def test_what_is_said_along_with_a_draft_counts_more_than_what_it_says():
    text = whole("").replace("[draft]", '[draft]\ndisk_size = "64 GiB"\narch = "arm64"')
    told = Facts(firmware="bios", disks=(DiskFacts(mib=1000),))
    assert look(text).facts == machine(arch="arm64", firmware="uefi", disk_mib=65536)
    found = look(text, facts=told)
    assert (found.facts.firmware, found.facts.disk_mib, found.facts.arch) == ("bios", 1000, "arm64")
    assert look(GATE.decode(), "gate.ks", facts=told).facts == told


def test_facts_lie_over_facts():
    low = Facts(arch="amd64", network=True, disks=(DiskFacts(mib=5),))
    high = Facts(arch="arm64", network=False, memory_mib=0)
    both = high.over(low)
    assert (both.arch, both.network, both.memory_mib, both.disk_mib) == ("arm64", False, 0, 5)
    assert Facts().over(low) == low.over(Facts()) == low
    assert (machine().disks, machine().disk_mib, Facts(disks=()).disk_mib) == (None, None, None)


def test_a_variant_and_a_catalog_beside_the_file_are_taken_in(tmp_path):
    text = whole('[identity]\nowner = "Larkmoor"\n[variant.west.identity]\nowner = "Larkmoor West"\n')
    west = looked_at(tmp_path / "desk.toml", Asked(selection=Selection(variant="west")), text.encode())
    assert west.intent.sections["identity"].owner == "Larkmoor West"
    (tmp_path / "catalog/kickstart").mkdir(parents=True)
    (tmp_path / "catalog/kickstart/strange.toml").write_text('name = "strange"\npasses = ["setup"]\nabout = "Ours."\n')
    path = tmp_path / "gate.ks"
    assert looked_at(path, Asked(own=own_catalog(tmp_path / "catalog")), GATE).catalog.component("strange") is not None
    assert looked_at(path, data=GATE).catalog.component("strange") is None
    gate = looked_at(tmp_path / "gate.toml", data=b'format = 1\n[draft]\ntarget = "el-9"\n')
    assert gate.catalog.component("strange") is not None
    assert "catalog-added" in rules_of(checked(gate))


def test_another_sheet_is_worked_out_anew():
    first = opened(FILES / "gate.ks")
    assert first.intent.sections
    bare = with_sheet(first, Sheet())
    assert bare.intent.sections == {}
    assert (bare.data, bare.target, bare.facts) == (first.data, first.target, first.facts)
    assert with_sheet(first, first.sheet, facts=machine(arch="arm64")).facts.arch == "arm64"
    first.let_go()
    assert first.intent.sections


SECRETS = """[account]
local = [{ name = "keeper", groups = ["Administrators"], password = { env = "STATION_PW" } }]
[identity]
name = "${station}"
"""


def test_settling_fetches_secrets_fills_blanks_and_keeps_what_it_cannot_have(monkeypatch):
    subject = look(whole(SECRETS))
    assert isinstance(subject, Subject)
    monkeypatch.delenv("STATION_PW", raising=False)
    closed = settled(subject)
    assert "STATION_PW" in repr(closed.sheet)
    monkeypatch.setenv("STATION_PW", "Heron-4-moor")
    assert "Heron-4-moor" in repr(settled(subject).sheet)
    assert "Heron-4-moor" not in repr(subject.sheet)
    assert "station" in repr(settled(subject).sheet)
    filled = settled(subject, filled=lambda value: "LMR-DESK-01" if "station" in repr(value) else value)
    assert "LMR-DESK-01" in repr(filled.sheet)
    assert settled(subject, lambda _: None).sheet == closed.sheet


def test_hashes_remember_what_they_hide():
    text = whole(SECRETS).replace(DESK, "el-9").replace('firmware = "uefi"\n', "")
    found = settled(look(text), lambda _: "Heron-4-moor")
    assert set(found.plains.values()) == {"Heron-4-moor"}
    assert all(hidden.startswith("$6$") for hidden in found.plains)
    assert "Heron-4-moor" not in repr(found.sheet)


def test_secrets_are_looked_for_beside_the_file(tmp_path):
    (tmp_path / "pw").write_text("Heron-4\n")
    ref = SecretRef(sources=(SecretSource(kind="file", name="pw"),))
    assert fetching(tmp_path)(ref) == "Heron-4"
    assert fetching(tmp_path / "elsewhere")(ref) is None


def test_scripts_beside_an_answer_file_belong_to_it(tmp_path):
    call = 'cmd.exe /c "for %d in (C D) do @if exist %d:\\fair-ledger\\1-end.cmd call %d:\\fair-ledger\\1-end.cmd"'
    command = Node("RunSynchronousCommand", None, (Node("Order", "1"), Node("Path", call)))
    block = Block("specialize", "Microsoft-Windows-Deployment", "amd64", (Node("RunSynchronous", None, (command,)),))
    subject = with_sheet(opened(tmp_path / "desk.xml", data=(FILES / "desk.xml").read_bytes()), Sheet((block,)))
    assert with_companions(subject) is subject
    script = tmp_path / "fair-ledger/1-end.cmd"
    script.parent.mkdir()
    script.write_bytes(b"\xff\xfe\xff")
    assert with_companions(subject).sheet.companions == ()
    script.write_bytes(b"echo 1\r\n")
    assert settled(subject).sheet.companions == (Companion("fair-ledger/1-end.cmd", "echo 1\n"),)
    drafted = look(whole(""))
    assert with_companions(drafted) is drafted
