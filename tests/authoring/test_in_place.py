"""Answer files corrected in place: what was asked changes, and nothing else; every address that is shown is taken."""

from __future__ import annotations

import shutil
from collections import Counter
from pathlib import Path

import pytest

from fairledger.authoring.change import set_in, unset_in
from fairledger.authoring.wanted import made_out
from fairledger.checks.engine import check
from fairledger.model.errors import LedgerError, WrongUseError
from fairledger.subject.opening import looked_at
from fairledger.subject.subject import FileKind, Subject

TESTS = Path(__file__).parents[1]
STATIONS = TESTS.parent / "examples" / "stations"
FILES = sorted(
    [
        *(TESTS / "checks" / "files").iterdir(),
        *(TESTS / "exchange" / "files").iterdir(),
        *(one for one in STATIONS.glob("*.*") if one.suffix != ".csv"),
    ]
)
HEAD = '<?xml version="1.0" encoding="{}"?>\n<unattend xmlns="urn:schemas-microsoft-com:unattend">\n'
DESK = (
    '<settings pass="specialize">\n<component name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" '
    'publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">\n'
    "<TimeZone><!-- in -->UTC</TimeZone><ComputerName><![CDATA[A]]></ComputerName>\n</component></settings></unattend>"
)


def rows(subject: Subject) -> Counter[tuple[str, str, str, str]]:
    return Counter((one.block.pass_, one.block.component, one.path, str(one.value)) for one in subject.seats)


def addresses(subject: Subject) -> list[tuple[str, str]]:
    found = []
    for root in subject.seats.roots:
        title = f"{root.block.pass_}:{subject.seats.title(root)}"
        inside = [one for one in root.walk() if one.text is not None and one.parent is not None]
        shown = [one for one in inside if not one.children and not (one.setting is not None and one.setting.secret)]
        found += [(f"{title}/{one.shown}", one.text) for one in shown]
    return found


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.name)
def test_every_address_that_is_shown_is_taken_and_its_own_value_changes_nothing(path, tmp_path):
    shutil.copytree(STATIONS, tmp_path, dirs_exist_ok=True)
    copy = tmp_path / f"x-{path.name}"
    copy.write_bytes(path.read_bytes())
    subject = looked_at(copy)
    assert isinstance(subject, Subject)
    found = [(one, value) for one, value in addresses(subject) if value == value.strip()]
    assert len({address for address, _ in found}) == len(found) > 3
    done = set_in(copy, [f"{address}={value}" for address, value in found])
    assert [one.text for one in done] == [f"{address} is so already" for address, _ in found]
    assert copy.read_bytes() == path.read_bytes()


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.name)
def test_every_place_of_a_finding_can_be_made_out(path):
    subject = looked_at(path)
    assert isinstance(subject, Subject)
    for finding in check(subject).findings:
        if finding.component and finding.pass_ is not None:
            spot = made_out(finding.where, subject, whole=finding.setting is None)
            assert (spot.pass_, spot.component) == (finding.pass_, finding.component)
            assert spot.whole == (finding.setting is None)
            assert spot.present is None or spot.present.node.origin.line is not None


@pytest.mark.parametrize("path", [one for one in FILES if one.suffix in (".ks", ".xml")], ids=lambda path: path.name)
def test_what_is_taken_out_is_gone_and_all_else_stays(path, tmp_path):
    copy = tmp_path / path.name
    copy.write_bytes(path.read_bytes())
    before = looked_at(copy)
    assert before.kind is FileKind.ANSWERS
    for address, value in addresses(before)[::3]:
        copy.write_bytes(path.read_bytes())
        try:
            unset_in(copy, [address])
        except LedgerError:
            # a word by whose place others are known, or all that a section says
            assert copy.read_bytes() == path.read_bytes()
            continue
        gone = rows(before) - rows(looked_at(copy))
        assert [row[3] for row in gone.elements() if row[3] != "None"] == [value], address
        assert not rows(looked_at(copy)) - rows(before)


