"""What a release has not yet, or not any more: told where it stands, and silent where nothing is wrong."""

from __future__ import annotations

import json

import pytest

from factories import check, draft, rules_of
from fairledger.catalog.targets import all_targets
from fairledger.catalog.tools import tools
from fairledger.cli.disks import as_json


def found(fragment: str, rule: str) -> list[str]:
    return [one.message for one in check(fragment).findings if one.rule == rule]


COMMAND = '[draft]\ntarget = "{}"\n[[command]]\nwhen = "{}"\nbody = {}\n'


@pytest.mark.parametrize(
    ("target", "when", "body", "names"),
    [
        ("windows-7", "installed", 'powershell -Command "New-LocalUser x"', "New-LocalUser"),
        ("windows-10-1511", "installed", 'powershell -Command "Set-TimeZone UTC"', "Set-TimeZone"),
        ("windows-10-1607", "installed", 'powershell -Command "Set-TimeZone UTC"', ""),
        ("windows-11-24h2", "setup-starts", "powershell.exe -Command exit", "powershell.exe"),
        ("windows-11-24h2", "setup-starts", r"reg add HKLM\SOFTWARE\Microsoft\PowerShell\1 /f", ""),
        ("windows-7", "installed", "rem New-LocalUser is not here", ""),
        ("windows-7", "installed", "echo My-New-LocalUser-x", ""),
        ("el-7", "installed", "dnf install -y vim", "dnf"),
        ("el-9", "installed", "dnf install -y vim", ""),
    ],
)
def test_commands_that_a_release_does_not_have(target, when, body, names):
    told = found(COMMAND.format(target, when, json.dumps(body)), "command-not-there")
    assert [one.split(" has no ")[1].split()[0].rstrip(":,") for one in told] == ([names] if names else [])


def test_a_script_beside_the_file_is_looked_into():
    text = (
        COMMAND.format("windows-7", "installed", json.dumps("echo a\nSet-LocalUser x\n"))
        + 'interpreter = "powershell"\n'
    )
    (told,) = found(text, "command-not-there")
    assert "Set-LocalUser, which fair-ledger/1-installed.ps1 calls" in told


def test_the_table_of_tools_speaks_of_releases_that_exist():
    ids = {one.id for one in all_targets()}
    lines = {one.line for one in all_targets()}
    for one in tools().values():
        assert {*one.since, *one.until} <= ids
        assert {*one.lines} <= lines


@pytest.mark.parametrize(
    ("fragment", "parts"),
    [
        ('[draft]\ntarget = "windows-11-24h2"\nfirmware = "bios"\n', ["wants uefi firmware"]),
        ('[draft]\ntarget = "windows-11-24h2"\nfirmware = "bios"\n[bypass]\nsecure_boot = true\n', []),
        ('[draft]\ntarget = "windows-11-24h2"\ndisk_size = "40 GB"\n[bypass]\nstorage = true\n', []),
        ('[draft]\ntarget = "windows-10-22h2"\ndisk_size = "30 GB"\n', ["wants a disk of 30517 MiB"]),
        ('[draft]\ntarget = "windows-10-1809"\ndisk_size = "30 GB"\n', []),
        ('[draft]\ntarget = "esxi-7"\ndisk_size = "4 GB"\n', []),
    ],
)
def test_machines_below_what_the_vendor_publishes(fragment, parts):
    told = found(fragment, "machine-below-least")
    assert len(told) == len(parts)
    assert all(part in one for one, part in zip(told, parts, strict=True))


VOLUMES = """[draft]
target = "el-9"
[disk]
which = "sda"
fate = "wipe"
partition = [{ role = "boot", size = "1 GiB" }, { member = "pv.1", size = "rest" }, { member = "pv.2", size = "1 GiB" }]
[[volume]]
name = "lmr"
members = ["pv.1"]
partition = [{ mount = "/", size = "20 GiB" }, { mount = "/srv", size = "10 GiB", grow = true }]
[[volume]]
name = "other"
members = ["pv.2", "pv.3"]
partition = [{ mount = "/x", size = "90 GiB" }]
"""


def test_the_smallest_disk_holds_what_is_put_into_its_volumes():
    (disk,) = as_json(draft(VOLUMES))
    # two partitions, the group's 30 GiB with its head, the table before them; of a group on other disks too, nothing
    assert disk["smallest_mib"] == 1024 + 1024 + 30 * 1024 + 4 + 1
    assert "bypass-aged" in rules_of(check('[draft]\ntarget = "windows-11-25h2"\n[bypass]\nnetwork = true\n'))
