"""Each portable section in the exact words of Windows setup, and back from other people's files."""

from __future__ import annotations

import pytest

from factories import DESK, NOWHERE, draft, resolved
from fairledger.catalog.address import locate
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.meant import target_named
from fairledger.catalog.passes import pass_names
from fairledger.catalog.seats import Seats
from fairledger.families.build import recognise
from fairledger.families.registry import family_named
from fairledger.intent.account import ACCOUNT
from fairledger.intent.command import COMMAND
from fairledger.intent.disk import DISK
from fairledger.intent.identity import IDENTITY
from fairledger.intent.locale import LOCALE
from fairledger.intent.sections import section
from fairledger.model.errors import WrongUseError
from fairledger.model.size import Size
from fairledger.subject.opening import of_draft

TARGET = target_named(DESK)
CATALOG = Catalog("windows", TARGET)
WINDOWS = family_named("windows")


def answers(fragment: str) -> dict[str, str]:
    """Every answer as ``pass:setting`` and value."""
    sheet = draft(fragment).sheet
    return {
        f"{seat.block.pass_}:{seat.shown}": str(seat.value) for seat in Seats(sheet, CATALOG) if seat.value is not None
    }


def test_one_language_answers_every_place_that_asks_for_it():
    found = answers('[locale]\nlanguage = "pt-PT"\n')
    assert found == {
        "windowsPE:SetupUILanguage/UILanguage": "pt-PT",
        **{
            f"{pass_}:{setting}": value
            for pass_ in ("windowsPE", "oobeSystem")
            for setting, value in (
                ("InputLocale", "0816:00000816"),
                ("SystemLocale", "pt-PT"),
                ("UILanguage", "pt-PT"),
                ("UserLocale", "pt-PT"),
            )
        },
    }


@pytest.mark.parametrize(
    ("keyboards", "written"),
    [
        ('["gb"]', "0809:00000809"),
        ('["gb", "pt-PT:pt"]', "0809:00000809;0816:00000816"),
        ('["us"]', "0809:00000409"),
        ('["0407:00000407"]', "0407:00000407"),
        ('["en-GB"]', "en-GB"),
        ('["${keyboard}"]', "${keyboard}"),
    ],
)
def test_keyboards_are_a_language_with_a_layout(keyboards, written):
    found = answers(f'[locale]\nlanguage = "en-GB"\nkeyboards = {keyboards}\n')
    assert found["oobeSystem:InputLocale"] == written


@pytest.mark.parametrize(
    ("zone", "written"),
    [
        ("Atlantic/Azores", "Azores Standard Time"),
        ("Europe/Lisbon", "GMT Standard Time"),
        ("GMT Standard Time", "GMT Standard Time"),
        ("Etc/UTC", "UTC"),
        ("${zone}", "${zone}"),
    ],
)
def test_time_zones_get_the_installers_name(zone, written):
    assert answers(f'[locale]\ntime_zone = "{zone}"\n') == {"specialize:TimeZone": written}


