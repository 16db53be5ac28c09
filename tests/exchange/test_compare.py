"""What counts as the same, and what as a difference."""

from __future__ import annotations

from pathlib import Path

import pytest

from factories import draft, settled_file
from fairledger.exchange.compare import changes, compare
from fairledger.families.kickstart.hashes import hashed
from fairledger.profiles.hashes import hash_fits, unix_hash
from fairledger.profiles.seed import for_comparing
from fairledger.subject.settling import settled

HEAD = (
    '<unattend xmlns="urn:schemas-microsoft-com:unattend" '
    'xmlns:wcm="http://schemas.microsoft.com/WMIConfig/2002/State">'
)
ATTRIBUTES = 'processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS"'


def xml(pass_: str, component: str, inner: str) -> str:
    return f'{HEAD}<settings pass="{pass_}"><component name="{component}" {ATTRIBUTES}>{inner}</component></settings></unattend>'


def shell(inner: str, pass_: str = "oobeSystem") -> str:
    return xml(pass_, "Microsoft-Windows-Shell-Setup", inner)


def side(text: str, name: str = "x.xml"):
    target = "windows-11-24h2" if name.endswith(".xml") else "el-9"
    return settled_file(text.encode(), Path("nowhere") / name, target=target)


def said(a: str, b: str, name: str = "x.xml") -> list[tuple[str, str | None, str | None]]:
    rows = compare(side(a, name), side(b, name)).differences
    return [(one.setting, _text(one.a), _text(one.b)) for one in rows]


def _text(value: object) -> str | None:
    return None if value is None else str(value)


COMMAND = "<SynchronousCommand wcm:action='add'><Order>{}</Order><CommandLine>{}</CommandLine></SynchronousCommand>"


def commands(*rows: tuple[int, str]) -> str:
    return shell(f"<FirstLogonCommands>{''.join(COMMAND.format(*row) for row in rows)}</FirstLogonCommands>")


@pytest.mark.parametrize(
    ("a", "b"),
    [
        (
            shell("<OOBE><HideEULAPage>true</HideEULAPage></OOBE>"),
            shell("<OOBE><HideEULAPage> true </HideEULAPage></OOBE>"),
        ),
        (
            shell("<OOBE><HideEULAPage>true</HideEULAPage><ProtectYourPC>3</ProtectYourPC></OOBE>"),
            shell("<OOBE><!-- x --><ProtectYourPC>3 </ProtectYourPC><HideEULAPage>true</HideEULAPage></OOBE>"),
        ),
        (commands((1, "a"), (2, "b")), commands((7, "a"), (9, "b"))),
        (commands((1, "a"), (2, "b")), commands((2, "b"), (1, "a"))),
        (
            xml("windowsPE", "Microsoft-Windows-Setup", "<UserData><AcceptEula>true</AcceptEula></UserData>"),
            xml(
                "windowsPE",
                "Microsoft-Windows-Setup",
                "<UserData><AcceptEula>true</AcceptEula></UserData><Diagnostics/>",
            ),
        ),
    ],
)
def test_spelling_order_and_comments_do_not_count(a, b):
    assert said(a, b) == []


@pytest.mark.parametrize(
    ("a", "b", "rows"),
    [
        (commands((1, "a"), (2, "b")), commands((1, "b"), (2, "a")), 2),
        (commands((1, "a"), (2, "b")), commands((1, "a")), 1),
        (commands((1, "a"), (2, "b"), (3, "c")), commands((1, "a"), (2, "c")), 1),
        (shell("<TimeZone>UTC</TimeZone>"), shell("<TimeZone>GMT Standard Time</TimeZone>"), 1),
        (shell("<Strange>1</Strange>", "specialize"), shell("<Strange>1</Strange>"), 2),
        (shell("<Strange>1</Strange>"), shell("<Strange>2</Strange>"), 1),
    ],
)
def test_what_differs_counts_once(a, b, rows):
    assert len(said(a, b)) == rows
    assert said(a, a) == []


def test_items_are_matched_by_their_identity():
    account = "<LocalAccount wcm:action='add'><Name>{}</Name><Group>{}</Group></LocalAccount>"
    one = [("keeper", "Administrators"), ("observer", "Users")]
    a, b = (
        shell(
            "<UserAccounts><LocalAccounts>"
            + "".join(account.format(*row) for row in rows)
            + "</LocalAccounts></UserAccounts>"
        )
        for rows in (one, [("observer", "Guests"), ("keeper", "Administrators")])
    )
    assert said(a, b) == [("UserAccounts/LocalAccounts/LocalAccount[observer]/Group", "Users", "Guests")]


