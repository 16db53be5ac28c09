"""The one way through the tables of sections, on a table of the tests' own."""

from __future__ import annotations

from typing import Literal

import pytest
from msgspec import NODEFAULT

from fairledger.intent.fields import FieldType, defaults_of, fields_of
from fairledger.intent.intent import Intent
from fairledger.intent.part import Part
from fairledger.intent.walk import changed, fields_below, is_tables, names_of, said, told, walked
from fairledger.model.places import Origin, Place
from fairledger.model.size import Size
from fairledger.model.values import SecretRef, SecretSource, Template, parse_text


class Vane(Part, frozen=True, kw_only=True):
    KEY = "name"

    name: str | Template
    height: Size | None = None
    heated: bool = False
    lit: bool | None = None


class Mast(Part, frozen=True, kw_only=True):
    ALONE = True

    colour: Literal["red", "white"] | None = None


class Station(Part, frozen=True, kw_only=True):
    title: str | Template | None = None
    guests: int | None = None
    words: tuple[str | Template, ...] = ()
    code: str | SecretRef | None = None
    mast: Mast | None = None
    vane: tuple[Vane, ...] = ()


WEST = Vane(name="west", lit=False)
FULL = Station(title="Larkmoor", guests=0, words=("a",), mast=Mast(), vane=(WEST, Vane(name="east", heated=True)))


def test_what_can_stand_below_a_section():
    found = fields_below(Station, "station")
    assert [".".join(one.names) for one in found] == [
        "station.title", "station.guests", "station.words", "station.code", "station.mast.colour",
        "station.vane.name", "station.vane.height", "station.vane.heated", "station.vane.lit",
    ]  # fmt: skip
    assert [one.table for one in found] == [Station] * 4 + [Mast] + [Vane] * 4


@pytest.mark.parametrize(
    ("field", "words"),
    [
        ("title", "text"),
        ("guests", "a whole number"),
        ("words", "a list of texts"),
        ("code", "a secret or text"),
        ("mast", "a table"),
        ("vane", "a list of tables"),
    ],
)
def test_what_a_field_accepts_in_words(field, words):
    assert fields_of(Station)[field].says() == words


def test_choices_and_sizes_in_words():
    assert fields_of(Mast)["colour"].says() == '"red" or "white"'
    assert fields_of(Vane)["height"].says() == "a size such as 40 GiB"
    assert fields_of(Vane)["lit"].says() == "true or false"
    assert FieldType(Literal["auto"] | Size | None).says() == 'a size such as 40 GiB or "auto"'
    assert [fields_of(Station)[name].inner for name in ("mast", "vane", "words", "title")] == [Mast, Vane, None, None]


def test_what_fields_have_where_nothing_is_said():
    usual = defaults_of(Vane)
    assert usual["name"] is NODEFAULT
    assert (usual["height"], usual["heated"], usual["lit"]) == (None, False, None)


def test_every_field_is_walked_through():
    found = dict(walked(FULL, ("station",)))
    assert found["station", "vane", 1, "heated"] is True
    assert found["station", "mast", "colour"] is None
    assert list(walked((), ("vane",))) == [(("vane",), ())]
    assert next(path for path, _ in walked((WEST,), ("vane",))) == ("vane", 0, "name")
    assert len(found) == 4 + 1 + 2 * 4


def test_only_what_is_said_is_gathered():
    assert said(FULL, ("station",)) == [
        ("station", "title"),
        ("station", "guests"),  # none is a number too
        ("station", "words"),
        ("station", "mast"),  # stands for itself
        ("station", "vane", 0, "name"),
        ("station", "vane", 0, "lit"),  # a stated no is not the same as nothing
        ("station", "vane", 1, "name"),
        ("station", "vane", 1, "heated"),
    ]
    assert said(Station(), ("station",)) == []
    assert said(Station(title=""), ("station",)) == []
    assert said(Station(mast=Mast(colour="red")), ("station",)) == [("station", "mast", "colour")]
    assert said((WEST,), ("vane",)) == [("vane", 0, "name"), ("vane", 0, "lit")]


def test_changes_reach_every_field_and_nothing_else():
    loud = changed(FULL, lambda path, value: value.upper() if names_of(path)[-1] == "name" else value, ("station",))
    assert [one.name for one in loud.vane] == ["WEST", "EAST"]
    assert (loud.title, loud.mast, loud.vane[1].heated) == ("Larkmoor", Mast(), True)
    assert FULL.vane[0].name == "west"
    assert changed(FULL, lambda _, value: value) == FULL


def test_lists_of_tables_are_told_from_lists_of_words():
    assert is_tables((WEST,))
    assert not any(is_tables(one) for one in ((), ("west",), [WEST], WEST, None))
    assert names_of(("station", "vane", 1, "name")) == ("station", "vane", "name")


def test_values_as_a_person_writes_them():
    assert [told(one) for one in (True, False, 3, "x", (True, "a"), ())] == ["true", "false", "3", "x", "true, a", ""]
    assert told(parse_text("LMR-${n}")) == "LMR-${n}"
    assert told(Size(mib=2048)) == "2 GiB"
    secret = SecretRef(sources=(SecretSource("env", "STATION_PW"), SecretSource("value", "Heron-4")))
    assert "STATION_PW" in told(secret)
    assert "Heron" not in told(secret)


def test_an_intent_leads_to_what_stands_at_a_path_and_to_its_place():
    far, near = (Place(origin=Origin("desk.toml", line)) for line in (3, 9))
    intent = Intent({"station": FULL}, {("station",): far, ("station", "vane", 1): near})
    assert intent.at(("station", "vane", 1, "name")) == "east"
    assert intent.at(("station", "vane")) == FULL.vane
    assert intent.place("station", "vane", 1, "name").origin.line == 9
    assert intent.place("station", "vane", 0, "name").origin.line == 3
    assert intent.place("other").origin.line is None
    listed = Intent({"station": FULL}, {("station", "words", 1): near, ("station", "words", 2): far})
    assert listed.place("station", "words").origin.line == 9
    assert listed.place("station", "title").origin.line is None
    assert listed.place() is listed.place("other")
