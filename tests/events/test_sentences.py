"""The sentences about drafts: what each field makes of the story, and what an event knows of itself."""

from __future__ import annotations

from pathlib import Path

import pytest

from factories import DESK, NOWHERE, draft, whole
from fairledger.catalog.passes import passes_of
from fairledger.events.event import Weight
from fairledger.events.story import events, story_of
from fairledger.events.words import named, word
from fairledger.intent.disk import Disk, Partition
from fairledger.intent.intent import Intent
from fairledger.intent.volume import Volume
from fairledger.model.values import SecretRef, SecretSource, parse_text
from fairledger.subject.opening import opened

WIPE = '[[disk]]\nwhich = 0\nfate = "wipe"\npartition = [{{ role = "firmware", size = "300 MiB" }}, {{ {} }}]\n'
ACCOUNT = '[account]\nlocal = [{{ name = "keeper", {} }}]\n'
EL = '[draft]\ntarget = "el-9"\n'


def told(fragment: str) -> list[str]:
    return [one.what for one in events(draft(fragment))]


@pytest.mark.parametrize(
    ("fragment", "sentence"),
    [
        ('[identity]\nname = "LMR-DESK-01"', "the name LMR-DESK-01"),
        ('[identity]\nname = "LMR-${n}"', "the name LMR-${n}"),
        ('[identity]\nnaming = "random"', "a name that setup makes up"),
        ('[identity]\norganisation = "Larkmoor"', "the organisation Larkmoor"),
        ('[locale]\nlanguage = "en-GB"', "the language en-GB"),
        (EL + '[locale]\nlanguage = "en-GB"', "setup speaks en-GB"),
        ('[locale]\nsetup_language = "en-US"\nlanguage = "en-GB"', "setup itself speaks en-US"),
        ('[locale]\nformats = "de-AT"', "formats of de-AT"),
        ('[locale]\ntime_zone = "Europe/London"', "the time zone Europe/London"),
        ("[licence]\naccept = true", "the licence terms are accepted without asking"),
        ('[licence]\nkey = { env = "KEY" }', "a product key is entered (hidden)"),
        ("[bypass]\nsecurity_chip = true", "the requirement is switched off: security chip"),
        ('[image]\nedition = "Pro"', "Pro is installed"),
        ("[image]\nindex = 2", "image number 2 is installed"),
        ('[disk]\nfate = "ask"', "the person at the machine chooses and lays out the disk"),
        (WIPE.format('role = "system", size = "rest", label = "Larkmoor"'), "a partition is made: system, all that is left, ntfs, called Larkmoor"),
        (WIPE.format('role = "system", size = "40 GiB", letter = "C"'), "a partition is made: firmware, 300 MiB, fat32"),
        ('[[disk]]\nwhich = 0\nfate = "keep"\ninstall_to = 3', "the system goes to partition 3 of disk 0"),
        ('[[disk]]\nwhich = 0\nfate = "keep"\ninstall_to = 3', "disk 0 is not wiped"),
        (ACCOUNT.format('groups = ["Users"], password = { env = "PW" }'), "keeper with a password, in Users"),
        (ACCOUNT.format('groups = ["Administrators"]'), "keeper WITHOUT a password, in Administrators, with all rights"),
        ("[account.sign_in]\naccount = 'keeper'\ncount = 1", "keeper is signed in automatically, once"),
        ("[account.sign_in]\naccount = 'keeper'\ncount = 3", "keeper is signed in automatically, 3 times"),
        ('[join]\nworkgroup = "LARKMOOR"', "a place in the workgroup LARKMOOR"),
        ('[[network.interface]]\nname = "Ethernet"\nmethod = "static"\naddress = "192.0.2.3/24"\ngateway = "192.0.2.1"',
         "Ethernet has the address 192.0.2.3/24, goes out by 192.0.2.1"),
        (EL + '[[network.interface]]\nname = "eno1"\nmethod = "dhcp"\nipv6 = "off"', "eno1 asks for its address, IPv6 off"),
        (EL + '[[network.interface]]\nname = "eno2"\nmethod = "off"', "eno2 is switched off"),
        (EL + '[access]\nmode = "permissive"', "access control is permissive"),
        (EL + "[firewall]\nenabled = true", "the firewall is switched on"),
        (EL + '[firewall]\nports = ["123/udp"]', "the firewall lets in 123/udp"),
        (EL + '[finish]\naction = "restart"\neject = true', "at the end the machine restarts, and the disc is put out"),
        (EL + '[finish]\naction = "halt"', "at the end the machine halts"),
        (EL + '[packages]\npackages = ["chrony"]\nexclude = ["telnet"]', "packages left out: telnet"),
        (EL + '[packages]\ngroups = ["core"]', "groups installed: core"),
        (EL + '[source]\nurl = "http://192.0.2.10/el9"', "everything is fetched from http://192.0.2.10/el9"),
        (EL + '[[source.repository]]\nname = "extra"\nurl = "http://192.0.2.10/x"\nkeep = true',
         "more is fetched from extra (http://192.0.2.10/x), and stays a source on the new system"),
        (EL + '[[disk]]\nfate = "wipe"\n[disk.plan]\n', "the installer lays it out by itself"),
        (EL + '[[disk]]\nfate = "wipe"\n[disk.plan]\nscheme = "thin"', "the installer lays it out by itself, as thin"),
        (EL + '[[volume]]\nname = "station"\nkind = "group"\nmembers = ["pv.01"]', "a group station is made of pv.01"),
    ],
)  # fmt: skip
def test_each_field_has_its_sentence(fragment, sentence):
    assert sentence in told(fragment)


