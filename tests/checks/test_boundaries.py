"""Where rules begin and end: the last good value and the first bad one, and what must keep them quiet."""

from __future__ import annotations

import pytest

from factories import DESK, check, rules_of

LINUX = "#version=RHEL9\n"
STATIC = "network --device=eno1 --bootproto=static --ip=192.0.2.30 --netmask=255.255.255.0"
PART = '[disk]\nfate = "wipe"\npartition = [{{ role = "firmware", size = "{}" }}, {{ role = "system", {} }}]\n'
ACCOUNT = '[account]\nlocal = [{{ name = "{}", groups = ["{}"], {} }}]\n'
PW = 'password = { env = "PW" }'


@pytest.mark.parametrize(
    ("fragment", "rule", "fires"),
    [
        (PART.format("99 MiB", 'size = "rest"'), "firmware-partition-small", True),
        (PART.format("100 MiB", 'size = "rest"'), "firmware-partition-small", False),
        (PART.format("300 MiB", 'size = "19 GiB"'), "system-partition-small", True),
        (PART.format("300 MiB", 'size = "20 GiB"'), "system-partition-small", False),
        (PART.format("300 MiB", 'size = "rest", label = "' + "x" * 32 + '", format = "ntfs"'), "label-long", False),
        (PART.format("300 MiB", 'size = "rest", label = "' + "x" * 33 + '", format = "ntfs"'), "label-long", True),
        (LINUX + "part /boot --fstype=xfs --size=499\npart / --size=9000\n", "boot-partition-small", True),
        (LINUX + "part /boot --fstype=xfs --size=500\npart / --size=9000\n", "boot-partition-small", False),
        (LINUX + "part biosboot --fstype=biosboot --size=1\npart / --size=9000\n", "boot-partition-small", False),
        (LINUX + "part / --fstype=xfs --size=3071\n", "system-partition-small", True),
        (LINUX + "part / --fstype=xfs --size=3072\n", "system-partition-small", False),
        (LINUX + "part / --fstype=xfs --size=1 --grow\n", "system-partition-small", False),
        (LINUX + STATIC + " --mtu=575\n", "mtu-unusual", True),
        (LINUX + STATIC + " --mtu=576\n", "mtu-unusual", False),
        (LINUX + STATIC + " --mtu=9216\n", "mtu-unusual", False),
        (LINUX + STATIC + " --mtu=9217\n", "mtu-unusual", True),
        (LINUX + STATIC + " --mtu=1000 --ipv6=auto\n", "mtu-unusual", True),
        (LINUX + STATIC + " --vlanid=4094\n", "vlan-number", False),
        (LINUX + STATIC + " --vlanid=4095\n", "vlan-number", True),
        (LINUX + STATIC + " --nameserver=192.0.2.1,192.0.2.2,192.0.2.3\n", "name-server-twice", False),
        (LINUX + STATIC + " --nameserver=192.0.2.1,192.0.2.2,192.0.2.3,192.0.2.4\n", "name-server-twice", True),
        (LINUX + "user --name=keeper --uid=999\n", "account-id", True),
        (LINUX + "user --name=keeper --uid=1000\n", "account-id", False),
        (ACCOUNT.format("keeper", "Administrators", PW), "nobody-administers", False),
        (ACCOUNT.format("keeper", "Users", PW), "nobody-administers", True),
        (ACCOUNT.format("keeper", "Users", PW) + '[join]\nworkgroup = "L"\n', "nobody-administers", False),
        (
            ACCOUNT.format("keeper", "Users", PW) + "[account.administrator]\nenabled = true\n",
            "nobody-administers",
            False,
        ),
        (ACCOUNT.format("keeper", "Administrators", 'display_name = "x"'), "password-missing", True),
        (ACCOUNT.format("keeper", "Users", 'display_name = "x"'), "password-missing", False),
        (LINUX + "rootpw --lock\nuser --name=keeper\n", "nobody-administers", True),
        (LINUX + "user --name=keeper --groups=wheel\nrootpw --lock\n", "nobody-administers", False),
    ],
)
def test_first_and_last(fragment, rule, fires):
    assert (rule in rules_of(check(fragment))) == fires


OPEN = f'[draft]\ntarget = "{DESK}"\n[[disk]]\nwhich = 0\nfate = "{{}}"\npartition = [{{}}]\n'
SYSTEM = '{ role = "system", size = "rest" }'
ASKED = "[answers.windowsPE.Microsoft-Windows-Setup.DiskConfiguration]\nWillShowUI = 'Always'\n"


