"""Reading, writing and correcting kickstart files: nothing gets out of its place."""

from __future__ import annotations

import shutil
import subprocess

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from factories import check, check_answers, examples, rules_of
from fairledger.catalog.address import locate
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.meant import target_named
from fairledger.catalog.passes import pass_names
from fairledger.catalog.seats import Seats
from fairledger.families.kickstart.statements import SourceText
from fairledger.families.kickstart.telling import line_of
from fairledger.families.kickstart.tokens import QuoteError, quote, split
from fairledger.families.registry import family_named, family_of_file
from fairledger.model.errors import ContentError, FileTroubleError, WrongUseError
from fairledger.model.sheet import Block, Node, Sheet
from fairledger.model.values import parse_text
from fairledger.profiles.hashes import unix_hash

TARGET = target_named("el-9")
KICKSTART = family_named("kickstart")
LINE = st.text(st.characters(min_codepoint=32, exclude_categories=("Cs", "Cc", "Zl", "Zp")), max_size=16)
ANY = st.text(alphabet="a '\"\\#%=-$`;&\n\r\t\0\x85é ", max_size=16)

GATE = """#version=RHEL9
# gateway of the Azores
lang en_GB.UTF-8 --addsupport=pt_PT.UTF-8
keyboard --vckeymap=uk --xlayouts='gb','pt'
timezone Atlantic/Azores --utc   # the clock
network --bootproto=static --device=eno1 --ip 192.0.2.30 \\
  --netmask=255.255.255.0
part /boot --fstype=xfs --size=1024
reboot

%packages --ignoremissing
@^minimal-environment
@core
nodejs
@nodejs:20
-cups  # no printers
%end

%post --log=/root/post.log
echo "# hello %packages"
%end
"""


def sheet_of(text: str, script: str = "echo") -> Sheet:
    """A sheet with the text in every kind of place."""
    return Sheet(
        (
            Block("setup", "lang", "", (Node("language", text), Node("--addsupport", text))),
            Block("setup", "user", "", (Node("--name", text), Node("--lock", "true"), Node("--gecos", text))),
            Block("setup", "volgroup", "", (Node("name", text), Node("partitions", text), Node("partitions", text))),
            Block("setup", "part", "", (Node("mountpoint", text), Node("--label", text), Node("--size", "1"))),
            Block("post", "%post", "", (Node("--log", text), Node("body", script))),
        )
    )


@given(LINE, st.text(alphabet="a b#'\"\\\n$%", max_size=20))
def test_whatever_is_written_reads_back(text, script):
    sheet = sheet_of(text, script)
    try:
        data = KICKSTART.write(sheet, TARGET)
    except ContentError as error:
        assert "%" in script
        assert "would end the section" in error.message
        return
    reading = KICKSTART.read(data, "x.ks")
    assert reading.findings == ()
    assert reading.sheet.bare() == sheet


@given(ANY)
def test_no_value_changes_the_structure(text):
    try:
        data = KICKSTART.write(sheet_of(text, text), TARGET)
    except ContentError as error:
        assert error.findings[0].rule == "character-forbidden"
        return
    blocks = KICKSTART.read(data, "x.ks").sheet.blocks
    assert [(block.component, len(block.children)) for block in blocks] == [
        ("lang", 2),
        ("user", 3),
        ("volgroup", 3),
        ("part", 3),
        ("%post", 2),
    ]


@pytest.mark.parametrize("script", ["%end", "a\n %end\nb", "%packages", "%post --x", "a\rb", "a\0b", "a\u2028b"])
def test_scripts_cannot_leave_their_section(script):
    with pytest.raises(ContentError):
        KICKSTART.write(sheet_of("x", script), TARGET)


def test_words_that_only_begin_like_a_section_stay_in_their_script():
    script = "%postfix x\n  %endless\n%packages-old\n%includes"
    data = KICKSTART.write(sheet_of("x", script), TARGET)
    assert KICKSTART.read(data, "x.ks").sheet.bare() == sheet_of("x", script)


