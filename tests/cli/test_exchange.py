"""Adopting, comparing, carrying, explaining and mending, as the installed program does it."""

from __future__ import annotations

import json
import re
import shutil
import stat
import sys
from pathlib import Path

import pytest
from jsonschema import Draft4Validator
from lxml import etree

from factories import DESK

DRAFT = f"""format = 1
[draft]
target = "{DESK}"
profiles = ["locale/en-gb", "disk/uefi-recovery-last"]
[image]
edition = "Pro"
[licence]
accept = true
[identity]
name = "LMR-DESK-01"
[bypass]
memory = true
[[account.local]]
name = "keeper"
groups = ["Administrators", "Remote Desktop Users"]
password = {{ env = "KEEPER_PW" }}
[[command]]
when = "sign-in"
body = "cmd /c echo station"
[answers.oobeSystem.Microsoft-Windows-Shell-Setup.OOBE]
HideEULAPage = true
"""
GATE = """#version=RHEL9
# the gate on the hill
text
lang en_GB.UTF-8
keyboard --xlayouts=gb
timezone Atlantic/Azores
rootpw --lock
user --name=keeper --groups=wheel --iscrypted --password=HASH
# its own address
network --device=eno1 --bootproto=static --ip=192.0.2.31 --netmask=255.255.255.0 --gateway=192.0.2.1
network --hostname=lmr-gate-03.larkmoor.example
zerombr
clearpart --all --initlabel
autopart --type=lvm --nohome
%include /tmp/more.ks
%packages
chrony
%end
%post --log=/root/x.log
curl -s http://lmr-files-01.larkmoor.example/setup | bash
%end
reboot
""".replace("HASH", "$6$abcdefgh$" + "x" * 86)
SECRET = "Heron-4-moor"


@pytest.fixture
def desk(program):
    program.file("desk.toml", DRAFT)
    program.file("gate.ks", GATE)
    program("write", "--route", "plain", "desk.toml", "--out", "out", KEEPER_PW=SECRET)
    return program


def differences(program, *files: str, status: int = 1, **environment: str) -> list[dict[str, str]]:
    return json.loads(program("compare", *files, "--format", "json", status=status, **environment).stdout)[
        "differences"
    ]


def test_a_draft_and_its_file_mean_the_same(desk):
    told = desk("compare", "desk.toml", "out/unattend.xml", KEEPER_PW=SECRET).stdout
    assert "give the same answers" in told
    text = (desk.folder / "out/unattend.xml").read_text()
    shuffled = text.replace("wcm:", "w:").replace("xmlns:wcm", "xmlns:w").replace(">true<", "> true <")
    desk.file("again.xml", ("\ufeff<!-- by hand -->" + shuffled.partition("\n")[2]).encode("utf-16"))
    shutil.copytree(desk.folder / "out/fair-ledger", desk.folder / "fair-ledger")
    assert differences(desk, "desk.toml", "again.xml", status=0, KEEPER_PW=SECRET) == []
    assert differences(desk, "desk.toml", "again.xml", KEEPER_PW="other") != []


def test_what_differs_is_told_with_both_values_and_secrets_hidden(desk):
    text = (desk.folder / "out/unattend.xml").read_text()
    desk.file("out/b.xml", text.replace("LMR-DESK-01", "LMR-DESK-02").replace(SECRET, "x").replace(">Pro", ">X"))
    found = differences(desk, "out/unattend.xml", "out/b.xml")
    assert found == [
        {
            "pass": "specialize",
            "component": "Microsoft-Windows-Shell-Setup",
            "setting": "ComputerName",
            "a": "LMR-DESK-01",
            "b": "LMR-DESK-02",
        }
    ]
    desk.file("c.toml", DRAFT.replace("memory = true", "memory = false"))
    whole = desk("compare", "desk.toml", "c.toml", status=1, KEEPER_PW=SECRET).stdout
    assert "BypassRAMCheck" in whole
    assert "only in desk.toml" in whole
    hidden = desk("compare", "desk.toml", "out/unattend.xml", status=1, KEEPER_PW="other").stdout
    assert "(hidden)" in hidden
    assert SECRET not in hidden


