"""Targets as people call them."""

from __future__ import annotations

import pytest

from fairledger.catalog.meant import likely, supported, target_meant, target_named
from fairledger.catalog.targets import all_targets
from fairledger.model.errors import WrongUseError

DAY = "2026-11-28"


@pytest.mark.parametrize(
    ("name", "target"),
    [
        ("windows-11", "windows-11-25h2"),
        ("win11", "windows-11-25h2"),
        ("25h2", "windows-11-25h2"),
        ("windows-10", "windows-10-22h2"),
        ("el9", "el-9"),
        ("rhel-9", "el-9"),
        ("Rocky 9", "el-9"),
        ("server2022", "windows-server-2022"),
        ("server2012", "windows-server-2012"),
        ("Windows Server 2012 R2", "windows-server-2012-r2"),
        ("esxi", "esxi-8"),
        ("fedora", "fedora-43"),
    ],
)
def test_a_line_means_its_newest_supported_release(name, target):
    assert target_meant(name, DAY).id == target


@pytest.mark.parametrize("target", all_targets(), ids=lambda one: one.id)
def test_ids_and_the_vendors_names_mean_themselves(target):
    assert target_meant(target.id, DAY) is target
    assert target_meant(target.name, DAY) is target


def test_the_day_decides_what_is_supported():
    assert target_meant("windows-11", "2020-01-01").id == "windows-11-25h2"
    assert not supported(target_named("windows-10-22h2"), DAY)
    assert supported(target_named("windows-10-22h2"), "2025-10-14")
    assert supported(target_named("windows-10-21h2"), DAY), "its long-term edition is"


@pytest.mark.parametrize(
    ("name", "first"),
    [("windows", "windows-11-25h2"), ("8", "esxi-8"), ("el-11", "el-10"), ("windwos-11-25h2", "windows-11-25h2")],
)
def test_what_is_not_clear_is_refused_with_the_likeliest(name, first):
    with pytest.raises(WrongUseError) as caught:
        target_meant(name, DAY)
    assert likely(name, DAY)[0] == first
    assert len(caught.value.remedy.split(" or ")) <= 3


def test_a_draft_says_the_release_itself(program):
    program.file("desk.toml", 'format = 1\n[draft]\ntarget = "windows-11"\n')
    told = program("check", "desk.toml", status=1).stdout
    assert "did you mean windows-11-25h2" in told


def test_the_meaning_is_said_aloud_and_old_releases_are_listed_when_asked(program):
    done = program("start", "desk.toml", "--target", "win10")
    assert done.stderr == "win10 means windows-10-22h2, Windows 10, version 22H2 (its support has ended)\n"
    assert 'target = "windows-10-22h2"' in (program.folder / "desk.toml").read_text()
    listed = program("targets").stdout
    assert "windows-7" not in listed
    assert listed.index("windows-11-25h2") < listed.index("windows-server-2022")
    assert "windows-7 " in program("targets", "--all").stdout