def test_a_disk_by_roles():
    found = answers(
        '[disk]\nwhich = 1\nfate = "wipe"\npartition = [\n'
        '  { role = "firmware", size = "260 MiB", label = "System" },\n'
        '  { role = "reserved", size = "16 MiB" },\n'
        '  { role = "recovery", size = "1 GiB" },\n'
        '  { role = "system", size = "rest", letter = "C" },\n]\n'
    )
    at = "windowsPE:DiskConfiguration/Disk[1]"
    assert found == {
        f"{at}/DiskID": "1",
        f"{at}/WillWipeDisk": "true",
        f"{at}/CreatePartitions/CreatePartition[#1]/Order": "1",
        f"{at}/CreatePartitions/CreatePartition[#1]/Type": "EFI",
        f"{at}/CreatePartitions/CreatePartition[#1]/Size": "260",
        f"{at}/CreatePartitions/CreatePartition[#2]/Order": "2",
        f"{at}/CreatePartitions/CreatePartition[#2]/Type": "MSR",
        f"{at}/CreatePartitions/CreatePartition[#2]/Size": "16",
        f"{at}/CreatePartitions/CreatePartition[#3]/Order": "3",
        f"{at}/CreatePartitions/CreatePartition[#3]/Type": "Primary",
        f"{at}/CreatePartitions/CreatePartition[#3]/Size": "1024",
        f"{at}/CreatePartitions/CreatePartition[#4]/Order": "4",
        f"{at}/CreatePartitions/CreatePartition[#4]/Type": "Primary",
        f"{at}/CreatePartitions/CreatePartition[#4]/Extend": "true",
        f"{at}/ModifyPartitions/ModifyPartition[1]/Order": "1",
        f"{at}/ModifyPartitions/ModifyPartition[1]/PartitionID": "1",
        f"{at}/ModifyPartitions/ModifyPartition[1]/Format": "FAT32",
        f"{at}/ModifyPartitions/ModifyPartition[1]/Label": "System",
        f"{at}/ModifyPartitions/ModifyPartition[3]/Order": "2",
        f"{at}/ModifyPartitions/ModifyPartition[3]/PartitionID": "3",
        f"{at}/ModifyPartitions/ModifyPartition[3]/Format": "NTFS",
        f"{at}/ModifyPartitions/ModifyPartition[3]/TypeID": "de94bba4-06d1-4d40-a16a-bfd50179d6ac",
        f"{at}/ModifyPartitions/ModifyPartition[4]/Order": "3",
        f"{at}/ModifyPartitions/ModifyPartition[4]/PartitionID": "4",
        f"{at}/ModifyPartitions/ModifyPartition[4]/Format": "NTFS",
        f"{at}/ModifyPartitions/ModifyPartition[4]/Letter": "C",
        "windowsPE:ImageInstall/OSImage/InstallTo/DiskID": "1",
        "windowsPE:ImageInstall/OSImage/InstallTo/PartitionID": "4",
    }


@pytest.mark.parametrize(
    ("fragment", "expected"),
    [
        ('[disk]\nfate = "ask"\n', {"windowsPE:DiskConfiguration/WillShowUI": "Always"}),
        (
            "[disk]\ninstall_to = 3\n",
            {
                "windowsPE:ImageInstall/OSImage/InstallTo/DiskID": "0",
                "windowsPE:ImageInstall/OSImage/InstallTo/PartitionID": "3",
            },
        ),
        (
            '[identity]\nnaming = "random"\nowner = "L"\n',
            {"specialize:ComputerName": "*", "specialize:RegisteredOwner": "L"},
        ),
        (
            '[identity]\nname = "LMR-${n}"\norganisation = "O"\n',
            {"specialize:ComputerName": "LMR-${n}", "specialize:RegisteredOrganization": "O"},
        ),
        (
            '[image]\nedition = "Pro"\n',
            {
                "windowsPE:ImageInstall/OSImage/InstallFrom/MetaData[/IMAGE/NAME]/Key": "/IMAGE/NAME",
                "windowsPE:ImageInstall/OSImage/InstallFrom/MetaData[/IMAGE/NAME]/Value": "Windows 11 Pro",
            },
        ),
        (
            "[image]\nindex = 6\n",
            {
                "windowsPE:ImageInstall/OSImage/InstallFrom/MetaData[/IMAGE/INDEX]/Key": "/IMAGE/INDEX",
                "windowsPE:ImageInstall/OSImage/InstallFrom/MetaData[/IMAGE/INDEX]/Value": "6",
            },
        ),
        (
            '[licence]\naccept = true\nkey = { env = "K" }\n',
            {
                "windowsPE:UserData/AcceptEula": "true",
                "windowsPE:UserData/ProductKey/Key": "(secret: env K)",
                "windowsPE:UserData/ProductKey/WillShowUI": "OnError",
            },
        ),
        ("[bypass]\nonline_account = true\nmemory = false\n", {"oobeSystem:OOBE/HideOnlineAccountScreens": "true"}),
    ],
)
def test_smaller_sections(fragment, expected):
    assert answers(fragment) == expected


