"""Good files broken in one way each: the mistake is found, by the rule that is meant for it."""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path

import pytest

from fairledger.checks.engine import check_answer_file
from fairledger.model.target import Facts

FILES = Path(__file__).parent / "files"
KEY = "<ProductKey><Key>{}</Key></ProductKey><AcceptEula>"
JOIN = (
    '<settings pass="specialize"><component name="Microsoft-Windows-UnattendedJoin" processorArchitecture="amd64" '
    'publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">{}</component>'
)


@cache
def text_of(name: str) -> str:
    return (FILES / name).read_text(encoding="utf-8")


def found(text: str, name: str, target: str) -> list[tuple[str, str]]:
    facts = Facts(firmware="bios" if name in ("extended.xml", "older.xml", "thin.ks", "seven.ks") else "uefi")
    report = check_answer_file(text.encode("utf-8", "surrogatepass"), name, target=target, facts=facts)
    return [(finding.rule, finding.severity) for finding in report.findings]


@pytest.mark.parametrize(
    ("name", "target", "rules"),
    [
        ("desk.xml", "windows-11-24h2", {"disk-wiped", "start-page-left"}),
        ("older.xml", "windows-7", {"disk-wiped", "password-missing"}),
        ("extended.xml", "windows-10-22h2", {"disk-wiped", "image-open"}),
        ("gate.ks", "el-9", {"disk-wiped"}),
        ("cloned.ks", "el-8", {"source-local", "name-usual", "finish-missing"}),
        ("host.ks", "esxi-8", {"disk-wiped"}),
        ("server.xml", "windows-server-2022", {"disk-wiped"}),
        ("audit.xml", "windows-11-24h2", set()),
        ("core.xml", "windows-server-2019", {"disk-wiped", "password-readable"}),
        ("netboot.xml", "windows-10-22h2", {"disk-wiped", "password-readable"}),
        ("disks.xml", "windows-server-2022", {"disk-wiped"}),
        ("thick.ks", "el-9", {"disk-wiped", "password-readable"}),
        ("subvolumes.ks", "fedora-42", {"disk-wiped"}),
        ("thin.ks", "el-9", {"disk-wiped"}),
        ("seven.ks", "el-7", {"disk-wiped"}),
        ("sealed.ks", "el-8", {"disk-wiped", "password-readable"}),
        ("bonded.ks", "el-9", {"disk-wiped"}),
        ("desktop.ks", "fedora-42", {"disk-wiped"}),
    ],
)
def test_good_files_have_no_error(name, target, rules):
    rows = found(text_of(name), name, target)
    assert {rule for rule, _ in rows} == rules
    assert "error" not in {severity for _, severity in rows}


