"""The commands that tell what may be set, driven as a technician does."""

from __future__ import annotations

import json

from jsonschema import Draft202012Validator
from lxml import etree

from factories import DESK

GAUGE = 'name = "Larkmoor-Wind-Gauge"\npasses = ["specialize"]\nabout = "Wind gauges."\nwords = "wind"\n'
GAUGE += '[settings]\n"Port" = { kind = "integer", min = 1, max = 16, about = "Port of the wind gauge." }\n'


def test_find_gives_what_can_be_pasted(program):
    program("start", "desk.toml", "--target", DESK)
    found = json.loads(program("find", DESK, "skip", "licence", "page", "--format", "json").stdout)
    assert found["target"] == DESK
    assert set(found["results"][0]) >= {"component", "path", "passes", "kind", "example"}
    for result in found["results"][:3]:
        program("set", "desk.toml", result["example"].strip("'"))
    told = program("find", DESK, "turn off firewall", "--most", "2").stdout
    assert "fairledger set FILE DomainProfile_EnableFirewall=false" in told
    assert "more fit less well" in told
    assert "[answers.setup.zerombr]" in program("find", "el-9", "zerombr").stdout
    assert "nothing fits 'xyzzyq'" in program("find", DESK, "xyzzyq", status=1).stdout
    assert "did you mean specialize" in program("find", DESK, "x", "--pass", "specialise", status=2).stderr
    assert "no component has" in program("find", DESK, "x", "--component", "Shelll", status=2).stderr
    assert "1 or more" in program("find", DESK, "x", "--most", "0", status=2).stderr


def test_about_tells_releases_neighbours_and_policy(program):
    told = program("about", "windows-10-22h2", "Shell-Setup/OOBE/NetworkLocation").stdout
    assert "out of date since Windows 10, version 1507" in told
    assert "policy" in program("about", DESK, "EnableLUA").stdout
    assert "needs       MaxTicketExpiryUnits" in program("about", DESK, "MaxTicketExpiry").stdout
    assert "see also" in program("about", DESK, "TimeZone").stdout
    assert "it may do in other passes as well" in program("about", DESK, "EnableLUA").stdout
    pass_ = '<unattend xmlns="urn:schemas-microsoft-com:unattend"><settings pass="oobeSystem"><component name="Microsoft-Windows-'
    rest = 'LUA-Settings" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">'
    program.file("lua.xml", f"{pass_}{rest}<EnableLUA>true</EnableLUA></component></settings></unattend>")
    told = program("check", "lua.xml", "--target", DESK).stdout
    assert "does not count in the pass oobeSystem" in told
    assert "no errors" in told
    told = program("about", DESK, "generalize").stdout
    assert "somebody generalises a reference machine" in told
    assert "other releases have" in program("about", DESK, "ShowWindowsLive", status=2).stderr
    value = json.loads(program("about", DESK, "AcceptEula", "--format", "json").stdout)["settings"][0]
    assert value["related"] == ["Microsoft-Windows-Shell-Setup/OOBE/HideEULAPage"]


def test_targets_editions_and_differences(program):
    rows = json.loads(program("targets", "--format", "json").stdout)["targets"]
    pro = {"name": "Pro", "image": "Windows 11 Pro", "supported_until": None, "key_published": True}
    assert pro in next(row for row in rows if row["id"] == DESK)["editions"]
    assert "Windows Server 2022 SERVERSTANDARDCORE" in program("targets", "--editions", "windows-server-2022").stdout
    told = program("targets", "--compare", "windows-7", DESK).stdout
    assert "+ came    ImageInstall/OSImage/Compact" in told
    assert "no difference" in program("targets", "--compare", DESK, DESK).stdout
    assert "different families" in program("targets", "--compare", DESK, "el-9", status=2).stderr
    found = json.loads(program("targets", "--compare", "el-7", "el-9", "--format", "json").stdout)
    assert {one["what"] for one in found["differences"]} >= {"came", "went"}


