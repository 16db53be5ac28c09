"""Each portable section in the exact words of the targets."""

from __future__ import annotations

import os
import shutil
import subprocess

import pytest

from factories import NOWHERE, resolved
from fairledger.families.kickstart.choose import _script
from fairledger.families.registry import family_named
from fairledger.intent.account import ACCOUNT
from fairledger.intent.command import COMMAND
from fairledger.intent.disk import DISK
from fairledger.intent.locale import LOCALE
from fairledger.intent.network import NETWORK
from fairledger.intent.source import SOURCE
from fairledger.intent.volume import VOLUME
from fairledger.model.finding import Severity
from fairledger.subject.opening import of_draft
from kickstart_words import understood, written

KICKSTART = family_named("kickstart")

LOCALE_TEXT = """
[locale]
language = "pt-PT"
languages = ["en-GB"]
keyboards = ["pt", "en-US:us"]
time_zone = "Atlantic/Azores"
utc_clock = true
"""


@pytest.mark.parametrize("target", ["el-7", "el-8", "el-9", "el-10", "fedora-43"])
def test_locale_on_linux(target):
    assert written(LOCALE_TEXT, target)[0] == [
        "lang pt_PT.UTF-8 --addsupport=en_GB.UTF-8",
        "keyboard --vckeymap=pt-latin1 --xlayouts=pt,us",
        "timezone Atlantic/Azores --utc",
    ]


def test_locale_on_the_hypervisor_is_a_keyboard():
    lines, told = written(LOCALE_TEXT, "esxi-8")
    assert lines == ["keyboard Portuguese"]
    assert len([one for one in told if "cannot express locale." in one]) == 4
    assert written('[locale]\nkeyboards = ["gb"]\n', "esxi-7")[0] == ['keyboard "United Kingdom"']
    assert "has no keyboard of that kind" in written('[locale]\nkeyboards = ["ara"]\n', "esxi-8")[1][0]


def test_locale_spellings_come_out_alike():
    for keyboards in ('["gb"]', '["0809:00000809"]', '["en-GB"]', '["en-GB:gb"]'):
        assert written(f"[locale]\nkeyboards = {keyboards}\n")[0] == ["keyboard --vckeymap=uk --xlayouts=gb"]
    assert written('[locale]\nlanguage = "de-CH"\n')[0][1] == "keyboard --vckeymap=sg --xlayouts=ch"
    assert written('[locale]\nlanguage = "en-GB"\nencoding = "ISO-8859-1"\n')[0][0] == "lang en_GB.ISO-8859-1"
    assert written('[locale]\ntime_zone = "GMT Standard Time"\n')[0] == ["timezone Europe/London"]


ACCOUNTS = """
[account.administrator]
password = { env = "ROOT_PW" }
[[account.local]]
name = "keeper"
display_name = "Station keeper"
groups = ["Administrators", "dialout"]
id = 1200
shell = "/bin/bash"
home = "/srv/keeper"
password = { env = "KEEPER_PW" }
ssh_keys = ["ssh-ed25519 AAAA keeper"]
[[account.local]]
name = "observer"
groups = ["Users"]
description = "reads"
"""


def test_accounts_on_linux():
    lines, told = written(ACCOUNTS)
    assert lines == [
        'rootpw --iscrypted "(secret: env ROOT_PW)"',
        'user --name=keeper --gecos="Station keeper" --shell=/bin/bash --homedir=/srv/keeper --groups=wheel,dialout '
        '--uid=1200 --iscrypted --password="(secret: env KEEPER_PW)"',
        'sshkey --username=keeper "ssh-ed25519 AAAA keeper"',
        "user --name=observer",
    ]
    assert told == [
        "Enterprise Linux 9 cannot express account.local.description: the user command has no option for it"
    ]


