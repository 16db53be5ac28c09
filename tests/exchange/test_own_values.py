"""What belongs to one machine is found, and becomes placeholders with a roster's first row."""

from __future__ import annotations

from pathlib import Path

import pytest

from factories import settled_file
from fairledger.exchange.adopt import Manner, adopt
from fairledger.exchange.deposit import deposit
from fairledger.model.errors import RefusedError

FILES = Path(__file__).parents[1] / "checks" / "files"
HEAD = "#version=RHEL9\n"
STATIC = "network --device={} --bootproto=static --ip=192.0.2.{} --netmask=255.255.255.0\n"


def rows(text: str) -> dict[str, str]:
    path = Path("nowhere/x.ks")
    return {
        row.name: row.value for row in adopt((HEAD + text).encode(), path, Path("nowhere/x.toml"), Manner(True)).own
    }


@pytest.mark.parametrize(
    ("text", "own"),
    [
        ("lang en_GB.UTF-8\n", {}),
        ("network --hostname=lmr-gate-03\n", {"name": "lmr-gate-03"}),
        (STATIC.format("eno1", 30), {"address": "192.0.2.30"}),
        (STATIC.format("eno1", 30) + STATIC.format("eno2", 31), {"address": "192.0.2.30", "address_2": "192.0.2.31"}),
        (
            "network --device=52:54:00:aa:bb:cc --bootproto=dhcp\n",
            {"hardware": "52:54:00:aa:bb:cc"},
        ),
        (
            "network --device=eno1 --bootproto=dhcp --ipv6=2001:db8::30/64\n",
            {"ipv6": "2001:db8::30"},
        ),
        ("network --device=eno1 --bootproto=dhcp --ipv6=auto\n", {}),
        ("ignoredisk --only-use=sda\nclearpart --all --drives=sda\n", {}),
        (
            "ignoredisk --only-use=disk/by-id/wwn-0x5000\nclearpart --all --drives=disk/by-id/wwn-0x5000\n",
            {"disk": "disk/by-id/wwn-0x5000"},
        ),
    ],
)
def test_values_of_one_machine(text, own):
    assert rows(text) == own


def test_values_of_the_machine_are_found_wherever_they_stand():
    text = (FILES / "disks.xml").read_text(encoding="utf-8").replace("192.0.2.21", "lmr-files-02")
    text = text.replace("</InputLocale>", "</InputLocale><LayeredDriver>LMR-FILES-02</LayeredDriver>", 1)
    text = text.replace("UTC<", "LMR-FILES-021<")
    made = adopt(text.encode(), Path("x.xml"), Path("nowhere/x.toml"), Manner(True))
    assert [(row.path.rpartition(":")[2], row.stays) for row in made.own] == [
        ("identity.name", False),
        ("command.0.body", True),
        ("Microsoft-Windows-International-Core-WinPE/LayeredDriver", True),
    ]
    lines = made.text.splitlines()
    marked = [lines[at + 1] for at, line in enumerate(lines) if "this machine's own" in line]
    assert [line.partition(" = ")[0] for line in marked] == ["body", "LayeredDriver"]
    signed_in = (
        (FILES / "desk.xml")
        .read_text(encoding="utf-8")
        .replace("<AutoLogon>", "<AutoLogon><Domain>LMR-DESK-01</Domain>")
    )
    made = adopt(signed_in.encode(), Path("x.xml"), Path("nowhere/x.toml"), Manner(True))
    assert 'domain = "${name}"' in made.text


def test_nothing_is_written_where_one_file_is_in_the_way(tmp_path):
    text = HEAD + "rootpw Heron-4\nnetwork --hostname=lmr-gate-03\n"
    made = adopt(text.encode(), Path("x.ks"), tmp_path / "x.toml", Manner(True))
    assert "Heron-4" not in made.text
    (tmp_path / "x.csv").write_text("mine")
    with pytest.raises(RefusedError):
        deposit(made, tmp_path / "x.toml", parameters=True, replace=False)
    assert [path.name for path in tmp_path.iterdir()] == ["x.csv"]
    written = deposit(made, tmp_path / "x.toml", parameters=True, replace=True)
    assert [path.name for path in written] == ["x.toml", "x-rootpw.txt", "x.csv"]
    assert (tmp_path / "x.csv").read_text() == "name\nlmr-gate-03\n"


@pytest.mark.parametrize("name", sorted(one.name for one in FILES.iterdir()))
def test_every_good_file_is_adopted_without_loss(name):
    path = FILES / name
    made = adopt(path.read_bytes(), path, Path("nowhere/x.toml"), Manner())
    assert made.kept_apart == ()
    assert made.sections or name == "audit.xml"  # which leaves all to a person


def test_comments_keep_no_secret_and_direct_answers_are_marked_too():
    text = (
        HEAD
        + "# root has Heron-4-moor\nrootpw Heron-4-moor\n"
        + STATIC.format("eno1", 30)
        + "network --device=eno1 --bootproto=dhcp --notksdevice\n"
    )
    made = adopt(text.encode(), Path("x.ks"), Path("nowhere/x.toml"), Manner())
    assert "Heron" not in made.text
    assert "# root has (hidden)" in made.text
    address = [row for row in made.own if row.name == "address"]
    assert address
    assert made.text.count("this machine's own") == len({row.path for row in made.own})


def test_settings_that_nobody_knows_are_hidden_by_their_names():
    from fairledger.events.story import story_of

    side = settled_file(f"{HEAD}strange --adminpassword=Heron-4 --thing=1\n".encode(), Path("x.ks"))
    whole = str(story_of(side))
    assert "Heron" not in whole
    assert "--thing = 1" in whole
