"""What stands in commands: good ones stay silent, whatever stands there nothing fails."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from factories import check, check_answers, examples, rules_of
from fairledger.checks import script_signs
from fairledger.checks.rules import commands
from fairledger.checks.signs import Sign
from fairledger.families.registry import family_named

LINES = [
    r"reg add HKLM\SOFTWARE\Larkmoor /v Wind /t REG_DWORD /d 0x1 /f",
    r'reg.exe add "HKLM\SOFTWARE\Larkmoor" /v Place /t REG_EXPAND_SZ /d "%ProgramData%\larkmoor" /f',
    r'cmd.exe /c "reg load HKU\Default C:\Users\Default\NTUSER.DAT & reg unload HKU\Default"',
    r"cmd /c copy C:\a.txt C:\b.txt",
    r"cmd /c echo wind > C:\wind.txt",
    r"C:\larkmoor\setup.exe /quiet",
    r"%WINDIR%\System32\powercfg.exe -h off",
    r'powershell.exe -NoProfile -Command "Get-AppxPackage *weather* | Remove-AppxPackage"',
    r"msiexec /i C:\larkmoor\wind.msi /qn /norestart",
    r"net user keeper /active:yes",
    r"net accounts /maxpwage:unlimited",
    r"schtasks /create /tn Readings /tr C:\larkmoor\read.exe /sc daily",
    r"wscript //B C:\larkmoor\read.vbs",
    r"dism /online /enable-feature /featurename:NetFx3 /all /norestart",
]
SCRIPTS = [
    'set -e\nfor one in a b; do\n  echo "$one isn\'t ready"\ndone\n',
    "cat > /etc/motd <<'END'\nIt's the keeper's machine \"\nEND\nchmod 644 /etc/motd\n",
    "cat >> /etc/fstab <<-END\n\t/dev/sdb1 /srv xfs defaults 0 0\n\tEND\n",
    "x=$((1 << 2)); read -r first < /etc/os-release; echo $first\n",
    "rm -rf /var/cache/dnf /tmp/larkmoor\n",
    "dnf -y install rsync && systemctl enable --now chronyd.timer\n",
    "sed -i 's/^#Port 22/Port 2222/' /etc/ssh/sshd_config # don't forget the firewall\n",
    'grep -q "^keeper:" /etc/passwd || useradd keeper\n',
    "mkdir -p /home/keeper/.ssh && cp -p /etc/hosts /root/hosts; semanage port -a -t ssh_port_t -p tcp 2222\n",
    "cat > /etc/pam.d/station <<EOF\npassword    requisite     pam_pwquality.so\nEOF\nchage -M 90 keeper\n",
    "cat <<'EOT' > /usr/local/bin/night\n#!/bin/sh\nread -p 'Go on? ' answer\nreboot\nEOT\nchmod +x /usr/local/bin/night\n",
]


@pytest.mark.parametrize("line", LINES)
@pytest.mark.parametrize("when", ["installed", "sign-in"])
def test_good_command_lines_are_silent(line, when):
    assert rules_of(check(f"[[command]]\nwhen = '{when}'\nbody = '''{line}'''\n")) == []


@pytest.mark.parametrize("script", SCRIPTS)
def test_good_scripts_are_silent(script):
    found = rules_of(check(f"#version=RHEL9\n%post\n{script}%end\n"))
    assert [one for one in found if one.startswith(("script", "command"))] == []


@given(st.text(st.characters(exclude_categories=("Cs", "Cc")) | st.sampled_from("\n\t\"'<&|%\\$"), max_size=60))
def test_whatever_stands_in_a_script_no_rule_fails(body):
    for text in (f"#version=RHEL9\n%post\n{body}\n%end\n", f"#version=RHEL9\n%pre --interpreter={body}\nx\n%end\n"):
        assert "rule-failed" not in rules_of(check_answers(text, "a.ks"))


def test_the_route_is_asked_for_by_its_name(program):
    program.file("gate.ks", "#version=RHEL9\ncdrom\nlang en_GB.UTF-8\n")
    assert "[source-not-on-route]" in program("check", "gate.ks", "--route", "boot-parameter", status=1).stdout
    assert "[source-not-on-route]" not in program("check", "gate.ks", "--route", "disc", status=1).stdout
    assert "did you mean disc?" in program("check", "gate.ks", "--route", "disk", status=2).stderr


def test_a_file_for_another_release_is_told_apart_from_one_that_fits():
    windows = family_named("windows")
    image = (
        b'<unattend xmlns="urn:schemas-microsoft-com:unattend"><settings pass="windowsPE"><component '
        b'name="Microsoft-Windows-Setup" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" '
        b'language="neutral" versionScope="nonSxS"><ImageInstall><OSImage><InstallFrom><MetaData><Key>/IMAGE/NAME</Key>'
        b"<Value>Windows 11 Pro</Value></MetaData></InstallFrom></OSImage></ImageInstall></component></settings></unattend>"
    )

    def other(target: str) -> bool:
        return "target-other" in rules_of(check_answers(image, "a.xml", target=target))

    assert windows.guess(windows.read(image, "a.xml"))[0].line == "client"
    assert [other(one) for one in ("windows-11-23h2", "windows-10-22h2", "windows-server-2025")] == [False, True, True]


@pytest.mark.parametrize(
    ("pass_", "component", "item", "line", "rule"),
    [
        ("specialize", "Deployment", "RunSynchronous/RunSynchronousCommand/Path", "echo wind", "command-needs-shell"),
        ("windowsPE", "Setup", "RunAsynchronous/RunAsynchronousCommand/Path", "cmd /c pause", "script-waits"),
        ("auditUser", "Deployment", "RunSynchronous/RunSynchronousCommand/Path", "powershel -c x", "script-program"),
        (
            "oobeSystem",
            "Shell-Setup",
            "LogonCommands/AsynchronousCommand/CommandLine",
            "rd /s C:\\a",
            "command-needs-shell",
        ),
        ("specialize", "Deployment", "RunSynchronous/RunSynchronousCommand/Path", "cmd /c echo wind", ""),
        ("specialize", "Deployment", "RunSynchronous/RunSynchronousCommand/Path", "net usr keeper", "script-program"),
        ("specialize", "Deployment", "RunSynchronous/RunSynchronousCommand/Path", "net use Z: \\\\lmr-files\\a", ""),
        (
            "specialize",
            "Deployment",
            "RunSynchronous/RunSynchronousCommand/Path",
            "reg add HKLN\\a /f",
            "script-registry",
        ),
    ],
)
def test_commands_that_no_section_can_hold_are_looked_at(pass_, component, item, line, rule):
    group, name, setting = item.split("/")
    text = f"[[answers.{pass_}.Microsoft-Windows-{component}.{group}.{name}]]\n{setting} = '{line}'\n"
    more = "" if group == "LogonCommands" else 'Credentials = { Domain = "LMR", Username = "keeper" }\n'
    found = rules_of(check(text + more))
    assert [one for one in found if one.startswith(("script", "command"))] == ([rule] if rule else [])


@pytest.mark.parametrize(("hop", "rule"), [("192.0.2.1", ""), ("198.51.100.1", "gateway-outside"), ("2001:db8::1", "")])
def test_routes_that_no_section_can_hold_are_looked_at(hop, rule):
    text = f"""
[[answers.specialize.Microsoft-Windows-TCPIP.Interfaces.Interface]]
Identifier = "Ethernet"
Ipv4Settings = {{ DhcpEnabled = false }}
UnicastIpAddresses = {{ IpAddress = ["192.0.2.20/24"] }}
Routes = {{ Route = [{{ Identifier = "7", Prefix = "0.0.0.0/0", NextHopAddress = "{hop}", Metric = 10 }}] }}
"""
    assert [one for one in rules_of(check(text)) if "gateway" in one] == ([rule] if rule else [])


SIGNS = [
    (f"{module.__name__.rpartition('.')[2]}.{name}", one)
    for module in (script_signs, commands)
    for name, one in vars(module).items()
    if isinstance(one, Sign) and one.near
]


@pytest.mark.parametrize(("name", "sign"), SIGNS)
@examples(60)
@given(data=st.data())
def test_what_shows_a_sign_holds_one_of_the_words_near_it(name, sign, data):
    flags = re.IGNORECASE | re.MULTILINE
    text = data.draw(st.from_regex(re.compile(sign.source, flags), alphabet=st.characters(codec="ascii")))
    assert any(word in text.lower() for word in sign.near)
