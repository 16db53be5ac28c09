"""Reading and writing answer files: what is written reads back, hostile input is refused."""

from __future__ import annotations

import base64

import pytest
from hypothesis import given
from hypothesis import strategies as st

from factories import DESK, check_answers, draft, examples, rules_of
from fairledger.catalog.address import locate
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.meant import target_named
from fairledger.catalog.seats import Seats
from fairledger.families.registry import family_named
from fairledger.families.windows.command_lines import powershell, registry_form, unquoted
from fairledger.families.windows.passwords import decode, encode
from fairledger.model.errors import ContentError, FileTroubleError
from fairledger.model.sheet import Block, Companion, Node, Sheet

TARGET = target_named(DESK)
CATALOG = Catalog("windows", TARGET)
WINDOWS = family_named("windows")
XML_TEXT = st.text(
    st.characters(
        min_codepoint=9,
        exclude_categories=("Cs",),
        exclude_characters="".join(map(chr, [*range(11, 13), *range(14, 32), 0xFFFE, 0xFFFF])),
    ),
    max_size=20,
)


def sheet_of(text: str) -> Sheet:
    """A sheet with the text in every place that takes one."""
    account = Node("LocalAccount", None, (Node("Name", text), Node("Description", text)))
    path = Node("PathAndCredentials", None, (Node("@keyValue", "1"), Node("Path", text)))
    return Sheet(
        (
            Block(
                "windowsPE", "Microsoft-Windows-PnpCustomizationsWinPE", "amd64", (Node("DriverPaths", None, (path,)),)
            ),
            Block("specialize", "Microsoft-Windows-Shell-Setup", "amd64", (Node("RegisteredOwner", text),)),
            Block(
                "oobeSystem",
                "Microsoft-Windows-Shell-Setup",
                "amd64",
                (Node("UserAccounts", None, (Node("LocalAccounts", None, (account, account)),)), Node("Unknown", text)),
            ),
        )
    )


@given(XML_TEXT)
def test_whatever_is_written_reads_back(text):
    sheet = sheet_of(text)
    reading = WINDOWS.read(WINDOWS.write(sheet, TARGET), "answer.xml")
    assert reading.sheet.bare() == sheet
    assert reading.findings == ()


@pytest.mark.parametrize("char", ["\0", "\x07", "\x1b", "\ufffe", "\ud800"])
def test_what_xml_cannot_carry_is_refused_with_its_place(char):
    with pytest.raises(ContentError, match="cannot carry") as caught:
        WINDOWS.write(sheet_of(f"a{char}b"), TARGET)
    assert "RegisteredOwner" in [finding.setting for finding in caught.value.findings]


def test_names_cannot_break_out_of_their_element():
    for name in ("a><b", "a b", "1a", "", "a/b"):
        sheet = Sheet((Block("specialize", "Microsoft-Windows-Shell-Setup", "amd64", (Node(name, "x"),)),))
        with pytest.raises(ContentError):
            WINDOWS.write(sheet, TARGET)


@examples(300)
@given(st.one_of(st.binary(max_size=300), st.text(alphabet="<>/&!-[]?=\"' aunted:x\n", max_size=200).map(str.encode)))
def test_no_bytes_crash_the_check(data):
    try:
        report = check_answers(data, "answer.xml")
    except FileTroubleError:
        return
    assert report.findings or report.of.sheet.blocks or b"unattend" in data


GOOD = WINDOWS.write(draft('[identity]\nowner = "Lärkmoor"\n').sheet, TARGET)


@pytest.mark.parametrize(
    "data",
    [
        GOOD,
        b"\xef\xbb\xbf" + GOOD,
        GOOD.decode().replace("utf-8", "utf-16").encode("utf-16"),
        GOOD.decode().replace("utf-8", "utf-16").encode("utf-16-le"),
        GOOD.replace(b"\n", b"\r\n"),
        GOOD.decode().replace('encoding="utf-8"', 'encoding="windows-1252"').encode("windows-1252"),
        GOOD.replace(b"xmlns=", b"xmlns:u=")
        .replace(b"</", b"</u:")
        .replace(b"<", b"<u:")
        .replace(b"<u:/u:", b"</u:")
        .replace(b"<u:?", b"<?"),
    ],
    ids=["plain", "mark", "utf-16", "utf-16 without mark", "line ends", "declared", "prefixed"],
)
def test_encodings_line_ends_and_prefixes_do_not_matter(data):
    reading = WINDOWS.read(data, "answer.xml")
    assert reading.findings == ()
    assert reading.sheet.bare() == WINDOWS.read(GOOD, "answer.xml").sheet.bare()


@pytest.mark.parametrize(
    "before", ["", "\n", "<?a b>c?>", "<!-- -- > -->\n", '<?xml version="1.0"?> <!-- x --><?y ? > ?>']
)
def test_a_document_type_is_refused_whatever_stands_before_it(before):
    reading = WINDOWS.read(f"{before}<!DOCTYPE u [<!ENTITY a 'b'>]><unattend>&a;</unattend>".encode(), "answer.xml")
    assert [one.rule for one in reading.findings] == ["xml-doctype"]
    assert reading.sheet == Sheet()


def test_a_file_is_encoded_as_it_says():
    for data in (GOOD.replace(b"utf-8", b"utf-16"), GOOD.decode().encode("utf-16")):
        reading = WINDOWS.read(data, "answer.xml")
        assert [one.rule for one in reading.findings] == ["xml-encoding"]
        assert reading.sheet.bare() == WINDOWS.read(GOOD, "answer.xml").sheet.bare()


