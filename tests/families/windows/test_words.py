"""Sections as setup reads them, word for word; and files of other people, understood."""

from __future__ import annotations

import pytest

from factories import DESK, NOWHERE, resolved
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.meant import target_named
from fairledger.catalog.seats import Seats
from fairledger.families.build import recognise
from fairledger.families.registry import family_named
from fairledger.families.windows.near import meant
from fairledger.intent.command import COMMAND
from fairledger.intent.drivers import DRIVERS
from fairledger.intent.features import FEATURES
from fairledger.intent.join import JOIN
from fairledger.intent.licence import LICENCE
from fairledger.intent.network import NETWORK
from fairledger.intent.start import START
from fairledger.model.values import SecretRef, SecretSource
from fairledger.subject.opening import of_draft

WINDOWS = family_named("windows")


LOCAL = '[[account.local]]\nname = "O\'Hara"\n'


def answers(fragment: str, target: str = DESK) -> dict[str, str]:
    """Every answer that a fragment comes to, by pass and path; ordinals aside."""
    found = resolved(fragment if target == DESK else f'[draft]\ntarget = "{target}"\n{fragment}')
    seats = of_draft(found, NOWHERE).seats
    return {
        f"{seat.block.pass_}:{seat.shown}": str(seat.value)
        for seat in seats
        if seat.value is not None and not (seat.setting and seat.setting.ordinal)
    }


def told(fragment: str, target: str = DESK) -> str:
    """What is said of a fragment."""
    found = resolved(fragment if target == DESK else f'[draft]\ntarget = "{target}"\n{fragment}')
    return " ".join(one.message for one in of_draft(found, NOWHERE).findings)


def test_an_interface_becomes_addresses_routes_and_servers():
    found = answers(
        '[network]\ninterface = [{ name = "Ethernet", address = "192.0.2.31/24", gateway = "192.0.2.1", '
        'ipv6 = "2001:db8::31/64", ipv6_gateway = "2001:db8::1", name_servers = ["192.0.2.53", "192.0.2.54"] }]\n'
    )
    item = "specialize:Interfaces/Interface[Ethernet]"
    assert found[f"{item}/Ipv4Settings/DhcpEnabled"] == "false", "a fixed address is asked of no server"
    assert found[f"{item}/UnicastIpAddresses/IpAddress[192.0.2.31/24]"] == "192.0.2.31/24"
    assert found[f"{item}/UnicastIpAddresses/IpAddress[2001:db8::31/64]"] == "2001:db8::31/64"
    assert found[f"{item}/Routes/Route[0]/Prefix"] == "0.0.0.0/0"
    assert found[f"{item}/Routes/Route[1]/NextHopAddress"] == "2001:db8::1"
    assert found[f"{item}/DNSServerSearchOrder/IpAddress[192.0.2.54]"] == "192.0.2.54"


@pytest.mark.parametrize(
    ("row", "said"),
    [
        ('{ method = "dhcp" }', "an interface without a name"),
        ('{ name = "Ethernet", method = "off" }', "an interface without IPv4"),
        ('{ name = "Ethernet", ipv6 = "off" }', "an interface without IPv6"),
        ('{ name = "Ethernet", address = "192.0.2.31" }', "192.0.2.31 is no address with its network"),
        ('{ name = "Ethernet", method = "dhcp", vlan = 20 }', "interface.vlan"),
        ('{ name = "A", method = "dhcp" }, { name = "A", method = "static" }', ""),
    ],
)
def test_what_setup_cannot_do_with_interfaces_is_said(row, said):
    assert said in told(f"[network]\ninterface = [{row}]\n")


def test_the_networks_kind_is_a_setting_first_and_a_command_later():
    text = '[network]\nlocation = "private"\ntime_sources = ["time.larkmoor.example"]\n'
    assert answers(text, "windows-7")["oobeSystem:OOBE/NetworkLocation"] == "Work"
    lines = "\n".join(answers(text).values())
    assert "NetworkCategory Private" in lines
    assert "NtpServer 'time.larkmoor.example,0x8'" in lines


@pytest.mark.parametrize(
    ("fragment", "key", "value"),
    [
        ('[start]\nlicence = "hide"\n', "oobeSystem:OOBE/HideEULAPage", "true"),
        ('[start]\nrecommended = "updates"\n', "oobeSystem:OOBE/ProtectYourPC", "2"),
        ('[join]\nworkgroup = "LARKMOOR"\n', "specialize:Identification/JoinWorkgroup", "LARKMOOR"),
        ('[branding]\nmodel = "Tarn"\n', "specialize:OEMInformation/Model", "Tarn"),
        ('[image]\nfile = "D:\\\\desk.wim"\n', "windowsPE:ImageInstall/OSImage/InstallFrom/Path", "D:\\desk.wim"),
        ("[image]\ncompact = true\n", "windowsPE:ImageInstall/OSImage/Compact", "true"),
        ('[licence]\nactivation = "skip"\n', "specialize:SkipAutoActivation", "true"),
        ('[drivers]\nsetup = ["D:\\\\a"]\n', "windowsPE:DriverPaths/PathAndCredentials[#1]/Path", "D:\\a"),
        ("[drivers]\nkeep = true\n", "generalize:PersistAllDeviceInstalls", "true"),
    ],
)
def test_a_field_stands_where_setup_looks_for_it(fragment, key, value):
    assert answers(fragment)[key] == value


