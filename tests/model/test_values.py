from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairledger.catalog.setting import Setting
from fairledger.model.kinds import KINDS, complaint
from fairledger.model.showing import visible
from fairledger.model.size import Size, parse_size
from fairledger.model.values import (
    SecretRef,
    SecretSource,
    Template,
    escape_text,
    escaped,
    fill,
    join,
    parse_text,
    split,
)

TEXT = st.text(alphabet=st.sampled_from(list("ab_${}'\"\\ é")), max_size=24)


@given(TEXT)
def test_escaping_brings_any_text_through(text):
    assert parse_text(escape_text(text)) == text


@given(TEXT, TEXT)
def test_filling_puts_the_value_in_and_nothing_else(before, value):
    template = parse_text(escape_text(before.rstrip("$")) + "${name}")
    assert isinstance(template, Template)
    assert template.names == ("name",)
    assert template.fill({"name": value}) == before.rstrip("$") + value
    assert template.fill({"other": value}) == template


def test_hashes_and_shell_variables_are_plain_text():
    for text in ("$6$salt$abc", "$HOME", "${1}", "%{name}", "${a-b}"):
        assert parse_text(text) == text


def test_lists_keep_their_placeholders():
    text = parse_text("${group};Users;")
    parts = split(text, ";")
    assert [str(part) for part in parts] == ["${group}", "Users"]
    assert join(parts, ";") == parse_text("${group};Users")


def test_escapes_apply_when_a_blank_is_filled():
    quoted = escaped(parse_text("${who}"), "powershell")
    assert isinstance(quoted, Template)
    assert quoted.fill({"who": 'O\'Hara "x"'}) == "O''Hara \\\"x\\\""


def test_a_secret_never_shows_itself():
    ref = SecretRef((SecretSource("env", "DESK_PW"), SecretSource("value", "Kestrel-7")))
    for told in (str(ref), repr(ref), repr(ref.sources), f"{ref}"):
        assert "Kestrel" not in told
    assert ref.literal
    open_ref = SecretRef((SecretSource("file", parse_text("keys/${name}")),))
    assert str(fill(open_ref, {"name": "a"})) == "(secret: file keys/a)"


@pytest.mark.parametrize(
    ("text", "size"),
    [
        ("512 MiB", Size(mib=512)),
        ("40 GiB", Size(mib=40960)),
        ("1TiB", Size(mib=1048576)),
        ("100 GB", Size(mib=95367)),  # 100e9 / 1048576 = 95367.4
        ("1.5 GiB", Size(mib=1536)),
        ("20%", Size(percent=20)),
    ],
)
def test_sizes(text, size):
    assert parse_size(text) == size


@pytest.mark.parametrize("text", ["12 GBs", "101%", "0%", "1.5%", "GiB", "-1 GiB", "12", "1 KB", "0 MiB", ""])
def test_sizes_that_are_none_say_how_to_write_them(text):
    with pytest.raises(ValueError, match=r"unit|write|percent|less than|number"):
        parse_size(text)


def test_percent_of_a_known_disk():
    assert Size(percent=25).resolved(1000) == 250
    assert Size(percent=25).resolved(None) is None


@pytest.mark.parametrize(
    ("kind", "good", "bad"),
    [
        ("boolean", ["true", "false"], ["True", "1", "yes", ""]),
        ("integer", ["0", "17", "-3"], ["x", "1.5", ""]),
        ("locale", ["en-GB", "sr-Latn-RS", "de", "es-419"], ["english", "en_GB", "e", ""]),
        ("keyboard", ["0809:00000809", "en-GB", "0409:00000409;0809:00000809"], ["0809", "809:809", ""]),
        ("address", ["192.0.2.1", "2001:db8::1", "192.0.2.0/24"], ["192.0.2.256", "desk", ""]),
        ("guid", ["de94bba4-06d1-4d40-a16a-bfd50179d6ac"], ["de94bba4", ""]),
        ("date", ["2027-01-31"], ["31.1.2027", "2027-13-41", "2027-1-3"]),
        ("hostname", ["lmr-gate-03", "LMR-DESK-01"], []),
    ],
)
def test_kinds_accept_their_form_only(kind, good, bad):
    setting = Setting(path="x", kind=kind)
    assert [text for text in good if complaint(kind, text, setting)] == []
    assert [text for text in bad if not complaint(kind, text, setting)] == []


def test_bounds_are_told():
    ranged = Setting(path="x", kind="integer", min=1, max=9)
    assert complaint("integer", "10", ranged) == "it must be from 1 to 9"
    assert "5 characters, at most 3" in complaint("text", "abcde", Setting(path="x", kind="text", max_length=3))
    assert complaint("group", "x", Setting(path="x", kind="group"))
    assert set(KINDS) >= {"group", "list", "password", "path", "command"}


def test_strange_characters_are_written_out():
    assert visible("desk\u202e01\x07") == "desk\\u202e01\\x07"
