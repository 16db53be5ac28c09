"""The exported grammar and schema agree with `check` about structure."""

from __future__ import annotations

import tomllib
from functools import cache

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st
from intents import INTENTS
from lxml import etree

from factories import DESK, check, check_answers, examples, rules_of, whole
from fairledger.authoring.schema import schema
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.meant import target_named
from fairledger.catalog.targets import all_targets
from fairledger.checks.rule import all_rules
from fairledger.cli.commands.demo import examples_folder
from fairledger.families.build import translate
from fairledger.families.registry import family_named
from fairledger.model.facts import Facts
from fairledger.model.target import Target

WINDOWS = family_named("windows")
TARGETS = [target for target in all_targets() if target.family == "windows"]
OF_NAMES = {"component-unknown", "setting-unknown", "setting-of-other-release", "pass-wrong", "pass-unknown"}
OF_NAMES |= {"value-wrong", "value-missing", "architecture"}
OF_XML = {"element-unknown", "component-attributes", "root-element", "namespace", "attribute-unknown", "stray-text"}
OF_XML |= {"part-missing", "setting-twice"}
OF_DRAFTS = {
    "field-unknown",
    "field-value",
    "field-missing",
    "head-missing",
    "format",
    "arch-unknown",
    "target-unknown",
}
EXAMPLES = [(one.id, kind, getattr(one, kind)) for one in all_rules() for kind in ("fires", "silent")]


def revealed(_block, _way, value):
    return value if isinstance(value, str) else "7"


@cache
def grammar_of(target: Target) -> etree.RelaxNG:
    made = WINDOWS.grammar(Catalog("windows", target))
    assert made
    return etree.RelaxNG(etree.fromstring(made))


@cache
def schema_of(target: str) -> jsonschema.Draft202012Validator:
    found = target_named(target)
    made = schema(Catalog(found.family, found))
    if target in (DESK, "el-9"):  # the same program makes them all, and looking through one takes seconds
        jsonschema.Draft202012Validator.check_schema(made)
    return jsonschema.Draft202012Validator(made)


def test_the_schema_agrees_with_check_about_drafts():
    seen, odd = 0, []
    for rule, kind, text in EXAMPLES:
        if not text.strip() or text.lstrip().startswith(("<", "#version", "accepteula")):
            continue
        try:
            data = tomllib.loads(whole(text))
        except tomllib.TOMLDecodeError:
            continue
        target = data.get("draft", {}).get("target", DESK)
        if target in {one.id for one in all_targets()}:
            found = set(rules_of(check(text))) & (OF_NAMES | OF_DRAFTS)
            wrong = [error.message for error in schema_of(target).iter_errors(data)]
            odd += [(rule, kind, found, wrong)] if bool(found) != bool(wrong) else []
            seen += 1
    assert odd == []
    assert seen > 70


DRAFTS = [one for one in sorted(examples_folder().glob("stations/**/*.toml")) if one.parent.name != "media"]


@pytest.mark.parametrize("path", DRAFTS, ids=lambda path: path.stem)
def test_the_examples_fit_the_schema_of_their_target(path):
    data = tomllib.loads(path.read_text(encoding="utf-8"))
    schema_of(data.get("draft", {}).get("target", DESK)).validate(data)


def test_the_grammar_agrees_with_check_about_answer_files():
    seen, odd = 0, []
    for rule, kind, text in EXAMPLES:
        if (
            text.startswith(("#version", "accepteula"))
            or 'target = "e' in text
            or rule in ("extra-malformed", "value-unwritable")
        ):
            continue
        data = text.encode()
        if not text.lstrip().startswith("<"):
            data = WINDOWS.write(check(text).of.sheet.map_values(revealed), target_named(DESK))
        try:
            document = etree.fromstring(data)
        except etree.XMLSyntaxError:
            continue
        found = set(rules_of(check_answers(data, "answer.xml", target=DESK))) & (OF_NAMES | OF_XML)
        fits = grammar_of(target_named(DESK)).validate(document)
        odd += [(rule, kind, found)] if fits == bool(found) else []
        seen += 1
    assert odd == []
    assert seen > 80


@examples(120)
@given(intent=INTENTS, target=st.sampled_from(TARGETS))
def test_what_is_translated_fits_the_grammar_of_any_release(intent, target):
    sheet, _ = translate(intent, target, Facts(arch="amd64", firmware="uefi"))
    settled = WINDOWS.settle(sheet, Facts(arch=target.architectures[0]))
    data = WINDOWS.write(settled.map_values(revealed), target)
    found = set(rules_of(check_answers(data, "answer.xml", target=target.id)))
    grammar = grammar_of(target)
    if not found & (OF_NAMES | OF_XML):
        assert grammar.validate(etree.fromstring(data)), grammar.error_log.last_error
    assert not found & {"setting-of-other-release", "component-unknown", "setting-unknown", "pass-wrong"}


def test_files_of_commands_have_no_grammar():
    target = target_named("el-9")
    assert family_named("kickstart").grammar(Catalog("kickstart", target)) is None


@pytest.mark.parametrize(
    ("written", "fits"),
    [
        ('"Heron-4"', True),
        ('{ env = "PW" }', True),
        ('{ "@value" = { env = "PW" }, "@action" = "modify" }', True),
        ('{ "@value" = "Heron-4", "@action" = "modify" }', True),
        ('{ "@action" = "modify" }', False),
        ('{ "@value" = "x", action = "modify" }', False),
        ('{ "@value" = "x", "@action" = 3 }', False),
    ],
)
def test_the_schema_knows_values_with_attributes(written, fits):
    way = "answers.specialize.Microsoft-Windows-UnattendedJoin.Identification.Credentials"
    data = tomllib.loads(whole(f"[{way}]\nPassword = {written}\n"))
    assert schema_of(DESK).is_valid(data) == fits
