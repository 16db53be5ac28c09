"""What every family is given to work with, and what is answered for one that states little."""

from __future__ import annotations

from pathlib import Path

import pytest

from factories import DESK, NOWHERE, draft
from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.meant import target_named
from fairledger.catalog.seats import Seats
from fairledger.families.build import canonical, recognise, translate
from fairledger.families.casting import Cast
from fairledger.families.fields import text_of
from fairledger.families.interface import Family, Reader, Reading, Words
from fairledger.families.registry import FAMILIES, family_named, family_of_file, family_surely, has_rules
from fairledger.intent.identity import Identity
from fairledger.intent.intent import Intent
from fairledger.intent.source import Repository, Source
from fairledger.model.errors import WrongUseError
from fairledger.model.facts import Facts
from fairledger.model.finding import Severity
from fairledger.model.places import Origin, Place
from fairledger.model.sheet import Block, Node, Sheet, SheetBuilder
from fairledger.model.target import Limits
from fairledger.profiles.seed import for_comparing
from fairledger.subject.opening import opened

EL = target_named("el-9")
CATALOG = catalog_of("kickstart", EL)


class Bare(Family):
    """A family that states only what it must."""

    name = "bare"

    def limits(self, target):
        return Limits(machine_name_length=9)

    def read(self, data, file, root=None, own=None, common=None):
        return Reading(Sheet(), (), {})

    def cast(self, sheet, target, own=None):
        return (Cast(("x",)),)


def test_nothing_is_claimed_for_a_family_that_does_not_state_it():
    bare, sheet, block = Bare(), Sheet(), Block("setup", "x")
    assert bare.guess(bare.read(b"", "x")) is None
    assert bare.disagrees(bare.read(b"", "x"), EL) == ""
    assert bare.grammar(CATALOG) is None
    assert bare.settle(sheet, Facts()) is bare.unveiled(sheet) is sheet
    assert (bare.mended("x", sheet, ()), bare.comments("# x"), bare.companions_of(sheet)) == (None, [], ())
    assert (bare.groups(), bare.zone_name("Europe/London"), bare.meant("shutdwn")) == ({}, "Europe/London", "")
    # a secret stands as it is, and is said to be readable
    assert bare.conceal(block, (), "Heron-4", form="plain", salt=for_comparing) == "Heron-4"
    assert bare.readable(block, ())
    assert not bare.garbled(block, ())
    assert not bare.hides("", "x")
    with pytest.raises(WrongUseError, match="the family bare cannot be corrected in place") as caught:
        bare.revise("", Seats(sheet, CATALOG), None, None)
    assert "adopt the file" in str(caught.value.remedy)


def test_a_family_that_states_too_little_is_none():
    with pytest.raises(TypeError, match="abstract"):
        Family()


@pytest.mark.parametrize(
    ("data", "name", "family", "sure"),
    [
        (b"<unattend/>", "x", "windows", True),
        (b"\xef\xbb\xbf <unattend/>", "x.ks", "windows", True),
        (b"#version=RHEL9\n", "x", "kickstart", True),
        (b"", "x.ks", "kickstart", False),
        (b"", "x.xml", "windows", False),
        (b"anything", "x", "windows", False),
        (b"# a comment\nrootpw --lock\n", "x.xml", "kickstart", True),
    ],
)
def test_files_are_told_apart_by_their_first_characters(data, name, family, sure):
    assert family_surely(data, name) == (family if sure else "")
    assert family_of_file(data, name) == family
    assert family_named(family).name == family


def test_every_family_is_whole():
    for name in FAMILIES:
        assert isinstance(family_named(name), Family)
        assert has_rules(name) == (Path("src/fairledger/families") / name / "rules.py").is_file()
        assert not Family.__abstractmethods__ - set(dir(family_named(name)))


def words(intent: Intent, target=EL) -> Words:
    return Words(intent, target, Facts(), SheetBuilder(("setup",)))


def test_what_cannot_be_said_is_told_where_it_was_asked_for():
    intent = Intent({"source": Source(folder="/el9")}, {("source", "folder"): Place(origin=Origin("gate.toml", 7))})
    said = words(intent)
    said.cannot(("source", "folder"), "source.folder", "nobody asks", "leave it out", Severity.WARNING)
    said.field_error(("source", "proxy"), "the proxy makes no sense", "write an address")
    said.leave_out(("source",), Source(url="http://192.0.2.1", proxy=""), ("url", "proxy", "server"), "why not")
    assert [(one.rule, one.severity, one.line) for one in said.findings] == [
        ("not-expressible", Severity.WARNING, 7),
        ("field-value", Severity.ERROR, None),
        ("not-expressible", Severity.ADVICE, None),
    ]
    assert "Enterprise Linux 9 cannot express source.folder: nobody asks" in said.findings[0].message
    assert said.told == [("source", "folder"), ("source", "proxy"), ("source", "url")]
    assert said.origin("source", "folder") == Origin("gate.toml", 7, by="source")


