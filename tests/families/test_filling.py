"""A placeholder that is filled says what the plain value would have said, in every family's words."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from factories import NOWHERE
from fairledger.intent.fields import fields_of
from fairledger.intent.sections import sections
from fairledger.intent.walk import fields_below
from fairledger.model.errors import ContentError
from fairledger.model.values import (
    Blank,
    Formed,
    Template,
    concat,
    escaped,
    fill,
    form,
    formed,
    join,
    parse_text,
    split,
    unformed,
)
from fairledger.subject.opening import opened

TARGETS = ("windows-11-24h2", "windows-7", "windows-server-2022", "el-9", "el-7", "fedora-43", "esxi-8")
STATIC = '[[network.interface]]\nname = "eno1"\nmethod = "static"\ngateway = "192.0.2.1"\naddress = "{}"\n'
PART = '[[disk]]\nfate = "wipe"\npartition = [{{ role = "firmware", size = "1 GiB" }}, {{ role = "system", size = "{}" }}]\n'


def sheet(target: str, text: str, **values: str):
    subject = opened(NOWHERE / "draft.toml", data=f'format = 1\n[draft]\ntarget = "{target}"\n{text}'.encode())
    return subject.sheet.map_values(lambda _block, _way, value: fill(value, values)).bare()


@pytest.mark.parametrize("target", TARGETS)
@pytest.mark.parametrize(
    ("fragment", "open_", "values", "plain"),
    [
        ('[locale]\ntime_zone = "{}"\n', "${zone}", {"zone": "Europe/Lisbon"}, "Europe/Lisbon"),
        ('[locale]\ntime_zone = "{}"\n', "${zone}", {"zone": "W. Europe Standard Time"}, "W. Europe Standard Time"),
        ('[locale]\ntime_zone = "{}"\n', "Europe/${city}", {"city": "Vienna"}, "Europe/Vienna"),
        ('[locale]\nlanguage = "{}"\nkeyboards = ["us"]\n', "${tongue}", {"tongue": "pt-PT"}, "pt-PT"),
        ('[locale]\nlanguage = "{}"\nkeyboards = ["us"]\n', "de-${land}", {"land": "AT"}, "de-AT"),
        (
            '[locale]\nlanguage = "en-GB"\nkeyboards = ["{}"]\n',
            "${keys}",
            {"keys": "gb"},
            "gb",
        ),
        ('[locale]\nkeyboards = ["{}", "us"]\n', "${keys}", {"keys": "de"}, "de"),
        ('[identity]\nname = "{}"\n', "lmr-${n}", {"n": "gate-03"}, "lmr-gate-03"),
        (PART, "${room}", {"room": "40 GiB"}, "40 GiB"),
        (PART, "${room} GiB", {"room": "40"}, "40 GiB"),
        (PART, "100 ${unit}", {"unit": "GB"}, "100 GB"),
        (STATIC, "${address}", {"address": "192.0.2.30/28"}, "192.0.2.30/28"),
        (STATIC, "192.0.2.${n}/24", {"n": "30"}, "192.0.2.30/24"),
        (STATIC, "192.0.${net}.${n}", {"net": "2", "n": "30/24"}, "192.0.2.30/24"),
    ],
)
def test_filling_and_translating_come_to_the_same(target, fragment, open_, values, plain):
    found = sheet(target, fragment.format(open_), **values)
    assert found == sheet(target, fragment.format(plain))


def test_a_keyboard_follows_the_language_that_is_filled_in():
    text = '[locale]\nlanguage = "{}"\nkeyboards = ["us", "{}", "en-US:us", "0409:00000409"]\n'
    found = sheet(TARGETS[0], text.format("${tongue}", "${keys}"), tongue="pt-PT", keys="de-DE:de")
    assert found == sheet(TARGETS[0], text.format("pt-PT", "de-DE:de"))
    assert "0816:00000409;0407:00000407;0409:00000409;0409:00000409" in repr(found)


@pytest.mark.parametrize("target", TARGETS)
def test_the_usual_keyboard_comes_with_a_language_that_is_filled_in(target):
    text = '[locale]\nlanguage = "{}"\n'
    assert sheet(target, text.format("${tongue}"), tongue="en-GB") == sheet(target, text.format("en-GB"))


@pytest.mark.parametrize(
    ("target", "fragment", "words"),
    [
        ("windows-11-24h2", '[locale]\ntime_zone = "${x}"\n', "Nowhere"),
        ("el-9", '[locale]\nlanguage = "${x}"\n', "Nowhere"),
        ("el-9", STATIC.format("${x}"), "Nowhere"),
    ],
)
def test_what_has_no_other_form_stands_as_it_is(target, fragment, words):
    assert words in repr(sheet(target, fragment, x=words))


@form("shout")
def _shout(text: str, more: str = "") -> str:
    return text.upper() + more


WORD = st.text(alphabet="ab$ {}", max_size=6)


@given(st.lists(st.one_of(WORD, st.sampled_from([Blank("x"), Blank("y")])), max_size=5), WORD, WORD)
def test_a_form_is_taken_by_the_whole_once_all_of_it_is_known(parts, x, y):
    text = concat(*[Template((one,)) if isinstance(one, Blank) else one for one in parts])
    values = {"x": x, "y": y}
    assert fill(formed(text, "shout"), values) == fill(text, values).upper()
    assert fill(fill(formed(text, "shout !"), {"x": x}), {"y": y}) == fill(text, values).upper() + "!"
    if isinstance(text, Template):
        assert unformed(formed(text, "shout"), "shout") == text
        assert unformed(formed(text, "shout !"), "shout") == text
        assert unformed(text, "shout") == text
        assert (str(formed(text, "shout")), formed(text, "shout").names) == (str(text), text.names)


def test_forms_follow_each_other_and_are_undone_from_the_last():
    once = formed(parse_text("${x}"), "shout")
    twice = formed(once, "shout !")
    assert twice.parts == (Formed((Blank("x"),), ("shout", "shout !")),)
    assert unformed(twice, "powershell") == twice
    assert unformed(twice, "shout") == once
    assert fill(escaped(once, "powershell"), {"x": "o'Hara"}) == "O''HARA"
    assert fill(formed(escaped(parse_text("${x}'"), "powershell"), "shout"), {"x": "o'"}) == "O''''"


def test_forms_stay_with_their_piece_among_others():
    row = join((formed(parse_text("${x}"), "shout"), "b", parse_text("${x}")), ",")
    assert fill(row, {"x": "a"}) == "A,b,a"
    assert [str(one) for one in split(row, ",")] == ["${x}", "b", "${x}"]
    assert fill(split(row, ",")[0], {"x": "a"}) == "A"
    assert row.fill({"y": "a"}) == row


def test_what_translating_chooses_by_takes_no_placeholder_and_a_variant_says_it():
    fields = [(section, field) for section in sections() for field in fields_below(section.table, section.name)]
    branching = {".".join(one.names) for _, one in fields if fields_of(one.table)[one.names[-1]].branches}
    # the kinds of thing by which it chooses, one of each kind at least; the annotations are the list
    assert {
        "network.interface.method", "disk.fate", "disk.table", "disk.partition.role", "disk.partition.grow",
        "disk.partition.number", "command.when", "command.restart", "source.kind", "bypass.memory",
        "account.local.password_expires", "volume.size",
    } <= branching  # fmt: skip
    assert not branching & {
        "locale.time_zone",
        "disk.partition.size",
        "network.interface.vlan",
        "account.local.password",
    }


@pytest.mark.parametrize(
    ("text", "line"),
    [
        ('[[network.interface]]\nname = "eno1"\nmethod = "${m}"\n', 6),
        ('[[disk]]\nfate = "wipe"\npartition = [{ role = "system", size = "rest", number = "${n}" }]\n', 6),
        ("[bypass]\nmemory = '${less}'\n", 5),
    ],
)
def test_the_refusal_names_the_way(text, line):
    with pytest.raises(ContentError) as caught:
        opened(NOWHERE / "d.toml", data=f'format = 1\n[draft]\ntarget = "el-9"\n{text}'.encode())
    found = caught.value.findings
    assert [(one.rule, one.line) for one in found] == [("placeholder-refused", line)]
    assert "[variant.NAME." in found[0].hint