def test_accounts_on_the_hypervisor():
    lines, told = written(ACCOUNTS, "esxi-8")
    assert lines == ['rootpw --iscrypted "(secret: env ROOT_PW)"']
    assert [one.split(":")[0] for one in told] == [
        "ESXi 8 cannot express the account keeper",
        "ESXi 8 cannot express the account observer",
    ]
    assert written("[account.administrator]\nenabled = false\n")[0] == ["rootpw --lock"]
    assert "wants one" in written("[account.administrator]\nenabled = false\n", "esxi-8")[1][0]


DISKS = """
[[disk]]
which = "sda"
fate = "wipe"
table = "gpt"
partition = [
  { role = "firmware", size = "600 MiB" },
  { role = "boot", size = "1 GiB", format = "xfs" },
  { member = "pv.01", size = "10 GiB", grow = true, encrypted = true, passphrase = { env = "LUKS" } },
  { role = "swap", size = "memory" },
]
[[disk]]
which = "sdb"
fate = "keep"
partition = [{ mount = "/srv", size = "rest", max_size = "2 TiB", format = "ext4", label = "data", options = "noatime" }]
[[volume]]
name = "station"
members = ["pv.01"]
partition = [
  { role = "system", size = "20 GiB", format = "xfs" },
  { mount = "/var/log", size = "25%" },
]
"""


def test_disks_and_groups_on_linux():
    assert written(DISKS)[0] == [
        "ignoredisk --only-use=sda,sdb",
        "zerombr",
        "clearpart --all --initlabel --drives=sda --disklabel=gpt",
        "part /boot/efi --size=600 --fstype=efi --ondisk=sda",
        "part /boot --size=1024 --fstype=xfs --ondisk=sda",
        'part pv.01 --size=10240 --grow --encrypted --passphrase="(secret: env LUKS)" --ondisk=sda',
        "part swap --recommended --fstype=swap --ondisk=sda",
        "part /srv --size=1 --grow --maxsize=2097152 --fstype=ext4 --label=data --fsoptions=noatime --ondisk=sdb",
        "volgroup station pv.01",
        "logvol / --vgname=station --name=root --size=20480 --fstype=xfs",
        "logvol /var/log --vgname=station --name=var_log --percent=25",
    ]


@pytest.mark.parametrize(
    ("fragment", "lines"),
    [
        (
            '[disk]\nfate = "wipe"\nplan = { scheme = "groups", home = false, encrypted = true }\n',
            ["zerombr", "clearpart --all --initlabel", "autopart --type=lvm --nohome --encrypted"],
        ),
        (
            '[disk]\nwhich = "sda"\nfate = "keep"\npartition = [{ role = "system", size = "9 GiB" }]\n',
            ["ignoredisk --only-use=sda", "clearpart --none", "part / --size=9216 --ondisk=sda"],
        ),
        ('[disk]\nfate = "ask"\n', []),
        ('[disk]\nwhich = "sdz"\nignored = true\n', ["ignoredisk --drives=sdz"]),
        (
            '[[volume]]\nname = "data"\nkind = "raid"\nlevel = "1"\nmembers = ["raid.01", "raid.02"]\n'
            'partition = [{ mount = "/srv", format = "xfs" }]\n',
            ["raid /srv --device=data --level=1 --fstype=xfs raid.01 raid.02"],
        ),
    ],
)
def test_layouts_on_linux(fragment, lines):
    assert written(fragment)[0] == lines


@pytest.mark.parametrize(
    ("fragment", "told"),
    [
        ('[disk]\nwhich = 0\nfate = "wipe"\n', "knows disks by their names"),
        ('[disk]\nfate = "wipe"\npartition = [{ size = "1 GiB" }]\n', "no mount point"),
        ('[disk]\nfate = "wipe"\npartition = [{ role = "recovery", size = "1 GiB" }]\n', "the role recovery"),
        (
            '[disk]\nfate = "wipe"\npartition = [{ role = "system", size = "rest", format = "ntfs" }]\n',
            "the format ntfs",
        ),
        ('[disk]\nfate = "wipe"\npartition = [{ role = "system", size = "memory" }]\n', "a size by memory"),
        ('[disk]\nplan = {}\npartition = [{ role = "system", size = "rest" }]\n', "partitions beside a plan"),
        ("[disk]\npartition = [{ made = false, number = 3 }]\n", "a change of an existing partition"),
        ('[[volume]]\nname = "a"\nkind = "virtual-disk"\n', "the virtual-disk a"),
    ],
)
def test_layouts_that_linux_cannot_make(fragment, told):
    assert any(told in one for one in written(fragment)[1])


