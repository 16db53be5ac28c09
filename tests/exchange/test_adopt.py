"""Adopting: the draft comes to the same answers as the file, judged from outside; sections where they are worth it."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from exchange.outside import answers_of
from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.fitting import newest_fitting
from fairledger.checks.engine import check
from fairledger.delivery.fill import filled
from fairledger.delivery.prepare import prepare
from fairledger.exchange.adopt import Adopted, Manner, adopt
from fairledger.exchange.deposit import deposit
from fairledger.exchange.exact import Side, told_apart
from fairledger.families.registry import family_named
from fairledger.profiles.secrets import Secrets
from fairledger.subject.opening import Asked, looked_at, opened_draft

HERE = Path(__file__).parent
FILES = sorted([*(HERE / "files").iterdir(), *(HERE.parent / "checks" / "files").iterdir()])


def adopted(text: str | bytes, path: Path, folder: Path) -> tuple[Adopted, bytes]:
    """A file taken up, and the answer file that the draft comes to."""
    out = folder / "desk.toml"
    data = text.encode() if isinstance(text, str) else text
    made = adopt(data, path, out, Manner())
    deposit(made, out, parameters=False, replace=True)
    prepared = prepare(opened_draft(out), "plain")
    done = filled(prepared, {}, Secrets(folder))
    wrong = {one.rule for one in done.report.findings if one.severity == "error"}
    before = check(looked_at(path, Asked(target=made.target.id), data)).findings
    assert wrong <= {one.rule for one in before}, "a draft has no error that the file has not"
    if wrong:
        # what is wrong in the file stays wrong, and is compared all the same
        prepared = prepare(opened_draft(out), "plain", without_secrets=True)
        return made, b""
    return made, done.files[0].data


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.name)
def test_the_draft_of_a_file_comes_to_the_same_answers(path, tmp_path):
    made, written = adopted(path.read_bytes(), path, tmp_path)
    assert made.kept_apart == ()
    if written:
        one, other = answers_of(path.read_bytes()), answers_of(written)
        assert (one - other, other - one) == ({}, {})


def test_most_answers_come_from_sections_and_few_are_dropped(tmp_path):
    found = [adopt(path.read_bytes(), path, tmp_path / "x.toml", Manner()) for path in FILES]
    total, direct = sum(one.total for one in found), sum(one.answers for one in found)
    assert (total - direct) / total > 0.7
    assert sorted(one.drops for one in found)[len(found) // 2] <= 3


HEAD = "#version=RHEL9\n"
DISK = "clearpart --all --initlabel --drives=sda\npart / --fstype=xfs --size=9000 --grow --ondisk=sda\n"


@pytest.mark.parametrize(
    ("text", "parts"),
    [
        # what is left of a line keeps what tells it apart
        (
            "network --device=eno1 --bootproto=static --ip=192.0.2.30 --netmask=255.255.255.0 --gateway=192.0.2.1 "
            "--nameserver=192.0.2.53 --mtu=1400 --onboot=yes --wpakey=x --notksdevice\n",
            ["--notksdevice", '[[answers.setup.network]]\n--device = "eno1"\n'],
        ),
        # words that the catalog calls other names stay
        (DISK.replace("part /", "partition /"), ["written = { part = ", "[[disk.partition]]"]),
        ("timezone Europe/Lisbon --isUtc\nlang en_GB.UTF-8\nkeyboard --vckeymap=uk --xlayouts='gb'\n", ["--isUtc"]),
        # two lines of one device are two lines
        ("network --device=eno2 --bootproto=dhcp\nnetwork --device=eno2 --vlanid=7 --bootproto=dhcp\n", ["vlan = 7"]),
        # a line twice is a line twice, though a command that stands once
        ("services --disabled=cups\nservices --enabled=sshd\n", ["[[answers.setup.services]]"]),
    ],
)
def test_the_words_of_a_file_stay(text, parts, tmp_path):
    made, written = adopted(HEAD + text, Path("x.ks"), tmp_path)
    assert answers_of(written or (HEAD + text).encode()) == answers_of((HEAD + text).encode())
    assert made.kept_apart == ()
    draft = (tmp_path / "desk.toml").read_text()
    assert not [one for one in parts if one not in draft], draft


def test_what_a_section_would_add_is_dropped_by_its_name(tmp_path):
    text = (
        HEAD
        + "lang en_GB.UTF-8 --addsupport=pt_PT.UTF-8,de_DE.UTF-8\ntimezone Europe/Lisbon --utc --ntpservers=192.0.2.123\n"
    )
    made, written = adopted(text, Path("x.ks"), tmp_path)
    assert ("locale" in made.sections, made.drops) == (True, 1)
    assert 'drop = ["setup:keyboard"]' in (tmp_path / "desk.toml").read_text()
    assert b"keyboard" not in written


def test_a_section_that_needs_too_much_stays_direct(tmp_path):
    made, _ = adopted(HEAD + "lang en_GB\ntimezone Europe/Lisbon\n", Path("x.ks"), tmp_path)
    assert "locale" not in made.sections


@pytest.mark.parametrize(
    ("text", "target", "because"),
    [
        ("lang en_GB.UTF-8\n", "el-10", ""),
        ("install\nauth --enableshadow\nlang en_GB.UTF-8\n", "el-8", "install"),
        ("auth --enableshadow\nlang en_GB.UTF-8\n", "el-9", "authconfig"),
    ],
)
def test_a_file_is_for_the_newest_release_that_has_what_it_says(text, target, because, tmp_path):
    sheet = family_named("kickstart").read(text.encode(), "x.ks").sheet
    found, why = newest_fitting(sheet, "kickstart", "el")
    assert found.id == target
    assert because in why if because else why == ""


def test_machines_of_an_older_architecture_are_for_an_older_release():
    text = (HERE / "files" / "x86.xml").read_bytes()
    sheet = family_named("windows").read(text, "x.xml").sheet
    found, why = newest_fitting(sheet, "windows", "client")
    assert found.id == "windows-10-22h2"
    assert "x86" in why


@pytest.mark.parametrize(
    ("one", "other", "apart"),
    [
        ("rootpw --lock\n", "rootpw --lock\n", []),
        ("user --name=a --lock\nuser --name=b\n", "user --name=a\nuser --name=b --lock\n", ["setup:user"]),
        ("network --device=a --activate\nnetwork --device=b\n", "network --device=b --activate\nnetwork --device=a\n",
         ["setup:network"]),
        ("%post\na\n%end\n%post\nb\n%end\n", "%post\nb\n%end\n%post\na\n%end\n", ["post:%post"]),
        ("user --name=a\nuser --name=b\n", "user --name=b\nuser --name=a\n", []),
        ("partition / --size=1\n", "part / --size=1\n", ["setup:part"]),
        ("services --enabled=a\nservices --disabled=b\n", "services --enabled=a --disabled=b\n", ["setup:services"]),
        ("part / --size=1 --grow\n", "part / --grow --size=1\n", []),
    ],
)  # fmt: skip
def test_two_sheets_are_told_apart_answer_for_answer(one, other, apart):
    family, catalog = family_named("kickstart"), catalog_of("kickstart", None)
    sides = [Side(family.read(text.encode(), "x.ks").sheet, catalog, adds_up=False) for text in (one, other)]
    assert told_apart(*sides) == apart
    assert told_apart(*reversed(sides)) == apart


def test_every_change_of_a_file_is_told_apart():
    catalog, family = catalog_of("windows", None), family_named("windows")
    text = (HERE / "files" / "efi.xml").read_text()
    first = Side(family.read(text.encode(), "x").sheet, catalog, adds_up=True)
    leaves = list(re.finditer(r"<(\w+)>([^<>]+)</\1>", text))
    for match in leaves:
        changed = text[: match.start(2)] + match[2] + "x" + text[match.end(2) :]
        sheet = family.unveiled(family.read(changed.encode(), "x").sheet)
        moved = match[1] == "Order"
        assert moved or told_apart(first, Side(sheet, catalog, adds_up=True)), match[0]
        gone = text[: match.start()] + text[match.end() :]
        sheet = family.read(gone.encode(), "x").sheet
        assert match[1] == "Order" or told_apart(Side(sheet, catalog, adds_up=True), first), match[0]


def test_a_secret_is_referred_to_as_what_it_is(tmp_path):
    text = (
        HEAD
        + "bootloader --iscrypted --password=grub.pbkdf2.sha512.10000.AA.BB\nsshpw --username=keeper --plaintext Heron-4\n"
    )
    adopted(text, Path("x.ks"), tmp_path)
    draft = (tmp_path / "desk.toml").read_text()
    assert '[boot]\npassword = { file = "secrets/desk-boot.txt", form = "hash" }' in draft
    assert 'password = { file = "secrets/desk-keeper.txt" }' in draft
    assert (tmp_path / "secrets/desk-keeper.txt").read_text() == "Heron-4\n"
    assert "Heron-4" not in draft


def test_comments_stand_beside_what_they_speak_of(tmp_path):
    text = (
        HEAD
        + "# the hill's own\n\n\n\n\n# how it speaks\nlang en_GB.UTF-8\ntimezone Europe/London\nkeyboard --xlayouts=gb --vckeymap=uk\n# loads fast\nbootloader --timeout=1\n"
    )
    made, _ = adopted(text, Path("x.ks"), tmp_path)
    lines = (tmp_path / "desk.toml").read_text().splitlines()
    assert lines[lines.index('language = "en-GB"') - 1] == "# how it speaks"
    assert lines[lines.index("seconds = 1") - 1] == "# loads fast"
    assert (lines.index("# the hill's own") < lines.index("[draft]"), made.comments) == (True, 1)
