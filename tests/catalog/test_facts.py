"""Facts about releases, each once: what the vendor's media speak, what people type with, which keys are published."""

from __future__ import annotations

import re

import pytest
from tests.factories import check, made, rules_of

from fairledger.catalog.meant import target_named
from fairledger.catalog.setup_keys import editions_with_key, releases_of, setup_key
from fairledger.catalog.targets import all_targets

RECOVERY = (
    '[disk]\nwhich = 0\nfate = "wipe"\npartition = [{{ role = "firmware", size = "300 MiB" }}, '
    '{{ role = "reserved", size = "16 MiB" }}, {{ role = "recovery", size = "{} MiB" }}, '
    '{{ role = "system", size = "rest" }}]\n[licence]\naccept = true\n'
)
DATED = '[draft]\ntarget = "{}"\n[locale]\n{}\n'


@pytest.mark.parametrize(
    ("target", "language", "there"),
    [
        ("windows-7", "zh-HK", True),
        ("windows-7", "en-GB", False),
        ("windows-8.1", "en-GB", True),
        ("windows-8.1", "fr-CA", False),
        ("windows-11-24h2", "es-MX", True),
        ("windows-server-2022", "pl-PL", True),
        ("windows-server-2022", "en-GB", False),
        ("windows-server-2012", "fi-FI", False),
    ],
)
def test_media_speak_the_languages_of_their_release(target, language, there):
    found = check(DATED.format(target, f'setup_language = "{language}"'))
    assert ("setup-language" not in rules_of(found)) == there


@pytest.mark.parametrize(
    ("target", "language", "setup"),
    [
        ("windows-server-2022", "en-GB", "en-US"),
        ("windows-7", "fr-CA", "fr-FR"),
        ("windows-11-24h2", "en-AU", "en-GB"),
        ("windows-11-24h2", "es-AR", "es-MX"),
        ("windows-10-22h2", "zh-HK", "zh-TW"),
        ("windows-11-24h2", "mt-MT", "en-US"),
        ("windows-server-2025", "en-GB", "en-GB"),
    ],
)
def test_setup_speaks_what_comes_nearest(target, language, setup):
    for asked in (language, "${tongue}"):
        tongue = {"tongue": language} if "{" in asked else {}
        text = made(DATED.format(target, f'language = "{asked}"'), **tongue)
        assert f"<SetupUILanguage>\n        <UILanguage>{setup}</UILanguage>" in text


@pytest.mark.parametrize(
    ("language", "keyboards", "windows_7", "windows_11"),
    [
        ("lv-LV", [], "0426:00010426", "0426:00020426"),
        ("lt-LT", [], "0427:00010427", "0427:00010427"),
        ("nl-BE", [], "0813:00000813", "0813:00000813"),
        ("fr-BE", [], "080c:0000080c", "080c:0000080c"),
        ("zh-CN", [], "zh-CN", "0804:{81D4E9C9-1D3B-41BC-9E6C-4B40BF79E35E}{FA550B04-5AD7-411F-A5AC-CA038EC515D7}"),
        ("sq-AL", [], "sq-AL", "sq-AL"),
        ("en-GB", ["gb", "tw"], "0809:00000809;zh-TW",
         "0809:00000809;0404:{B115690A-EA02-48D5-A231-E3578D2FDF80}{B2F9C502-1742-11D4-9790-0080C882687E}"),
    ],
)  # fmt: skip
def test_people_type_with_what_their_release_has(language, keyboards, windows_7, windows_11):
    for target, typed in (("windows-7", windows_7), ("windows-11-24h2", windows_11)):
        text = made(DATED.format(target, f'language = "{language}"\nkeyboards = {keyboards}'))
        assert set(re.findall("<InputLocale>(.*)</InputLocale>", text)) == {typed}


@pytest.mark.parametrize(
    ("target", "zone", "rules"),
    [
        ("windows-7", "Asia/Tomsk", ["time-zone-unknown"]),
        ("windows-10-1607", "Asia/Tomsk", []),
        ("windows-7", "Europe/Lisbon", []),
        ("windows-11-24h2", "Mid-Atlantic Standard Time", []),
        ("el-9", "Mid-Atlantic Standard Time", ["time-zone-unknown"]),
    ],
)
def test_zones_came_with_releases(target, zone, rules):
    assert [one for one in rules_of(check(DATED.format(target, f'time_zone = "{zone}"'))) if "zone" in one] == rules


def test_published_keys_are_for_one_edition_each():
    for target in all_targets():
        for edition in editions_with_key(target):
            key = setup_key(target, edition)
            assert re.fullmatch("[BCDFGHJKMNPQRTVWXY2346789]{5}(-[BCDFGHJKMNPQRTVWXY2346789]{5}){4}", key)
            assert releases_of(key.lower())[target.id] == edition.removesuffix(" (Core)")
    server = target_named("windows-server-2022")
    assert setup_key(server, "Standard (Core)") == setup_key(
        server, "Windows Server 2022 Standard (Desktop Experience)"
    )
    assert not setup_key(server, "Windows Server 2022 Standard Evaluation")
    assert not setup_key(target_named("windows-11-24h2"), "Home")