def test_generated_commands_come_in_order_before_nothing_and_after_given_numbers():
    found = answers(
        '[locale]\nregion = "PT"\n[account]\nlocal = [{ name = "o\'hara", password_expires = false }]\n'
        "[[answers.oobeSystem.Microsoft-Windows-Shell-Setup.FirstLogonCommands.SynchronousCommand]]\n"
        'Order = 1\nCommandLine = "cmd /c echo a"\n'
    )
    lines = {key: value for key, value in found.items() if key.endswith("CommandLine")}
    at = "oobeSystem:FirstLogonCommands/SynchronousCommand"
    assert lines == {
        f"{at}[#1]/CommandLine": 'powershell.exe -NoProfile -Command "Set-WinHomeLocation -GeoId 193"',
        f"{at}[#2]/CommandLine": "powershell.exe -NoProfile -Command \"Set-LocalUser -Name 'o''hara' -PasswordNeverExpires $true\"",
        f"{at}[#3]/CommandLine": "cmd /c echo a",
    }


def test_direct_answers_have_the_last_word_and_remember_what_they_overrode():
    found = resolved(
        '[identity]\nowner = "section"\n[account]\nlocal = [{ name = "observer", groups = ["Users"] }]\n'
        '[answers.specialize.Microsoft-Windows-Shell-Setup]\nRegisteredOwner = "answer"\n'
        "[[answers.oobeSystem.Microsoft-Windows-Shell-Setup.UserAccounts.LocalAccounts.LocalAccount]]\n"
        'Name = "observer"\nGroup = "Administrators"\n'
    )
    nodes = {node.name: node for _, node in of_draft(found, NOWHERE).sheet.scalars()}
    assert nodes["RegisteredOwner"].value == "answer"
    assert nodes["RegisteredOwner"].origin.overrode[0].line == 6
    assert nodes["RegisteredOwner"].origin.overrode[0].by == "identity"
    assert nodes["Group"].value == "Administrators"


OTHERS = """<?xml version="1.0"?>
<unattend xmlns="urn:schemas-microsoft-com:unattend">
  <settings pass="windowsPE">
    <component name="Microsoft-Windows-Setup" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS" xmlns:wcm="http://schemas.microsoft.com/WMIConfig/2002/State">
      <DiskConfiguration>
        <Disk wcm:action="add">
          <ModifyPartitions>
            <ModifyPartition wcm:action="add"><PartitionID>2</PartitionID><Order>2</Order><Letter>C</Letter><Format>NTFS</Format></ModifyPartition>
            <ModifyPartition wcm:action="add"><PartitionID>9</PartitionID><Order>3</Order><Format>NTFS</Format></ModifyPartition>
            <ModifyPartition wcm:action="add"><PartitionID>1</PartitionID><Order>1</Order><Active>true</Active></ModifyPartition>
          </ModifyPartitions>
          <CreatePartitions>
            <CreatePartition wcm:action="add"><Order>2</Order><Type>Primary</Type><Extend>true</Extend><Size>7</Size></CreatePartition>
            <CreatePartition wcm:action="add"><Order>1</Order><Type>Primary</Type><Size>500</Size></CreatePartition>
          </CreatePartitions>
          <DiskID>0</DiskID>
          <WillWipeDisk>true</WillWipeDisk>
        </Disk>
      </DiskConfiguration>
      <ImageInstall><OSImage><InstallTo><DiskID>0</DiskID><PartitionID>2</PartitionID></InstallTo></OSImage></ImageInstall>
      <RunSynchronous>
        <RunSynchronousCommand wcm:action="add"><Order>1</Order><Path>cmd /c reg add "HKEY_LOCAL_MACHINE\\SYSTEM\\Setup\\LabConfig" /v BypassTPMCheck /t REG_DWORD /d 0x00000001 /f</Path></RunSynchronousCommand>
        <RunSynchronousCommand wcm:action="add"><Order>2</Order><Path>cmd /c echo station</Path></RunSynchronousCommand>
      </RunSynchronous>
    </component>
  </settings>
  <settings pass="oobeSystem">
    <component name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS" xmlns:wcm="http://schemas.microsoft.com/WMIConfig/2002/State">
      <AutoLogon><Enabled>true</Enabled><Username>keeper</Username><LogonCount>1</LogonCount><Password><Value>SABlAHIAbwBuAC0ANABQAGEAcwBzAHcAbwByAGQA</Value><PlainText>false</PlainText></Password></AutoLogon>
      <UserAccounts><LocalAccounts>
        <LocalAccount wcm:action="add"><Name>keeper</Name><Group>Administrators;Users</Group><Password><Value>Heron-4</Value><PlainText>true</PlainText></Password></LocalAccount>
      </LocalAccounts></UserAccounts>
      <TimeZone>GMT Standard Time</TimeZone>
    </component>
  </settings>
</unattend>
"""


