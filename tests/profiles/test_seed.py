"""Salts come from the project's seed and the account, never from what is hashed."""

from __future__ import annotations

import hashlib
import os
import re

import pytest

from factories import draft, issue
from fairledger.families.kickstart.hashes import hashed
from fairledger.model.errors import RefusedError, WrongUseError
from fairledger.profiles.hashes import hash_fits
from fairledger.profiles.secrets import Secrets
from fairledger.profiles.seed import NAME, Seeds, salt_of

SEED, OTHER = "0123456789abcdef" * 2, "f" * 32
PEOPLE = """[draft]
target = "el-9"
[identity]
name = "${{name}}"
[locale]
language = "en-GB"
time_zone = "UTC"
[disk]
fate = "wipe"
plan = {{}}
[account]
local = [{{ name = "keeper", groups = ["wheel"], password = {{ file = "{0}.txt" }} }}, {{ name = "night", password = {{ file = "{0}.txt" }} }}]
"""


def hashes(folder, seeds: Seeds, machine: str = "lmr-gate-03", source: str = "one") -> list[str]:
    """The hashes that the accounts of a machine get."""
    secrets = Secrets(folder, None, seeds)
    subject = draft(PEOPLE.format(source))
    made, _ = issue(subject, folder / "out", secrets, overwrite=True, values={"name": machine})
    assert made.files, made.report.findings
    return [one.strip('"') for one in re.findall(r"--password=(\S+)", made.files[0].data.decode())]


def salts(found: list[str]) -> list[str]:
    return [one.split("$")[2] for one in found]


@pytest.fixture
def folder(tmp_path):
    (tmp_path / "one.txt").write_text("Heron-4-moor\n")
    (tmp_path / "two.txt").write_text("Plover-9-fell\n")
    return tmp_path


def test_a_salt_tells_nothing_of_the_secret(folder):
    one, two = (hashes(folder, Seeds(folder, SEED), source=source) for source in ("one", "two"))
    assert one != two
    assert salts(one) == salts(two) == [salt_of(SEED, "keeper"), salt_of(SEED, "night")]
    assert hashes(folder, Seeds(folder, SEED)) == one
    assert hash_fits("Heron-4-moor", one[0])
    assert salts(hashes(folder, Seeds(folder, OTHER))) != salts(one)
    assert re.fullmatch(r"[./0-9A-Za-z]{16}", salt_of(SEED, "keeper"))


def test_machines_share_a_hash_unless_each_is_to_have_its_own(folder):
    one, other = (hashes(folder, Seeds(folder, SEED), machine) for machine in ("lmr-gate-03", "lmr-gate-04"))
    assert one == other
    own = [hashes(folder, Seeds(folder, SEED, own_salt=True), machine) for machine in ("lmr-gate-03", "lmr-gate-04")]
    assert own[0] != own[1]


def test_the_nearest_seed_upwards_counts_and_one_is_made_where_there_is_none(folder):
    below = folder / "stations" / "hill"
    below.mkdir(parents=True)
    (folder / NAME).write_text(f"{SEED}\n")
    seeds = Seeds(below)
    assert (seeds.salt("keeper"), seeds.made) == (salt_of(SEED, "keeper"), None)
    (below.parent / NAME).write_text(OTHER)
    assert Seeds(below).salt("keeper") == salt_of(OTHER, "keeper")
    (folder / NAME).unlink()
    (below.parent / NAME).unlink()
    first = Seeds(below)
    salt = first.salt("keeper")
    assert first.made == below / NAME
    assert Seeds(below).salt("keeper") == salt
    assert re.fullmatch("[0-9a-f]{32}\n", (below / NAME).read_text())


def test_what_is_no_seed_is_refused(folder):
    (folder / NAME).write_text("letmein\n")
    with pytest.raises(RefusedError, match="no seed of 32 hex digits"):
        Seeds(folder).salt("keeper")
    with pytest.raises(WrongUseError, match="'letmein' is no seed"):
        Seeds(folder, "letmein")


@pytest.mark.skipif(os.name != "posix" or os.geteuid() == 0, reason="root writes everywhere")
def test_a_folder_that_takes_none_names_the_way(folder):
    folder.chmod(0o500)
    try:
        with pytest.raises(RefusedError, match="none can be put here") as caught:
            Seeds(folder).salt("keeper")
    finally:
        folder.chmod(0o700)
    assert re.search("--seed [0-9a-f]{32}", caught.value.remedy)


def test_a_draft_that_needs_no_hash_needs_no_seed(folder):
    issue(draft('[draft]\ntarget = "el-9"\n[locale]\ntime_zone = "UTC"\n'), folder / "out", Secrets(folder))
    assert not (folder / NAME).exists()


def test_the_boot_loader_gets_a_hash_of_its_own_form():
    made = hashed("Heron-4-moor", "bootloader", salt_of(SEED, "root"))
    *head, rounds, grains, told = made.split(".")
    assert head == ["grub", "pbkdf2", "sha512"]
    again = hashlib.pbkdf2_hmac("sha512", b"Heron-4-moor", bytes.fromhex(grains), int(rounds), 64)
    assert told == again.hex().upper()
