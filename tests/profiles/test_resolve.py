from __future__ import annotations

from pathlib import Path

import pytest

from factories import NOWHERE, draft, resolved, resolved_text, whole
from fairledger.intent.account import ACCOUNT
from fairledger.intent.disk import DISK, Partition
from fairledger.intent.identity import IDENTITY
from fairledger.intent.locale import LOCALE
from fairledger.model.errors import ContentError, RefusedError, WrongUseError
from fairledger.model.size import Size
from fairledger.model.values import SecretRef, SecretSource, Template
from fairledger.profiles.library import SHIPPED, Library, valid_name
from fairledger.profiles.resolve import Selection
from fairledger.profiles.secrets import Secrets
from fairledger.subject.opening import of_draft, opened


def problems(fragment: str) -> list[tuple[int | None, str, str]]:
    with pytest.raises(ContentError) as caught:
        resolved(fragment)
    return [(one.line, one.message, one.hint) for one in caught.value.findings]


def test_fields_become_typed_values():
    intent = resolved(
        '[identity]\nname = "LMR-${station}-01"\n'
        '[disk]\nfate = "wipe"\npartition = [{ role = "system", size = "rest" }, { size = "20%" }]\n'
        '[account]\nlocal = [{ name = "observer", password = { env = "PW", ask = true } }]\n'
    ).intent
    identity, disks, account = intent.get(IDENTITY), intent.get(DISK), intent.get(ACCOUNT)
    assert isinstance(identity.name, Template)
    assert disks[0].partition == (Partition(role="system", grow=True), Partition(size=Size(percent=20)))
    assert account.local[0].password == SecretRef((SecretSource("env", "PW"), SecretSource("ask")))
    assert intent.place("account", "local", 0, "password").origin.line == 11


def test_all_problems_come_at_once_with_their_lines():
    found = problems(
        '[locale]\nlanguag = "en-GB"\ntime_zone = 3\n'
        '[disk]\nfate = "erase"\n[[disk.partition]]\nrole = "sytem"\nsize = "12 GBs"\n'
        "[account]\nlocal = [{ groups = [] }]\n[identity]\nnaming = true\n"
    )
    assert [line for line, _, _ in found] == [6, 7, 9, 11, 12, 14, 16]
    told = "\n".join(f"{message}; {hint}" for _, message, hint in found)
    for part in (
        "did you mean language",
        "time_zone must be text",
        "'erase'",
        "did you mean system",
        "unknown unit GBs",
        "account.local[#1] needs name",
        'naming must be "fixed" or "random"',
    ):
        assert part in told


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("", "does not say its format"),
        ("format = 2\n[draft]\ntarget = 'windows-11-24h2'", "format 2 is unknown"),
        ("format = 1", "neither [draft] nor [profile]"),
        ("format = 1\n[draft]\ntitle = 'x'", "draft needs target"),
        ("format = 1\n[draft]\ntarget = 'windows-11-24h3'", "no target"),
        ("format = 1\n[draft]\ntarget = 'windows-11-24h2'\narch = 'x86'", "does not exist for 'x86'"),
        ("format = 1\n[draft]\ntarget = 'windows-11-24h2'\n[locales]\n", "no section 'locales'"),
        ("format = 1\n[draft]\ntarget = 'windows-11-24h2'\nprofiles = ['locale/en-gx']", "no profile 'locale/en-gx'"),
        ("format = 1\n[draft]\ntarget = 'windows-11-24h2'\nprofiles = ['../etc/passwd']", "no profile"),
        (
            "format = 1\n[draft]\ntarget = 'windows-11-24h2'\n[account]\nlocal = [{ name = 'a', password = {} }]",
            "no source",
        ),
        (
            "format = 1\n[draft]\ntarget = 'windows-11-24h2'\n[account]\nlocal = [{name='a', password={envi='X'}}]",
            "no source",
        ),
    ],
)
def test_what_a_draft_cannot_be(text, told):
    with pytest.raises(ContentError) as caught:
        resolved_text(text, "desk.toml", Library())
    assert told in caught.value.findings[0].message


