from __future__ import annotations

from pathlib import Path

import pytest

from factories import resolved, whole
from fairledger.model.errors import ContentError, RefusedError
from fairledger.model.size import Size
from fairledger.model.values import SecretRef, SecretSource, Template
from fairledger.profiles.account import ACCOUNT
from fairledger.profiles.disk import DISK, Partition
from fairledger.profiles.identity import IDENTITY
from fairledger.profiles.library import SHIPPED, Library, valid_name
from fairledger.profiles.locale import LOCALE
from fairledger.profiles.resolve import resolve_file, resolve_text
from fairledger.profiles.secrets import Secrets


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
        "account.local[1] needs name",
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
        resolve_text(text, "desk.toml", Library())
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
    found = resolve_file(draft)
    assert [name for name, _ in found.profiles] == ["locale/base", "locale/site"]
    locale = found.intent.get(LOCALE)
    assert (locale.language, locale.region) == ("en-GB", "GB")
    origin = found.intent.place("locale", "region").origin
    assert Path(origin.file) == draft
    assert origin.overrode[0].file.endswith("base.toml")
    assert len(found.answers) == 1


def test_profiles_that_need_each_other_are_refused(tmp_path):
    folder = tmp_path / "profiles" / "disk"
    folder.mkdir(parents=True)
    (folder / "a.toml").write_text('format = 1\n[profile]\nneeds = ["disk/b"]\n')
    (folder / "b.toml").write_text('format = 1\n[profile]\nneeds = ["disk/a"]\n')
    with pytest.raises(ContentError, match="needs itself: disk/a needs disk/b needs disk/a") as caught:
        resolve_text(whole("").replace("firmware", 'profiles = ["disk/a"]\nfirmware'), "x.toml", Library(tmp_path))
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
    found = resolve_text(whole("").replace("firmware", f'profiles = ["{name}"]\nfirmware'), "x.toml", Library(tmp_path))
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