DESK = [
    ("</UILanguage>", "", "xml-malformed"),
    (">Larkmoor<", ">Lark & moor<", "xml-malformed"),
    ('pass="specialize"', 'pass="specialise"', "pass-unknown"),
    ('name="Microsoft-Windows-Shell-Setup"', 'name="Microsoft-Windows-ShellSetup"', "component-unknown"),
    ('processorArchitecture="amd64"', 'processorArchitecture="x64"', "architecture"),
    ("31bf3856ad364e35", "31bf3856ad364e36", "component-attributes"),
    ('versionScope="nonSxS"', 'versionScope="SxS"', "component-attributes"),
    (' name="Microsoft-Windows-Setup"', "", "component-attributes"),
    ("ComputerName>", "ComputrName>", "setting-unknown"),
    ("ComputerName>", "computername>", "setting-unknown"),
    ("<WillWipeDisk>true", "<WillWipeDisk>yes", "value-wrong"),
    ("<Size>260", "<Size>260MB", "value-wrong"),
    ("<Size>260", "<Size>-1", "value-wrong"),
    ("<Size>260", "<Size>20", "firmware-partition-small"),
    ("<Type>EFI", "<Type>ESP", "value-wrong"),
    ("<Type>EFI</Type>", "<Type>Primary</Type>", "firmware-partition-missing"),
    ("<Format>NTFS", "<Format>EXT4", "value-wrong"),
    ("<Format>FAT32", "<Format>NTFS", "firmware-partition-format"),
    ("<Letter>C", "<Letter>C:", "value-wrong"),
    ("<Letter>C", "<Letter>X", "drive-letter"),
    ("<Order>2</Order>", "<Order>1</Order>", "item-twice"),
    ("<Label>System", "<Label>SystemPartition1", "label-long"),
    ("<Label>Recovery</Label>", "<Label>Windows</Label>", "label-twice"),
    ("<Label>Recovery</Label>", "<Label>Recovery</Label><Letter>C</Letter>", "drive-letter-twice"),
    (r"re:(<InstallTo>\s*<DiskID>)0", r"\g<1>1", "install-target-wrong"),
    (r"re:(<InstallTo>.*?<PartitionID>)4", r"\g<1>1", "install-target-wrong"),
    (r"re:(<InstallTo>.*?<PartitionID>)4", r"\g<1>9", "install-target-wrong"),
    (r"re:<InstallTo>.*?</InstallTo>", "", "install-target-missing"),
    (r"re:<AcceptEula>.*?</AcceptEula>", "", "licence-not-accepted"),
    ("<AcceptEula>true", "<AcceptEula>false", "licence-not-accepted"),
    ("<Extend>true</Extend>", "<Extend>true</Extend><Size>100</Size>", "partition-grows-with-size"),
    ("<Size>260</Size>", "<Extend>true</Extend>", "partition-grows-before-last"),
    ("<Size>260</Size>", "", "partition-without-size"),
    ("Windows 11 Pro<", "Windows 11 Proo<", "image-unknown"),
    ("/IMAGE/NAME", "/IMAGE/NAM", "image-property"),
    ("LMR-DESK-01", "LMR-DESKTOP-STATION-01", "machine-name"),
    ("LMR-DESK-01", "LMR_DESK 01", "machine-name"),
    ("LMR-DESK-01", "${name}", "placeholder-left"),
    ("LMR-DESK-01", "keeper", "account-named-as-machine"),
    ("Azores Standard Time", "Azores Time", "time-zone-unknown"),
    ("<UILanguage>en-GB", "<UILanguage>en-UK", "language-unknown"),
    ("<UserLocale>pt-PT", "<UserLocale>pt-XX", "language-unknown"),
    ("0809:00000809", "0809:0000f809", "keyboard-unknown"),
    (r"re:(<UILanguageFallback>)en-US", r"\1en-GB", "fallback-same"),
    ("<Username>keeper", "<Username>keepr", "sign-in-account-unknown"),
    (r"re:<LogonCount>.*?</LogonCount>", "", "sign-in-uncounted"),
    ("<LogonCount>1", "<LogonCount>999", "sign-in-often"),
    ("<LogonCount>1", "<LogonCount>0", "value-wrong"),
    ("<ProtectYourPC>3", "<ProtectYourPC>5", "value-wrong"),
    ("<Group>Administrators", "<Group>Administratoren", "group-unknown"),
    ("<Group>Administrators", "<Group>Users", "nobody-administers"),
    ("<Name>observer", "<Name>keeper", "item-twice"),
    ("<Name>observer", "<Name>obs/erver", "account-name"),
    ("<Name>observer", "<Name>Guest", "account-exists"),
    (
        r"re:<Password>\s*<Value>[^<]*</Value>\s*<PlainText>false",
        "<Password><Value>Heron-4</Value><PlainText>true",
        "password-readable",
    ),
    ("<TimeZone>", "<OOBE><HideEULAPage>true</HideEULAPage></OOBE><TimeZone>", "pass-wrong"),
    ("<UserData>", "<TimeZone>UTC</TimeZone><UserData>", "setting-unknown"),
    (' wcm:action="add"', "", "list-action"),
    ('wcm:action="add"', 'wcm:action="append"', "list-action"),
    (r"re:<Path>reg add.*?</Path>", "", "part-missing"),
    ("<Path>reg add", "<Path>" + "x" * 300, "value-wrong"),
    ("urn:schemas-microsoft-com:unattend", "urn:schemas-microsoft-com:unatend", "namespace"),
    ("unattend", "unatended", "root-element"),
    ("</unattend>", '<settings pass="specialize"/></unattend>', "pass-twice"),
    ('<settings pass="specialize">', JOIN.format(""), "component-empty"),
    (
        '<settings pass="specialize">',
        JOIN.format(
            "<Identification><JoinDomain>larkmoor.example</JoinDomain><JoinWorkgroup>L</JoinWorkgroup></Identification>"
        ),
        "join-both",
    ),
    (
        '<settings pass="specialize">',
        JOIN.format("<Identification><JoinDomain>larkmoor.example</JoinDomain></Identification>"),
        "join-without-account",
    ),
    ("<UserData>", "x<UserData>", "stray-text"),
    ("<AcceptEula>", KEY.format("XXXXX-XXXXX-XXXXX-XXXXX-XXXXX"), "key-placeholder"),
    ("<AcceptEula>", KEY.format("ABCDE-FGHIJ"), "key-form"),
    ("<AcceptEula>", KEY.format("YOUR-PRODUCT-KEY"), "placeholder-left"),
    ("<DiskID>0</DiskID>", "<DiskID>sda</DiskID>", "value-wrong"),
    (r"re:(<Disk .*?</Disk>)", r"\1\1", "item-twice"),
    ("<PartitionID>1</PartitionID>", "<PartitionID>8</PartitionID>", "partition-not-made"),
    ("<ProtectYourPC>", "<SkipMachineOOBE>true</SkipMachineOOBE><ProtectYourPC>", "setting-deprecated"),
    ('pass="specialize"', 'pass="auditSystem"', "pass-never-runs"),
    ("Larkmoor<", "Lark\u202emoor<", "characters-hidden"),
    ("Larkmoor<", "Lark\x01moor<", "xml-malformed"),
    ('encoding="utf-8"', 'encoding="utf-16"', "xml-encoding"),
    ("<Key>/IMAGE/NAME", "<Key>/IMAGE/INDEX", "image-property"),
    (r"re:<InstallFrom>.*?</InstallFrom>", "", "image-open"),
    (
        "</InstallTo>",
        "</InstallTo><InstallToAvailablePartition>true</InstallToAvailablePartition>",
        "install-target-both",
    ),
    ("<WillWipeDisk>true", "<WillWipeDisk>false", "disk-kept-and-laid-out"),
    ("<Size>16</Size>", "<Size>16384000</Size>", "partition-huge"),
    ("<TypeID>de94bba4-06d1-4d40-a16a-bfd50179d6ac", "<TypeID>0x27", "partition-type-of-other-table"),
    (r"re:<Format>NTFS</Format>(\s*<Label>Windows)", r"\1", "system-partition-unformatted"),
    (r"re:<Type>Primary</Type>(\s*<Size>1024)", r"<Type>Extended</Type>\1", "extended-on-gpt"),
    ("Azores Standard Time", "Atlantic/Azores", "time-zone-unknown"),
    (r"re:<SetupUILanguage>.*?</SetupUILanguage>", "", "setup-language-open"),
    (r"re:<Value>RAB[^<]*(</Value>\s*<PlainText>false)", r"<Value>Dunlin-4-tarn\1", "password-encoding"),
    ("<Path>reg add", "<Path>reg ad", "script-registry"),
    ("/t REG_DWORD", "/t DWORD", "script-registry"),
    (r"re:<CommandLine>[^<]*Set-Win[^<]*<", "<CommandLine>shutdown /r /t 0<", "script-restarts"),
    (r"re:<Path>reg add HKLM.SOFTWARE[^<]*<", r"<Path>C:\\Users\\keeper\\setup.cmd<", "command-too-early"),
    ("Larkmoor<", "[YOUR NAME]<", "placeholder-left"),
    ("Larkmoor<", "%OWNER%<", "placeholder-left"),
    ("<Name>observer", "<Name>observer ", "value-spaces"),
    ("Windows 11 Pro<", "windows 11 pro<", "image-unknown"),
    ("<PartitionID>3", "<PartitionID>4", "partition-changed-twice"),
    ("<Enabled>true</Enabled>", "", "sign-in-off"),
    ("<CommandLine>powershell.exe", "<CommandLine>powershel.exe", "script-program"),
    ("/d 1 /f", "/d one /f", "script-registry"),
    ('pass="specialize"', 'pass="specialize" wasPassProcessed="true"', "pass-processed"),
    ("<UserData>", "<UpgradeData><Upgrade>true</Upgrade></UpgradeData><UserData>", "upgrade-and-wipe"),
    ("<RegisteredOwner>", "<OEMInformation><Logo>C:\\logo.png</Logo></OEMInformation><RegisteredOwner>", "value-wrong"),
    (r"re:<Path>reg add HKLM.SOFTWARE[^<]*<", r"<Path>copy C:\\a.txt C:\\b.txt<", "command-needs-shell"),
    (r"re:<Path>reg add HKLM.SOFTWARE[^<]*<", r"<Path>C:\\larkmoor\\wind.ps1<", "command-needs-shell"),
    (r"re:<Path>reg add HKLM.SOFTWARE[^<]*<", r"<Path>\\\\lmr-files-01\\desks\\wind.exe<", "script-share"),
    ("<CommandLine>powershell.exe", r"<CommandLine>E:\wind.exe", "script-medium-letter"),
]
GATE = [
    ("clearpart", "clearprt", "component-unknown"),
    ("--initlabel", "--initlable", "setting-unknown"),
    ("en_GB.UTF-8", "en_UK.UTF-8", "language-unknown"),
    ("Atlantic/Azores", "Atlantic/Azoren", "time-zone-unknown"),
    ("--xlayouts=gb,pt", "--xlayouts=gbb,pt", "keyboard-unknown"),
    ("192.0.2.31", "192.0.2.331", "value-wrong"),
    ("255.255.255.0", "255.255.0.255", "static-incomplete"),
    ("--gateway=192.0.2.1 ", "--gateway=203.0.113.1 ", "gateway-outside"),
    ("--ip=192.0.2.31 ", "", "static-incomplete"),
    ("--netmask=255.255.255.0 ", "", "static-incomplete"),
    ("--bootproto=static", "--bootproto=statik", "value-wrong"),
    ("--bootproto=static", "--bootproto=static --vlanid=9999", "vlan-number"),
    ("--bootproto=static", "--bootproto=static --mtu=150", "mtu-unusual"),
    ("--nameserver=192.0.2.53", "--nameserver=192.0.2.x", "name-server"),
    ("lmr-gate-04.larkmoor.example", "lmr_gate", "machine-name"),
    ("--size=600", "--size=600M", "value-wrong"),
    ("--size=1024 ", "", "partition-without-size"),
    ("--size=1024", "--size=100", "boot-partition-small"),
    ("--size=40960", "--size=400", "system-partition-small"),
    ("volgroup station pv.01", "volgroup station pv.02", "member-unknown"),
    ("--vgname=station", "--vgname=statoin", "reference-unknown"),
    ("logvol / ", "logvol /opt ", "root-missing"),
    ("logvol /srv/readings", "logvol /boot", "mount-twice"),
    ("--name=readings", "--name=root", "volume-twice"),
    ("part pv.01", "part pv.01 --encrypted", "passphrase-missing"),
    ("%end\n", "", "section-open"),
    ("--enabled=chronyd", "--enabled=chronyd --disabled=chronyd", "service-both"),
    ("selinux --enforcing", "selinux --enforce", "setting-unknown"),
    ("selinux --enforcing", "selinux --disabled", "protection-off"),
    ("rootpw --lock", "rootpw Heron-4-moor", "password-readable"),
    ("--password=$6$", "--password=6$", "hash-form"),
    ("--name=observer", "--name=keeper", "use-twice"),
    ("--groups=wheel", "--groups=wheels", "nobody-administers"),
    ("text\n", "install\ntext\n", "setting-of-other-release"),
    ("text\n", "text\ngraphical\n", "mode-both"),
    ("reboot\n", "reboot\npoweroff\n", "finish-both"),
    ("reboot\n", "autopart --type=lvm\nreboot\n", "plan-with-partitions"),
    ('--gecos="Station keeper"', '--gecos="Station keeper', "line-unreadable"),
    ("http://192.0.2.10/el9", "htp:/192.0.2.10", "source-address"),
    ("re:lang .*\n", "", "component-expected"),
    ("re:timezone .*\n", "", "component-expected"),
    ("--only-use=sda", "--only-use=sdb", "disk-ignored-and-used"),
    ("--disklabel=gpt", "--disklabel=msdos", "table-and-firmware"),
    ("--drives=sda", "--drives=sdb", "disk-ignored-and-used"),
    ("chown keeper: /srv", "chown keeper: /mnt/sysimage/srv", "script-outside-path"),
    ("chown keeper", "dnf install rsync\nchown keeper", "script-installer-asks"),
    ("chown keeper", "reboot\nchown keeper", "script-restarts"),
    ("chown keeper", "read answer\nchown keeper", "script-waits"),
    ("chown keeper", "systemctl start x\nchown keeper", "script-service-starts"),
    ("chrony\n", "chrony\n-chrony\n", "package-both"),
    ("%post", "%psot", "component-unknown"),
    ("network --device=eno1", "network --device=eno1 --bootproto=dhcp\nnetwork --device=eno1", "interface-twice"),
    ("timezone Atlantic/Azores", "timezone --isUtc Atlantic/Azores", "setting-deprecated"),
    ("Station", "Sta\x02tion", "file-binary"),
    ("#version=RHEL9", "#version=RHEL7", "target-other"),
    ("--exclude-weakdeps", "--ignoremissing=yes", "value-wrong"),
    ("en_GB.UTF-8", "en_GB.UTF-8 --addsupport=pt-PT", "value-wrong"),
    ("--size=600", "--size=0", "firmware-partition-small"),
    ("--size=40960", "--size=409600000", "partition-huge"),
    ("--ip=192.0.2.31", "--ip=192.0.2.31/24", "value-wrong"),
    ("--device=eno1", "--device=eno1 --noipv4", "settings-exclusive"),
    ("--name=observer", "--name=observer --shell=bash", "value-wrong"),
    ("selinux --enforcing", "selinux", "component-empty"),
    ("rsync\n", "rsync\n-\n", "package-name"),
    ("@^minimal-environment", "^minimal-environment", "package-name"),
    ("ignoredisk --only-use=sda", "ignoredisk", "part-missing"),
    ("--name=root --size=40960", "--name=root", "part-missing"),
    ("--bootproto=static --ip", "--ip", "setting-needs"),
    ("re:part /boot --size.*\n", "", "boot-inside-group"),
    ("user --name=observer", "user --name=ranger --uid=1500\nuser --name=observer --uid=1500", "account-id-twice"),
    ("chmod 2775", "cat <<END > /etc/readings\nchmod 2775", "script-quote-open"),
    ("chmod 2775", "passwd keeper\nchmod 2775", "script-waits"),
    ("chmod 2775", "rm -rf /\nchmod 2775", "script-destroys"),
    ("chmod 2775", "vi /etc/hosts\nchmod 2775", "script-waits"),
    ("chmod 2775", "echo 'readings\nchmod 2775", "script-quote-open"),
    ("re:url .*\n", "", "source-open"),
    ("text\n", "text\ncdrom\n", "source-both"),
    ("en_GB.UTF-8", "en_GB.UFT-8", "encoding-unknown"),
    ("re:keyboard .*", "keyboard", "part-missing"),
    ("rootpw --lock", "rootpw", "part-missing"),
    ("--netmask=255.255.255.0", "--netmask=24", "value-wrong"),
    ("--service=ssh", "--port=ssh:tpc", "value-wrong"),
    ("--log=/root/readings.log", "--log", "value-missing"),
    ("chrony\n", "chrony, rsync\n", "package-name"),
    ("--device=eno1", "--device=eno1 --bondslaves=eno1,eno2", "member-itself"),
    ("chmod 2775", "echo Heron-4 | passwd --stdin keeper\nchmod 2775", "script-secret"),
]
HOST = [
    ("vmaccepteula\n", "", "licence-not-accepted"),
    ("install --firstdisk=local --overwritevmfs --novmfsondisk", "install", "part-missing"),
    ('"US Default"', '"UK"', "value-wrong"),
    ("--device=vmnic0", "--device=eth0", "value-wrong"),
    ("reboot\n", "", "finish-missing"),
    ("--overwritevmfs --novmfsondisk", "--overwritevmfs --preservevmfs", "settings-exclusive"),
    ("--interpreter=busybox", "--interpreter=bash", "value-wrong"),
]


