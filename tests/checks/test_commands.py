"""Command lines and scripts: which programs they call, and what is told of them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from factories import check, rules_of
from fairledger.catalog.uses import uses
from fairledger.checks import programs
from fairledger.checks.programs import CMD, LINE, NO_GRAMMAR, POWERSHELL, SH, TOO_DEEP, TOO_LONG, calls_in


@pytest.mark.parametrize(
    ("text", "shell", "calls"),
    [
        ('reg add "HKLM\\A B" /v x /f', LINE, [("reg", "add HKLM\\A B /v x /f", 0)]),
        ('"C:\\Program Files\\W\\wind.EXE" /s', LINE, [("wind", "/s", 0)]),
        ("cmd /c net user a b /add & dism /online", LINE,
         [("cmd", "/c net user a b /add & dism /online", 0), ("net", "user a b /add", 0), ("dism", "/online", 0)]),
        ('powershell -NoProfile -Command "sc stop x; Get-X"', LINE,
         [("powershell", "-NoProfile -Command sc stop x; Get-X", 0), ("sc", "stop x", 0), ("get-x", "", 0)]),
        ("powershell.exe C:\\w.ps1", LINE, [("powershell", "C:\\w.ps1", 0)]),
        ("@echo off\nrem reg x\nif exist x (\n reg delete y\n) else call wind.cmd 7\n", CMD,
         [("reg", "delete y", 3), ("wind.cmd", "7", 4)]),
        ('start /wait "" msiexec /i x.msi', CMD, [("start", "/wait  msiexec /i x.msi", 0), ("msiexec", "/i x.msi", 0)]),
        ("if ($a) {\n  & 'C:\\a b\\reg.exe' delete x }\n# sc stop", POWERSHELL, [("reg", "delete x", 1)]),
        ("Start-Process msiexec -ArgumentList '/i x.msi' -Wait", POWERSHELL,
         [("start-process", "msiexec -ArgumentList /i x.msi -Wait", 0), ("msiexec", "/i x.msi", 0)]),
        ("Start-Process msiexec -Args '/i',$a,'/qn'", POWERSHELL,
         [("start-process", "msiexec -Args /i,$a,/qn", 0), ("msiexec", "/i $a /qn", 0)]),
        ("powershell -nop -EncodedCommand cwBjACAAcwB0AG8AcAAgAHgA", LINE,
         [("powershell", "-nop -EncodedCommand cwBjACAAcwB0AG8AcAAgAHgA", 0), ("sc", "stop x", 0)]),
        ("cat <<E >/x\nreboot\nE\nif true; then LANG=C sudo dnf -y install b || exit 1; fi", SH,
         [("cat", "", 0), ("true", "", 3), ("dnf", "-y install b", 3), ("exit", "1", 3)]),
    ],
)  # fmt: skip
def test_the_programs_that_a_text_calls(text, shell, calls):
    found, left = calls_in(text, shell)
    assert ([(one.program, " ".join(one.words), one.row) for one in found], left) == (calls, "")


@pytest.mark.parametrize(
    ("text", "shell", "told"),
    [
        ("a | b | sudo -E c; d", SH, {"a": "", "b": "< a", "c": "< a b", "d": ""}),
        ('a "$(b $(c))" < x; d <<< y; e', SH, {"a": "< b c", "b": "< c", "c": "<", "d": "<", "e": ""}),
        ("while a; do b; done < x; . <(c)", SH, {"a": "<", "b": "<", ".": " c", "c": ""}),
        ("a (b).Get('x') | c; & ([d]::Make((e)))", POWERSHELL,
         {"a": " b get", "b": "", "c": "< a b get", "&": " e make", "e": ""}),
        ("a | b\npause > nul\nc < x\nset /p d=?\nset e=1", CMD, {"a": "", "b": "< a", "pause": "", "c": "<", "set": ""}),
    ],
)  # fmt: skip
def test_who_gives_a_program_its_input(text, shell, told):
    found, _ = calls_in(text, shell)
    assert {
        one.program: ("<" if one.fed else "") + "".join(f" {name}" for name in sorted(one.takes)) for one in found
    } == told


def test_commands_within_commands_are_not_read_for_long():
    assert calls_in("$(a " * 2_000 + ")" * 2_000, SH)[1] == TOO_DEEP


@given(st.text(alphabet="ab \"'`$%&|;(){}<>\\/-\n=", max_size=40), st.sampled_from((LINE, CMD, POWERSHELL, SH)))
def test_no_text_stops_the_reading(text, shell):
    calls, _ = calls_in(text, shell)
    assert all(one.program == one.program.lower() and 0 <= one.row <= text.count("\n") for one in calls)


def test_what_is_not_read_is_told_once(monkeypatch):
    monkeypatch.setattr(programs, "_grammar", lambda _: None)
    programs._parser.cache_clear()
    calls_in.cache_clear()
    assert calls_in("if ($a) { sc stop x }", POWERSHELL) == ((), NO_GRAMMAR)
    script = "[[command]]\ninterpreter = 'powershell'\nbody = 'if ($true) {{ sc stop {} }}'\n"
    report = check(script.format("a") + script.format("b"))
    told = [one.message for one in report.findings if one.rule == "scripts-unread"]
    programs._parser.cache_clear()
    calls_in.cache_clear()
    assert told == [f"2 scripts were not read: {NO_GRAMMAR}"]
    assert calls_in("cmd /c " * 9 + "x", LINE)[1] == TOO_DEEP
    assert calls_in("(" * 6_000 + "reg", CMD) == ((), TOO_LONG)


def line(body: str, when: str = "installed", more: str = "") -> str:
    return f"{more}[[command]]\nwhen = '{when}'\nbody = '''{body}'''\n"


KEEPER = '[account]\nlocal = [{ name = "keeper", groups = ["Administrators"], password = { env = "PW" } }]\n'
GERMAN = '[locale]\nlanguage = "de-DE"\n'


@pytest.mark.parametrize(
    ("text", "rule"),
    [
        (
            line("dism /online /add-capability /capabilityname:OpenSSH.Server~~~~0.0.1.0", "setup-starts"),
            "setup-only-changed",
        ),
        (line("reg load HKLM\\S C:\\Windows\\System32\\config\\SOFTWARE", "setup-starts"), ""),
        (line("reg add HKLM\\SYSTEM\\Setup\\LabConfig /v BypassTPMCheck /t REG_DWORD /d 1 /f", "setup-starts"), ""),
        (line("powershell -ExecutionPolicy Bypass -File C:\\w.ps1"), ""),
        (line("powershell -ep bypass C:\\w.ps1"), ""),
        (line("powershell -f C:\\w.ps1"), "script-policy"),
        (line("powershell -File C:\\w.ps1 -ExecutionPolicy Bypass"), "script-policy"),
        (line("cmd /c set /p a=Name?"), "script-waits"),
        (line("cmd /c echo y | choice"), ""),
        (line("cmd /q /c echo y"), ""),
        (line("cmd /q"), "script-waits"),
        (line('tzutil /s "Lisbon Time"'), "time-zone-unknown"),
        (line("powershell -Command \"Set-TimeZone -Id 'Azores Standard Time'\""), ""),
        (line("dism /online /norestart /enable-feature /featurename:Telnet-Client"), "feature-name"),
        ("#version=RHEL9\n%post\necho 'a:$6$b$c' | chpasswd -e\n%end\n", ""),
        ("#version=RHEL9\n%post\necho 'a:Kestrel-7' | chpasswd\n%end\n", "script-secret"),
        (line("timeout /t 5"), ""),
        (line("powershell -Command iex(irm http://lmr-files-01.larkmoor.example/x)"), "script-fetches-and-runs"),
        ("#version=RHEL9\n%post\ncurl x | python3 -m json.tool\nbash x\n%end\n", ""),
        ('#version=RHEL9\n%post\neval "$(wget -qO- x)"\n%end\n', "script-fetches-and-runs"),
        ("#version=RHEL9\n%post\nssh-keygen -t ed25519\n%end\n", "script-waits"),
        ("#version=RHEL9\n%post\nssh-keygen -t ed25519 -N '' -f /root/k\n%end\n", ""),
        (line("cmd /c reg delete HKLM\\SOFTWARE\\Wind"), "registry-asks"),
        (line("regedit wind.reg"), "script-waits"),
        (line("slmgr /ipk x"), "script-waits"),
        (line("cscript //b slmgr.vbs /ipk x"), ""),
        (line("winget install x", "sign-in"), "script-installer-asks"),
        (line("winget install x --accept-source-agreements", "sign-in"), ""),
        (line("net localgroup Administrators keeper /add", "installed", GERMAN), "group-in-other-language"),
        (line("net localgroup Wardens keeper /add", "installed", GERMAN), ""),
        (line("net user joe Kestrel-7-moor-long /add /y"), "script-secret"),
        (line("net user keeper Kestrel-7 /add", "installed", KEEPER), "script-secret"),
        (
            line("powershell -Command Set-LocalUser -Name keeper -Description x", "installed", KEEPER),
            "account-not-yet-made",
        ),
        (line("net user keeper /active:yes", "first-start", KEEPER), ""),
        (line('"C:\\Program Files\\W\\w.exe" /s'), ""),
        (line("C:\\W\\w.exe C:\\A B\\c.txt"), "path-cut"),
        (line("cmd /c copy C:\\a b.txt D:\\c"), ""),
        (line("C:\\Program Files (x86)\\W\\w.exe"), "path-cut"),
        (line('powershell -Command "a \\"b\\" c"'), ""),
        (line("powershell -Command \"a 'b' c\""), ""),
        (line("curl -o C:\\x http://192.0.2.9/x"), ""),
        ("#version=RHEL9\n%post\nif true; then\n firewall-cmd --add-port=80/tcp\nfi\n%end\n", "needs-running-system"),
        ("#version=RHEL9\n%post --nochroot\ncp x /etc/motd\n%end\n", "written-outside"),
        ("#version=RHEL9\n%post --nochroot\ncp x /mnt/sysroot/etc/motd\n%end\n", ""),
        ("#version=RHEL9\n%post --interpreter=/usr/bin/perl\nhostnamectl\n%end\n", ""),
    ],
)
def test_what_is_told_of_a_command(text, rule):
    known = {one.id for one in uses().rule} | {"path-cut", "quotes-in-quotes", "registry-key-cut", "written-outside"}
    known |= {"group-in-other-language", "account-not-yet-made", "password-makes-it-ask", "script-secret"}
    known |= {"time-zone-unknown", "feature-name"}
    assert set(rules_of(check(text))) & known == ({rule} if rule else set())
