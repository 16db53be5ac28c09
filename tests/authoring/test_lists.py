"""Lists and tables by `set`; what no other change could make good is refused before anything is written."""

from __future__ import annotations

import tomllib

import pytest

from fairledger.authoring.change import set_in, unset_in
from fairledger.model.errors import WrongUseError

DRAFT = """format = 1
[draft]
target = "windows-11-24h2"
profiles = ["a/b"]
[locale]
language = "en-GB"
"""


@pytest.fixture
def path(tmp_path):
    (tmp_path / "profiles/a").mkdir(parents=True)
    (tmp_path / "profiles/a/b.toml").write_text('format = 1\n[profile]\ntitle = "B"\n[locale]\nkeyboards = ["gb"]\n')
    (tmp_path / "profiles/a/c.toml").write_text('format = 1\n[profile]\ntitle = "C"\n')
    path = tmp_path / "desk.toml"
    path.write_text(DRAFT)
    return path


def read(path):
    return tomllib.loads(path.read_text())


@pytest.mark.parametrize(
    ("typed", "section", "expected"),
    [
        ('locale.keyboards=["us", "de"]', "locale", {"language": "en-GB", "keyboards": ["us", "de"]}),
        ("locale.keyboards=us, de", "locale", {"language": "en-GB", "keyboards": ["us", "de"]}),
        # what a profile brings is there already
        ("locale.keyboards+=us", "locale", {"language": "en-GB", "keyboards": ["gb", "us"]}),
        ("locale.keyboards+=gb", "locale", {"language": "en-GB", "keyboards": ["gb"]}),
        ("locale.keyboards-=gb", "locale", {"language": "en-GB", "keyboards": []}),
        ("locale.language =  pt-PT", "locale", {"language": "pt-PT"}),
        ("draft.profiles+=a/c", "draft", {"target": "windows-11-24h2", "profiles": ["a/b", "a/c"]}),
        (
            'account.local=[{ name = "keeper", groups = ["Users"] }]',
            "account",
            {"local": [{"name": "keeper", "groups": ["Users"]}]},
        ),
    ],
)
def test_lists_and_tables(path, typed, section, expected):
    set_in(path, [typed])
    assert read(path)[section] == expected


def test_an_item_of_a_plain_list_is_taken_out_by_what_it_is(path):
    set_in(path, ["draft.profiles+=a/c"])
    unset_in(path, ["draft.profiles[a/b]"])
    assert read(path)["draft"]["profiles"] == ["a/c"]
    with pytest.raises(WrongUseError, match="not answered in this draft"):
        unset_in(path, ["draft.profiles[a/b]"])


@pytest.mark.parametrize(
    ("typed", "told"),
    [
        ("draft.target=windows-12", "there is no target 'windows-12'"),
        ("locale.language=english", "'english' cannot stand in"),
        ("locale.time_zone=Zurich", "there is no time zone 'Zurich'"),
        ("specialize:TimeZone=Zurich", "there is no time zone 'Zurich'"),
        ("identity.name=LMR-A-VERY-LONG-NAME-1", "at most 15"),
        ("disk[0].partition[cellar].size=1 GiB", "cannot be 'cellar'"),
        ("locale.keyboards-=fr", "does not hold fr"),
        ("locale.language+=pt-PT", "is no list of plain values"),
        ("locale.keyboards=[us", "is no TOML of a list"),
        ("draft.profiles+=a/nowhere", "there is no profile 'a/nowhere'"),
    ],
)
def test_what_can_never_be_right_is_refused_and_nothing_is_written(path, typed, told):
    with pytest.raises(WrongUseError, match=told):
        set_in(path, [typed])
    assert path.read_text() == DRAFT


def test_what_is_not_finished_yet_may_be_written(path):
    set_in(path, ["network.interface[eno1].method=static"])
    assert read(path)["network"]["interface"] == [{"name": "eno1", "method": "static"}]


def test_a_draft_that_cannot_be_read_is_mended_by_its_fields(path):
    path.write_text(DRAFT.replace("windows-11-24h2", "windows-12").replace("en-GB", "english"))
    set_in(path, ["draft.target=windows-11-24h2"])
    set_in(path, ["locale.language=en-GB"])
    assert path.read_text() == DRAFT


def test_what_is_set_as_a_table_is_told_without_its_values(path):
    (done,) = set_in(path, ['account.local=[{ name = "keeper", password = "Heron-4-moor" }]'])
    assert done.text == "account.local = { name, password }"