@pytest.mark.parametrize(
    ("fragment", "lines"),
    [
        ('[disk]\nfate = "wipe"\n', ["install --firstdisk --overwritevmfs"]),
        ('[disk]\nwhich = "first:local,usb"\nfate = "keep"\n', ["install --firstdisk=local,usb --preservevmfs"]),
        (
            '[disk]\nwhich = "mpx.vmhba1:C0:T0:L0"\nfate = "wipe"\n',
            ["install --disk=mpx.vmhba1:C0:T0:L0 --overwritevmfs"],
        ),
        ('[licence]\naccept = true\nkey = { env = "K" }\n', ["vmaccepteula", 'serialnum --esx="(secret: env K)"']),
        (
            '[identity]\nname = "lmr-host-01"\n[[network.interface]]\nname = "vmnic0"\nmethod = "dhcp"\nvlan = 20\n',
            ["network --device=vmnic0 --bootproto=dhcp --vlanid=20 --hostname=lmr-host-01"],
        ),
        (
            '[[command]]\nwhen = "first-start"\ninterpreter = "busybox"\nbody = "esxcli system version get"\n',
            ["%firstboot --interpreter=busybox", "esxcli system version get"],
        ),
    ],
)
def test_the_hypervisor(fragment, lines):
    assert written(fragment, "esxi-8")[0] == lines


def test_the_old_hypervisor_has_a_console_in_a_virtual_disk():
    fragment = """
[disk]
which = "mpx.vmhba1:C0:T0:L0"
fate = "wipe"
partition = [
  { role = "boot", size = "1100 MiB", format = "ext3" },
  { mount = "none", size = "110 MiB", format = "vmkcore" },
  { mount = "store", size = "rest", format = "vmfs3" },
]
[[volume]]
name = "console"
kind = "virtual-disk"
size = "8 GiB"
store = "store"
partition = [
  { role = "swap", size = "800 MiB" },
  { role = "system", size = "5 GiB", grow = true, format = "ext3" },
]
"""
    assert written(fragment, "esx-4")[0] == [
        "clearpart --drives=mpx.vmhba1:C0:T0:L0 --overwritevmfs",
        "part /boot --fstype=ext3 --size=1100 --ondisk=mpx.vmhba1:C0:T0:L0",
        "part none --fstype=vmkcore --size=110 --ondisk=mpx.vmhba1:C0:T0:L0",
        "part store --fstype=vmfs3 --size=1 --grow --ondisk=mpx.vmhba1:C0:T0:L0",
        "virtualdisk console --size=8192 --onvmfs=store",
        "part swap --fstype=swap --size=800 --onvirtualdisk=console",
        "part / --fstype=ext3 --size=5120 --grow --onvirtualdisk=console",
    ]


NETWORK_TEXT = """
[identity]
name = "lmr-gate-03"
[network]
time_sources = ["192.0.2.123", "198.51.100.123"]
[[network.interface]]
name = "eno1"
method = "static"
address = "192.0.2.30/25"
gateway = "192.0.2.1"
name_servers = ["192.0.2.53", "198.51.100.53"]
ipv6 = "off"
start = true
[[network.interface]]
name = "bond0"
method = "dhcp"
bond = ["eno2", "eno3"]
bond_options = "mode=active-backup"
vlan = 20
mtu = 9000
[locale]
time_zone = "Atlantic/Azores"
"""
_LINES = [
    "network --device=eno1 --bootproto=static --ip=192.0.2.30 --netmask=255.255.255.128 --gateway=192.0.2.1 "
    "--nameserver=192.0.2.53,198.51.100.53 --noipv6 --onboot=yes",
    "network --device=bond0 --bootproto=dhcp --bondopts=mode=active-backup --mtu=9000 --vlanid=20 --bondslaves=eno2,eno3",
    "network --hostname=lmr-gate-03",
]


