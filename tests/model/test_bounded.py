"""Patterns that could take for ever are known by their parse tree."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

import fairledger
from fairledger.model.bounded import trouble

SOURCE = Path(fairledger.__file__).parent
MAKERS = ("pattern", "Sign", "compile", "match", "search", "fullmatch", "sub", "findall", "finditer", "split")


@pytest.mark.parametrize(
    ("source", "told"),
    [
        ("(a+)+", "in another one"),
        ("(a*)*b", "in another one"),
        ("([a-z]+|[a-x]+-)*", "in another one"),
        (r"\s*\s*x", "two neighbours"),
        (".*x?.*y", "two neighbours"),
        (r"\d+(?:[0-9]+)", "two neighbours"),
        ("a{99999999999}", "no regular expression"),
        ("(", "no regular expression"),
        ("a{1,5000}b{0,3}a+", "two neighbours"),
        ("[a-z]+(?:-[a-z]+)*", ""),
        (r"(?:\d{1,3}\.){3}\d{1,3}(?:,(?:\d{1,3}\.){3}\d{1,3})*", ""),
        ("(?:abc|xyz)+", ""),
        (r"[a-z]+\s+[a-z]+", ""),
        ("a*b*c*", ""),
    ],
)
def test_what_explodes_is_known(source, told):
    assert told in trouble(source) if told else trouble(source) == ""


def test_what_is_tried_at_every_place_is_known():
    assert trouble(r"\s*x", searched=True)
    assert not trouble(r"[^\n]*x", searched=True)


def literals():
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not isinstance(node, ast.Call) or not node.args:
                continue
            made = node.func
            known = isinstance(made, ast.Name) and made.id in MAKERS[:2]
            known |= isinstance(made, ast.Attribute) and getattr(made.value, "id", "") == "re" and made.attr in MAKERS
            if known and isinstance(node.args[0], ast.Constant) and isinstance(node.args[0].value, str):
                yield path.relative_to(SOURCE).as_posix(), node.args[0].value


def test_our_own_patterns_are_quick():
    found = list(literals())
    slow = [(file, source) for file, source in found if trouble(source)]
    # what stands before a document's type is one of three things that nothing else begins as
    assert [file for file, _ in slow] == ["families/windows/read.py"]
    assert len(found) > 120