def test_other_peoples_files_are_understood():
    reading = WINDOWS.read(OTHERS.encode(), "x.xml")
    assert reading.findings == ()
    found = recognise(Seats(reading.sheet, CATALOG), TARGET)
    intent = found.intent
    (disk,) = intent.get(DISK)
    assert [(part.role, part.size, part.grow, part.made) for part in disk.partition] == [
        ("boot", Size(mib=500), False, True),
        ("system", Size(mib=7), True, True),
        ("data", None, False, False),
    ]
    assert (disk.table, disk.partition[1].letter, disk.partition[2].number) == ("mbr", "C", 9)
    account = intent.get(ACCOUNT)
    assert account.local[0].groups == ("Administrators", "Users")
    assert account.sign_in.password is None, "it is the account's own, hidden or not"
    assert intent.get(section("bypass")).security_chip is True
    assert intent.get(LOCALE).time_zone == "Europe/London"
    assert intent.get(IDENTITY) is None
    assert [(one.when, one.body) for one in intent.get(COMMAND)] == [("setup-starts", "cmd /c echo station")]
    place = intent.place("disk", 0, "partition", 1, "grow")
    assert (place.setting, place.origin.line) == (
        "DiskConfiguration/Disk[0]/CreatePartitions/CreatePartition[#1]/Extend",
        13,
    )


def revised(text: str, *changes: tuple[str, str | None]) -> str:
    for address, value in changes:
        seats = Seats(WINDOWS.read(text.encode(), "x.xml").sheet, CATALOG)
        text = WINDOWS.revise(text, seats, locate(address, CATALOG, seats, pass_names("windows")), value)
    return text


@pytest.mark.parametrize(
    ("address", "value", "old", "new"),
    [
        ("TimeZone", "UTC", "<TimeZone>GMT Standard Time<", "<TimeZone>UTC<"),
        ("LogonCount", "2", "<LogonCount>1<", "<LogonCount>2<"),
        ("LocalAccount[keeper]/Group", "a & <b>", "Administrators;Users", "a &amp; &lt;b&gt;"),
        ("windowsPE:RunSynchronousCommand[#2]/Path", "x", "cmd /c echo station", "x"),
        ("TimeZone", None, "      <TimeZone>GMT Standard Time</TimeZone>\n", ""),
        ("LogonCount", None, "<LogonCount>1</LogonCount>", ""),
        (
            "OOBE/HideEULAPage",
            "true",
            "</TimeZone>\n",
            "</TimeZone>\n      <OOBE>\n        <HideEULAPage>true</HideEULAPage>\n      </OOBE>\n",
        ),
    ],
)
def test_a_correction_changes_only_the_element_concerned(address, value, old, new):
    for ends in ("\n", "\r\n"):
        before, after = OTHERS.replace("\n", ends), OTHERS.replace(old, new, 1).replace("\n", ends)
        assert revised(before, (address, value)) == after