def line(command: str, *options: tuple[str, str]) -> Block:
    return Block("setup", command, children=tuple(Node(name, value) for name, value in options))


def test_a_reader_gives_out_each_seat_once_and_keeps_the_rest():
    sheet = Sheet((line("url", ("--url", "http://192.0.2.1"), ("--proxy", "")), line("url", ("--url", "second"))))
    reader = Reader(Seats(sheet, CATALOG), EL)
    reader.section = "source"
    first = reader.first("setup", "url", "")
    assert len(reader.find("setup", "url", "")) == 2
    fields = {}
    rows = (("url", "--url"), ("proxy", "--proxy"), ("metalink", "--metalink"))
    reader.take_fields(first, rows, ("source",), fields, lambda seat: text_of(seat) or None)
    reader.take_block(first, "source")
    assert fields == {"url": "http://192.0.2.1"}
    assert set(reader.places) == {("source", "url"), ("source",)}
    assert [one.block for one in reader.find("setup", "url", "")] == [sheet.blocks[1]]
    assert [one.text for one in reader.find("setup", "url", "--url")] == ["second"]
    left = reader.remainder()
    assert [[(one.name, one.value) for one in block.children] for block in left.blocks] == [
        [("--proxy", "")],
        [("--url", "second")],
    ]
    assert set(reader.understood.values()) == {"source"}
    assert (reader.find("setup", "nfs", ""), reader.first("setup", "nfs", "")) == ([], None)
    reader.take(None, "source", "kind")
    assert ("source", "kind") not in reader.places


TREE = "http://192.0.2.10/el9"


@pytest.mark.parametrize(
    ("fields", "kind", "told"),
    [
        (f'url = "{TREE}"', "url", []),
        (f'metalink = "{TREE}"', "url", []),
        ('server = "192.0.2.10"', "network-files", []),
        ('partition = "sdb1"', "drive", []),
        ('kind = "disc"', "disc", []),
        (f'kind = "disc"\nurl = "{TREE}"', "disc", ["source.url"]),
        ('folder = "/el9"', None, ["source.folder"]),  # of files on the network, or of a drive
    ],
)
def test_the_kind_of_a_source_follows_from_what_only_one_can_have(fields, kind, told):
    subject = draft(f'[draft]\ntarget = "el-9"\n[source]\n{fields}\n')
    found = subject.intent.sections.get("source")
    assert (found.kind if found is not None else None) == kind
    assert [one.message.split(": ")[0].rsplit(" ", 1)[-1] for one in subject.findings] == told


def test_repositories_go_to_the_sheet_and_back():
    value = Source(repository=(Repository(name="extra", url=TREE, keep=True), Repository(name="more")))
    sheet, findings = translate(Intent({"source": value}), EL, Facts())
    assert findings == ()
    assert [block.component for block in sheet.blocks] == ["repo", "repo"]
    assert recognise(Seats(sheet, CATALOG), EL).intent.sections == {"source": value}
    hypervisor = target_named("esxi-8")
    assert canonical(Intent({"source": value}), hypervisor, Facts()).sections == {}
    _, findings = translate(Intent({"source": value}), hypervisor, Facts())
    assert ["repository extra" in one.message or "repository more" in one.message for one in findings] == [True, True]


def test_what_a_family_has_no_words_for_is_said_of_the_whole_section():
    section = Source(url=TREE, kind="url")
    sheet, findings = translate(
        Intent({"source": section, "identity": Identity(name="x")}), target_named(DESK), Facts()
    )
    assert [(one.severity, "[source]" in one.message) for one in findings] == [(Severity.WARNING, True)]
    assert [block.component for block in sheet.blocks] == ["Microsoft-Windows-Shell-Setup"]


def test_an_item_that_a_file_takes_away_is_understood_by_nobody():
    desk = Path(__file__).parents[1] / "checks/files/desk.xml"
    text = desk.read_text()
    assert "account" in opened(NOWHERE / "x.xml", data=text.encode()).intent.sections
    at = text.index("<LocalAccount ")
    taken = text[:at] + text[at:].replace('wcm:action="add"', 'wcm:action="remove"', 1)
    subject = opened(NOWHERE / "x.xml", data=taken.encode())
    assert "account" not in subject.intent.sections
    assert "LocalAccount" in repr(subject.recognised.remainder)
