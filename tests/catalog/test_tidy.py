"""Choices as data: what ships does not contradict itself, and what is written wrongly is told with its place."""

from __future__ import annotations

from collections import defaultdict

import pytest

from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.meant import target_named
from fairledger.catalog.own import own_choices
from fairledger.catalog.targets import all_targets
from fairledger.catalog.tidy import TOPICS, UNDO, all_choices, choices_of, effects, known, tidy
from fairledger.catalog.tidy_finding import fitting, named, offered
from fairledger.intent.fields import fields_of
from fairledger.intent.sections import SECTION_NAMES, section
from fairledger.model.errors import CatalogError, WrongUseError

WINDOWS = [one for one in all_targets() if one.family == "windows"]


@pytest.mark.parametrize("target", WINDOWS, ids=lambda one: one.id)
def test_no_two_values_of_a_choice_are_one_and_no_two_choices_write_one_value(target):
    seats = defaultdict(set)
    for section_, name, choice in all_choices():
        made = [effects(choice, value, target) for value in choice.values or ("$",)]
        kept = [one for one in made if one]
        assert len({*kept}) == len(kept), (section_, name)
        for found in kept:
            for effect in found:
                seats[effect.seat].add(f"{section_}.{name}")
    shared = {names for names in map(frozenset, seats.values()) if len(names) > 1}
    assert shared <= {frozenset({"updates.active_from", "updates.active_to"})}


def test_every_choice_is_offered_somewhere_and_can_be_found_by_its_own_words():
    everywhere = {one.name for target in all_targets() for one in offered(target)}
    assert everywhere == {f"{section_}.{name}" for section_, name, _ in all_choices()}
    rows = offered(target_named("windows-11-25h2"))
    for one in rows:
        assert one in fitting(one.choice.words, rows)[:3], one.name
    assert [one.name for one in fitting("right click", rows)] == ["desktop.menus"]
    assert {one.choice.topic for one in rows} == set(TOPICS)
    assert len(rows) > 80


def test_settings_that_choices_write_are_settings_and_take_the_value():
    for section_, name, choice in all_choices():
        for change in choice.does:
            if not change.setting:
                continue
            pass_, _, rest = change.setting.partition(":")
            component, _, path = rest.partition("/")
            for target in WINDOWS:
                there = catalog_of("windows", target).component(component)
                if not choice.changes(target) or change not in choice.changes(target) or there is None:
                    continue
                setting = there.setting(path)
                assert setting is not None, (section_, name, target.id)
                assert pass_ in there.passes_of(setting)
                allowed = ("true", "false") if setting.kind == "boolean" else [word for word, _ in setting.choices]
                assert set(change.data.values()) <= set(allowed), (section_, name)


def test_sections_of_choices_are_portable_sections():
    for name, group in tidy().groups.items():
        assert name in SECTION_NAMES
        assert [*fields_of(section(name).table)] == [*group.choices]
    for pair in tidy().pairs:
        for what in (pair.a, pair.b):
            place, _, value = what.partition("=")
            where, _, field = place.partition(".")
            choice = choices_of(where).get(field)
            assert where == "services" or (choice is not None and (not value or value in choice.values)), what


def test_apps_come_and_go_with_releases():
    eleven, ten, server = map(known, map(target_named, ("windows-11-25h2", "windows-10-22h2", "windows-server-2025")))
    assert "terminal" in eleven
    assert "terminal" not in ten
    assert "notes" in ten
    assert not server
    assert [name for name, one in eleven.items() if one.stays] == ["store", "installer", "security"]


@pytest.mark.parametrize(
    ("name", "told"),
    [
        ("desktop.menu", "did you mean desktop.menus"),
        ("desktop.server_manager", "has no use for the choice"),
        ("x", "there is no choice 'x'"),
    ],
)
def test_a_choice_that_is_not_there_is_told_with_the_nearest(name, told):
    with pytest.raises(WrongUseError) as wrong:
        named(name, target_named("windows-11-25h2"))
    assert told in wrong.value.sentence()


GOOD = """about = "the stations' own."
says = "As the network wants it."
[choices.mode]
topic = "findable"
about = "What the console shows."
values = ["watch", "log"]
usual = "watch"
does = [{ machine = 'SOFTWARE\\Larkmoor', name = "Mode", data = { watch = 0, log = 1 } }]
"""