def test_a_correction_adds_items_components_and_passes_that_read_back():
    text = revised(
        OTHERS,
        ("LocalAccount[night]/DisplayName", "Night & day"),
        ("specialize:Microsoft-Windows-Deployment/ExtendOSPartition/Extend", "true"),
        ("generalize:PersistAllDeviceInstalls", "true"),
    )
    reading = WINDOWS.read(text.encode(), "x.xml")
    assert reading.findings == ()
    assert text.count('<LocalAccount wcm:action="add">') == 2
    values = {node.name: node.value for _, node in reading.sheet.scalars()}
    assert (values["DisplayName"], values["Extend"], values["PersistAllDeviceInstalls"]) == (
        "Night & day",
        "true",
        "true",
    )
    assert "      <DisplayName>" in text


def test_items_that_an_attribute_tells_apart_are_made_with_it():
    text = revised(
        OTHERS, ('Microsoft-Windows-PnpCustomizationsWinPE/DriverPaths/PathAndCredentials[a"b]/Path', "D:\\drivers")
    )
    reading = WINDOWS.read(text.encode(), "x.xml")
    assert reading.findings == ()
    assert ("@keyValue", 'a"b') in [(node.name, node.value) for _, node in reading.sheet.scalars()]


def test_an_empty_element_is_opened_and_a_bad_character_refused():
    text = OTHERS.replace("<TimeZone>GMT Standard Time</TimeZone>", "<TimeZone />")
    assert "<TimeZone>UTC</TimeZone>" in revised(text, ("oobeSystem:TimeZone", "UTC"))
    with pytest.raises(WrongUseError, match="no answer file can carry"):
        revised(OTHERS, ("TimeZone", "a\x01b"))
    with pytest.raises(WrongUseError, match="not answered"):
        revised(OTHERS, ("OOBE/HideEULAPage", None))


RECOVERY_LAST = """[disk]
which = 1
fate = "wipe"
partition = [
  { role = "firmware", size = "300 MiB" },
  { role = "system", size = "rest", label = "Larkmoor" },
  { role = "recovery", size = "1 GiB" },
]
"""


def test_a_recovery_partition_behind_the_growing_one_is_made_by_a_script():
    found = draft(RECOVERY_LAST)
    (script,) = found.sheet.companions
    assert str(script.body).splitlines() == [
        "select disk 1",
        "clean",
        "convert gpt",
        "create partition efi size=300",
        "format quick fs=fat32",
        "create partition primary",
        "shrink minimum=1024",
        'format quick fs=ntfs label="Larkmoor"',
        "create partition primary",
        "format quick fs=ntfs",
        'set id="de94bba4-06d1-4d40-a16a-bfd50179d6ac"',
        "gpt attributes=0x8000000000000001",
    ]
    said = answers(RECOVERY_LAST)
    assert said["windowsPE:ImageInstall/OSImage/InstallTo/PartitionID"] == "2"
    assert rf"diskpart.exe /s %d:\{script.name}".replace("/", "\\").replace("\\s ", "/s ") in "".join(said.values())
    assert not any("CreatePartition" in name for name in said)


def test_a_label_cannot_break_out_of_the_script():
    fragment = RECOVERY_LAST.replace('"Larkmoor"', '"${label}"')
    (script,) = draft(fragment).sheet.companions
    filled = script.body.fill({"label": 'x"\nclean all'})
    assert 'label="x__clean all"' in filled
    told = draft(RECOVERY_LAST.replace('"Larkmoor"', "'a\"b'")).findings
    assert ["label" in one.message for one in told] == [True]


def test_groups_come_right_in_every_display_language():
    said = answers('[[account.local]]\nname = "keeper"\ngroups = ["administrators", "remote-desktop-users"]\n')
    assert said["oobeSystem:UserAccounts/LocalAccounts/LocalAccount[keeper]/Group"] == "Administrators"
    assert any("Add-LocalGroupMember -SID 'S-1-5-32-555' -Member 'keeper'" in one for one in said.values())