def test_what_a_script_takes_in_stays_a_direct_answer_and_no_value_can_ask_for_it(program):
    program.file("gate.ks", "#version=RHEL9\nreboot\n%post\ncat <<END\n%include /tmp/a\nEND\n%end\n")
    program("adopt", "gate.ks", "--out", "gate.toml")
    assert "[[answers.post." in (program.folder / "gate.toml").read_text()
    told = program("check", "gate.toml", status=1).stdout
    assert "script-takes-in" in told
    assert "not-expressible" not in told
    script = Node("body", parse_text("%include /tmp/a\n${body}"))
    (cast,) = KICKSTART.cast(Sheet((Block("post", "%post", "", (script,)),)), TARGET)
    assert b"\necho %include" in cast.whole(lambda _: "%include /tmp/a\necho %include")
    with pytest.raises(ContentError, match="take in a file"):
        cast.whole(lambda _: "%include /tmp/a\n%include /etc/x")


@pytest.mark.parametrize(
    ("text", "line"),
    [
        ("vmserialnum --esx=x\naccepteula\ninstall --firstdisk\nreboot\n", "esxi"),
        ("accepteula\npart / --size=9\n", "esxi"),
        ("install cdrom\nesxlocation --disk=sda\nvirtualdisk cos --size=9\nvmserialnum --esx=x\n", "esx"),
        ("rootpw x\nclearpart --alldrives --overwritevmfs\n", "esxi"),
        ("rootpw x\nreboot\nnetwrok --bootproto=dhcp\n", "el"),
        ("accepteula\nlang en_GB\nautopart --type=lvm\n%packages\n%end\n", "el"),
    ],
)
def test_which_installer_a_file_is_for_is_told_from_all_of_it(text, line):
    assert line_of(SourceText(text)) == line


@pytest.mark.parametrize("options", ["select sssd # x", "a\nreboot", 'a "b', "a\\", "a\0"])
def test_free_words_cannot_leave_their_line(options):
    with pytest.raises(ContentError):
        KICKSTART.write(Sheet((Block("setup", "authselect", "", (Node("options", options),)),)), TARGET)


@pytest.mark.parametrize("package", ["a\nb", "%end", "a # b", "-x", "@x", ""])
def test_packages_cannot_be_something_else(package):
    block = Block("packages", "%packages", "", (Node("package", package),))
    with pytest.raises(ContentError):
        KICKSTART.write(Sheet((block,)), TARGET)


def test_names_of_commands_and_options_are_single_words():
    for block in (Block("setup", "a b"), Block("setup", "lang", "", (Node("--a b", "x"),)), Block("setup", "", "")):
        with pytest.raises(ContentError):
            KICKSTART.write(Sheet((block,)), TARGET)


@given(st.text(alphabet="ab '\"\\#=-", max_size=12))
def test_words_are_split_as_they_were_quoted(text):
    assert [token.text for token in split(f"{quote(text)} x")] == ([text, "x"] if text or quote(text) else ["x"])


def test_words_comments_and_open_quotes():
    assert [token.text for token in split('a \'b c\' "d\\"e" f\\ g#h #i')] == ["a", "b c", 'd"e', "f g#h"]
    for text in ("'a", '"a', 'a"b'):
        with pytest.raises(QuoteError):
            split(text)


def test_a_file_is_read_with_all_its_forms():
    reading = KICKSTART.read(GATE.encode(), "gate.ks")
    assert reading.findings == ()
    found = {(block.component, node.name): node.value for block in reading.sheet.blocks for node in block.children}
    assert found[("network", "--ip")] == "192.0.2.30"
    assert found[("network", "--netmask")] == "255.255.255.0"
    assert found[("keyboard", "--xlayouts")] == "gb,pt"
    assert found[("timezone", "--utc")] == "true"
    assert (found[("%packages", "module")], found[("%packages", "exclude")]) == ("nodejs:20", "cups")
    assert found[("%post", "body")] == 'echo "# hello %packages"'
    origin = next(node.origin for _, node in reading.sheet.scalars() if node.name == "--netmask")
    assert (origin.line, origin.column) == (7, 3)
    assert KICKSTART.guess(reading)[0].id == "el-9"
    again = KICKSTART.read(KICKSTART.write(reading.sheet, TARGET), "x.ks")
    assert again.sheet.bare() == reading.sheet.bare()