@pytest.mark.parametrize(
    ("old", "new", "line", "told"),
    [
        ('"findable"', '"findabel"', 4, "no topic 'findabel'; did you mean findable"),
        ("name = \"Mode\", data", "name = \"Mode\", dat", 8, "did you mean data"),
        ("log = 1", "lug = 1", 8, "none of its values; did you mean log"),
        ("log = 1", "log = 9999999999", 8, "no number of 32 bits"),
        ("machine = 'SOFTWARE", "machine = 'HKLM\\SOFTWARE", 8, "write the key below its hive"),
        ('name = "Mode"', "name = 'Mo\"de'", 8, "no key or name"),
        ("machine = 'SOFTWARE\\Larkmoor', ", "", 8, "speaks of nothing"),
        ("name = \"Mode\"", "name = \"Mode\", task = '\\x'", 8, "speaks of machine and task"),
        ('usual = "watch"', 'usual = "wach"', 7, "none of its values"),
        ('usual = "watch"', 'undo = "never"', 7, "there is no undo 'never'"),
        ('values = ["watch", "log"]\nusual = "watch"', 'kind = "number"', 3, "a number has limits"),
        ("[choices.mode]", "[choices.Mode]", 3, "no name of a choice"),
        ("says = ", "sais = ", 2, "unknown key 'sais'; did you mean says"),
        ("{ watch = 0, log = 1 }", "{ watch = '0', log = '1' } }, { run = { log = 'x' }", 8, "how its command is taken back"),
        ("about = \"What the console shows.\"\n", "about = ", 5, "no file of choices"),
        ('values = ["watch", "log"]\nusual = "watch"\ndoes', 'kind = "text"\ndoes', 7, "none of its values"),
        ("machine = 'SOFTWARE\\Larkmoor', name = \"Mode\", data = { watch = 0, log = 1 }", "task = '\\x', data = { log = 'x & y' }", 8, "task cannot be 'x & y'"),
        ("machine = 'SOFTWARE\\Larkmoor', name = \"Mode\", data = { watch = 0, log = 1 }", "run = { log = 'echo $' }, back = 'x'", 8, "could end it"),
        ("machine = 'SOFTWARE\\Larkmoor', name = \"Mode\", data = { watch = 0, log = 1 }", "firewall = '@x,-1', data = { log = 'true' }", 8, "how firewall is taken back"),
    ],
)  # fmt: skip
def test_a_file_of_choices_that_is_wrong_is_told_with_place_and_remedy(tmp_path, old, new, line, told):
    path = tmp_path / "station.toml"
    assert old in GOOD
    path.write_text(GOOD.replace(old, new))
    with pytest.raises(CatalogError) as wrong:
        own_choices(tmp_path)
    assert told in wrong.value.sentence()
    assert (wrong.value.file, wrong.value.line) == (str(path), line)


def test_choices_of_ones_own_keep_to_their_folder_and_hold_no_secret(tmp_path):
    (tmp_path / "tidy").mkdir()
    (tmp_path / "tidy/a.toml").write_text(GOOD)
    assert own_choices(tmp_path / "tidy")["mode"].usual == "watch"
    (tmp_path / "tidy/b.toml").write_text(GOOD)
    with pytest.raises(CatalogError, match="stands in two files"):
        own_choices(tmp_path / "tidy")
    (tmp_path / "tidy/b.toml").write_text(
        GOOD.replace("choices.mode", "choices.join_password").replace('values = ["watch", "log"]\nusual = "watch"', 'kind = "text"')
        .replace("{ watch = 0, log = 1 }", '{ "*" = "$" }')
    )  # fmt: skip
    with pytest.raises(CatalogError, match="sounds like a secret"):
        own_choices(tmp_path / "tidy")
    (tmp_path / "tidy/b.toml").unlink()
    (tmp_path / "out.toml").write_text(GOOD)
    (tmp_path / "tidy/b.toml").symlink_to(tmp_path / "out.toml")
    with pytest.raises(CatalogError, match="outside of the folder"):
        own_choices(tmp_path / "tidy")


def test_only_what_can_be_recorded_is_taken_back_exactly():
    for section_, name, choice in all_choices():
        assert choice.undo in UNDO
        if choice.undo == "exact":
            assert all(one.machine and " " not in one.name for one in choice.does), (section_, name)
