"""The reference of portable fields: found by plain words, explained, with examples that can be pasted."""

from __future__ import annotations

import shlex

import pytest

from factories import DESK
from fairledger.authoring.change import set_in
from fairledger.catalog.meant import target_named
from fairledger.families.reference import fitting, named, reference
from fairledger.model.errors import WrongUseError

WIRELESS = (
    '[[network.interface]]\nname = "wlp2s0"\nssid = "larkmoor"\nwifi_key = { env = "KEY" }\n[[file]]\nsource = "a"\n'
)
NEWEST = "windows-11-25h2"
WHAT_PEOPLE_SAY = {
    "TPM": "bypass.security_chip",
    "the page that asks for the network at first start": "bypass.network",
    "remove apps": "apps.remove",
    "auto logon": "account.sign_in.account",
    "remote desktop": "remote.desktop",
    "RDP": "remote.desktop",
    "NRO": "bypass.network",
    "UAC": "protection.account_control",
    "wifi password": "network.interface.wifi_key",
    "computer name": "identity.name",
    "static ip": "network.interface.address",
    "time zone": "locale.time_zone",
}


@pytest.mark.parametrize(("words", "path"), WHAT_PEOPLE_SAY.items())
def test_what_people_say_finds_the_field_first(words, path):
    assert fitting(words, target_named(DESK))[0].item.path == path


def test_a_page_of_the_first_start_is_found_by_its_abbreviation():
    assert {one.item.path for one in fitting("OOBE", target_named(DESK))} >= {"start.licence", "bypass.online_account"}


def test_a_field_is_not_offered_to_a_target_that_has_no_use_for_it():
    assert [one.item.path for one in fitting("TPM", target_named("el-9"))] == []


def test_every_example_can_be_set_in_a_new_draft(tmp_path):
    """Some in one draft for each target: what one field wants of another is not asked while setting."""
    targets = {target: tmp_path / f"{target}.toml" for target in (DESK, "windows-server-2025", "el-9", "esxi-8")}
    for target, path in targets.items():
        path.write_text(f'format = 1\n[draft]\ntarget = "{target}"\n{WIRELESS}', encoding="utf-8")
    rows: dict[tuple[str, str], list[str]] = {}
    for field in reference().values():
        target = next((one for one in targets if one in field.held), DESK)
        if not field.path.startswith("own."):  # of files that stand beside the draft
            rows.setdefault((target, field.path.partition(".")[0]), []).append(field.example)
    for (target, _), lines in rows.items():
        before = targets[target].read_bytes()
        try:
            assert set_in(targets[target], lines), lines
        except WrongUseError:  # some do not go together; each must go by itself
            for line in lines:
                assert set_in(targets[target], [line]), line
                targets[target].write_bytes(before)
        targets[target].write_bytes(before)


def test_what_a_field_comes_to_is_told_for_each_family():
    role = reference()["disk.partition.role"]
    assert any("CreatePartition/Type = EFI" in line for line in role.made[NEWEST])
    assert any(line == "setup: part/mountpoint = /boot/efi" for line in role.made["el-10"])
    network = reference()["bypass.network"]
    assert any("BypassNRO" in line for line in network.made[NEWEST])
    assert "el-10" not in network.made


def test_a_misspelt_field_has_its_neighbours_and_a_section_has_its_fields():
    assert {one.path for one in named("bypass")} >= {"bypass.network", "bypass.memory"}
    assert [one.path for one in named("disk.partition[system].size")] == ["disk.partition.size"]
    with pytest.raises(WrongUseError, match=r"'disk.partition.rool'") as caught:
        named("disk.partition.rool")
    assert "disk.partition.role" in caught.value.remedy


def test_find_and_about_say_it_at_the_terminal(program):
    found = program.json("find", "windows-11", "TPM")
    first = found["results"][0]
    assert (first["component"], first["passes"], first["path"]) == (None, [], "bypass.security_chip")
    example = shlex.split(first["example"])
    program("start", "desk.toml", "--target", "windows-11")
    program("set", "desk.toml", *example)
    told = program("about", "disk.partition.role").stdout
    assert "receives the system" in told
    assert "Type = EFI" in told
    assert "not for Enterprise Linux 9" in program("about", "el9", "bypass.network").stdout
    wrong = program("about", "TimeZone", status=2).stderr
    assert "fairledger about TARGET TimeZone" in wrong
    assert program("find", "el-9", "zzyzzy", status=1).stdout == "nothing fits 'zzyzzy'\n"
