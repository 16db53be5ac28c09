"""The library of profiles, and what they bring to a draft."""

from __future__ import annotations

import json
import re

import pytest

from factories import DESK

DRAFT = f"""format = 1
[draft]
target = "{DESK}"
firmware = "uefi"
title = "Observer desk"
profiles = ["locale/en-gb"]
[image]
edition = "Pro"
[disk]                       # the small disks of the huts
fate = "wipe"
[[disk.partition]]
role = "firmware"
size = "260 MiB"
[licence]
accept = true
[[disk.partition]]
role = "system"
size = "rest"                # all that is left
[account]
local = [{{ name = "observer", password = "Heron-4" }}]
[variant.bios.draft]
firmware = "bios"
"""


@pytest.fixture
def desk(program):
    program.file("desk.toml", DRAFT)
    return program


def test_the_library_is_listed_with_its_users(desk):
    desk.file("profiles/disk/broken.toml", "format = 1\n[profil]\n")
    told = desk("profile", "list").stdout
    assert "used by desk.toml" in told
    assert "has neither [draft] nor [profile]" in told
    rows = {one["name"]: one for one in json.loads(desk("profile", "list", "--format", "json").stdout)["profiles"]}
    assert rows["locale/en-gb"]["home"] == "shipped"
    assert rows["disk/broken"]["trouble"]
    assert "did you mean locale/en-gb" in desk("profile", "show", "locale/en-bg", status=2).stderr
    assert "neither" in desk("profile", "check", status=1).stdout
    desk("profile", "check", "locale/en-gb")


@pytest.mark.parametrize("section", ["disk", "account", "image"])
def test_a_section_becomes_a_profile_and_nothing_else_changes(desk, section):
    before = json.loads(desk("show", "desk.toml", "--format", "json").stdout)["answers"]
    desk("profile", "save", "desk.toml", "--section", section, "--as", f"{section}/hut")
    after = json.loads(desk("show", "desk.toml", "--format", "json").stdout)
    plain = [{name: one[name] for name in ("pass", "component", "setting", "value")} for one in before]
    key = lambda one: (one["pass"], one["component"], one["setting"])  # noqa: E731
    now = [{name: one[name] for name in ("pass", "component", "setting", "value")} for one in after["answers"]]
    assert sorted(now, key=key) == sorted(plain, key=key)
    assert f"{section}/hut" in after["profiles"]
    path = desk.folder / "profiles" / section / "hut.toml"
    assert ("Heron-4" in path.read_text()) == (section == "account")
    assert bool(path.stat().st_mode & 0o077) == (section != "account")
    told = desk("profile", "show", f"{section}/hut").stdout
    assert "Heron-4" not in told
    desk("profile", "check", f"{section}/hut")
    desk("profile", "save", "desk.toml", "--section", "licence", "--as", f"{section}/hut", status=4)
    assert (
        "no section 'disc'" in desk("profile", "save", "desk.toml", "--section", "disc", "--as", "a/b", status=2).stderr
    )
    assert (
        "cannot name" in desk("profile", "save", "desk.toml", "--section", "licence", "--as", "../b", status=2).stderr
    )


def test_show_tells_what_a_profile_brings(desk):
    told = desk("show", "desk.toml", "--changes", "locale/en-gb").stdout
    assert "+ UserLocale" in told
    assert "did you mean locale/en-gb" in desk("show", "desk.toml", "--changes", "locale/en-bg", status=2).stderr
    desk.file("profiles/account/first.toml", 'format = 1\n[profile]\n[account]\nlocal = [{ name = "observer" }]\n')
    told = desk("show", "desk.toml", "--with", "account/first", "--changes", "account/first").stdout
    assert "nothing that others do not say" in told
    assert "amd64, bios" in desk("show", "desk.toml", "--variant", "bios").stdout
    assert "BIOS" in desk("check", "desk.toml", "--variant", "bios", status=1).stdout