@pytest.mark.parametrize(
    ("text", "changes", "wanted"),
    [
        ("lang en\n", ["reboot", "cdrom", "rootpw/--lock"], "lang en\nreboot\ncdrom\nrootpw --lock\n"),
        ("authselect select minimal # why\n", ["authselect=select sssd"], "authselect select sssd # why\n"),
        ("realm join larkmoor.example\n", ["realm/--no-password"], "realm join --no-password larkmoor.example\n"),
        ("lang en\n", ["repo[+]/--name=x", "repo[+]/--cost=5"], "lang en\nrepo --name=x --cost=5\n"),
        (
            "repo --name=a\n",
            ["repo[+b]/--name=b", "repo[+c]/--name=c", "repo[+b]/--cost=5"],
            "repo --name=a\nrepo --name=b --cost=5\nrepo --name=c\n",
        ),
        ("lang en\n", ["network[eno2]/--device=eno2"], "lang en\nnetwork --device=eno2\n"),
        ("network --device=a\nnetwork --mtu=1\n", ["network[#2]/--mtu=9"], "network --device=a\nnetwork --mtu=9\n"),
        ("%packages\n@^ x # base\n%end\n", ["%packages/environment=y"], "%packages\n@^y # base\n%end\n"),
        ("%packages\na\n%end\n", ["%packages/package=b, c"], "%packages\na\nb\nc\n%end\n"),
        ("%packages\na\n%end\n", ['%packages/package+=["b"]'], "%packages\na\nb\n%end\n"),
        (
            "%addon org_fedora_oscap\nprofile = a # b\n%end\n",
            ["org_fedora_oscap/profile=c", "org_fedora_oscap/xccdf-id=d"],
            "%addon org_fedora_oscap\nprofile = c\n    xccdf-id = d\n%end\n",
        ),
        ("lang en\n", ["com_redhat_kdump/--disable"], "lang en\n%addon com_redhat_kdump --disable\n%end\n"),
        ("%packages\r\na\r\nb\r\n%end\r\n", ["%packages/package[a]=c"], "%packages\r\nc\r\nb\r\n%end\r\n"),
        ("%packages\na\nb\n%end\n", ["%packages/package-=a"], "%packages\nb\n%end\n"),
        ("part / --size=1 \\\n --ondisk=sda\n", ["part[/]/--size=2"], "part / --size=2 \\\n --ondisk=sda\n"),
    ],
)
def test_lines_change_as_they_were_asked_to(text, changes, wanted, tmp_path):
    path = tmp_path / "gate.ks"
    path.write_bytes(text.encode())
    set_in(path, changes, target="el-9")
    assert path.read_bytes().decode() == wanted


@pytest.mark.parametrize(
    ("text", "addresses", "wanted"),
    [
        ("cdrom # medium\nlang en\n  graphical\n", ["cdrom", "graphical"], "lang en\n"),
        ("repo --name=a\nrepo --name=b\nlang en\n", ["repo[b]"], "repo --name=a\nlang en\n"),
        ("part / --size=1 \\\n --grow\npart /b --size=2\n", ["part[/]/--grow"], "part / --size=1\npart /b --size=2\n"),
        ("part / --size=1 \\\n --grow\npart /b --size=2\n", ["part[/]"], "part /b --size=2\n"),
        (
            "lang en\n%addon com_redhat_kdump\n%end\n%post\n:\n%end\n",
            ["com_redhat_kdump", "%post"],
            "lang en\n",
        ),
        (
            "%addon org_fedora_oscap\n  profile = a # b\nx = y\n%end\n",
            ["org_fedora_oscap/profile"],
            "%addon org_fedora_oscap\nx = y\n%end\n",
        ),
        ("%packages\na # one\nb\n%end\n", ["%packages/package[a]"], "%packages\nb\n%end\n"),
    ],
)
def test_lines_sections_and_entries_are_taken_out(text, addresses, wanted, tmp_path):
    path = tmp_path / "gate.ks"
    path.write_bytes(text.encode())
    unset_in(path, addresses, target="el-9")
    assert path.read_bytes().decode() == wanted