@pytest.mark.parametrize(
    ("text", "target"),
    [
        ("accepteula\nrootpw x\n", "esxi-8"),
        ("virtualdisk a --size=1\nesxlocation --disk=x\n", "esx-4"),
        ("#version=F43\nlang en_US.UTF-8\n", "fedora-43"),
        ("lang en_US.UTF-8\n", None),
    ],
)
def test_the_target_is_guessed_by_what_only_one_line_has(text, target):
    guess = KICKSTART.guess(KICKSTART.read(text.encode(), "x.ks"))
    assert (guess[0].id if guess else None) == target
    assert family_of_file(text.encode(), "x") == "kickstart"


def test_sections_without_end_where_that_is_usual():
    text = "accepteula\n%post --interpreter=busybox\necho a\n%firstboot\necho b\n"
    reading = KICKSTART.read(text.encode(), "x.ks")
    assert reading.findings == ()
    assert [node.value for _, node in reading.sheet.scalars() if node.name == "body"] == ["echo a", "echo b"]
    target = target_named("esxi-8")
    assert KICKSTART.read(KICKSTART.write(reading.sheet, target), "x").sheet.bare() == reading.sheet.bare()


@example(b"\\\n")
@examples(200)
@given(
    st.one_of(st.binary(max_size=200), st.text(alphabet="%endpostlang \n\"'\\#-=/1\0", max_size=200).map(str.encode))
)
def test_no_bytes_crash_the_check(data):
    try:
        check_answers(b"lang en_GB.UTF-8\n" + data, "x.ks")
    except FileTroubleError:
        return


def test_ten_megabytes_of_comments_are_read_in_time():
    source = SourceText("# station\n" * 1_000_000 + "reboot\n")
    assert [one.name for one in source.statements] == ["reboot"]


def revised(text: str, *changes: tuple[str, str | None]) -> str:
    for address, value in changes:
        catalog = Catalog("kickstart", TARGET)
        seats = Seats(KICKSTART.read(text.encode(), "x.ks").sheet, catalog)
        text = KICKSTART.revise(text, seats, locate(address, catalog, seats, pass_names("kickstart")), value)
    return text


@pytest.mark.parametrize(
    ("address", "value", "old", "new"),
    [
        ("network/--ip", "192.0.2.31", "--ip 192.0.2.30", "--ip 192.0.2.31"),
        ("network/--netmask", "255.255.0.0", "255.255.255.0", "255.255.0.0"),
        ("timezone/timezone", "UTC", "Atlantic/Azores", "UTC"),
        ("timezone/--utc", None, " --utc ", " "),
        ("lang/--addsupport", "a b", "--addsupport=pt_PT.UTF-8", '--addsupport="a b"'),
        ("part[/boot]/--label", "boot", "--size=1024", "--size=1024 --label=boot"),
        ("%packages/package", "rsync", "-cups  # no printers\n", "-cups  # no printers\nrsync\n"),
        ("%packages/environment", "server", "@^minimal-environment", "@^server"),
        ("%post/body", "echo 1\necho 2", 'echo "# hello %packages"', "echo 1\necho 2"),
        ("selinux/--enforcing", "true", "reboot\n", "reboot\nselinux --enforcing\n"),
        ("user[night]/--shell", "/bin/bash", "reboot\n", "reboot\nuser --name=night --shell=/bin/bash\n"),
    ],
)
@pytest.mark.parametrize("ends", ["\n", "\r\n"])
def test_a_correction_changes_only_the_words_concerned(address, value, old, new, ends):
    before, after = GATE.replace("\n", ends), GATE.replace(old, new, 1).replace("\n", ends)
    assert revised(before, (address, value)) == after