def test_disks_are_drawn_to_scale(desk):
    told = desk("show", "desk.toml", "--disk").stdout
    assert "it wants a disk of 20.3 GiB or more, with what the system itself needs" in told
    assert "| 1~|" in told, "260 MiB are too narrow to be drawn to scale"
    assert "the rest" in told
    rows = json.loads(desk("show", "desk.toml", "--disk", "--format", "json").stdout)["disks"]
    assert rows[0]["partitions"][0] == {"role": "firmware", "start_mib": 1, "size_mib": 260}
    desk("show", "desk.toml", "--figure", "pages/disk.svg")
    desk("show", "desk.toml", "--figure", "desk.toml/disk.svg", status=3)
    assert (desk.folder / "pages" / "disk.svg").read_text().startswith("<?xml")
    assert "names no figure" in desk("show", "desk.toml", "--figure", "disk.txt", status=2).stderr
    desk("set", "desk.toml", "draft.disk_size=100 MiB")
    assert "it does not fit" in desk("show", "desk.toml", "--disk").stdout
    desk.file("gate.toml", GROUPED)
    (told,) = desk.json("show", "gate.toml", "--disk")["disks"]
    assert [(one["name"], one["partitions"]) for one in told["inside"]] == [
        ("group station", [{"role": "system", "size_mib": 10240}, {"role": "data", "size_mib": 30720}])
    ]
    shown = desk("show", "gate.toml", "--disk").stdout
    system, data = re.search(r"\|(\.+1 system\.+)\|(\.+2 /srv\.+)\|", shown).groups()
    assert 2.8 < len(data) / len(system) < 3.2, "they are drawn to scale"
    desk.file("bare.toml", f'format = 1\n[draft]\ntarget = "{DESK}"\n')
    assert "lays out no disk" in desk("show", "bare.toml", "--disk", status=2).stderr


GROUPED = """format = 1
[draft]
target = "el-9"
disk_size = "40966 MiB"
[disk]
which = "sda"
fate = "wipe"
partition = [{ role = "data", member = "pv.01", grow = true }]
[[volume]]
name = "station"
kind = "group"
members = ["pv.01"]
partition = [{ role = "system", name = "root", size = "10 GiB" }, { role = "data", mount = "/srv", name = "srv", size = "30 GiB" }]
"""

COMMANDS = """
[[command]]
about = "Wind & weather"
body = "echo \\"a & b\\" > C:\\\\wind.txt\\r\\necho 100%% ^ é | more"
[[command]]
interpreter = "powershell"
fill = true
body = "Write-Host '${hut} é'"
[[command]]
when = "sign-in"\nrun_as = "each-account"
body = "cmd /c echo 'hello' > %TEMP%\\\\x"
"""


def test_scripts_lie_beside_the_answer_file_and_secrets_can_stay_out(desk):
    path = desk.folder / "desk.toml"
    path.write_text(path.read_text().partition("[variant")[0] + COMMANDS, encoding="utf-8")
    told = desk("write", "desk.toml", "--route", "stick", "--fill", "hut=Tarn", "--without-secrets").stdout
    assert "for reading, not for installing" in told
    text = (desk.folder / "out/autounattend.xml").read_text()
    assert "Heron-4" not in text
    assert "left-out" in text
    assert "fair-ledger\\1-installed.cmd" in text
    assert "cmd /c echo '+[char]39+'hello'+[char]39+' &gt; '+[char]37+'TEMP'+[char]37+'\\x" in text
    script = (desk.folder / "out/fair-ledger/1-installed.cmd").read_bytes()
    assert script == '@chcp 65001 >nul\r\necho "a & b" > C:\\wind.txt\r\necho 100%% ^ é | more\r\n'.encode()
    assert (
        desk.folder / "out/fair-ledger/2-installed.ps1"
    ).read_bytes() == b"\xef\xbb\xbf" + "Write-Host 'Tarn é'\r\n".encode()
    assert "a script beside the answer file" in desk("show", "desk.toml").stdout
    assert (
        "the placeholder ${hut}"
        in desk("write", "--route", "plain", "desk.toml", "--out", "o", "--without-secrets", status=1).stdout
    )