def test_time_sources_by_release():
    assert written(NETWORK_TEXT, "el-9")[0] == [
        "timezone Atlantic/Azores",
        *_LINES,
        "timesource --ntp-server=192.0.2.123",
        "timesource --ntp-server=198.51.100.123",
    ]
    assert written(NETWORK_TEXT, "el-8")[0] == [
        "timezone Atlantic/Azores --ntpservers=192.0.2.123,198.51.100.123",
        *_LINES,
    ]
    alone = NETWORK_TEXT.partition("[locale]")[0]
    assert "set the time zone too" not in str(written(alone, "el-9")[1])
    assert "no command for it here" in written(alone, "el-8")[1][0]


@pytest.mark.parametrize(
    ("fragment", "target", "lines"),
    [
        (
            '[packages]\nenvironment = "e"\ngroups = ["core"]\npackages = ["a", "b"]\nexclude = ["c"]\nwithout_weak = true\n',
            "el-9",
            ["%packages --exclude-weakdeps", "@^e", "@core", "a", "b", "-c", "%end"],
        ),
        (
            '[packages]\npackages = ["a"]\nlanguages = "en_GB"\nwithout_weak = true\n',
            "el-8",
            ["%packages --instLangs=en_GB --excludeWeakdeps", "a", "%end"],
        ),
        (
            '[services]\nenabled = ["chronyd", "sshd"]\ndisabled = ["cups"]\n',
            "el-9",
            ["services --enabled=chronyd,sshd --disabled=cups"],
        ),
        (
            '[firewall]\nenabled = true\nservices = ["ssh"]\nports = ["8080:tcp"]\n',
            "el-9",
            ["firewall --enabled --service=ssh --port=8080:tcp"],
        ),
        ("[firewall]\nenabled = false\n", "fedora-42", ["firewall --disabled"]),
        ('[access]\nmode = "off"\n', "el-10", ["selinux --disabled"]),
        (
            '[installer]\nmode = "silent"\nassistant = false\ndesktop = false\n',
            "el-9",
            ["cmdline", "firstboot --disable", "skipx"],
        ),
        (
            '[source]\nkind = "url"\nurl = "http://192.0.2.10/el9"\nproxy = "http://192.0.2.2:3128"\n',
            "el-9",
            ["url --url=http://192.0.2.10/el9 --proxy=http://192.0.2.2:3128"],
        ),
        (
            '[source]\nkind = "disc"\nrepository = [{ name = "extra", url = "http://192.0.2.10/extra", keep = true }]\n',
            "el-9",
            ["cdrom", "repo --name=extra --baseurl=http://192.0.2.10/extra --install"],
        ),
        (
            '[source]\nkind = "network-files"\nserver = "192.0.2.10"\nfolder = "/srv/el 9"\n',
            "el-9",
            ['nfs --server=192.0.2.10 --dir="/srv/el 9"'],
        ),
        (
            '[subscription]\norganisation = "1"\nkey = { env = "K" }\ninsights = true\nrole = "Gateway"\n',
            "el-9",
            [
                'rhsm --organization=1 --activation-key="(secret: env K)" --connect-to-insights',
                "syspurpose --role=Gateway",
            ],
        ),
        ('[finish]\naction = "power-off"\neject = true\n', "el-9", ["poweroff --eject"]),
        ("[licence]\naccept = true\n", "el-9", ["eula --agreed"]),
        (
            '[[command]]\nname = "x"\nwhen = "setup-starts"\nbody = "echo $HOME ${HOME}"\nlog = "/tmp/x"\nstop_on_error = true\n',
            "el-9",
            ["%pre --log=/tmp/x --erroronfail", "echo $HOME ${HOME}", "%end"],
        ),
        (
            '[[command]]\nname = "x"\nrun_as = "setup"\nbody = "echo ${name}"\nfill = true\n',
            "el-9",
            ["%post --nochroot", "echo ${name}", "%end"],
        ),
    ],
)
def test_further_sections(fragment, target, lines):
    assert written(fragment, target)[0] == lines


