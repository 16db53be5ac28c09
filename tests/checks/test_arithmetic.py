"""Rules that count, on numbers worked by hand; and the places to which findings point."""

from __future__ import annotations

import pytest

from factories import DESK, check, check_answers, rules_of
from fairledger.families.registry import family_named

WINDOWS_HEAD = f'[draft]\ntarget = "{DESK}"\nfirmware = "uefi"\n'
LINUX_HEAD = "#version=RHEL9\nlang en_GB.UTF-8\nkeyboard --xlayouts=gb\ntimezone UTC\nrootpw --lock\n"


def windows(disk_size: str, system: str) -> list[str]:
    """Ids of what is found in a layout of 300 + 16 + 1024 MiB and the system."""
    return rules_of(
        check(
            f'{WINDOWS_HEAD}disk_size = "{disk_size}"\n[disk]\nfate = "wipe"\npartition = [\n'
            '  { role = "firmware", size = "300 MiB" },\n'
            '  { role = "reserved", size = "16 MiB" },\n'
            '  { role = "recovery", size = "1 GiB" },\n'
            f'  {{ role = "system", size = "{system}" }},\n]\n[licence]\naccept = true\n'
        )
    )


@pytest.mark.parametrize(
    ("disk_size", "system", "fits"),
    [
        ("64 GiB", "rest", True),
        ("64 GiB", "64196 MiB", True),  # 65536 - 1340
        ("64 GiB", "64197 MiB", False),
        ("64 GB", "60 GiB", False),  # 61035 MiB in decimal units
        ("100 GiB", "98%", True),  # 100352 + 1340 = 101692 of 102400
        ("100 GiB", "99%", False),  # 101376 + 1340 = 102716
    ],
)
def test_partitions_against_the_disk(disk_size, system, fits):
    assert ("disk-too-small" not in windows(disk_size, system)) == fits


@pytest.mark.parametrize(
    ("member", "volumes", "fits"),
    [
        ("--size=30000", (10000, 20000), True),
        ("--size=29999", (10000, 20000), False),
        ("--size=1 --grow", (10000, 20000), True),
    ],
)
def test_volumes_against_their_group(member, volumes, fits):
    text = f"{LINUX_HEAD}clearpart --all\npart pv.01 {member}\nvolgroup station pv.01\n"
    for number, size in enumerate(volumes):
        mount = "/" if number == 0 else f"/srv{number}"
        text += f"logvol {mount} --vgname=station --name=v{number} --size={size}\n"
    assert ("group-too-small" not in rules_of(check(text))) == fits


@pytest.mark.parametrize(
    ("size", "parts", "rules"),
    [
        (8000, (5000, 2996), []),
        (8000, (5000, 2997), ["virtual-disk-small"]),
        (8000, (5000, 1000), ["virtual-disk-large"]),
        (8000, (5000, 1976), []),
    ],
)
def test_partitions_against_their_virtual_disk(size, parts, rules):
    text = f"accepteula\nvirtualdisk console --size={size} --onvmfs=store\n"
    text += f"part / --fstype=ext3 --size={parts[0]} --onvirtualdisk=console\n"
    text += f"part /var/log --fstype=ext3 --size={parts[1]} --onvirtualdisk=console\n"
    assert [rule for rule in rules_of(check(text)) if rule.startswith("virtual")] == rules


@pytest.mark.parametrize(
    ("address", "gateway", "rules"),
    [
        ("192.0.2.30/24", "192.0.2.1", []),
        ("192.0.2.30/28", "192.0.2.1", ["gateway-outside"]),  # 192.0.2.16 to .31
        ("192.0.2.30/28", "192.0.2.17", []),
        ("192.0.2.30/24", "192.0.2.30", ["gateway-outside"]),
        ("192.0.2.0/24", "192.0.2.1", ["address-unusable"]),
        ("192.0.2.31/28", "192.0.2.17", ["address-unusable"]),
        ("192.0.2.30/31", "192.0.2.31", []),
    ],
)
def test_gateways_against_their_networks(address, gateway, rules):
    report = check(
        '[draft]\ntarget = "el-9"\n[[network.interface]]\nname = "eno1"\nmethod = "static"\n'
        f'address = "{address}"\ngateway = "{gateway}"\n'
    )
    assert [rule for rule in rules_of(report) if rule != "component-expected"] == rules


@pytest.mark.parametrize(
    ("name", "target", "good"),
    [
        ("LMR-DESK-01", DESK, True),
        ("LMR-DESK-0000015", DESK, False),
        ("12345", DESK, False),
        ("-LMR", DESK, False),
        ("LMR DESK", DESK, False),
        ("lmr.desk", DESK, False),
        ("lmr-gate-03.larkmoor.example", "el-9", True),
        ("lmr_gate", "el-9", False),
        ("lmr..example", "el-9", False),
        ("a" * 65, "el-9", False),
    ],
)
def test_machine_names(name, target, good):
    report = check(f'[draft]\ntarget = "{target}"\n[identity]\nname = "{name}"\n')
    assert ("machine-name" not in rules_of(report)) == good


@pytest.mark.parametrize(
    ("account", "made", "known"),
    [
        ("observer", "observer", True),
        ("OBSERVER", "observer", True),
        ("Administrator", "observer", True),
        ("keeper", "observer", False),
        ("${who}", "observer", True),
        ("observer", "${who}", False),
        ("${who}", "${who}", True),
    ],
)
def test_automatic_sign_in_needs_an_account(account, made, known):
    report = check(f'[account]\nlocal = [{{ name = "{made}" }}]\n[account.sign_in]\naccount = "{account}"\ncount = 1\n')
    assert ("sign-in-account-unknown" not in rules_of(report)) == known