def test_findings_have_lines_and_columns_and_name_the_tag_that_was_opened():
    data = GOOD.replace(b"</RegisteredOwner>", b"</RegisteredOwnr>")
    report = check_answers(data, "answer.xml", target=DESK)
    (finding,) = report.findings
    assert (finding.rule, finding.line) == ("xml-malformed", 5)
    assert "<RegisteredOwner> was opened in line 5" in finding.message
    data = GOOD.replace(b"RegisteredOwner>", b"RegisterdOwner>")
    (finding,) = check_answers(data, "answer.xml", target=DESK).findings
    assert (finding.rule, finding.line, finding.column) == ("setting-unknown", 5, 7)


@pytest.mark.parametrize(
    ("data", "rule"),
    [
        (b'<!DOCTYPE x [<!ENTITY a "b"><!ENTITY c "&a;&a;">]><unattend>&c;</unattend>', "xml-doctype"),
        (b'<?xml version="1.0"?><!-- x --><!DOCTYPE x SYSTEM "file:///etc/passwd"><unattend/>', "xml-doctype"),
        (b"<unattend>&undefined;</unattend>", "xml-malformed"),
        (b"<a><b></a>", "xml-malformed"),
        (b"<unattend>\x01</unattend>", "xml-malformed"),
        (b"<html/>", "root-element"),
        (b"<unattend/>", "namespace"),
        (b"", "file-empty"),
        (b"just text", "xml-malformed"),
        (b"<a/><a/>", "xml-malformed"),
    ],
)
def test_bad_files_are_one_finding(data, rule):
    report = check_answers(data, "answer.xml")
    assert rules_of(report) == [rule]
    assert report.findings[0].hint


def test_bottomless_and_bytes_that_are_no_text():
    with pytest.raises(FileTroubleError, match="deeper than 200"):
        WINDOWS.read(b"<a>" * 5000 + b"</a>" * 5000, "x.xml")
    with pytest.raises(FileTroubleError, match="not UTF-8 text"):
        WINDOWS.read(b"<unattend>\xff\xfe\x00</unattend>", "x.xml")


def test_the_encoding_of_passwords_is_the_installers():
    assert encode("x", "Password") == base64.b64encode("xPassword".encode("utf-16-le")).decode()
    assert decode(encode("Heron-4", "AdministratorPassword"), "AdministratorPassword") == "Heron-4"
    assert decode("not base64!", "Password") is None
    assert decode(encode("x", "Password"), "AdministratorPassword") is None


@given(st.text(alphabet="a'\"\\’ $%&|", max_size=12))
def test_quotes_of_commands_keep_any_text_inside(text):
    line = powershell("Set-LocalUser -Name ", text, " -PasswordNeverExpires $true")
    assert isinstance(line, str)
    inside = line.removeprefix("powershell.exe -NoProfile -Command \"Set-LocalUser -Name '")
    inside = inside.removesuffix("' -PasswordNeverExpires $true\"")
    assert unquoted(inside) == text
    shell = inside.replace('\\"', "").replace("''", "").replace("’’", "")
    assert not set("'\"’") & set(shell)


def test_a_registry_command_is_the_same_in_any_spelling():
    usual = registry_form(r"reg add HKLM\SYSTEM\Setup\LabConfig /v BypassTPMCheck /t REG_DWORD /d 1 /f")
    for line in (
        r'cmd.exe /c reg.exe add "HKEY_LOCAL_MACHINE\SYSTEM\Setup\LabConfig" /f /v BypassTPMCheck /d 0x1 /t REG_DWORD',
        r"REG ADD HKLM\System\Setup\LabConfig /v bypasstpmcheck /t reg_dword /d 1 /f",
    ):
        assert registry_form(line) == usual
    assert registry_form(r"reg add HKLM\SYSTEM\Setup\LabConfig /v BypassTPMCheck /t REG_DWORD /d 0 /f") != usual


@examples(80)
@given(name=XML_TEXT, state=XML_TEXT, body=XML_TEXT)
def test_no_value_breaks_out_of_packages_features_and_scripts(name, state, body):
    package = Node(
        "package",
        None,
        (Node("@action", "configure"), Node("selection", None, (Node("@name", name), Node("@state", state)))),
    )
    script = Companion("fair-ledger/1-end.cmd", body)
    sheet = Sheet((Block("servicing", "servicing", "", (package,)),), (), (script,))
    again = WINDOWS.read(WINDOWS.write(sheet, TARGET), "x.xml")
    assert again.findings == ()
    plain = [str(value).translate({9: " ", 10: " ", 13: " "}) for value in (name, state)]
    (row,) = again.sheet.at("servicing", "servicing", "package", "selection")
    assert [row.text("@name"), row.text("@state")] in (plain, [name, state])


@examples(60)
@given(value=XML_TEXT)
def test_correcting_a_feature_changes_nothing_else(value):
    text = (
        '<unattend xmlns="urn:schemas-microsoft-com:unattend"><!-- ours -->\n<servicing>\n<package action="configure">\n'
        '<selection name="A" state="true"/><selection name="B" state="true"/>\n</package>\n</servicing>\n</unattend>\n'
    )
    seats = Seats(WINDOWS.read(text.encode(), "x").sheet, CATALOG)
    spot = locate("servicing/package[#1]/selection[B]/@state", CATALOG, seats, ("servicing",))
    changed = WINDOWS.revise(text, seats, spot, value)
    front, _, rest = text.rpartition('state="true"')
    assert changed.startswith(front)
    assert changed.endswith(rest)
    rows = list(WINDOWS.read(changed.encode(), "x").sheet.at("servicing", "servicing", "package", "selection"))
    assert [row.text("@name") for row in rows] == ["A", "B"]
    assert rows[0].text("@state") == "true"
