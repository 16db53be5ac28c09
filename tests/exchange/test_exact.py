"""Answers held against answers: each place where two files do not say the same, and none where they do."""

from __future__ import annotations

from pathlib import Path

import pytest

from factories import settled_file
from fairledger.exchange.exact import Side, matched, told_apart
from fairledger.exchange.weighing import Weighing

HEAD = "#version=RHEL9\n"
XML = (
    '<unattend xmlns="urn:schemas-microsoft-com:unattend" xmlns:wcm="http://schemas.microsoft.com/WMIConfig/2002/State">'
    '<settings pass="oobeSystem"><component name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" '
    'publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">{}</component></settings></unattend>'
)
SHELL = "oobeSystem:Microsoft-Windows-Shell-Setup"
PEOPLE = "<UserAccounts><LocalAccounts>{}</LocalAccounts></UserAccounts>"
ONE = '<LocalAccount wcm:action="add"><Name>a</Name><Group>Users</Group></LocalAccount>'
TWO = '<LocalAccount wcm:action="add"><Name>b</Name><Group>Users</Group></LocalAccount>'
RUN = "<FirstLogonCommands>{}</FirstLogonCommands>"
LINE = '<SynchronousCommand wcm:action="add"><Order>{}</Order><CommandLine>{}</CommandLine></SynchronousCommand>'


def side(text: str) -> Side:
    whole = XML.format(text) if text.startswith("<") else HEAD + text
    one = settled_file(whole, Path("a.xml" if text.startswith("<") else "a.ks"))
    return Side(one.sheet, one.catalog, adds_up=one.family.adds_up)


@pytest.mark.parametrize(
    ("one", "other", "places"),
    [
        # order counts where the catalog says so, and where nothing names the items
        ("network --device=a\nnetwork --device=b\n", "network --device=b\nnetwork --device=a\n", ["setup:network"]),
        ("repo --name=a\nrepo --name=b\n", "repo --name=b\nrepo --name=a\n", []),
        ("%post\na\n%end\n%post\nb\n%end\n", "%post\nb\n%end\n%post\na\n%end\n", ["post:%post"]),
        ("lang en\nkeyboard gb\n", "keyboard gb\nlang en\n", []),
        # of commands that stand once each line counts, in its order; the last of several words wins
        ("bootloader --timeout=1\nbootloader --timeout=2\n", "bootloader --timeout=2\nbootloader --timeout=1\n",
         ["setup:bootloader"]),
        ("reboot\npoweroff\n", "poweroff\nreboot\n", ["setup:reboot", "setup:poweroff"]),
        ("reboot\n", "poweroff\n", ["setup:reboot", "setup:poweroff"]),
        # what is kept as it stands, and how a command is called
        ("%strange\na\n%end\n", "%strange\nb\n%end\n", ["what has no other form"]),
        ("part / --size=1\n", "partition / --size=1\n", ["setup:part"]),
        ("cdrom\n", "", ["setup:cdrom"]),
        # deep in groups the deepest place is told; named items stand in any order, numbered ones in that of their numbers
        ("<OOBE><HideEULAPage>true</HideEULAPage></OOBE>", "<OOBE><HideEULAPage>false</HideEULAPage></OOBE>",
         [f"{SHELL}/OOBE/HideEULAPage"]),
        (PEOPLE.format(ONE + TWO), PEOPLE.format(TWO + ONE), []),
        (PEOPLE.format(ONE + TWO), PEOPLE.format(ONE), [f"{SHELL}/UserAccounts/LocalAccounts/LocalAccount"]),
        (RUN.format(LINE.format(1, "x") + LINE.format(2, "y")), RUN.format(LINE.format(7, "y") + LINE.format(3, "x")), []),
        (RUN.format(LINE.format(1, "x") + LINE.format(2, "y")), RUN.format(LINE.format(1, "y") + LINE.format(2, "x")),
         [f"{SHELL}/FirstLogonCommands/SynchronousCommand"]),
    ],
)  # fmt: skip
def test_places_where_two_files_do_not_say_the_same(one, other, places):
    assert sorted(told_apart(side(one), side(other))) == sorted(places)
    assert sorted(told_apart(side(other), side(one))) == sorted(places)
    assert told_apart(side(one), side(one)) == []


@pytest.mark.parametrize(
    ("said", "file", "besides", "left"),
    [
        # one drop takes out what all items say too much, and each item is named where only some do
        ("part / --size=1 --ondisk=sda\npart /b --size=2 --ondisk=sda\n", "part / --size=1\npart /b --size=2\n",
         ["setup:part/--ondisk"], []),
        ("part / --size=1 --ondisk=sda\npart /b --size=2 --ondisk=sda\n", "part / --size=1\npart /b --size=2 --ondisk=sda\n",
         ["setup:part[/]/--ondisk"], []),
        ("zerombr\nlang en\n", "lang en\n", ["setup:zerombr"], []),
        # what is left of a use that nothing names says which use that is, without those that are dropped
        ("network --device=a\nnetwork --hostname=x\n", "network --hostname=x --mtu=9\n", ["setup:network[a]"],
         [("network", 1, ["--mtu"])]),
        ("%packages\na\n%end\n", "%packages --nocore\na\n%end\n", [], [("%packages", 1, ["--nocore"])]),
        ("part / --size=1\n", "part / --size=1 --grow\n", [], [("part", 0, ["mountpoint", "--grow"])]),
    ],
)  # fmt: skip
def test_what_is_said_besides_and_what_is_left(said, file, besides, left):
    first, second = side(said), side(file)
    weighed = Weighing(second, {}, first, matched(first, second))
    assert list(weighed.drops()) == besides
    assert [(one.component, one.use, [node.name for node in one.children]) for one in weighed.rest().blocks] == left
