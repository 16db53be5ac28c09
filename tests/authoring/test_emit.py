"""What is written as a draft reads back as the same intent, and no value breaks out of its quotes."""

from __future__ import annotations

import sys
import tomllib
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

sys.path.insert(0, str(Path(__file__).parents[1] / "families"))
from intents import INTENTS

from factories import examples
from fairledger.authoring.emit import key, scalar, sections_text, text
from fairledger.model.values import SecretRef, SecretSource, parse_text
from fairledger.profiles.decode import Decoder
from fairledger.profiles.document import read_document
from fairledger.profiles.resolve import decode_intent


def no_notes(_line: int | None, _path: str) -> list[str]:
    return []


@examples(250)
@given(intent=INTENTS)
def test_sections_read_back_as_they_were(intent):
    written = "\n".join(["format = 1", "[profile]", *sections_text(intent, no_notes)])
    source = read_document(written, "x.toml")
    decoder = Decoder()
    again = decode_intent(source.layer.sections, decoder)
    assert decoder.problems == []
    said = {name: value for name, value in intent.sections.items() if value and _says(value)}
    assert {name: value for name, value in again.sections.items() if _says(value)} == said


def _says(value: object) -> bool:
    return value != type(value)() if not isinstance(value, tuple) else bool(value)


@examples(300)
@given(value=st.text())
def test_any_text_reads_back(value):
    try:
        value.encode()
    except UnicodeEncodeError:
        return
    assert tomllib.loads(f"x = {text(value)}")["x"].replace("\r\n", "\n") == value.replace("\r\n", "\n")
    assert tomllib.loads(f"{key(value) if value else 'x'} = 1")


@pytest.mark.parametrize(
    ("value", "written"),
    [
        (True, "true"),
        (7, "7"),
        ("$6$salt", '"$6$salt"'),
        ("${name}", '"$${name}"'),
        (parse_text("LMR-${n}"), '"LMR-${n}"'),
        (r"C:\larkmoor", r"'C:\larkmoor'"),
        (SecretRef((SecretSource("env", "PW"), SecretSource("ask"))), '{ env = "PW", ask = true }'),
        (SecretRef((SecretSource("file", "s/a.txt"),), "hash"), '{ file = "s/a.txt", form = "hash" }'),
    ],
)
def test_values_in_toml(value, written):
    assert scalar(value) == written


def test_scripts_keep_their_lines():
    assert text("echo a\necho 'b'") == "'''\necho a\necho 'b''''" or "\\n" in text("echo a\necho 'b'")
    assert tomllib.loads("x = " + text("echo a\n\tb"))["x"] == "echo a\n\tb"
    assert tomllib.loads("x = " + text("it's '''\n"))["x"] == "it's '''\n"