def test_what_has_no_sentence_is_told_plainly_under_its_head():
    found = events(draft(EL + '[[network.interface]]\nname = "eno1"\nmethod = "dhcp"\nmtu = 1400\n'))
    assert ("The machine gets", "network interface eno1 mtu: 1400") in [(one.chapter, one.what) for one in found]


def test_an_event_knows_where_it_comes_from_and_when_it_happens():
    subject = draft(WIPE.format('role = "system", size = "rest"') + '[identity]\nname = "LMR-DESK-01"\n')
    by_text = {one.what: one for one in events(subject)}
    wiped = by_text["disk 0 is WIPED without a question: all that is on it is lost"]
    assert (wiped.severity, wiped.destroys, wiped.phase) == (Weight.DANGER, ("disk 0",), "windowsPE")
    assert (wiped.file, wiped.line) == (subject.file, 5)
    assert wiped.moment == next(one.when for one in passes_of("windows") if one.name == "windowsPE")
    name = by_text["the name LMR-DESK-01"]
    assert (name.phase, name.line, name.severity, name.restarts) == ("specialize", 10, Weight.NOTE, False)
    asked = by_text["the installer asks whether the licence terms are accepted"]
    assert (asked.asks, asked.file, asked.line) == ("whether the licence terms are accepted", None, None)
    ended = next(one for one in events(draft(EL + '[finish]\naction = "restart"\n')) if one.restarts)
    assert "restarts" in ended.what


def command(when: str, **more: str):
    """The one command of a draft, as it is told."""
    fields = {"about": '"Sets the ${zone} clock"', "body": '"tzutil /s ${zone}"', **more}
    text = f'[[command]]\nname = "clock"\nwhen = "{when}"\n' + "".join(
        f"{key} = {one}\n" for key, one in fields.items()
    )
    (found,) = [one for one in events(draft(text)) if one.quote]
    return found


def test_a_command_is_told_with_its_moment_its_rights_and_whom_it_runs_as():
    early, late = command("installed"), command("sign-in")
    assert early.what == "Sets the ${zone} clock"
    assert (early.phase, late.phase) == ("specialize", "oobeSystem")
    assert early.rights
    assert early.chapter.startswith(f"Commands {early.moment}, with {early.rights}; their windows show")
    assert early.as_
    assert early.as_ != late.as_
    assert (early.quote, early.severity, early.restarts) == ("tzutil /s ${zone}", Weight.NOTE, False)
    assert early.line == 5
    assert early.file


@pytest.mark.parametrize(
    ("more", "what"),
    [
        ({}, "Sets the ${zone} clock"),
        ({"fill": "true"}, "Sets the ${zone} clock (filled in: zone)"),
        ({"restart": "true"}, "Sets the ${zone} clock (whether the machine restarts after the command: Always)"),
        ({"about": '""'}, "a command"),
        ({"fill": "true", "body": '"""echo ${zone}\\nrem"""'}, "Sets the ${zone} clock (filled in: zone)"),
        ({"body": '"""echo ${zone}\\nrem"""'}, "Sets the ${zone} clock"),
    ],
)
def test_a_command_is_told_with_its_options(more, what):
    assert command("end", **more).what == what
    assert command("end", **more).restarts == ("restart" in more)


