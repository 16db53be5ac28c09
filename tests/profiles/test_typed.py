"""Answers of families whose files tell kinds of scalars apart: what a draft says is kept, there and back."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from factories import draft
from fairledger.authoring.emit import Form, answers_text
from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.setting import Setting
from fairledger.exchange.compare import compare
from fairledger.model.kinds import complaint
from fairledger.model.sheet import NOTHING, REAL, TEXT, TRUTH, WHOLE, Block, Node, Sheet
from fairledger.profiles.answers import Laying, lay
from fairledger.profiles.raw import Table, parse
from fairledger.subject.subject import with_sheet

CATALOG = catalog_of("kickstart", None)
HEAD = "[answers.setup.station]\n"


def laid(text: str, *, typed: bool = True):
    decoder = Laying()
    decoder.typed = typed
    answers = parse(text, "x").entries["answers"]
    assert isinstance(answers, Table)
    return lay(Sheet(), answers, CATALOG, ("setup",), decoder), decoder.problems


@pytest.mark.parametrize(
    ("written", "value", "kind"),
    [
        ('"0644"', "0644", TEXT),
        ("644", "644", WHOLE),
        ('"no"', "no", TEXT),
        ("false", "false", TRUTH),
        ("1.10", "1.10", REAL),
        ('"1.10"', "1.10", TEXT),
        ('{ "@nothing" = true }', "", NOTHING),
        ('""', "", TEXT),
    ],
)
def test_a_value_keeps_what_it_is(written, value, kind):
    sheet, problems = laid(f"{HEAD}mode = {written}\n")
    node = sheet.blocks[0].children[0]
    assert (node.value, node.kind, problems) == (value, kind, [])


def test_marks_are_text_whatever_they_say():
    sheet, _ = laid(f'{HEAD}mode = {{ "@value" = 644, "@type" = "string" }}\n')
    (node,) = sheet.blocks[0].children
    assert (node.kind, node.inner, [(one.name, one.value, one.kind) for one in node.marks]) == (
        WHOLE,
        (),
        [("@type", "string", "")],
    )


def test_where_files_do_not_tell_kinds_apart_there_are_none():
    sheet, problems = laid(f"{HEAD}mode = 644\nwide = false\n", typed=False)
    assert [one.kind for one in sheet.blocks[0].children] == ["", ""]
    assert problems == []
    _, problems = laid(f"{HEAD}version = 1.10\n", typed=False)
    assert ["whole number" in one.message for one in problems] == [True]


def test_two_kinds_are_a_difference():
    one, other = (laid(f"{HEAD}mode = {written}\n")[0] for written in ("644", '"644"'))
    subject = draft("[draft]\ntarget = 'el-9'\n")
    a, b = with_sheet(subject, one), with_sheet(subject, other)
    assert [one.setting for one in compare(a, b).differences] == ["mode"]
    assert not compare(a, with_sheet(subject, one)).differences


SCALARS = st.one_of(
    st.tuples(st.text(max_size=8), st.just(TEXT)),
    st.tuples(st.integers(0, 10**9).map(str), st.just(WHOLE)),
    st.tuples(st.sampled_from(["1.10", "0.5", "3e2"]), st.just(REAL)),
    st.tuples(st.sampled_from(["true", "false"]), st.just(TRUTH)),
    st.just(("", NOTHING)),
)


def mapped(rows):
    return Node("", None, tuple(Node(name, one.value, one.children, kind=one.kind) for name, one in rows))


def maps_of(inner):
    rows = st.lists(st.tuples(st.sampled_from("abc"), inner), min_size=1, max_size=3, unique_by=lambda one: one[0])
    return rows.map(mapped)


LEAVES = SCALARS.map(lambda one: Node("", one[0], (), kind=one[1]))


@given(maps_of(st.recursive(LEAVES, maps_of, max_leaves=8)))
def test_maps_in_maps_come_back_with_every_kind(tree):
    block = Block("setup", "station", "", tree.children)
    text = "\n".join(answers_text([block], lambda _component, _path: Form(), {}, lambda _line, _place: []))
    again, problems = laid(text)
    assert problems == []
    assert by_name(again.blocks[0].children) == by_name(block.children)


def by_name(nodes):
    """What stands in a map; its order does not count."""
    return {one.name: (one.value, one.kind, by_name(one.children)) for one in nodes}


def test_a_group_may_be_plain_text_instead():
    group = Setting(path="match", kind="group")
    assert "takes no value" in complaint("group", "eno1", group)
    either = Setting(path="match", kind="group", also="integer")
    assert complaint("group", "5", either) == complaint("group", "", either) == ""
    assert complaint("group", "eno1", either)