@pytest.mark.parametrize(
    ("fragment", "rule", "fires"),
    [
        # nothing says which firmware the machines have: either way of starting will do, and one there must be
        (OPEN.format("wipe", SYSTEM), "firmware-partition-missing", True),
        (OPEN.format("wipe", SYSTEM.replace(" }", ", active = true }")), "firmware-partition-missing", False),
        (OPEN.format("wipe", '{ role = "firmware", size = "1 GiB" }, ' + SYSTEM), "firmware-partition-missing", False),
        (OPEN.format("keep", SYSTEM), "firmware-partition-missing", False),
        # a reserved partition is only made for UEFI
        (
            OPEN.format("wipe", '{ role = "reserved", size = "16 MiB" }, ' + SYSTEM.replace(" }", ", active = true }")),
            "firmware-partition-missing",
            True,
        ),
        (OPEN.format("wipe", SYSTEM + ", { made = false, number = 7, letter = 'D' }"), "partition-not-made", True),
        (OPEN.format("keep", SYSTEM + ", { made = false, number = 7, letter = 'D' }"), "partition-not-made", False),
        (OPEN.format("wipe", SYSTEM + ", { made = false, letter = 'D' }"), "partition-not-made", False),
        (OPEN.format("wipe", SYSTEM) + ASKED, "disk-asked-and-laid-out", True),
        (ASKED, "disk-asked-and-laid-out", False),
        (LINUX + "part /boot --fstype=xfs --size=3\npart / --size=9000\n", "boot-partition-small", True),
        (LINUX + "part /boot --fstype=xfs --size=2\npart / --size=9000\n", "boot-partition-small", False),
    ],
)
def test_disks_that_start_and_disks_that_do_not(fragment, rule, fires):
    assert (rule in rules_of(check(fragment))) == fires


@pytest.mark.parametrize(
    ("body", "rule", "fires"),
    [
        ("cmd /c pause", "script-waits", True),
        ("cmd /c echo pausebox", "script-waits", False),
        ('powershell -Command "Read-Host"', "script-waits", True),
        ("msiexec /i C:\\x.msi /quiet", "script-installer-asks", False),
        ("msiexec.exe /i C:\\x.msi", "script-installer-asks", True),
        ("shutdown /r /t 0", "script-restarts", True),
        ("cmd /c echo shutdown", "script-restarts", False),
        ("cmd /c copy E:\\x.txt C:\\", "script-medium-letter", True),
        ("reg add HKLM\\SOFTWARE\\D:\\x", "script-medium-letter", True),
        ("cmd /c copy C:\\x.txt C:\\y", "script-medium-letter", False),
        ('cmd /c echo \\"x\\"', "script-quote-open", False),
        ("net user keeper /add", "script-secret", False),
        ("net user keeper Heron-4 /add", "script-secret", True),
        ("cmd /c tool --password=Heron-4", "script-secret", True),
        ("cmd /c tool --password=%PW%", "script-secret", False),
    ],
)
def test_what_stands_in_commands(body, rule, fires):
    assert (rule in rules_of(check(f"[[command]]\nname = 'x'\nbody = '''{body}'''\n"))) == fires


@pytest.mark.parametrize(
    ("script", "rule", "fires"),
    [
        ("reboot", "script-restarts", True),
        ("# reboot", "script-restarts", False),
        ("echo rebooted", "script-restarts", False),
        ("yum -y update", "script-installer-asks", False),
        ("yum update", "script-installer-asks", True),
        ("dnf install -y chrony", "script-installer-asks", False),
        ("curl -sO http://larkmoor.example/x", "script-fetches-and-runs", False),
        ("wget -qO- http://larkmoor.example/x | sh", "script-fetches-and-runs", True),
        ("systemctl enable --now chronyd", "script-service-starts", False),
        ("systemctl restart sshd", "script-service-starts", True),
        ("while read line; do echo $line; done < /etc/x", "script-waits", False),
        ("read -p Name name", "script-waits", True),
        ("cat /mnt/sysimage/etc/x", "script-outside-path", True),
    ],
)
def test_what_stands_in_scripts(script, rule, fires):
    assert (rule in rules_of(check(f"{LINUX}%post\n{script}\n%end\n"))) == fires


@pytest.mark.parametrize(
    ("value", "fires"),
    [
        ("Larkmoor", False),
        ("Larkmoor & Sons <north>", False),
        ("Larkmoor <your company>", True),
        ("<north>", True),
        ("Larkmoor 100%", False),
        ("CHANGEME", True),
        ("Your Company", True),
        ("{{ owner }}", True),
        ("@@OWNER@@", True),
        ("Todor", False),
        ("$6$salt$x", False),
    ],
)
def test_what_looks_like_a_placeholder(value, fires):
    text = (
        '<unattend xmlns="urn:schemas-microsoft-com:unattend"><settings pass="specialize"><component '
        'name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" '
        'language="neutral" versionScope="nonSxS"><RegisteredOwner>{}</RegisteredOwner></component></settings></unattend>'
    ).format(value.replace("&", "&amp;").replace("<", "&lt;"))
    assert ("placeholder-left" in rules_of(check(text))) == fires


@pytest.mark.parametrize(
    ("silence", "quiet"),
    [
        ('rule = "disk-wiped"\nbecause = "x"', True),
        ('rule = "disk-wiped"\nbecause = "x"\nat = "windowsPE"', True),
        ('rule = "disk-wiped"\nbecause = "x"\nat = "WillWipeDisk"', True),
        ('rule = "disk-wiped"\nbecause = "x"\nat = "windowsPE:Microsoft-Windows-Setup"', True),
        ('rule = "disk-wiped"\nbecause = "x"\nat = "specialize"', False),
        ('rule = "fallback-same"\nbecause = "x"', False),
    ],
)
def test_a_silence_reaches_as_far_as_it_says(silence, quiet):
    found = rules_of(check(PART.format("300 MiB", 'size = "rest"') + f"[[silence]]\n{silence}\n"))
    assert ("disk-wiped" not in found) == quiet
    assert ("silence-unused" in found) == (not quiet)