def test_commands_are_told_once():
    found = events(draft('[[command]]\nname = "clock"\nbody = "tzutil /s UTC"\n'))
    assert [one.chapter.split()[0] for one in found if one.chapter != "Questions that are left"] == ["Commands"]


def test_a_command_that_earns_a_warning_weighs_more():
    found = command("end", body='"net user ghost x /add"')
    assert (found.severity, found.warnings) == (
        Weight.CARE,
        ("makes accounts or gives rights", "makes the account ghost"),
    )


@pytest.mark.parametrize(
    ("bodies", "gist"),
    [
        (["exit 0"], ["one command runs; it is quoted below"]),
        (["wget http://192.0.2.1/x"], ["one command runs; it is quoted below", "it fetches something from outside"]),
        (["exit 0", "wget http://192.0.2.1/x"],
         ["2 commands run; all are quoted below", "one of them: fetches something from outside"]),
        (["wget http://192.0.2.1/x", "curl http://192.0.2.1/y"],
         ["2 commands run; all are quoted below", "2 of them: fetches something from outside"]),
    ],
)  # fmt: skip
def test_commands_are_counted_with_their_warnings(bodies, gist):
    text = "#version=RHEL9\n" + "".join(f"%post\n{one}\n%end\n" for one in bodies)
    assert [one.what for one in story_of(opened(Path("x.ks"), data=text.encode())).gist] == gist


def test_a_story_says_for_what_it_holds():
    unknown = story_of(opened(Path("x.ks"), data=b"lang en_GB.UTF-8\n"))
    assert (unknown.target, unknown.target_name) == (None, "a release that the file does not name")
    known = story_of(draft(""))
    assert (known.target, known.target_name, known.basis) == (DESK, "Windows 11, version 24H2", "stated")
    assert [one.what for one in known.gist] == ["no command and no script runs"]


@pytest.mark.parametrize(
    ("lines", "told_of"),
    [("strange\n", "one thing is not understood; look below"), ("strange\nodd\n", "2 things are not understood; look below")],
)  # fmt: skip
def test_what_is_not_understood_is_counted(lines, told_of):
    story = story_of(opened(Path("x.ks"), data=f"#version=RHEL9\n{lines}".encode()))
    assert told_of in [one.what for one in story.gist]


@pytest.mark.parametrize(
    ("line", "what", "sure"),
    [
        ("zfcp", "setup: zfcp - Attaches a Fibre Channel disk", True),
        ("zfcp --odd=1", "setup: zfcp/--odd = 1 (unknown here)", False),
        ("strange --thing=1", "setup: strange/--thing = 1 (unknown here)", False),
    ],
)
def test_what_no_section_speaks_of_is_told_as_what_it_is(line, what, sure):
    found = [
        one for one in events(opened(Path("x.ks"), data=f"#version=RHEL9\n{line}\n".encode())) if one.phase == "setup"
    ]
    assert [(one.what.startswith(what), one.sure, one.line) for one in found] == [(True, sure, 2)]


def test_several_disks_keep_their_names_apart():
    text = whole(WIPE.format('role = "system", size = "rest"') + '[[disk]]\nwhich = 1\nfate = "wipe"\n')
    gist = [one.what for one in story_of(opened(NOWHERE / "desk.toml", data=text.encode())).gist]
    assert [f"disk {at} is WIPED without a question: all that is on it is lost" in gist for at in (0, 1, 2)] == [
        True, True, False,
    ]  # fmt: skip


def test_fields_are_named_as_a_person_would():
    parts = (Partition(role="data"), Partition(role="data"), Partition(role="system"))
    intent = Intent({"disk": (Disk(fate="wipe", partition=parts),), "volume": (Volume(name="station", kind="group"),)})
    assert named(intent, ("disk", 0, "partition", 2, "by_memory")) == "disk 0 partition system by memory"
    assert named(intent, ("disk", 0, "partition", 1, "label")) == "disk 0 partition 2 label"
    assert named(intent, ("volume", 0, "members")) == "volume station members"
    assert named(Intent({"x": (("a", "b"),)}), ("x", 0)) == "x 1"


def test_values_are_shown_without_secrets_and_without_tricks():
    secret = SecretRef(sources=(SecretSource("value", "Heron-4"),))
    assert [word(one) for one in (None, True, False, 0, (1, "a"), secret)] == ["", "yes", "no", "0", "1, a", "(hidden)"]
    assert word(parse_text("LMR-${n}")) == "LMR-${n}"
    assert word("gate\u202e\n") == "gate\\u202e\\n"