def test_layers_rank_as_listed_and_origins_follow(tmp_path):
    folder = tmp_path / "profiles" / "locale"
    folder.mkdir(parents=True)
    (folder / "base.toml").write_text('format = 1\n[profile]\n[locale]\nlanguage = "pt-PT"\nregion = "PT"\n')
    (folder / "site.toml").write_text(
        'format = 1\n[profile]\nneeds = ["locale/base"]\n[locale]\nlanguage = "en-GB"\n'
        '[answers.oobeSystem.Microsoft-Windows-Shell-Setup]\nRegisteredOwner = "Site"\n'
    )
    draft = tmp_path / "desk.toml"
    draft.write_text(whole('[locale]\nregion = "GB"\n').replace("[locale]", 'profiles = ["locale/site"]\n[locale]', 1))
    found = resolved_text(draft.read_text(), str(draft), Library(draft.parent))
    assert [name for name, _ in found.profiles] == ["locale/base", "locale/site"]
    locale = found.intent.get(LOCALE)
    assert (locale.language, locale.region) == ("en-GB", "GB")
    origin = found.intent.place("locale", "region").origin
    assert Path(origin.file) == draft
    assert origin.overrode[0].file.endswith("base.toml")
    assert [bool(one.answers.entries) for one in found.layers] == [False, True, False, False]


def test_profiles_that_need_each_other_are_refused(tmp_path):
    folder = tmp_path / "profiles" / "disk"
    folder.mkdir(parents=True)
    (folder / "a.toml").write_text('format = 1\n[profile]\nneeds = ["disk/b"]\n')
    (folder / "b.toml").write_text('format = 1\n[profile]\nneeds = ["disk/a"]\n')
    with pytest.raises(ContentError, match="needs itself: disk/a needs disk/b needs disk/a") as caught:
        resolved_text(whole("").replace("firmware", 'profiles = ["disk/a"]\nfirmware'), "x.toml", Library(tmp_path))
    assert caught.value.findings[0].file.endswith("b.toml")


def test_the_nearest_folder_wins_and_names_stay_inside(tmp_path, monkeypatch):
    monkeypatch.setenv("FAIRLEDGER_LIBRARY", str(tmp_path / "mine"))
    library = Library(tmp_path)
    assert library.find("locale/en-gb") == SHIPPED / "locale" / "en-gb.toml"
    for folder in ("mine", "profiles"):
        path = tmp_path / folder / "locale" / "en-gb.toml"
        path.parent.mkdir(parents=True)
        path.write_text("format = 1\n[profile]\n")
        assert library.find("locale/en-gb") == path
    for name in ("../x", "a/../../b", "/etc/passwd", "a\\b", "a/b/c", "a/.", "A/b", "", "locale/en-gb.toml/x"):
        assert not valid_name(name)
    assert "did you mean locale/en-gb" in library.remedy("locale/en-bg")


@pytest.mark.parametrize("path", sorted(SHIPPED.glob("*/*.toml")), ids=lambda path: path.parent.name + "/" + path.stem)
def test_every_shipped_profile_works_and_says_what_it_is(path, tmp_path):
    name = path.relative_to(SHIPPED).with_suffix("").as_posix()
    found = resolved_text(
        whole("").replace("firmware", f'profiles = ["{name}"]\nfirmware'), "x.toml", Library(tmp_path)
    )
    assert found.intent.sections
    text = path.read_text()
    assert "title = " in text
    assert "about = " in text


def test_secrets_are_fetched_in_order_and_missing_ones_name_the_remedy(tmp_path, monkeypatch):
    (tmp_path / "key.txt").write_text("Heron-4\n")
    from_file = SecretRef((SecretSource("env", "DESK_PW"), SecretSource("file", "key.txt")))
    monkeypatch.delenv("DESK_PW", raising=False)
    assert Secrets(tmp_path).fetch(from_file, "x") == "Heron-4"
    monkeypatch.setenv("DESK_PW", "Kestrel-7")
    assert Secrets(tmp_path).fetch(from_file, "x") == "Kestrel-7"
    asked = SecretRef((SecretSource("env", "OTHER_PW"), SecretSource("ask")))
    assert Secrets(tmp_path, lambda what: f"typed for {what}").fetch(asked, "observer") == "typed for observer"
    with pytest.raises(RefusedError) as caught:
        Secrets(tmp_path).fetch(asked, "observer")
    assert "set the environment variable OTHER_PW" in caught.value.sentence()