def test_what_does_not_go_together_is_refused_with_the_remedy(desk):
    refused = [
        (("adopt", "desk.toml", "--out", "x.toml"), "already"),
        (("adopt", "gate.ks"), "--out desk.toml"),
        (("adopt", "gate.ks", "--target", DESK, "--out", "x.toml"), "of the family kickstart"),
        (("carry", "gate.ks", "--to", "el-10"), "fairledger adopt"),
        (("carry", "desk.toml", "--to", "windows-13"), "there is no target"),
        (("check", "gate.ks", "--except", "no-such"), "there is no rule"),
    ]
    for command, told in refused:
        assert told in desk(*command, status=2).stderr
    desk.file("open.xml", '<unattend xmlns="urn:schemas-microsoft-com:unattend">\n<settings pass="specialize">\n')
    assert "<settings> was opened in line 2 and is never closed" in desk("explain", "open.xml", status=1).stderr
    assert not (desk.folder / "x.toml").exists()


def test_three_files_tell_who_changed_what(desk):
    desk.file("a.ks", GATE.replace("192.0.2.31", "192.0.2.32").replace("lmr-gate-03", "lmr-gate-04"))
    desk.file("b.ks", GATE.replace("192.0.2.31", "192.0.2.33").replace("--nohome", ""))
    told = json.loads(desk("compare", "a.ks", "b.ks", "--base", "gate.ks", "--format", "json", status=1).stdout)[
        "changes"
    ]
    assert {(one["setting"], one["by"]) for one in told} == {
        ("--ip", "conflict"),
        ("--hostname", "a"),
        ("--nohome", "b"),
    }
    assert "changed by both, differently" in desk("compare", "a.ks", "b.ks", "--base", "gate.ks", status=1).stdout


def test_an_answer_file_becomes_a_draft_that_means_the_same(desk):
    told = desk("adopt", "out/unattend.xml", "--out", "new/desk.toml").stdout
    assert "gives the same answers as the file" in told
    text = (desk.folder / "new/desk.toml").read_text()
    for part in ("[disk]", "by_script = true", '"Remote Desktop Users"', "memory = true", "this machine's own"):
        assert part in text
    assert SECRET not in text + told
    secret = desk.folder / "new/secrets/desk-keeper.txt"
    assert secret.read_text() == SECRET + "\n"
    if sys.platform != "win32":
        assert stat.S_IMODE(secret.stat().st_mode) == 0o600
    desk("write", "--route", "plain", "new/desk.toml", "--out", "again")
    assert differences(desk, "out/unattend.xml", "again/unattend.xml", status=0) == []


def test_a_kickstart_file_keeps_its_comments_and_its_own_values_become_placeholders(desk):
    told = json.loads(desk("adopt", "gate.ks", "--out", "gate.toml", "--parameters", "--format", "json").stdout)
    assert told["not_kept"] == []
    text = (desk.folder / "gate.toml").read_text()
    assert 'address = "${address}/24"' in text
    assert "# the gate on the hill" in text
    assert text.index("# its own address") < text.index("[[network.interface]]") + 200
    assert (desk.folder / "gate.csv").read_text() == "name,address\nlmr-gate-03.larkmoor.example,192.0.2.31\n"
    assert "/tmp/more.ks" in text
    plain = desk("adopt", "gate.ks", "--out", "disk.toml", "--profile-of", "disk/name").stdout
    assert "portable: disk" in plain
    assert (desk.folder / "disk.toml").read_text().startswith("format = 1\n\n[profile]")
    desk("adopt", "gate.ks", "--out", "disk.toml", "--profile-of", "join", status=2)
    desk("adopt", "gate.ks", "--out", "gate.toml", status=4)
    bare = desk("adopt", "gate.ks", "--out", "bare.toml", "--without-secrets")
    assert 'env = "BARE_KEEPER"' in (desk.folder / "bare.toml").read_text(), bare.stdout
    assert not list(desk.folder.glob("secrets/bare*"))


def test_what_has_no_other_form_is_kept_and_written_back(desk):
    text = (desk.folder / "out/unattend.xml").read_text()
    image = '<cpi:offlineImage cpi:source="wim:x#Windows 11 Pro" xmlns:cpi="urn:schemas-microsoft-com:cpi"/>'
    other = (
        '<settings pass="generalize"><component name="Microsoft-Windows-PnpSysprep" processorArchitecture="x86" '
        'publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS"><Strange>1</Strange></component>'
        "</settings><servicing/>"
    )
    desk.file("out/more.xml", text.replace("</unattend>", other + image + "</unattend>"))
    desk("adopt", "out/more.xml", "--out", "more.toml")
    draft = (desk.folder / "more.toml").read_text()
    assert "Microsoft-Windows-PnpSysprep@x86" in draft
    assert "[[extra]]" in draft
    broken = draft.replace("<cpi:offlineImage", "<cpi:offlineImag", 1).replace("/>'", "'")
    desk.file("broken.toml", broken)
    desk("write", "--route", "plain", "broken.toml", "--out", "x", status=1)