@pytest.mark.parametrize(
    ("change", "told"),
    [
        ("%packages/package=a b", "cannot stand in package"),
        ("network[2]/--mtu=9", "network has no use 2"),
        ("network[#3]/--mtu=9", "network has no use #3"),
        ("network[eno7]/--device=eno8", "would be called otherwise at once"),
        ("realm/domain=larkmoor.example", "without changing something else"),
        ("network", "network stands 2 times"),
        ("lang/language", "is not told its value"),
        ("nonsense", "'nonsense' is no assignment"),
        ("lang+=de", "is no list of plain values"),
        ("%packages/package-=z", "there is no package[z]"),
    ],
)
def test_what_a_line_cannot_carry_is_refused_and_nothing_is_written(change, told, tmp_path):
    path = tmp_path / "gate.ks"
    path.write_bytes(b"lang en\nnetwork --device=a\nnetwork --device=b\n%packages\nc\n%end\n")
    before = path.read_bytes()
    with pytest.raises(WrongUseError) as caught:
        set_in(path, ["lang=de", change], target="el-9")
    assert told in caught.value.sentence()
    assert path.read_bytes() == before


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-be", "ISO-8859-1"])
@pytest.mark.parametrize("end", ["\n", "\r\n"])
def test_all_other_bytes_stay_in_every_encoding(encoding, end, tmp_path):
    path = tmp_path / "autounattend.xml"
    whole = (HEAD.format(encoding.removesuffix("-sig").removesuffix("-be")) + DESK).replace("\n", end)
    mark = b"\xfe\xff" if encoding == "utf-16-be" else b""
    path.write_bytes(mark + whole.encode(encoding))
    set_in(path, ["ComputerName=LMR-Ä", "TimeZone=GMT Standard Time"])
    wanted = whole.replace("<![CDATA[A]]>", "LMR-Ä").replace("-->UTC", "-->GMT Standard Time")
    assert path.read_bytes() == mark + wanted.encode(encoding)


def test_new_items_of_numbered_lists_are_numbered_last(tmp_path):
    path = tmp_path / "desk.xml"
    path.write_bytes((TESTS / "checks" / "files" / "desk.xml").read_bytes())
    set_in(path, ["CreatePartition[+a]/Type=Primary", "CreatePartition[+a]/Size=500"])
    lines = [one.strip() for one in path.read_text().splitlines()]
    at = lines.index("<Size>500</Size>")
    assert lines[at - 3 : at] == ['<CreatePartition wcm:action="add">', "<Order>5</Order>", "<Type>Primary</Type>"]
    core = tmp_path / "core.xml"
    core.write_bytes((TESTS / "checks" / "files" / "core.xml").read_bytes())
    set_in(core, ["DNS-Client/Interfaces/Interface[Ethernet]/DNSServerSearchOrder/IpAddress=192.0.2.77"])
    assert 'wcm:keyValue="3">192.0.2.77<' in core.read_text()


def test_a_name_of_a_section_and_of_a_command_is_not_guessed(tmp_path):
    shutil.copytree(STATIONS, tmp_path, dirs_exist_ok=True)
    for address, told in (
        ("network[#1]", "can mean two things"),
        ("setup:network[#1]", "is brought by the section [network]"),
        ("setup:zerombr", "draft.drop+=setup:zerombr"),
        ("setup:url/--url", "is brought by the section [source]"),
    ):
        with pytest.raises(WrongUseError) as caught:
            unset_in(tmp_path / "gate.toml", [address])
        assert told in caught.value.sentence()
    unset_in(tmp_path / "gate.toml", ["network.interface[eno1]"])
    set_in(tmp_path / "gate.toml", ["%packages/package+=nano", "network[#1]/--mtu=1400"])
    made = looked_at(tmp_path / "gate.toml")
    assert isinstance(made, Subject)
    found = [(one.shown, one.text) for one in made.seats.find("packages", "%packages", "package")]
    assert [text for _, text in found] == ["chrony", "rsync", "nano"]
    assert len(made.seats.find("packages", "%packages", "")) == 1
    (host,) = [one for one in made.seats.find("setup", "network", "") if one.child("--hostname")]
    assert host.says("--mtu") == "1400"
    unset_in(tmp_path / "gate.toml", ["%packages/package[nano]", "network[#1]/--mtu"])
    set_in(tmp_path / "gate.toml", ["cdrom", "%packages[+]/package+=vim,tmux"])
    unset_in(tmp_path / "gate.toml", ["%packages[#2]/package[vim]"])
    text = (tmp_path / "gate.toml").read_text()
    assert '[[answers.packages."%packages"]]\npackage = ["tmux"]\n' in text
    assert "\n[answers.setup.cdrom]\n" in text