VARIANTS = """
drop = ["account:night", "locale.region", "OOBE/HideEULAPage"]
[draft]
target = "windows-11-24h2"
firmware = "uefi"
disk_size = "256 GB"
profiles = ["locale/stations", "account/watch"]
[identity]
name = "LMR-DESK-01"
[variant.bios]
drop = ["identity", "specialize:RunSynchronousCommand[Tells of the wind]", "barometer"]
[variant.bios.draft]
firmware = "bios"
[variant.bios.locale]
language = "pt-PT"
[variant.bios.answers.oobeSystem.Microsoft-Windows-Shell-Setup.OOBE]
ProtectYourPC = 3
"""
STATIONS = '[locale]\nlanguage = "en-GB"\nregion = "GB"\n[answers.oobeSystem.Microsoft-Windows-Shell-Setup.OOBE]\n'
STATIONS += "HideEULAPage = true\n"
WATCH = '[account]\nlocal = [{ name = "night" }, { name = "day" }]\n'
WATCH += "[[answers.specialize.Microsoft-Windows-Deployment.RunSynchronous.RunSynchronousCommand]]\nOrder = 1\n"
WATCH += 'Path = "cmd /c echo wind"\nDescription = "Tells of the wind"\n'


@pytest.fixture
def watch(tmp_path):
    for name, text in (("locale/stations", STATIONS), ("account/watch", WATCH)):
        path = tmp_path / "profiles" / f"{name}.toml"
        path.parent.mkdir(parents=True)
        path.write_text(f"format = 1\n[profile]\n{text}")
    return tmp_path


def answered(found):
    draft = of_draft(found, NOWHERE)
    return {seat.shown: seat.text for seat in draft.seats if seat.text is not None}, [
        one.message for one in draft.findings
    ]


def test_layers_drop_what_those_below_brought(watch):
    found = resolved_text("format = 1\n" + VARIANTS.lstrip(), "desk.toml", Library(watch))
    assert [one.name for one in found.intent.get(ACCOUNT).local] == ["day"]
    assert found.intent.get(LOCALE).region is None
    assert found.variants == ("bios",)
    answers, told = answered(found)
    assert "OOBE/HideEULAPage" not in answers
    assert answers["ComputerName"] == "LMR-DESK-01"
    assert told == []


def test_a_variant_lies_over_its_draft(watch):
    found = resolved_text("format = 1\n" + VARIANTS.lstrip(), "desk.toml", Library(watch), Selection(variant="bios"))
    assert (found.facts.firmware, found.facts.disk_mib) == ("bios", 244140)
    assert found.intent.get(LOCALE).language == "pt-PT"
    answers, told = answered(found)
    assert answers["OOBE/ProtectYourPC"] == "3"
    assert "ComputerName" not in answers
    assert not any("RunSynchronousCommand" in one for one in answers)
    assert len(told) == 1
    assert "brings barometer" in told[0]
    with pytest.raises(WrongUseError, match="no variant 'bois'") as caught:
        resolved_text("format = 1\n" + VARIANTS.lstrip(), "desk.toml", Library(watch), Selection(variant="bois"))
    assert "did you mean bios" in caught.value.remedy


def test_a_profile_on_top_counts_and_one_left_out_does_not(watch):
    text = "format = 1\n" + VARIANTS.lstrip()
    (watch / "profiles/locale/top.toml").write_text('format = 1\n[profile]\n[locale]\nlanguage = "fr-FR"\n')
    found = resolved_text(text, "desk.toml", Library(watch), Selection(variant="bios", on_top=("locale/top",)))
    assert found.intent.get(LOCALE).language == "fr-FR"
    left = resolved_text(text, "desk.toml", Library(watch), Selection(leave_out="account/watch"))
    assert left.intent.get(ACCOUNT) is None


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ('drop = "account"\n', "drop must be a list of addresses"),
        ("variant = 3\n", "variant must hold a table for each variant"),
        ('[variant.bios]\nlocal = { language = "x" }\n', "there is no section 'local'"),
        ('[variant.bios.draft]\nfirmwar = "bios"\n', "variant.bios.draft has no field 'firmwar'"),
    ],
)
def test_wrong_drops_and_variants_have_a_place(text, told):
    body = text + '[draft]\ntarget = "windows-11-24h2"\n'
    with pytest.raises(ContentError) as caught:
        resolved_text("format = 1\n" + body, "desk.toml", Library(None))
    assert told in " ".join(one.message for one in caught.value.findings)