@pytest.mark.parametrize(
    ("fragment", "target", "told"),
    [
        ('[subscription]\norganisation = "1"\n', "el-7", "subscription.organisation"),
        ("[bypass]\nsecurity_chip = true\n", "el-9", "[bypass]"),
        ('[packages]\npackages = ["a"]\n', "esxi-8", "packages.packages"),
        ('[finish]\naction = "halt"\n', "esxi-8", "the end halt"),
        ('[source]\nkind = "disc"\n', "esxi-8", "a source of the kind disc"),
        ('[[command]]\nname = "x"\nwhen = "first-start"\n', "el-9", "a command at first-start"),
        ('[network]\ninterface = [{ name = "a" }, { name = "b" }]\n', "esxi-8", "a second interface"),
        ('[network]\ninterface = [{ name = "a", address = "192.0.2.1" }]\n', "el-9", "no address with its network"),
        ('[identity]\nnaming = "random"\n', "el-9", "identity.naming = random"),
    ],
)
def test_what_cannot_be_put_is_said(fragment, target, told):
    found = resolved(f'[draft]\ntarget = "{target}"\n{fragment}')
    findings = of_draft(found, NOWHERE).findings
    assert any(told in finding.message for finding in findings)
    assert all(finding.severity in tuple(Severity) and finding.line for finding in findings)


HAND_MADE = """#version=RHEL8
# Generated on lmr-gate-02
ignoredisk --only-use=vda
autopart --type=lvm
clearpart --none --initlabel
graphical
repo --name="AppStream" --baseurl=file:///run/install/sources/mount-0000-cdrom/AppStream
cdrom
keyboard --vckeymap=ch-fr --xlayouts='ch (fr)'
lang fr_CH.UTF-8
network  --bootproto=static --device=enp1s0 --gateway=192.0.2.1 --ip=192.0.2.20 --nameserver=192.0.2.53 \
--netmask=255.255.255.0 --noipv6 --activate
network  --hostname=lmr-gate-02.larkmoor.example
rootpw --iscrypted $6$abcdefgh$0123456789abcdef
firstboot --enable
skipx
services --enabled="chronyd"
timezone Europe/Zurich --isUtc
user --groups=wheel --name=keeper --password=$6$abcdefgh$0123456789abcdef --iscrypted --gecos="Station keeper"
%packages
@^minimal-environment
%end
%addon com_redhat_kdump --disable
%end
%anaconda
pwpolicy root --minlen=6 --minquality=1 --notstrict --nochanges --notempty
%end
"""


def test_the_file_of_a_hand_made_installation_is_understood():
    intent, left = understood(HAND_MADE)
    locale, network, account = intent.get(LOCALE), intent.get(NETWORK), intent.get(ACCOUNT)
    assert (locale.language, locale.time_zone, locale.utc_clock) == ("fr-CH", "Europe/Zurich", True)
    assert (network.interface[0].address, network.interface[0].ipv6) == ("192.0.2.20/24", "off")
    assert (account.local[0].groups, account.administrator.password.form) == (("Administrators",), "hash")
    disk = intent.get(DISK)[0]
    assert (disk.which, disk.fate, disk.plan.scheme) == ("vda", "keep", "groups")
    assert intent.get(SOURCE).repository[0].name == "AppStream"
    assert left == ["clearpart", "%anaconda"]
    assert intent.place("network", "interface", 0, "gateway").origin.line == 11