@pytest.mark.parametrize(
    ("address", "value"),
    [
        ("network/--ip", "192.0.2.1\nreboot"),
        ("%post/body", "a\n%end"),
        ("%packages/package", "a\n%end"),
        ("network/--mtu", None),
    ],
)
def test_a_correction_that_would_break_out_is_refused(address, value):
    with pytest.raises(WrongUseError):
        revised(GATE, (address, value))


@pytest.mark.skipif(not shutil.which("openssl"), reason="needs openssl")
def test_hashes_are_those_of_the_system():
    made = unix_hash("Heron-4 é", "abcdefgh12345678")
    done = subprocess.run(
        ["openssl", "passwd", "-6", "-salt", "abcdefgh12345678", "-stdin"],
        input="Heron-4 é",
        capture_output=True,
        text=True,
        check=True,
    )
    assert made == done.stdout.strip()
    assert unix_hash("x") != unix_hash("x")


@pytest.mark.parametrize(
    ("text", "rule"),
    [
        ("#version=RHEL9\nlang\n", "part-missing"),
        ("#version=RHEL9\nlang en_GB.UTF-8 --nonsense=1\n", "setting-unknown"),
        ("#version=RHEL9\nrootpw --plaintext Heron-4\n", "password-readable"),
        ("#version=RHEL9\nnetwork --bootproto=fixed\n", "value-wrong"),
        ("#version=RHEL9\npart / --size=many\n", "value-wrong"),
        ("#version=RHEL9\nlang en_GB.UTF-8\nlang pt_PT.UTF-8\n", "component-twice"),
        ("#version=RHEL9\nuser --name=a\nuser --name=a\n", "use-twice"),
        ("#version=RHEL8\ntimesource --ntp-server=192.0.2.1\n", "setting-of-other-release"),
        ("#version=RHEL9\ninstall\n", "setting-of-other-release"),
        ("#version=RHEL8\ninstall\n", "setting-deprecated"),
        ("#version=RHEL10\nvnc\n", "setting-of-other-release"),
        ("#version=RHEL9\nlang en_GB.UTF-8\n%end\n", "line-unreadable"),
        ("#version=RHEL9\nnetwork --hostname=lmr_gate\n", "machine-name"),
        ("#version=RHEL9\nuser --name=Night!\n", "account-name"),
        ("#version=RHEL9\npart / --size=1 --onpart=sda1 --ondisk=sda\n", "settings-exclusive"),
        ("accepteula\nserialnum --esx=XXXXX-XXXXX-XXXXX-XXXXX-XXXXX\n", "placeholder-left"),
        ("accepteula\npart / --size=9\n", "setting-unknown"),
        ("accepteula\ninstall --firstdisk --overwritevmfs --preservevmfs\n", "settings-exclusive"),
    ],
)
def test_what_makes_the_installer_stop_is_found(text, rule):
    report = check(text) if text.startswith(("#", "accept")) else check_answers(text, "x.ks")
    assert rule in rules_of(report), report.findings


def test_secrets_stay_out_of_findings():
    for text in (
        "rootpw --iscrypted Heron-4\n",
        "user --name=a --password=Heron-4 --iscrypted\n",
        "accepteula\nserialnum --esx=Heron-4\n",
    ):
        report = check(text if text.startswith("accept") else f"#version=RHEL9\n{text}")
        assert report.findings
        assert "Heron" not in str(report.findings)


@pytest.mark.parametrize(
    ("line", "missing"),
    [
        ("services --enabled --disabled=cups", True),
        ("user --name=keeper --groups --lock", True),
        ("user --name keeper --groups wheel --lock", False),
        ('bootloader --append "--quiet"', False),
        ("repo --name --baseurl=http://192.0.2.10/x", True),
    ],
)
def test_an_option_is_no_value_of_the_one_before_it(line, missing):

    found = check_answers(f"#version=RHEL9\n{line}\n".encode(), "x.ks", target="el-9").findings
    assert ("value-missing" in {one.rule for one in found}) == missing