@pytest.mark.parametrize(
    ("target", "fragment", "line"),
    [
        (DESK, '[licence]\nactivation_server = "kms.larkmoor.example:1688"\n', "$p = 'kms.larkmoor.example:1688'.Split(':')"),
        (DESK, '[identity]\npattern = "LMR-{serial}"\n', "$a = 'LMR-'; $b = ''; $s = (gwmi Win32_BIOS).SerialNumber"),
        (DESK, '[features]\non = ["TelnetClient"]\n', "/Enable-Feature /FeatureName:TelnetClient /All"),
        ("windows-7", '[features]\non = ["TelnetClient"]\n', "/FeatureName:TelnetClient /NoRestart"),
        (DESK, '[features]\non = ["NetFx3"]\nsource = "medium"\n', r"if exist %d:\sources\sxs dism.exe /Online"),
        (DESK, '[features]\non = ["NetFx3"]\nsource = "D:\\\\s x"\n', r' /All /LimitAccess /Source:"D:\s x" /No'),
        (DESK, '[privacy]\nevery = "off"\n', r"\AdvertisingInfo /v DisabledByGroupPolicy /t REG_DWORD /d 1 /f"),
        (DESK, "[account.policy]\nlockout_after = 5\nlongest_days = 0\n",
         "net.exe accounts /lockoutthreshold:5 /maxpwage:unlimited"),
        (DESK, "[account.policy]\nlockout_minutes = 15\n", "accounts /lockoutduration:15 /lockoutwindow:15"),
        (DESK, "[account.administrator]\nenabled = true\n", "'S-1-5-21-*-500' | Enable-LocalUser"),
        ("windows-10-1511", "[account.administrator]\nenabled = true\n", "{$_.Disabled = $false; $_.Put()}"),
        (DESK, LOCAL + "change_password = true\n", "'O''Hara' /logonpasswordchg:yes"),
        (DESK, LOCAL + "password_expires = false\n", "-Name 'O''Hara' -PasswordNeverExpires $true"),
        ("windows-7", LOCAL + "password_expires = false\n", "{$_.Name -eq 'O''Hara'} | ForEach-Object {$_.PasswordExpires = $false"),
        (DESK, LOCAL + 'expires = "2027-01-31"\n', "-AccountExpires ([datetime]'2027-01-31').AddDays(1)"),
        ("windows-8.1", LOCAL + 'expires = "2027-01-31"\n', "ate', ([datetime]'2027-01-31').AddDays(1)); $u"),
        (DESK, LOCAL + 'groups = ["Remote Desktop Users"]\n', "Add-LocalGroupMember -SID 'S-1-5-32-555'"),
        ("windows-7", LOCAL + 'groups = ["Remote Desktop Users"]\n', "net.exe localgroup $g 'O''Hara' /add"),
        (DESK, '[locale]\nregion = "PT"\n', "Set-WinHomeLocation -GeoId 193"),
        ("windows-7", '[locale]\nregion = "PT"\n', r'reg add "HKCU\Control Panel\International\Geo" /v Nation'),
    ],
)  # fmt: skip
def test_what_has_no_setting_becomes_a_command_that_the_release_has(target, fragment, line):
    made = list(answers(fragment, target).values())
    assert any(line in one for one in made), made


@pytest.mark.parametrize(
    ("fragment", "target", "said"),
    [
        ('[features]\non = ["a b"]\n', DESK, "a b is no name of a feature"),
        ("[image]\ncompact = true\n", "windows-7", "image.compact"),
        ('[privacy]\ndiagnostics = "off"\n', "windows-8.1", "privacy.diagnostics"),
        ('[[command]]\nwhen = "setup-fails"\nbody = "x"\n', DESK, "at setup-fails as setup"),
        ('[[command]]\nbody = "x"\ninterpreter = "/bin/bash"\n', DESK, "the interpreter /bin/bash"),
        ('[[command]]\nwhen = "setup-starts"\nbody = "x"\nhidden = true\n', DESK, "a hidden command at setup-starts"),
        ('[[command]]\nbody = "x"\nlog = "a|b"\n', DESK, "this name of a log"),
        (
            '[[command]]\nwhen = "sign-in"\nrun_as = "each-account"\nbody = "a\\nb"\nhidden = true\n',
            DESK,
            "a hidden command at sign-in as each-account",
        ),
        ('[[command]]\nwhen = "sign-in"\nbody = "x"\nrestart = true\n', DESK, "restart"),
    ],
)
def test_what_is_not_possible_is_said(fragment, target, said):
    assert said in told(fragment, target)