def test_a_password_counts_encoded_or_plain():
    plain = "<AutoLogon><Password><Value>{}</Value><PlainText>{}</PlainText></Password></AutoLogon>"
    from fairledger.families.windows.passwords import encode

    a = shell(plain.format("Heron-4", "true"))
    assert said(a, shell(plain.format(encode("Heron-4", "Password"), "false"))) == []
    (row,) = compare(side(a), side(shell(plain.format("Heron-5", "true")))).differences
    assert row.secret


LINES = "#version=RHEL9\nlang en_GB.UTF-8\nnetwork --device=eno1 --ip=192.0.2.30 --netmask=255.255.255.0\npart / --size=9000\n"


@pytest.mark.parametrize(
    ("b", "settings"),
    [
        (LINES.replace("lang en_GB.UTF-8\n", "") + "lang 'en_GB.UTF-8'  # the language\n", []),
        (LINES.replace("--device=eno1 --ip=192.0.2.30", "--ip 192.0.2.30 --device eno1"), []),
        (LINES.replace("192.0.2.30", "192.0.2.31"), ["--ip"]),
        (LINES + "reboot\n", [""]),
        (LINES + "%packages\nchrony\n%end\n", ["package"]),
        (LINES.replace("part /", "part /srv"), ["mountpoint", "mountpoint", "--size", "--size"]),
        (LINES + "%post\necho a\n%end\n", ["body"]),
    ],
)
def test_lists_of_commands_are_compared_by_what_they_say(b, settings):
    assert sorted(row[0] for row in said(LINES, b, "x.ks")) == sorted(settings)


def test_hashes_are_known_by_what_they_hide():
    made = unix_hash("Heron-4")
    assert hash_fits("Heron-4", made)
    assert not hash_fits("Heron-5", made)
    assert not hash_fits("Heron-4", "Heron-4")
    assert hash_fits("Heron-4", hashed("Heron-4", "user", for_comparing("keeper")))


def test_three_files():
    base, a, b = (side(shell(f"<TimeZone>{zone}</TimeZone>")) for zone in ("UTC", "A", "B"))
    assert [one.by for one in changes(base, a, b)] == ["conflict"]
    assert [one.by for one in changes(base, a, base)] == ["a"]
    assert [one.by for one in changes(base, base, b)] == ["b"]
    assert [one.by for one in changes(base, a, a)] == ["both"]
    assert changes(base, base, base) == ()


def test_files_for_different_installers_are_compared_by_section():
    a = side(shell("<TimeZone>GMT Standard Time</TimeZone>", "specialize"))
    rows = compare(a, side("#version=RHEL9\ntimezone Europe/London\nlang en_GB.UTF-8\n", "x.ks")).differences
    assert ("locale", "language") in {(one.component, one.setting) for one in rows}
    assert all(not one.pass_ for one in rows)


@pytest.mark.parametrize(
    ("target", "section", "answer", "same"),
    [
        ("windows-11-24h2", 'time_zone = "${zone}"', 'specialize.Microsoft-Windows-Shell-Setup]\nTimeZone = "${zone}"', False),
        ("windows-11-24h2", 'time_zone = "UTC"', 'specialize.Microsoft-Windows-Shell-Setup]\nTimeZone = "UTC"', True),
        ("el-9", 'time_zone = "${zone}"', 'setup.timezone]\ntimezone = "${zone}"', False),
        ("el-9", 'language = "${l}"\nkeyboards = ["us"]\nconsole_keyboard = "us"',
         'setup.lang]\nlanguage = "${l}.UTF-8"\n[answers.setup.keyboard]\n"--xlayouts" = "us"\n"--vckeymap" = "us"', False),
        ("el-9", 'language = "en-GB"\nkeyboards = ["us"]\nconsole_keyboard = "us"',
         'setup.lang]\nlanguage = "en_GB.UTF-8"\n[answers.setup.keyboard]\n"--xlayouts" = "us"\n"--vckeymap" = "us"', True),
    ],
)  # fmt: skip
def test_a_placeholder_that_comes_to_another_value_is_another_answer(target, section, answer, same):
    head = f'[draft]\ntarget = "{target}"\n'
    one, other = (settled(draft(f"{head}{text}\n")) for text in (f"[locale]\n{section}", f"[answers.{answer}"))
    assert compare(one, other).same == same
    assert compare(one, one).same


def test_a_placeholder_is_not_the_text_that_looks_like_it():
    row = "[answers.specialize.Microsoft-Windows-Shell-Setup]\nRegisteredOwner = "
    one, other = (settled(draft(f"{row}{text}\n")) for text in ('"${owner}"', '"$${owner}"'))
    assert not compare(one, other).same
