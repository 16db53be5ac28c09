"""What must hold for every section and every field, also for one that comes tomorrow."""

from __future__ import annotations

import tomllib
from functools import cache

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from intents import SECTIONS
from jsonschema import Draft202012Validator
from msgspec.structs import replace

from factories import DESK, NOWHERE, examples, whole
from fairledger.authoring.edit import changed, field_change
from fairledger.authoring.emit import sections_text
from fairledger.authoring.portable import portable_steps
from fairledger.authoring.schema import schema
from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.meant import target_named
from fairledger.events.story import events
from fairledger.families.build import translate
from fairledger.intent.fields import FieldType, defaults_of
from fairledger.intent.intent import Intent
from fairledger.intent.part import Part
from fairledger.intent.sections import items_at, section, sections
from fairledger.intent.walk import changed as walk_changed
from fairledger.intent.walk import fields_below, said, walked
from fairledger.model.facts import machine
from fairledger.model.size import Size
from fairledger.model.values import SecretRef
from fairledger.profiles.decode import Decoder
from fairledger.profiles.raw import parse
from fairledger.profiles.resolve import decode_intent
from fairledger.subject.opening import opened
from fairledger.subject.subject import with_sheet

FIELDS = [(one.name, field) for one in sections() for field in fields_below(one.table, one.name)]
NAMES = [one.name for one in sections()]


@cache
def validator() -> Draft202012Validator:
    target = target_named(DESK)
    return Draft202012Validator(msgspec.to_builtins(schema(catalog_of(target.family, target))))


def decoded(text: str) -> Intent:
    decoder = Decoder()
    found = decode_intent(parse(text, "x.toml"), decoder)
    assert decoder.problems == []
    return found


@pytest.mark.parametrize("name", NAMES)
@examples(25)
@given(data=st.data())
def test_what_is_emitted_is_read_again_and_fits_the_schema(name, data):
    value = data.draw(SECTIONS[name])
    text = "\n".join(sections_text(Intent({name: value} if value else {}), lambda _line, _path: []))
    empty = () if section(name).many else section(name).table()
    assert (decoded(text).sections.get(name) or empty) == value
    draft = tomllib.loads(whole(text))
    assert [error.message for error in validator().iter_errors(draft)] == []


def typed(kind: FieldType) -> str:
    """A value as a person types it behind ``set``."""
    one = kind.item or kind
    if one.choices:
        return one.choices[0]
    if Size in one.plain:
        return "40 GiB"
    if SecretRef in one.plain:
        return '{ env = "STATION_PW" }'
    return "larkmoor" if str in one.plain else "true" if bool in one.plain else "3"


@pytest.mark.parametrize(
    ("name", "field"), FIELDS, ids=lambda one: ".".join(one.names) if hasattr(one, "names") else ""
)
def test_every_field_can_be_set(name, field):
    address = ""
    for at, step in enumerate(field.names, 1):
        listed = items_at(field.names[:at])
        key = typed(fields_below(listed)[0].kind) if listed is not None else ""
        if listed is not None and listed.KEY:
            key = "3" if listed.UNNAMED is not None else "data" if listed.KEY == "role" else "station"
        address += f"{'.' if address else ''}{step}" + (f"[{key}]" if listed is not None else "")
    change = field_change(portable_steps(address), typed(field.kind))
    text = changed(whole(""), [change], "desk.toml")
    found = decoded("\n".join(text.splitlines()[4:])).sections[name]
    names = [tuple(step for step in path if isinstance(step, str)) for path, _ in walked(found, (name,))]
    assert field.names in names
    assert [error.message for error in validator().iter_errors(tomllib.loads(text))] == []


def less(value, gone):
    """A section's value without what one of its fields says."""

    def left(path, one):
        return one if path != gone else None

    made = walk_changed(value, left, (gone[0],))
    owner = Intent({gone[0]: made}).at(gone[:-1])
    usual = defaults_of(type(owner))[gone[-1]] if isinstance(owner, Part) else None
    return walk_changed(made, lambda path, one: usual if path == gone else one, (gone[0],))


@pytest.mark.parametrize("target", [DESK, "windows-server-2022", "el-9", "esxi-8", "esx-4"])
@pytest.mark.parametrize("name", NAMES)
@examples(20)
@given(data=st.data())
def test_each_field_that_is_taken_out_changes_the_story(name, target, data):
    value = data.draw(SECTIONS[name])
    paths = said(value, (name,)) if value else []
    if not paths:
        return
    gone = data.draw(st.sampled_from(paths))
    owner = Intent({name: value}).at(gone[:-1])
    if not isinstance(owner, Part) or defaults_of(type(owner)).get(gone[-1]) is msgspec.NODEFAULT:
        return
    found = target_named(target)
    subject = opened(NOWHERE / "desk.toml", data=f'format = 1\n[draft]\ntarget = "{target}"\n'.encode())
    if gone[-1] == "when" and owner.run_as is not None:
        return  # as whom a command runs is said of its moment
    sheets = [translate(Intent({name: one}), found, machine(arch="amd64"))[0] for one in (value, less(value, gone))]
    if sheets[0].bare() != sheets[1].bare():
        stories = [events(with_sheet(subject, sheet)) for sheet in sheets]
        told = [[replace(one, file=None, line=None) for one in story] for story in stories]
        assert told[0] != told[1], gone


def test_a_section_of_data_is_a_section_like_any_other():
    table = section("bypass").table
    assert issubclass(table, Part)
    assert table.__doc__.startswith("Each true field")
    assert {kind.says() for _, kind in [(one.names, one.kind) for one in fields_below(table)]} == {"true or false"}