def test_a_draft_is_carried_with_a_report_first(desk):
    desk.file("old.toml", DRAFT.replace("en-gb", "en-us").replace(DESK, "windows-11-22h2"))
    told = desk("carry", "old.toml", "--to", "windows-10-22h2").stdout
    assert "bypass.memory" in told
    assert "nothing was written" in told
    desk("carry", "old.toml", "--to", "windows-10-22h2", "--out", "new.toml")
    new = (desk.folder / "new.toml").read_text()
    assert "memory" not in new
    assert 'target = "windows-10-22h2"' in new
    left = desk("carry", "old.toml", "--to", "windows-server-2025", status=1).stdout
    assert "image.edition = Pro does not exist there" in left
    desk("carry", "old.toml", "--to", "windows-server-2025", "--edition", "Standard", "--out", "server.toml")
    assert 'edition = "Standard"' in (desk.folder / "server.toml").read_text()


def test_answers_move_to_their_successors_and_others_are_taken_out_with_the_reason(program):
    program.file(
        "gate.toml",
        'format = 1\n[draft]\ntarget = "el-7"\n# the clock\n[answers.setup.timezone]\ntimezone = "Atlantic/Azores"\n'
        '"--isUtc" = true\n[answers.setup.install]\n[answers.packages."%packages"]\n"--instLangs" = "en_GB"\n',
    )
    done = json.loads(program("carry", "gate.toml", "--to", "el-10", "--out", "n.toml", "--format", "json").stdout)
    new = (program.folder / "n.toml").read_text()
    assert '--inst-langs = "en_GB"' in new
    assert "--utc = true" in new
    assert "install" not in new
    assert "# the clock" in new
    assert [one["what"] for one in done["taken_out"]] == ["setup:install"]
    assert [one["why"] for one in done["rewritten"]] == ["now --utc", "now --inst-langs"]
    assert done["to_do"] == []


def test_a_file_is_explained_before_it_is_trusted(desk):
    told = desk("explain", "gate.ks").stdout
    assert told.index("WIPED") < told.index("Commands at the end of the installation")
    assert "curl -s http://lmr-files-01.larkmoor.example/setup | bash" in told
    assert "runs what it fetched" in told
    assert "keeper with a password, in Administrators, with all rights" in told
    evil = GATE.replace("larkmoor.example\nzero", "<script>alert(1)</script>.example\nzero")
    desk.file("evil.ks", evil)
    desk("explain", "evil.ks", "--format", "html", "--out", "evil.html")
    page = (desk.folder / "evil.html").read_text()
    assert "<script" not in page
    assert not re.findall(r'(?:src|href)="', page)
    value = json.loads(desk("explain", "out/unattend.xml", "--format", "json").stdout)
    assert {"file", "target", "basis", "gist", "events"} == set(value)
    assert value["target"].startswith("windows-11-")
    keys = {
        "phase",
        "moment",
        "as",
        "what",
        "severity",
        "destroys",
        "asks",
        "restarts",
        "rights",
        "sure",
        "file",
        "line",
    }
    assert all(keys <= set(event) for event in value["events"])
    assert [event["destroys"] for event in value["events"] if event["destroys"]] == [["disk 0"]]
    runs = [event for event in value["events"] if event["quote"]]
    assert runs
    assert all(event["as"] and event["rights"] and event["phase"] for event in runs)
    assert "select disk 0" in json.dumps(value)
    assert SECRET not in json.dumps(value)


FIXABLE = """<?xml version="1.0" encoding="utf-8"?>
<unattend xmlns="urn:schemas-microsoft-com:unattend" xmlns:wcm="http://schemas.microsoft.com/WMIConfig/2002/State">
  <settings pass="specialize">
    <!-- nothing in it -->
    <component name="Microsoft-Windows-Deployment" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS"></component>
    <component name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="en" versionScope="nonSxS">
      <ComputerName>LMR-DESK-01</ComputerName>  <!-- the first one -->
      <CopyProfile>Yes</CopyProfile>
    </component>
  </settings>
  <settings pass="oobeSystem">
    <component name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">
      <FirstLogonCommands>
        <SynchronousCommand wcm:action="add"><Order>1</Order><CommandLine>cmd /c echo 1</CommandLine></SynchronousCommand>
        <SynchronousCommand wcm:action="add"><Order>1</Order><CommandLine>cmd /c echo 2</CommandLine></SynchronousCommand>
      </FirstLogonCommands>
    </component>
  </settings>
</unattend>
"""


