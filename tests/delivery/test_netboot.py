"""Machines that start from the network: each gets its own file, by its hardware address, and no other."""

from __future__ import annotations

import json

import pytest
from installers import NEEDS_MAKERS, linux_disc

from factories import GATE, WIPING, whole
from fairledger.media.booting import entries_in

URL = "http://192.0.2.10/larkmoor"
NETWORK = '[[network.interface]]\nname = "{}"\nmethod = "dhcp"\n'
TABLE = "number,mac\n03,02:00:00:AA:bb:03\n04,0200.00aa.bb04\n"


@NEEDS_MAKERS
def test_each_machine_of_a_roster_is_told_its_own_file_by_either_firmware(program):
    at = program.folder
    (at / "t.csv").write_text(TABLE)
    program.file("gates.toml", GATE.format("lmr-gate-${number}"))
    linux_disc(at / "el9.iso", extra={"images/pxeboot/initrd.img": b"i" * 700})
    to = ("deliver", "gates.toml", "--roster", "t.csv", "--to", "network:srv", "--from", "el9.iso", "--server", URL)
    plan = json.loads(program(*to, "--dry-run", "--format", "json").stdout)
    assert (plan["wipes"], plan["delivered"], len(plan["plan"])) == (["disk sda"], False, 8)
    assert not (at / "srv").exists()
    program(*to, status=4)
    program(*to, "--wipes", "disk sda")
    for number in ("03", "04"):
        answers = f"{URL}/answers/lmr-gate-{number}/ks.cfg"
        grub = (at / f"srv/grub.cfg-01-02-00-00-aa-bb-{number}").read_bytes()
        (entry,) = entries_in("grub.cfg", grub)
        assert (entry.title, entry.answers) == (f"lmr-gate-{number}", answers)
        old = (at / f"srv/pxelinux.cfg/01-02-00-00-aa-bb-{number}").read_bytes()
        assert [one.answers for one in entries_in("syslinux.cfg", old)] == [answers]
        text = (at / f"srv/answers/lmr-gate-{number}/ks.cfg").read_text()
        assert f"lmr-gate-{number}" in text
    assert (at / "srv/el-9/initrd.img").read_bytes() == b"i" * 700
    assert (at / "srv/el-9/vmlinuz").read_bytes() == b"k" * 9000
    assert "wrote what serves 2 machines" in program(*to, "--wipes", "disk sda").stdout
    held = ("deliver", "gates.toml", "--roster", "t.csv", "--to", "network:held", "--server", URL, "--hold")
    program(*held)
    assert sorted(one.name for one in (at / "held").iterdir()) == ["answers"]


@pytest.mark.parametrize(
    ("table", "more", "status", "says"),
    [
        ("number\n03\n", (), 4, "the hardware address of lmr-gate-03: a column mac"),
        (TABLE, ("--server", "http://a b/"), 2, "is no address"),
        (TABLE, ("--server", "http://x/'}\nmenuentry"), 2, "is no address"),
        ("number,mac\n03,zz\n", (), 2, "row 1: 'zz' is no hardware address"),
        ("number,mac\n03,020000aabb03\n04,02-00-00-aa-bb-03\n", (), 4, "two files would go to one place"),
        ("number,mac\na b,020000aabb03\n", (), 1, "holds what a name cannot"),
    ],
)
def test_rosters_that_name_no_machine_for_sure_put_nothing_there(program, table, more, status, says):
    (program.folder / "t.csv").write_text(table)
    program.file("gates.toml", GATE.format("lmr-gate-${number}"))
    given = more or ("--server", URL)
    to = ("deliver", "gates.toml", "--roster", "t.csv", "--to", "network:srv", "--wipes", "disk sda", *given)
    done = program.any(*to)
    assert says in " ".join((done.stderr + done.stdout).split())
    assert done.returncode == status
    assert not (program.folder / "srv").exists()


def test_one_machine_by_the_name_of_its_interface_and_none_without(program):
    program.file("gate.toml", GATE.format("lmr-gate-03") + NETWORK.format("02:00:00:aa:bb:03"))
    to = ("--to", "network:srv", "--server", URL, "--wipes", "disk sda")
    told = program("deliver", "gate.toml", *to, COLUMNS="200").stdout
    assert "el-9/vmlinuz must stand there: --from DISC.iso brings it" in told
    assert (program.folder / "srv/pxelinux.cfg/01-02-00-00-aa-bb-03").is_file()
    program.file("other.toml", GATE.format("lmr-gate-04") + NETWORK.format("eno1"))
    assert "hardware address of lmr-gate-04" in program("deliver", "other.toml", *to, status=4).stderr
    program.file("desk.toml", whole(WIPING))
    assert "not delivered to network" in program("deliver", "desk.toml", *to, status=2).stderr


def test_a_deployment_server_gets_a_file_for_all_or_one_for_each(program):
    program.file("desk.toml", whole(WIPING))
    told = program("deliver", "desk.toml", "--to", "deployment:store", status=3)
    assert "no such folder" in told.stderr
    (program.folder / "store").mkdir()
    told = program("deliver", "desk.toml", "--to", "deployment:store", COLUMNS="200").stdout
    assert "/WDSUnattend /Policy:Enabled /File:WDSClientUnattend\\unattend.xml" in told
    assert (program.folder / "store/WDSClientUnattend/unattend.xml").is_file()
    program.file("desks.toml", whole(WIPING).replace("LMR-DESK-01", "LMR-DESK-${number}"))
    (program.folder / "t.csv").write_text(TABLE)
    to = ("deliver", "desks.toml", "--roster", "t.csv", "--to", "deployment:store", "--wipes", "disk 0")
    then = json.loads(program(*to, "--format", "json").stdout)["then"]
    line = "wdsutil /Add-Device /Device:LMR-DESK-04 /ID:02-00-00-AA-BB-04 /WDSClientUnattend:WDSClientUnattend"
    assert then[3] == f"{line}\\LMR-DESK-04.xml"
    assert (program.folder / "store/WDSClientUnattend/LMR-DESK-04.xml").is_file()