OTHERS = """<unattend xmlns="urn:schemas-microsoft-com:unattend" xmlns:w="http://schemas.microsoft.com/WMIConfig/2002/State">
  <settings pass="specialize">
    <component name="Microsoft-Windows-TCPIP" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">
      <Interfaces><Interface w:action="add"><Identifier>Ethernet</Identifier>
        <Ipv4Settings><DhcpEnabled>false</DhcpEnabled><Metric>7</Metric></Ipv4Settings>
        <UnicastIpAddresses><IpAddress w:action="add" w:keyValue="9">192.0.2.7/24</IpAddress></UnicastIpAddresses>
        <Routes><Route w:action="add"><Identifier>x</Identifier><Prefix>0.0.0.0/0</Prefix><NextHopAddress>192.0.2.1</NextHopAddress></Route></Routes>
      </Interface></Interfaces>
    </component>
    <component name="Microsoft-Windows-UnattendedJoin" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">
      <Identification><JoinDomain>larkmoor.example</JoinDomain><Credentials><Username>joiner</Username><Password>Heron-4</Password></Credentials></Identification>
    </component>
    <component name="Microsoft-Windows-Deployment" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">
      <RunSynchronous>
        <RunSynchronousCommand w:action="add"><Order>1</Order><Path>REG.EXE ADD "HKEY_LOCAL_MACHINE\\SOFTWARE\\Policies\\Microsoft\\FindMyDevice" /f /v AllowFindMyDevice /d 0x0 /t REG_DWORD</Path></RunSynchronousCommand>
        <RunSynchronousCommand w:action="add"><Order>2</Order><Path>setup-wind.exe /q</Path><WillReboot>Always</WillReboot></RunSynchronousCommand>
        <RunSynchronousCommand w:action="add"><Order>3</Order><Path>x</Path><Credentials><Username>keeper</Username></Credentials></RunSynchronousCommand>
      </RunSynchronous>
    </component>
  </settings>
  <settings pass="oobeSystem">
    <component name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">
      <OOBE><HideEULAPage>true</HideEULAPage><ProtectYourPC>3</ProtectYourPC></OOBE>
    </component>
  </settings>
</unattend>"""


def test_other_peoples_sections_are_understood():
    target = target_named(DESK)
    reading = WINDOWS.read(OTHERS.encode(), "x.xml")
    assert reading.findings == ()
    found = recognise(Seats(reading.sheet, Catalog("windows", target)), target)
    intent = found.intent
    (interface,) = intent.get(NETWORK).interface
    assert (interface.method, interface.address, interface.gateway) == ("static", "192.0.2.7/24", "192.0.2.1")
    assert intent.get(JOIN).password == SecretRef((SecretSource("value", "Heron-4"),))
    assert intent.sections["privacy"].find_device == "off"
    assert [(one.body, one.restart) for one in intent.get(COMMAND)] == [("setup-wind.exe /q", True)]
    assert (intent.get(START).licence, intent.get(START).recommended) == ("hide", "off")
    assert [intent.get(one) for one in (FEATURES, DRIVERS, LICENCE)] == [None, None, None]
    left = {node.name: node.value for _, node in found.remainder.scalars() if not node.name.startswith("@")}
    assert left["Metric"] == "7"
    assert left["Username"] == "keeper"


BYPASS = r"reg add HKLM\SYSTEM\Setup\LabConfig /v BypassTPMCheck /t REG_DWORD /d 1 /f"


@pytest.mark.parametrize(
    ("old", "new", "nearly"),
    [
        ("reg add", "reg.exe add", False),
        ("HKLM", "hkey_local_machine", False),
        ("/d 1", "/d 0x1", False),
        ("BypassTPMCheck", "BypassDiskCheck", False),
        ("LabConfig", "Larkmoor", True),
        ("TPM", "TMP", True),
        ("SYSTEM", "SOFTWARE", True),
        ("REG_DWORD", "REG_SZ", True),
        ("/d 1", "/d 0", True),
        (r"SYSTEM\Setup\LabConfig /v BypassTPMCheck", r"SOFTWARE\Larkmoor /v Wind", False),
    ],
)
def test_near_misses_of_well_known_commands(old, new, nearly):
    assert old in BYPASS
    assert meant(BYPASS.replace(old, new)) == (BYPASS if nearly else "")
