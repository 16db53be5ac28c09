"""Boot loader, additions, sources of whole systems, what is there already, and who gets in: in the targets' words."""

from __future__ import annotations

import pytest

from fairledger.intent.account import ACCOUNT
from fairledger.intent.disk import DISK
from kickstart_words import understood, written

KEY = "ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIExampleExampleExampleExampleExampleExample keeper"
SECRET = '{ env = "PW" }'
KEEPER = f'[[account.local]]\nname = "keeper"\nlocked = true\nsudo_without_password = true\nssh_keys = ["{KEY}"]\n'


@pytest.mark.parametrize(
    ("target", "fragment", "lines"),
    [
        (
            "el-9",
            '[boot]\nparameters = "quiet  noapic"\ndrive = "sda"\nlocation = "nowhere"\nseconds = 0\nkeep_order = true\n',
            ['bootloader --append="quiet  noapic" --boot-drive=sda --location=none --timeout=0 --leavebootorder'],
        ),
        ("el-7", f"[boot]\npassword = {SECRET}\n", ['bootloader --iscrypted --password="(secret: env PW)"']),
        (
            "el-9",
            '[addition]\ncrash_dump = false\nrules_from = "rpm"\nrules_url = "http://192.0.2.9/a b"\n',
            [
                *("%addon com_redhat_kdump --disable", "%end", "%addon org_fedora_oscap"),
                *("    content-type = rpm", '    content-url = "http://192.0.2.9/a b"', "%end"),
            ],
        ),
        (
            "el-8",
            '[source]\nkind = "image"\nurl = "http://192.0.2.9/a.img"\nchecksum = "0a"\nverify = false\n',
            ["liveimg --url=http://192.0.2.9/a.img --checksum=0a --noverifyssl"],
        ),
        (
            "fedora-43",
            '[source]\nkind = "tree"\nurl = "http://192.0.2.9/t"\nname = "a"\nbranch = "b"\nsigned = false\n',
            ["ostreesetup --url=http://192.0.2.9/t --osname=a --ref=b --nogpg"],
        ),
        (
            "el-10",
            '[source]\nkind = "container"\nurl = "192.0.2.9/a:9"\ntransport = "registry"\n',
            ["ostreecontainer --url=192.0.2.9/a:9 --transport=registry"],
        ),
        (
            "el-9",
            '[source]\nurl = "https://192.0.2.9/x"\nauthority = "/a.pem"\n[[source.repository]]\nname = "m"\nverify = false\n',
            ["url --url=https://192.0.2.9/x --sslcacert=/a.pem", "repo --name=m --noverifyssl"],
        ),
        ("el-9", f"[installer]\nwatch_password = {SECRET}\n", ['vnc --password="(secret: env PW)"']),
        ("el-10", "[installer]\nwatch = true\n", ["rdp"]),
        (
            "el-9",
            '[locale]\nkeyboards = ["gb", "pt"]\nkeyboard_switch = ["grp:alt_shift_toggle"]\n',
            ["keyboard --vckeymap=uk --xlayouts=gb,pt --switch=grp:alt_shift_toggle"],
        ),
        ("el-9", '[network]\ntime_pools = ["time.larkmoor.example"]\n', ["timesource --ntp-pool=time.larkmoor.example"]),
        ("el-9", "[network]\ntime_service = false\n", ["timesource --ntp-disable"]),
        ("el-8", '[locale]\ntime_zone = "Etc/UTC"\n[network]\ntime_service = false\n', ["timezone Etc/UTC --nontp"]),
        (
            "el-9",
            '[identity]\nname = "lmr-gate-03"\n[[network.interface]]\nname = "eno1"\nmethod = "dhcp"\n'
            '[[network.interface]]\nname = "eno2"\nmethod = "dhcp"\nactivate = true\n',
            [
                "network --device=eno1 --bootproto=dhcp",
                "network --device=eno2 --bootproto=dhcp --activate",
                "network --hostname=lmr-gate-03",
            ],
        ),
        (
            "el-9",
            f"[account.administrator]\npassword = {SECRET}\nssh_password = true\n",
            ['rootpw --iscrypted "(secret: env PW)" --allow-ssh'],
        ),
        ("esxi-8", '[disk]\nwhich = "first:local"\nupgrade = "only"\n', ["upgrade --firstdisk=local"]),
        (
            "esxi-8",
            '[disk]\nfate = "wipe"\nupgrade = "else-install"\n',
            ["installorupgrade --firstdisk --overwritevmfs"],
        ),
        ("esx-4", '[locale]\nkeyboards = ["us"]\n', ["keyboard us"]),
        (
            "el-9",
            '[disk]\nwhich = "nvme0n1"\npartition = [{ role = "firmware", made = false, device = "nvme0n1p1" },'
            '{ role = "system", made = false, device = "nvme0n1p2", format = "xfs", size = "20 GiB" }]\n',
            [
                *("ignoredisk --only-use=nvme0n1", "clearpart --none"),
                "part /boot/efi --onpart=nvme0n1p1 --noformat",
                "part / --onpart=nvme0n1p2 --resize --size=20480 --fstype=xfs",
            ],
        ),
        ("el-9", '[disk]\nwhich = "sda"\npartition = [{ role = "swap", size = "memory" }]\n',
         ["ignoredisk --only-use=sda", "clearpart --none", "part swap --recommended --fstype=swap --ondisk=sda"]),
        (
            "el-9",
            '[[disk]]\nfate = "wipe"\n[[disk]]\nwhich = "sdb"\nignored = true\n',
            ["ignoredisk --drives=sdb", "zerombr", "clearpart --all --initlabel"],
        ),
    ],
)  # fmt: skip
def test_each_stands_in_the_words_of_its_target_and_nothing_is_left_out(target, fragment, lines):
    assert written(fragment, target) == (lines, [])


