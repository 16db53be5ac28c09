"""What people read of media: the most important first, nothing cut, and what nobody knows said as that."""

from __future__ import annotations

import json
import shutil

import pytest

from fairledger.cli.commands.demo import examples_folder

STATIONS = examples_folder() / "stations"
TREE = "[general]\nfamily = Red Hat Enterprise Linux\nversion = 9.4\narch = x86_64\n"
REPOMD = '<repomd xmlns="http://linux.duke.edu/metadata/repo"><data type="group"><location href="repodata/c.xml"/></data></repomd>'
GROUPS = "".join(f"<group><id>group-{at:02d}</id></group>" for at in range(12))


@pytest.fixture
def stations(program):
    """The example's media in the program's folder."""
    shutil.copytree(STATIONS / "media", program.folder / "media")
    return program


def test_facts_of_each_example_are_read_as_their_media_would_be(stations):
    desk = stations("medium", "media/desk.toml").stdout.splitlines()
    assert desk[0] == "facts of larkmoor-desk-24h2.iso  disc, label LMR_DESK_24H2"
    assert desk[1] == "  Windows 11, version 24H2 or Windows 11, version 25H2, build 26100.1742, amd64"
    assert desk[2:5] == [
        "  1  Windows 11 Home  Home  en-GB",
        "  2  Windows 11 Pro   Pro   en-GB  looked into",
        "  starts        BIOS and UEFI",
    ]
    told = json.loads(stations("medium", "media/desk.toml", "--format", "json").stdout)
    assert (told["system"]["target"], told["system"]["candidates"]) == (None, ["windows-11-24h2", "windows-11-25h2"])
    assert (told["too_large"], told["entries"], told["system"]["key_on_medium"]) == (None, None, None)
    assert told["held"][0]["image"] == 2
    assert {one["component"] for one in told["held"][0]["components"]}.isdisjoint(told["held"][0]["lacking"])
    gate = stations("medium", "media/gate.toml").stdout
    assert "  environments  2: minimal-environment, server-product-environment" in gate
    assert "  packages      10" in gate
    assert (
        "answers       Autounattend.xml: the installer takes it by itself"
        in stations("medium", "media/server.toml").stdout
    )


def test_lacking_components_are_those_that_the_release_has(stations):
    told = json.loads(stations("medium", "media/desk.toml", "--format", "json").stdout)["held"][0]["lacking"]
    shown = stations("medium", "media/desk.toml").stdout
    assert "Microsoft-Windows-ServerManager-SvrMgrNc" in told
    assert "ServerManager" not in shown
    assert "lacking       none" in shown


def test_a_tree_is_told_in_a_few_lines(program):
    for name, text in {
        ".treeinfo": TREE,
        "repodata/repomd.xml": REPOMD,
        "repodata/c.xml": f"<comps>{GROUPS}</comps>",
        "Packages/vim-1-1.x86_64.rpm": "",
    }.items():
        path = program.folder / "disc" / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text)
    told = program("medium", "disc", COLUMNS="200").stdout
    assert "carries   1 package in the repository its top folder" in told
    assert "group-07 and 4 more" in told
    assert json.loads(program("medium", "disc", "--format", "json").stdout)["tree"]["packages"] == 1
    (program.folder / "disc" / "repodata" / "repomd.xml").unlink()
    (program.folder / "disc" / "Packages" / "vim-1-1.x86_64.rpm").unlink()
    assert "no packages: they come from the network" in program("medium", "disc").stdout


@pytest.mark.parametrize(
    ("line", "status", "says"),
    [
        ("medium", 2, "no medium is named"),
        ("medium media/desk.toml --replace", 2, "--replace replaces nothing"),
        ("medium media/desk.toml --index 1 --facts a.toml", 2, "these facts do not tell what image 1 holds"),
        ("medium media/desk.toml --index 9 --facts a.toml", 2, "has no image 9"),
        ("medium media/desk.toml --facts media/gate.toml", 4, "exists already"),
        ("values app", 2, "only a medium has a list of apps"),
        ("values keyboard --medium media/desk.toml", 2, "no medium has a list of keyboards"),
        ("check media/desk.toml", 1, "neither [draft] nor [profile]"),
        ("start a.toml --medium media/gate.toml --edition Pro", 2, "edition"),
        ("start a.toml --medium media/desk.toml --target el-9", 2, "the medium does not install Enterprise Linux 9"),
        ("start a.toml --medium media/desk.toml --target windows-11-24h2 --arch arm64", 2, "for amd64, not for arm64"),
    ],
)
def test_what_is_asked_wrongly_is_one_line(stations, line, status, says):
    done = stations(*line.split(), status=status)
    assert says in done.stderr + done.stdout
    assert not (stations.folder / "a.toml").exists()


def test_searching_tells_of_each_component_whether_the_image_has_it(stations):
    found = json.loads(
        stations(
            "find", "windows-11-24h2", "owner", "--medium", "media/desk.toml", "--index", "2", "--format", "json"
        ).stdout
    )
    assert {one["on_medium"] for one in found["results"] if one["component"]} == {True}
    none = stations("find", "windows-server-2025", "internet", "home", "page", "--medium", "media/server.toml").stdout
    assert "not in the image on larkmoor-server-2025.iso" in none
    unknown = stations("about", "windows-11-24h2", "Shell-Setup", "--medium", "media/gate.toml").stdout
    assert "nobody knows whether larkmoor-gate-9.iso has it" in unknown
    about = json.loads(
        stations("about", "windows-server-2025", "IE-ESC", "--medium", "media/server.toml", "--format", "json").stdout
    )
    assert {one["on_medium"] for one in about["settings"]} == {False}
    assert stations("values", "feature", "hyper", "--medium", "media/desk.toml").stdout == "Microsoft-Hyper-V-All\n"
    assert (
        "no feature on larkmoor-desk-24h2.iso fits 'zzz'"
        in stations("values", "feature", "zzz", "--medium", "media/desk.toml", status=1).stdout
    )


def test_sums_of_some_files_say_nothing_of_the_others(program):
    disc = program.folder / "disc"
    disc.mkdir()
    (disc / "a.txt").write_text("abc")
    (disc / "b.txt").write_text("not summed")
    (disc / "md5sum.txt").write_text("900150983cd24fb0d6963f7d28e17f72  ./a.txt\n")
    told = program("medium", "disc", "--sums").stdout
    assert told.startswith("one sum holds: the files that they are of were copied well; of others nobody knows it")
    (disc / "a.txt").write_text("abd")
    assert "1 of 1 sums do not hold" in program("medium", "disc", "--sums", status=1).stdout