CORE = [
    ("<JoinDomain>", "<JoinWorkgroup>LMR</JoinWorkgroup><JoinDomain>", "join-both"),
    ("OU=Servers,DC=larkmoor,DC=example", "Servers/larkmoor.example", "unit-form"),
    ("<Username>joiner</Username>", "", "join-without-account"),
    ("192.0.2.20/24", "192.0.2.20", "static-incomplete"),
    ("192.0.2.20/24", "192.0.2.0/24", "address-unusable"),
    ("<NextHopAddress>192.0.2.1<", "<NextHopAddress>192.0.3.1<", "gateway-outside"),
    ("<NextHopAddress>192.0.2.1<", "<NextHopAddress>192.0.2.20<", "gateway-outside"),
    ("<Prefix>0.0.0.0/0<", "<Prefix>0.0.0.0<", "value-wrong"),
    ("<Prefix>0.0.0.0/0</Prefix>", "", "part-missing"),
    (">192.0.2.53<", ">lmr-dns-01<", "name-server"),
    ("<DhcpEnabled>false<", "<DhcpEnabled>true<", "static-incomplete"),
    ("<DNSDomain>larkmoor.", "<DNSDomain>larkmoor..", "value-wrong"),
    ("lmr-core-01", "12345", "machine-name"),
    ("W. Europe Standard", "W Europe Standard", "time-zone-unknown"),
    ("SERVERSTANDARDCORE", "SERVERSTANDARTCORE", "image-unknown"),
    ("<AcceptEula>true</AcceptEula>", "", "licence-not-accepted"),
    ("re:<PartitionID>3</PartitionID>(?=\\s*</InstallTo)", "<PartitionID>2</PartitionID>", "install-target-wrong"),
    ("re:<DiskID>0</DiskID>(?=\\s*<PartitionID)", "<DiskID>1</DiskID>", "install-target-wrong"),
    ("<Extend>true<", "<Extend>false<", "partition-without-size"),
    ("<Extend>true</Extend>", "<Size>40</Size>", "system-partition-small"),
    ('wcm:keyValue="RemoteDesktop"', "", "part-missing"),
    ("re:bABtAHIA[^<]*", "tide-99", "password-encoding"),
    (">en-US<", ">us-EN<", "language-unknown"),
]
SEVEN = [
    ("--groups=wheel", "--groups=whell", "name-slipped"),
    ("@core", "@cor", "name-slipped"),
    ("--enabled=chronyd,sshd", "--enabled=chronyd,ssh", "name-slipped"),
    ("--boot-drive=sda", "--boot-drive=sdb", "boot-drive-other"),
    ("--drives=sda", "--drives=sdb", "disk-ignored-and-used"),
    ("--grow\nlogvol swap", "--grow --maxsize=500\nlogvol swap", "most-below-size"),
    ("auth --enableshadow", "authselect --enableshadow", "setting-of-other-release"),
    ("zerombr\n", "zerombr yes\n", "setting-unknown"),
    ("logvol swap", "logvol swap --fstype=ext4", "mount-format"),
    ("--vckeymap=uk", "--vckeymap=british", "keyboard-unknown"),
    ('--name="updates" ', "", "part-missing"),
    ("eula --agreed", "eula", "part-missing"),
    ("user --name=observer", "user --name=root", "account-exists"),
    ("part /boot", "part boot", "mount-format"),
    ("-iwl*-firmware", "-chrony", "package-both"),
]
SEALED = [
    ("reqpart --add-boot\n", "", "firmware-partition-missing"),
    ("--username=keeper", "--username=keper", "reference-unknown"),
    ("AAAAC3NzaC1lZDI1NTE5", "", "key-public"),
    ("--luks-version=luks2", "--luks-version=luks3", "value-wrong"),
    ("--service=ssh,cockpit", "--service=shh,cockpit", "name-slipped"),
    ("--ipv6=auto", "--ipv6=auto6", "address-six"),
    ("--uid=1100", "--uid=0", "account-id"),
    ("%post --nochroot", "%post", "script-outside-path"),
    ("--name=srv --size=40000", "--name=srv --size=400000", "group-too-small"),
    ("--fstype=xfs --size=30000", "--fstype=vfat --size=30000", "mount-format"),
    ("poweroff\n", "timesource --ntp-server=192.0.2.1\npoweroff\n", "setting-of-other-release"),
]
BONDED = [
    ("--bondslaves=eno1,eno2", "--bondslaves=bond0,eno2", "member-itself"),
    ("mode=802.3ad", "mode=802.3da", "value-wrong"),
    ("--vlanid=30", "--vlanid=4096", "vlan-number"),
    ("raid.12 raid.22", "raid.12 raid.23", "member-unknown"),
    ("raid.11 raid.21", "raid.11", "member-unused"),
    ("--fstype=efi", "--fstype=ext4", "firmware-partition-format"),
    ("keyboard de", "keyboard deutsch", "keyboard-unknown"),
    ("--ntp-pool=pool.larkmoor.example", "--ntp-pool", "value-missing"),
    ("/keys/station.pub -o /root/station.pub", "/x.sh | bash", "script-fetches-and-runs"),
    ("skipx", "harddrive --dir=/el9", "setting-needs"),
]


def broken(text: str, old: str, new: str) -> str:
    if old.startswith("re:"):
        changed = re.sub(old[3:], new, text, flags=re.DOTALL if "<" in old else 0)
    else:
        count = -1 if old in ("ComputerName>", "<Type>EFI</Type>", "<Format>FAT32", "unattend", "0809:00000809") else 1
        changed = text.replace(old, new, count)
    assert changed != text
    return changed


TABLES = {
    "desk.xml": ("windows-11-24h2", DESK),
    "core.xml": ("windows-server-2019", CORE),
    "netboot.xml": ("windows-10-22h2", [("OnError", "Always", "page-always-shown")]),
    "gate.ks": ("el-9", GATE),
    "seven.ks": ("el-7", SEVEN),
    "sealed.ks": ("el-8", SEALED),
    "bonded.ks": ("el-9", BONDED),
    "host.ks": ("esxi-8", HOST),
}


@pytest.mark.parametrize(
    ("name", "old", "new", "rule"), [(name, *row) for name, (_, rows) in TABLES.items() for row in rows]
)
def test_a_file_broken_in_one_way(name, old, new, rule):
    rows = found(broken(text_of(name), old, new), name, TABLES[name][0])
    assert rule in {one for one, _ in rows}