@pytest.mark.parametrize(
    ("target", "fragment", "told"),
    [
        ("el-9", KEEPER.replace('"keeper"', '"Keeper.One"'), "sudo without a password"),
        ("el-9", "[account.administrator]\nssh_password = true\n", "signing in over SSH with a password"),
        (
            "el-9",
            '[network]\ntime_service = false\ntime_pools = ["a.larkmoor.example"]\n',
            "a time service that is off",
        ),
        ("el-8", '[network]\ntime_pools = ["a.larkmoor.example"]\n', "network.time_pools"),
        (
            "el-9",
            '[disk]\nwhich = "sdb"\npartition = [{ role = "system", made = false, device = "sda3" }]\n',
            "sda3 on",
        ),
        ("el-9", '[disk]\nupgrade = "only"\n', "an upgrade of what is there"),
        ("windows-11-24h2", '[disk]\nwhich = 0\nupgrade = "only"\n', "an upgrade of what is there"),
        ("windows-11-24h2", KEEPER, "the locked account keeper"),
        ("esxi-8", '[disk]\nfate = "wipe"\nupgrade = "only"\n', "a disk that is wiped and upgraded"),
        ("el-7", '[source]\nkind = "container"\nurl = "a"\n', "this release has no such source"),
        ("el-9", '[source]\nkind = "tree"\nurl = "a"\nproxy = "b"\n', "source.proxy"),
        ("esx-4", '[locale]\nkeyboards = ["gb"]\n', "locale.keyboards"),
        ("el-10", '[addition]\nrules_from = "rpm"\n', "addition.rules_from"),
    ],
)
def test_what_a_target_cannot_hold_is_told(target, fragment, told):
    assert any(told in one for one in written(fragment, target)[1])


def test_an_account_with_keys_alone_looks_after_the_machine_by_a_script_that_is_known_again():
    lines, told = written(KEEPER)
    assert told == []
    assert lines[0] == "user --name=keeper --lock"
    text = "#version=RHEL9\n" + "\n".join(lines) + "\n"
    intent, left = understood(text)
    (one,) = intent.get(ACCOUNT).local
    assert (one.locked, one.sudo_without_password, one.ssh_keys, left) == (True, True, (KEY,), [])
    # what only looks like that script is somebody's own
    for old, new in (("0440", "0444"), ("--erroronfail", "--erroronfail --nochroot"), ("%post --erroronfail", "%post")):
        intent, _ = understood(text.replace(old, new))
        assert not intent.get(ACCOUNT).local[0].sudo_without_password


@pytest.mark.parametrize(
    ("line", "understood_as"),
    [
        ("part /srv --onpart=sda3 --noformat", ("sda", "sda3", None)),
        ("part /srv --onpart=mmcblk0p7 --fstype=ext4", ("mmcblk0", "mmcblk0p7", "ext4")),
        ("part /srv --onpart=sda3", None),
        ("part /srv --onpart=LABEL=srv --noformat", None),
        ("part /srv --onpart=sda3 --noformat --fstype=xfs", None),
        ("part /srv --onpart=sda3 --noformat --size=9", None),
    ],
)
def test_partitions_that_are_there_are_understood_where_nothing_is_open(line, understood_as):
    intent, left = understood(f"#version=RHEL9\n{line}\n")
    if understood_as is None:
        assert left == ["part"]
        return
    (disk,) = intent.get(DISK)
    (part,) = disk.partition
    assert (disk.which, part.device, part.format) == understood_as
    assert (part.made, disk.fate, left) == (False, "keep", [])