@pytest.mark.parametrize(
    ("key", "rule"),
    [
        ("BCDFG-23467-HJKMP-89234-QRTVW", "secret-in-draft"),
        ("BCDFG-23467-HJKMP-89234-QRTVO", "key-form"),
        ("BCDFG-23467-HJKMP-89234", "key-form"),
        ("XXXXX-XXXXX-XXXXX-XXXXX-XXXXX", "key-placeholder"),
        ("your-key-here", "key-placeholder"),
    ],
)
def test_keys_and_placeholders_for_them(key, rule):
    report = check(f'[licence]\naccept = true\nkey = "{key}"\n')
    assert rule in rules_of(report)
    assert key not in str(report.findings)


@pytest.mark.parametrize(
    ("tag", "rules"),
    [
        ("en-GB", []),
        ("en-NL", []),
        ("en-UK", ["language-unknown"]),
        ("xx-GB", ["language-unknown"]),
        ("english", ["value-wrong"]),
    ],
)
def test_languages(tag, rules):
    report = check(f'[locale]\nformats = "{tag}"\n')
    assert sorted(set(rules_of(report))) == rules


def test_unsure_facts_are_warnings_at_most():
    report = check('[answers.oobeSystem.Microsoft-Windows-Shell-Setup.VisualEffects]\nFontSmoothing = "Sharp"\n')
    assert [(finding.rule, finding.severity) for finding in report.findings] == [("value-wrong", "warning")]


def test_missing_parts_are_placed_at_their_nearest_parent():
    (finding,) = check(
        '[[answers.windowsPE.Microsoft-Windows-Setup.RunSynchronous.RunSynchronousCommand]]\nDescription = "x"\n'
    ).findings
    assert (finding.rule, finding.line) == ("part-missing", 5)
    assert finding.setting == "RunSynchronous/RunSynchronousCommand[#1]"


XML = (
    '<unattend xmlns="urn:schemas-microsoft-com:unattend"><settings pass="{0}">'
    '<component name="{1}" processorArchitecture="{2}" publicKeyToken="31bf3856ad364e35" language="neutral" '
    'versionScope="nonSxS">{3}</component></settings></unattend>'
)
SHELL = "Microsoft-Windows-Shell-Setup"


@pytest.mark.parametrize(
    ("pass_", "component", "arch", "inner", "rules"),
    [
        ("specialize", SHELL, "amd64", "<TimeZone>UTC</TimeZone>", []),
        ("specialise", SHELL, "amd64", "<TimeZone>UTC</TimeZone>", ["pass-unknown"]),
        ("windowsPE", SHELL, "amd64", "<TimeZone>UTC</TimeZone>", ["pass-wrong"]),
        ("specialize", SHELL, "x86", "<TimeZone>UTC</TimeZone>", ["architecture"]),
        ("specialize", SHELL, "", "<TimeZone>UTC</TimeZone>", ["component-attributes"]),
        ("specialize", SHELL, "amd64", "", ["component-empty"]),
        ("oobeSystem", SHELL, "amd64", "<OOBE/>", ["component-empty"]),
        ("oobeSystem", SHELL, "amd64", "<OOBE>true</OOBE>", ["value-wrong"]),
        ("oobeSystem", SHELL, "amd64", "<OOBE><ProtectYourPC>4</ProtectYourPC></OOBE>", ["value-wrong"]),
        ("oobeSystem", SHELL, "amd64", "<OOBE><TimeZone>UTC</TimeZone></OOBE>", ["setting-unknown"]),
        ("specialize", SHELL, "amd64", "<TimeZone><a>UTC</a></TimeZone>", ["setting-unknown", "value-missing"]),
        ("specialize", "Microsoft-Windows-Sheel-Setup", "amd64", "<TimeZone>UTC</TimeZone>", ["component-unknown"]),
        ("specialize", SHELL, "amd64", "<ComputerName>${name}</ComputerName>", ["machine-name", "placeholder-left"]),
        ("specialize", SHELL, "amd64", "<ComputerName>*</ComputerName>", []),
    ],
)
def test_answer_files_against_the_catalog(pass_, component, arch, inner, rules):
    text = XML.format(pass_, component, arch, inner)
    report = check_answers(text, "x.xml", target=DESK)
    found = sorted(finding.rule for finding in report.findings)
    assert found == rules, report.findings


@pytest.mark.parametrize("digits", [19, 5000])
def test_numbers_without_end_are_told(digits):
    number = "9" * digits
    wcm = 'xmlns:wcm="http://schemas.microsoft.com/WMIConfig/2002/State" wcm:action="add"'
    command = f"<RunSynchronous><RunSynchronousCommand {wcm}><Order>{number}</Order><Path>x</Path></RunSynchronousCommand></RunSynchronous>"
    text = XML.format("specialize", "Microsoft-Windows-Deployment", "amd64", command)
    report = check_answers(text, "x.xml", target=DESK)
    assert [finding.rule for finding in report.findings] == ["value-wrong"]
    assert check(f'[disk]\npartition = [{{ size = "{number} GiB" }}]\n').findings
    assert check(f"[image]\nindex = {number}\n").findings
    assert check(f"{LINUX_HEAD}part / --size={number}\nclearpart --all\n").findings


def test_a_file_for_several_architectures_is_no_mistake():
    one = XML.format("specialize", SHELL, "amd64", "<TimeZone>UTC</TimeZone>")
    other = one[one.index("<component") : one.index("</component>") + 12].replace("amd64", "arm64")
    text = one.replace("</component>", "</component>" + other)
    assert check_answers(text, "x.xml", target=DESK).findings == ()


def test_every_family_answers_what_rules_ask():
    for name in ("windows", "kickstart"):
        limits = family_named(name).limits(None)
        assert limits.machine_name_length > 0
        assert family_named(name).hiding