@pytest.mark.parametrize("encoding", ["utf-8", "utf-16"])
def test_what_has_one_right_answer_is_mended_and_nothing_else(program, encoding):
    before = FIXABLE.replace('encoding="utf-8"', f'encoding="{encoding}"').replace("\n", "\r\n")
    program.file("x.xml", before.encode(encoding))
    told = program("check", "x.xml", "--fix", "--target", DESK).stdout
    assert "-      <CopyProfile>Yes</CopyProfile>" in told
    after = (program.folder / "x.xml").read_bytes().decode(encoding)
    gone = [line for line in before.splitlines() if line not in after.splitlines()]
    assert len(gone) == 4
    assert "Microsoft-Windows-Deployment" not in after
    assert "<CopyProfile>true</CopyProfile>" in after
    assert "<Order>2</Order><CommandLine>cmd /c echo 2" in after
    assert after.count("<!--") == 2
    program("check", "x.xml", "--fix", "--target", DESK)
    assert (program.folder / "x.xml").read_bytes().decode(encoding) == after


SARIF = json.loads((Path(__file__).parent / "sarif-2.1.0.json").read_text(encoding="utf-8"))
"""The standard's own schema, whole."""


def test_build_servers_get_their_forms(desk):
    desk.file("a b.ks", GATE.replace("Atlantic/Azores", "Atlantic/Azorez"))
    value = json.loads(desk("check", "a b.ks", "desk.toml", "--format", "sarif", status=1).stdout)
    valid = Draft4Validator(SARIF, format_checker=Draft4Validator.FORMAT_CHECKER)
    valid.validate(value)
    for wrong in ({"level": "advice"}, {"ruleIndex": "0"}, {"message": {}}):
        assert list(valid.iter_errors(value | {"runs": [value["runs"][0] | {"results": [wrong]}]}))
    run = value["runs"][0]
    for one in run["results"]:
        assert run["tool"]["driver"]["rules"][one["ruleIndex"]]["id"] == one["ruleId"]
    assert "a%20b.ks" in json.dumps(value)
    suites = etree.fromstring(desk("check", "a b.ks", "desk.toml", "--format", "junit", status=1).stdout.encode())
    assert [suite.get("name") for suite in suites] == ["a b.ks", "desk.toml"]
    assert suites[0].findall(".//failure[@type='error']")
    assert not suites[1].findall(".//failure")


def test_rules_are_explained_chosen_and_silenced(desk):
    assert "117" not in desk("rule", "disk-wiped").stdout
    listed = desk("rule", "--list").stdout
    assert int(re.search(r"(\d+) rules", listed)[1]) >= 120
    assert "did you mean disk-wiped" in desk("rule", "disk-wipd", status=2).stderr
    only = json.loads(desk("check", "gate.ks", "--only", "disk-wiped", "--format", "json").stdout)
    assert {one["rule"] for one in only["files"][0]["findings"]} == {"disk-wiped"}
    rest = json.loads(desk("check", "gate.ks", "--except", "disk-wiped", "--format", "json").stdout)
    assert "disk-wiped" not in {one["rule"] for one in rest["files"][0]["findings"]}
    quiet = DRAFT + '[[silence]]\nrule = "disk-wiped"\nat = "DiskConfiguration"\nbecause = "new desks"\n'
    desk.file("quiet.toml", quiet)
    assert "silence-unused" in desk("check", "quiet.toml", "--fail-on", "warning", status=1).stdout
    desk.file("quiet.toml", quiet.replace('at = "DiskConfiguration"\n', ""))
    told = desk("check", "quiet.toml", "--fail-on", "warning").stdout
    assert "[disk-wiped]" not in told
    assert "1 silenced (disk-wiped)" in told
    loud = '[[answers.specialize.Microsoft-Windows-Deployment.RunSynchronous.RunSynchronousCommand]]\nPath = "net user a Kes-7 /add"\n'
    desk.file("loud.toml", DRAFT + loud + '[[silence]]\nrule = "script-secret"\nbecause = "x"\n')
    told = desk("check", "loud.toml").stdout
    assert "[script-secret]" in told
    assert "script-secret cannot be silenced" in told
    desk.file("quiet.toml", quiet.replace('because = "new desks"\n', ""))
    assert "says because of what" in desk("check", "quiet.toml", status=1).stdout