def test_an_upgrade_gets_its_commands_in_a_file(desk):
    path = desk.folder / "desk.toml"
    path.write_text(path.read_text() + "[bypass]\nsecurity_chip = true\nprocessor = true\nmemory = true\n")
    done = desk("write", "desk.toml", "--for-upgrade")
    script = (desk.folder / "out" / "before-upgrade.cmd").read_bytes()
    assert script.count(b"AllowUpgradesWithUnsupportedTPMOrCPU") == 1
    assert b"\r\n" in script
    assert "bypass.memory for an upgrade" in done.stdout + done.stderr
    desk("write", "desk.toml", "--for-upgrade", status=4)
    desk("unset", "desk.toml", "bypass.security_chip", "bypass.processor")
    assert "nothing in the draft can be brought about" in desk("write", "desk.toml", "--for-upgrade", status=2).stderr


def test_the_figure_shows_before_and_after(desk):
    before = 'disk_size = "256 GB"\ndisk_before = [{ role = "system", size = "180 GiB", label = "Old" }]\nprofiles'
    desk.file("desk.toml", DRAFT.replace("profiles", before, 1))
    shown = desk("show", "desk.toml", "--disk").stdout
    assert shown.index("before: the disk as described") < shown.index("Old") < shown.index("after: disk 0, wiped")
    desk("show", "desk.toml", "--figure", "disk.svg")
    assert desk.folder.joinpath("disk.svg").stat().st_size > 1000


def test_all_problems_of_a_draft_come_in_one_go(program):
    program.file("desk.toml", DRAFT.replace('"uefi"', '"efi"').replace("260 MiB", "12 GBs").replace("en-gb", "en-gx"))
    told = program("check", "desk.toml", status=1).stdout
    assert all(one in told for one in ("draft.firmware", "12 GBs", "locale/en-gx"))


def test_profiles_are_added_and_dropped_all_or_none_and_comments_stay(desk):
    before = (desk.folder / "desk.toml").read_text()
    wrong = desk("profile", "add", "desk.toml", "bypass/older-hardware", "bypass/nothing", status=2).stderr
    assert "there is no profile 'bypass/nothing'" in wrong
    assert (desk.folder / "desk.toml").read_text() == before
    done = desk("profile", "add", "desk.toml", "bypass/older-hardware", "locale/en-gb").stdout
    assert "desk.toml builds on bypass/older-hardware now" in done
    assert "desk.toml builds on locale/en-gb already" in done
    after = (desk.folder / "desk.toml").read_text()
    assert after == before.replace('["locale/en-gb"]', '["locale/en-gb", "bypass/older-hardware"]')
    assert "does not name" in desk("profile", "drop", "desk.toml", "disk/ask", status=2).stderr
    desk("profile", "drop", "desk.toml", "bypass/older-hardware")
    assert (desk.folder / "desk.toml").read_text() == before


@pytest.mark.parametrize(("name", "near"), [("uefi", "disk/uefi-one-disk"), ("bypass/old", "bypass/older-hardware")])
def test_start_has_the_nearest_profiles(program, name, near):
    told = program("start", "new.toml", "--target", DESK, "--profile", name, status=2).stderr
    assert near in told


def test_what_a_profile_brings_is_told_by_what_an_item_is_not_by_its_place(desk):
    more = """
[[command]]
name = "first"
when = "installed"
body = 'cmd /c mkdir C:\\stations'
[profile]
title = "A folder"
"""
    desk.file("profiles/command/folder.toml", "format = 1\n" + more)
    own = '[[command]]\nname = "own"\nwhen = "installed"\nbody = "cmd /c echo own"\n'
    desk.file("desk.toml", DRAFT.replace('["locale/en-gb"]', '["command/folder"]') + own)
    told = desk.json("show", "desk.toml", "--changes", "command/folder")["answers"]
    assert [one["after"] for one in told if one["setting"].endswith("Path")] == ["cmd /c mkdir C:\\stations"]
    assert all(one["before"] is None for one in told)