def test_a_published_key_is_written_for_the_edition():
    asked = '[image]\nedition = "{}"\n[licence]\naccept = true\nkey = "published"\n'
    key = setup_key(target_named("windows-11-24h2"), "Education")
    text = made(asked.format("Education"))
    assert f"<Key>{key}</Key>" in text
    assert "secret-in-draft" not in rules_of(check(asked.format("Education")))
    told = check(asked.format("Home")).findings[0].message
    assert told.startswith("there is no published key for Home, but for Pro, ")
    assert key in made(asked.format("${edition}"), edition="Education")
    other = text.replace("Windows 11 Education", "Windows 11 Pro")
    assert "key-of-other-edition" in rules_of(check(other))
    assert "key-of-other-edition" in rules_of(check(asked.format("Pro").replace('"published"', f'"{key}"')))


SHIPPED = ("locale/en-gb", "disk/uefi-one-disk", "account/first-admin", "start/quiet", "privacy/least",
           "bypass/local-account", "network/private")  # fmt: skip


@pytest.mark.parametrize("target", [one for one in all_targets() if one.family == "windows"], ids=lambda one: one.id)
def test_shipped_profiles_make_a_client_and_a_server_without_an_untold_stop(target):
    edition = {"windows-7": "Professional"}.get(target.id, "Pro") if target.line == "client" else "Standard"
    head = f'[draft]\ntarget = "{target.id}"\nfirmware = "uefi"\nprofiles = {list(SHIPPED)}\n'
    report = check(
        f'{head}[image]\nedition = "{edition}"\n[licence]\naccept = true\nkey = "published"\n', questions=True
    )
    told = [one.rule for one in report.findings if one.severity != "advice" or one.rule.startswith("question")]
    left = {"windows-7": ["question-name"]}.get(target.id, [])
    assert told == (["question-administrator"] if target.line == "server" else left)


@pytest.mark.parametrize(
    ("target", "fragment", "rule", "severity"),
    [
        ("windows-11-24h2", '[identity]\nname = "LMR_DESK_01"\n', "machine-name", "warning"),
        ("windows-11-24h2", '[identity]\nname = "LMR-ÄÖÜ-DESK-1"\n', "machine-name", "error"),  # 17 bytes
        ("windows-11-24h2", '[start]\nadministrator = "hide"\n', None, None),
        ("windows-11-24h2", '[answers.oobeSystem.Microsoft-Windows-Shell-Setup.OOBE]\nHideLocalAccountScreen = true\n',
         "setting-of-other-release", "advice"),
        ("windows-server-2022", '[start]\nadministrator = "hide"\n', "account-nobody", "warning"),
        ("windows-10-22h2", '[bypass]\nmemory = true\n', "not-expressible", "advice"),
        ("windows-8.1", '[bypass]\nonline_account = true\n', None, None),
        ("windows-11-24h2", '[locale]\nlanguage = "es-419"\nkeyboards = ["latam"]\n', "display-language", "advice"),
        ("windows-server-2022", '[locale]\nlanguage = "en-GB"\n', "display-language", "advice"),
        ("windows-11-24h2", '[locale]\nencoding = "UTF-8"\nutc_clock = true\n', None, None),
        ("windows-10-1909", RECOVERY.format(500), None, None),
        ("windows-10-2004", RECOVERY.format(749), "recovery-partition-small", "advice"),
        ("windows-10-2004", RECOVERY.format(750), None, None),
        ("windows-7", '[features]\nadd = ["OpenSSH.Server~~~~0.0.1.0"]\n', "not-expressible", "advice"),
        ("windows-10-1703", '[features]\nadd = ["OpenSSH.Server~~~~0.0.1.0"]\n', "feature-name", "warning"),
        ("windows-7", '[features]\non = ["NetFx3"]\n', None, None),
        ("windows-8.1", '[features]\non = ["NetFx3"]\n', "feature-source", "warning"),
        ("windows-server-2022", '[features]\non = ["AD-Domain-Services"]\n', "feature-name", "error"),
        ("windows-server-2022", '[features]\non = ["RSAT-AD-Tools"]\n', "feature-name", "error"),
        ("windows-11-24h2", '[features]\non = ["TelnetCleint"]\n', "feature-name", "warning"),
        ("windows-11-24h2", '[locale]\nregion = "XK"\n', None, None),
    ],
)  # fmt: skip
def test_what_a_release_knows_is_judged_by_that_release(target, fragment, rule, severity):
    found = check(f'[draft]\ntarget = "{target}"\nfirmware = "uefi"\n{fragment}').findings
    told = [(one.rule, one.severity) for one in found if one.rule != "disk-wiped"]
    assert told == ([(rule, severity)] if rule else [])
