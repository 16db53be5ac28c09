from __future__ import annotations

import tomllib
from pathlib import Path

import pytest
import tomlkit
from hypothesis import given
from hypothesis import strategies as st

from fairledger.intent.sections import items_at
from fairledger.model.errors import ContentError, FileTroubleError
from fairledger.model.toml_marks import marks_of
from fairledger.profiles.raw import Array, Leaf, Raw, Table, merged, parse

CASES = Path(__file__).parent / "merging"
KEYS = st.sampled_from(["disk", "a-b", "name", "x y", "ü", "1"])
VALUES = st.recursive(
    st.one_of(st.booleans(), st.integers(-9, 9), st.text(alphabet="ab\"'#[]{}=,\n\\", max_size=9)),
    lambda inner: st.one_of(st.lists(inner, max_size=3), st.dictionaries(KEYS, inner, max_size=3)),
    max_leaves=12,
)


def plain(raw: Raw) -> object:
    if isinstance(raw, Table):
        return {key: plain(one) for key, one in raw.entries.items()}
    return [plain(one) for one in raw.items] if isinstance(raw, Array) else raw.value


@given(st.dictionaries(KEYS, VALUES, max_size=4))
def test_every_key_and_item_has_its_mark(data):
    text = tomlkit.dumps(data)
    marks = marks_of(text)
    lines = text.split("\n")

    def examine(value, path):
        if path:
            line, column = marks[path]
            rest = lines[line - 1][column - 1 :]
            assert rest, path
            if isinstance(path[-1], str) and path[-1].isascii() and path[-1].isalnum() and rest[0] != "[":
                assert rest.startswith(path[-1])
        children = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
        for key, one in children:
            examine(one, (*path, key))

    examine(tomllib.loads(text), ())


def test_marks_of_every_form_of_toml():
    text = (
        'a.b = 1\n"q r" = """x\n[not]"""\n[t.u]\nv = [1,\n  {w = 2}]\n'
        "[[l]]\nn = 'x'  # [[l]]\n[[l]]\n[l.m]\nk = 2\n[[l.o]]\np = 1979-05-27\n"
    )
    marks = marks_of(text)
    assert marks[("a", "b")] == (1, 1)
    assert marks[("q r",)] == (2, 1)
    assert marks[("t", "u", "v", 1, "w")] == (6, 4)
    assert marks[("l", 0, "n")] == (8, 1)
    assert marks[("l", 1, "m", "k")] == (11, 1)
    assert marks[("l", 1, "o", 0, "p")] == (13, 1)


@pytest.mark.parametrize("case", sorted(CASES.iterdir()), ids=lambda path: path.name)
def test_layers_merge_as_the_folder_says(case):
    result = Table({})
    for layer in sorted(case.glob("[0-9].toml")):
        result = merged(result, parse(layer.read_text(), layer.name), items_at)
    assert plain(result) == tomllib.loads((case / "expected.toml").read_text())


@given(st.dictionaries(st.sampled_from("abc"), VALUES), st.dictionaries(st.sampled_from("abc"), VALUES))
def test_merging_changes_no_input_and_the_later_layer_wins(low, high):
    a, b = (parse(tomlkit.dumps(one), "x") for one in (low, high))
    before = plain(a), plain(b)
    result = plain(merged(a, b, items_at))
    assert (plain(a), plain(b)) == before
    for key, value in high.items():
        if not isinstance(value, dict):
            assert result[key] == value
    assert merged(b, b, lambda _path: None).entries.keys() == b.entries.keys()


def test_what_was_overridden_is_remembered():
    low, high = parse("[locale]\nlanguage = 'pt-PT'\n", "low.toml"), parse("[locale]\nlanguage = 'en-GB'", "high.toml")
    leaf = merged(low, high, items_at).table("locale").entries["language"]
    assert isinstance(leaf, Leaf)
    assert [str(leaf.origin), *map(str, leaf.origin.overrode)] == ["high.toml:2", "low.toml:2"]


def test_malformed_text_is_one_finding_with_line_and_column():
    with pytest.raises(ContentError) as caught:
        parse("format = 1\n[draft\n", "desk.toml")
    (finding,) = caught.value.findings
    assert (finding.rule, finding.line, finding.column) == ("toml-malformed", 2, 7)


@pytest.mark.parametrize("text", ["a = " + "[" * 5000 + "]" * 5000, "a = " + "[" * 300 + "]" * 300])
def test_bottomless_text_is_refused(text):
    with pytest.raises(FileTroubleError, match="nested deeper than 200"):
        parse(text, "desk.toml")