def test_values_by_plain_words(program):
    assert "Europe/Lisbon" in program("values", "time-zone", "lisbon").stdout
    found = json.loads(program("values", "keyboard", "swiss", "--format", "json").stdout)
    assert "0807:00000807" in {one["windows"] for one in found["values"]}
    assert "no region fits" in program("values", "region", "xyzzyq", status=1).stdout
    assert "did you mean keyboard?" in program("values", "keybord", status=2).stderr


def test_exports_are_what_they_say(program):
    grammar = program("export", DESK, "--as", "relaxng").stdout
    etree.RelaxNG(etree.fromstring(grammar.encode()))
    Draft202012Validator.check_schema(json.loads(program("export", "el-9", "--as", "schema").stdout))
    assert "not XML" in program("export", "el-9", "--as", "relaxng", status=2).stderr


def test_own_components_are_known_beside_the_draft_and_by_name(program):
    program.file("catalog/windows/gauge.toml", GAUGE)
    program("start", "desk.toml", "--target", DESK, "--edition", "Pro")
    program("set", "desk.toml", "Wind-Gauge/Port=3")
    assert "Port" in program("show", "desk.toml").stdout
    program("write", "desk.toml", "--route", "stick")
    assert "component-unknown" in program("check", "out/autounattend.xml").stdout
    assert "component-unknown" not in program("check", "out/autounattend.xml", "--catalog", "catalog").stdout
    assert "Wind-Gauge" in program("find", DESK, "wind", "--catalog", "catalog").stdout
    program.file("catalog/windows/gauge.toml", GAUGE.replace("min", "mim"))
    assert "gauge.toml:6: Port: unknown key mim; did you mean min" in program("check", "desk.toml", status=3).stderr


SERVICING = """
[[answers.servicing.servicing.package]]
"@action" = "configure"
assemblyIdentity = { "@name" = "Microsoft-Windows-Foundation-Package", "@version" = "10.0.26100.1", \
"@processorArchitecture" = "amd64", "@publicKeyToken" = "31bf3856ad364e35", "@language" = "" }
selection = [{ "@name" = "TelnetClient", "@state" = true }]
[answers.specialize.Microsoft-Windows-TCPIP.Interfaces]
Interface = [{ Identifier = "Ethernet", UnicastIpAddresses = { IpAddress = ["192.0.2.31/24", "2001:db8::31/64"] } }]
"""


def test_packages_features_and_numbered_values_are_written_and_corrected(program):
    program("start", "desk.toml", "--target", DESK, "--edition", "Pro")
    path = program.folder / "desk.toml"
    path.write_text(path.read_text() + SERVICING)
    program("write", "desk.toml", "--route", "stick")
    file = "out/autounattend.xml"
    text = (program.folder / file).read_text()
    assert '<selection name="TelnetClient" state="true"/>' in text
    assert '<IpAddress wcm:action="add" wcm:keyValue="2">2001:db8::31/64</IpAddress>' in text
    assert "no errors" not in program("check", file, "--target", DESK, "--fail-on", "warning").stdout
    program(
        "set",
        file,
        "servicing/package[#1]/selection[TelnetClient]/@state=false",
        "servicing/package[#1]/selection[SNMP]/@state=true",
        "servicing/package[#1]/source[+]/@location=D:\\a&b.cab",
    )
    changed = (program.folder / file).read_text()
    assert '<selection name="TelnetClient" state="false"/>' in changed
    assert '<selection name="SNMP" state="true"/>' in changed
    assert '<source location="D:\\a&amp;b.cab"/>' in changed
    program("unset", file, "servicing/package[#1]/@action")
    assert "has no @action" in program("check", file, status=1).stdout
    program("set", file, "servicing/package[#1]/@action=install")
    program("check", file)
    told = program(
        "check", program.file("bad.xml", changed.replace('state="false"', 'state="no"')).name, status=1
    ).stdout
    assert "'no' cannot stand in package/selection/@state" in told
