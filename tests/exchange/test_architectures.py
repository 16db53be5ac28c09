"""One file for machines of several architectures: written once, checked once, taken up as one."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from factories import check, check_answers, made, rules_of, settled_file
from fairledger.exchange.adopt import Manner, adopt
from fairledger.exchange.compare import compare

HEAD = '[draft]\ntarget = "windows-10-22h2"\nfirmware = "uefi"\narch = {}\n'
DESK = (
    '[identity]\nname = "LMR-DESK-01"\n[image]\nedition = "Pro"\n[licence]\naccept = true\n'
    '[disk]\nwhich = 0\nfate = "wipe"\npartition = [{ role = "firmware", size = "300 MiB" }, { role = "reserved", size = "16 MiB" }, '
    '{ role = "system", size = "rest", letter = "C" }]\n'
)
OLDER = '[answers.specialize."Microsoft-Windows-TapiSetup@x86".LocationProfile]\nAreaCode = 7\n'


def components(text: str) -> list[str]:
    return re.findall(r'processorArchitecture="(\w+)"', text)


def test_components_stand_once_for_each_architecture():
    both = made(HEAD.format('["amd64", "x86"]') + DESK)
    one = made(HEAD.format('"amd64"') + DESK)
    assert components(one) == ["amd64"] * 2
    assert sorted(components(both)) == ["amd64", "amd64", "x86", "x86"]
    assert both.count("<Letter>C</Letter>") == 2
    alone = made(HEAD.format('["amd64", "x86"]') + DESK + OLDER)
    assert components(alone).count("x86") == components(alone).count("amd64") + 1


def test_they_are_checked_and_compared_as_one(tmp_path):
    both = made(HEAD.format('["amd64", "x86"]') + DESK)
    assert rules_of(check_answers(both, "desk.xml")) == ["disk-wiped"]
    assert rules_of(check(HEAD.format('["amd64", "x86"]') + DESK)) == ["disk-wiped"]
    changed = both.replace("LMR-DESK-01", "LMR-DESK-02", 1)
    sides = [settled_file(text, tmp_path / "desk.xml") for text in (both, changed)]
    assert compare(sides[0], sides[0]).verdict == "same answers"
    assert [(one.a, one.b) for one in compare(*sides).differences] == [("LMR-DESK-01", "LMR-DESK-02")]


@pytest.mark.parametrize(("alike", "arch"), [(True, 'arch = ["amd64", "x86"]'), (False, "")])
def test_they_are_taken_up_as_one_where_they_are_one(tmp_path, alike, arch):
    both = made(HEAD.format('["amd64", "x86"]') + DESK)
    text = both if alike else both.replace("LMR-DESK-01", "LMR-DESK-02", 1)
    done = adopt(text.encode(), Path("desk.xml"), tmp_path / "desk.toml", Manner())
    assert arch in done.text
    assert ("@x86" in done.text) != alike
    assert done.kept_apart == ()
    (tmp_path / "desk.toml").write_text(done.text)


@pytest.mark.parametrize(
    ("head", "told"),
    [
        (HEAD.format('["amd64", "arm46"]'), "does not exist for 'arm46'"),
        ('[draft]\ntarget = "el-9"\narch = ["x86_64", "aarch64"]\n', "is for one kind of machine"),
    ],
)
def test_what_cannot_be_one_file_is_said(head, told):
    assert any(told in one.message for one in check(head).findings)