@pytest.mark.parametrize(
    ("first", "second", "told"),
    [
        ('[disk]\nfate = "wipe"\n', '[disk]\nwhich = 0\nfate = "keep"\n', "disagree about disk 0"),
        ('[locale]\nlanguage = "en-GB"\n', '[locale]\nlanguage = "pt-PT"\n', "disagree about locale.language"),
        (WATCH, '[account]\nlocal = [{ name = "day", groups = ["Users"] }]\n', ""),
        ('[disk]\nfate = "wipe"\n', '[disk]\nextend = true\nfate = "keep"\n', ""),
        ('[disk]\nfate = "wipe"\n', 'needs = ["a/first"]\n[disk]\nfate = "keep"\n', ""),
    ],
)
def test_profiles_that_cannot_both_be_meant_are_told(tmp_path, first, second, told):
    for name, text in (("first", first), ("second", second)):
        path = tmp_path / "profiles" / "a" / f"{name}.toml"
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(f"format = 1\n[profile]\n{text}")
    draft = 'format = 1\n[draft]\ntarget = "windows-11-24h2"\nprofiles = ["a/first", "a/second"]\n'
    found = resolved_text(draft, "desk.toml", Library(tmp_path)).findings
    assert [told in one.message for one in found] == ([True] if told else [])


def test_a_drop_reaches_its_own_layer_and_those_below_and_never_a_later_one(tmp_path):
    (tmp_path / "profiles/a").mkdir(parents=True)
    profile = tmp_path / "profiles/a/b.toml"
    profile.write_text(
        'format = 1\ndrop = ["TimeZone", "RegisteredOwner"]\n[profile]\ntitle = "B"\n[identity]\nowner = "Profile"\n'
    )
    head = '[draft]\ntarget = "windows-11-24h2"\nprofiles = ["a/b"]\n'
    subject = opened(tmp_path / "d.toml", data=f"format = 1\n{head}".encode())
    assert [one.rule for one in subject.findings if "drop" in one.rule] == ["drop-nothing"]
    assert not [seat for seat in subject.seats if seat.name == "RegisteredOwner"]
    later = head + '[locale]\ntime_zone = "UTC"\n[identity]\nowner = "Draft"\n'
    subject = opened(tmp_path / "d.toml", data=f"format = 1\n{later}".encode())
    said = {seat.name: seat.text for seat in subject.seats}
    assert (said["TimeZone"], said["RegisteredOwner"]) == ("UTC", "Draft")
    told = [one for one in subject.findings if "drop" in one.rule]
    assert [(one.rule, str(one.file), one.line) for one in told] == [("drop-later", str(profile), 2)] * 2


def test_a_drop_names_a_use_of_a_command(tmp_path):
    text = 'format = 1\ndrop = ["setup:repo[b]"]\n[draft]\ntarget = "el-9"\n' + "".join(
        f'[[source.repository]]\nname = "{name}"\nurl = "http://192.0.2.1/{name}"\n' for name in "abc"
    )
    found = opened(tmp_path / "d.toml", data=text.encode()).sheet
    names = [node.value for block in found.blocks for node in block.children if node.name == "--name"]
    assert names == ["a", "c"]


PACKED = '[draft]\ntarget = "el-9"\n[packages]\npackages = ["chrony"]\n[answers.packages."%packages[#{}]"]\n"--excludedocs" = true\n'


def test_answers_are_added_to_a_use_that_nothing_names():
    one = draft(PACKED.format(1))
    (section,) = one.seats.find("packages", "%packages", "")
    assert [(seat.name, seat.text) for seat in section.children] == [("package", "chrony"), ("--excludedocs", "true")]
    (wrong,) = [finding for finding in draft(PACKED.format(2)).findings if finding.severity == "error"]
    assert (wrong.message, wrong.line) == ("nothing brings %packages[#2] in the pass packages", 6)