def test_faulty_layouts_are_represented_as_they_are():
    intent, _ = understood(
        "#version=RHEL9\npart / --size=1 --ondisk=sda\npart / --size=2 --ondisk=sda\npart pv.1 --size=3 --ondisk=sdb\n"
        "logvol /a --vgname=nobody --name=a --size=4\nvolgroup empty\n"
    )
    disks = intent.get(DISK)
    assert [(disk.which, len(disk.partition)) for disk in disks] == [("sda", 2), ("sdb", 1)]
    assert [(one.name, one.members, len(one.partition)) for one in intent.get(VOLUME)] == [
        ("empty", (), 0),
        ("nobody", (), 1),
    ]


def test_scripts_keep_their_text():
    intent, _ = understood("%post --nochroot --interpreter=/usr/bin/python3\nprint('${x} $${y}')\n\n%end\n")
    (command,) = intent.get(COMMAND)
    assert (command.body, command.run_as, command.fill) == ("print('${x} $${y}')\n", "setup", False)


def test_a_disk_is_chosen_at_the_machine_by_a_script_that_is_known_again():
    lines, told = written('[disk]\nchoose = "smallest"\nabove = "100 GiB"\nfate = "wipe"\n')
    assert "%include /tmp/fair-ledger-disk.ks" in lines
    assert told == []
    text = "#version=RHEL9\n" + "\n".join(lines)
    assert [one.rule for one in KICKSTART.read(text.encode(), "x.ks").findings] == []
    intent, left = understood(text)
    disk = intent.get(DISK)[0]
    assert (disk.choose, disk.above.mib, disk.fate, left) == ("smallest", 102400, "wipe", [])
    assert understood(text.replace("head -n 1", "tail -n 1"))[0].get(DISK)[0].choose is None


@pytest.mark.parametrize(
    ("sizes", "choose", "picked"),
    [
        ([("sda", 300), ("sdb", 200)], "smallest", "sdb"),
        ([("sda", 300), ("sdb", 200)], "not-removable", "sda"),
        ([("sda", 300), ("sdb", 200)], "only", None),
        ([("sda", 300), ("sdb", 90)], "only", "sda"),
        ([("sda", 90)], "smallest", None),
    ],
)
def test_the_script_chooses_as_it_says(tmp_path, sizes, choose, picked):
    shell = shutil.which("sh")
    if shell is None or shutil.which("awk") is None:
        pytest.skip("needs a shell")
    rows = "".join(f"{name} {gib << 30} 0 0 disk\n" for name, gib in sizes) + "sdz 9999999999999 1 0 disk\n"
    (tmp_path / "lsblk").write_text(f"#!{shell}\ncat <<E\n{rows}E\n")
    (tmp_path / "lsblk").chmod(0o755)
    out = tmp_path / "out.ks"
    body = _script(choose, 102400).replace("/tmp/fair-ledger-disk.ks", str(out)).replace("/dev/console", "/dev/null")
    run = subprocess.run([shell, "-c", body], env={"PATH": f"{tmp_path}:{os.environ['PATH']}"}, check=False)
    assert (run.returncode == 0) == (picked is not None)
    assert out.exists() == (picked is not None)
    if picked:
        assert out.read_text() == f"ignoredisk --only-use={picked}\n"


def test_a_domain_is_joined_with_a_password_that_counts_once():
    lines, told = written('[join]\ndomain = "larkmoor.example"\nunit = "OU=Gates"\npassword = { env = "PW" }\n')
    assert any(line.startswith("realm join --computer-ou=OU=Gates --one-time-password=") for line in lines)
    assert told == []
    lines, told = written('[join]\ndomain = "larkmoor.example"\naccount = "joiner"\npassword = { env = "PW" }\n')
    assert "realm join --no-password larkmoor.example" in lines
    assert "an account that adds machines" in told[0]
