"""Secrets: each is fetched once, none is taken for another, and an attribute beside one takes nothing from it."""

from __future__ import annotations

import pytest

from factories import check, draft, issue, rules_of
from fairledger.model.errors import RefusedError
from fairledger.model.values import SecretRef, SecretSource
from fairledger.profiles import secrets as room
from fairledger.profiles.secrets import Secrets

ASKED = SecretRef((SecretSource("ask"),))
JOIN = """[answers.specialize.Microsoft-Windows-UnattendedJoin.Identification]
JoinDomain = "larkmoor.example"
[answers.specialize.Microsoft-Windows-UnattendedJoin.Identification.Credentials]
Domain = "larkmoor.example"
Username = "joiner"
Password = {}
"""


def test_each_thing_is_asked_for_once_and_no_answer_is_another_things(tmp_path):
    asked = []

    def ask(what: str) -> str:
        asked.append(what)
        return f"{what}-{len(asked)}"

    secrets = Secrets(tmp_path, ask)
    typed = [secrets.fetch(ASKED, what) for what in ("keeper", "warden", "keeper")]
    assert typed == ["keeper-1", "warden-2", "keeper-1"]
    assert asked == ["keeper", "warden"]
    later = SecretRef((SecretSource("env", "NOT_SET_HERE"), SecretSource("ask")))
    assert secrets.fetch(later, "keeper") == "keeper-1"


def test_nobody_is_asked_again_who_gave_no_answer(tmp_path):
    asked = []
    secrets = Secrets(tmp_path, asked.append)
    for _ in range(2):
        with pytest.raises(RefusedError, match="the secret for keeper is not to be had"):
            secrets.fetch(ASKED, "keeper")
    assert asked == ["keeper"]


def test_what_was_fetched_is_kept_for_a_while_and_not_for_ever(tmp_path, monkeypatch):
    monkeypatch.setattr(room, "_MOST_KEPT", 2)
    refs = [SecretRef((SecretSource("file", f"{at}.txt"),)) for at in range(3)]
    for at in range(3):
        (tmp_path / f"{at}.txt").write_text(f"old-{at}")
    secrets = Secrets(tmp_path)
    assert [secrets.fetch(ref, "x") for ref in refs] == ["old-0", "old-1", "old-2"]
    for at in range(3):
        (tmp_path / f"{at}.txt").write_text(f"new-{at}")
    assert [secrets.fetch(ref, "x") for ref in (refs[1], refs[2], refs[0])] == ["old-1", "old-2", "new-0"]


def test_two_things_that_are_asked_for_have_two_secrets(tmp_path):
    people = '[[account.local]]\nname = "{}"\ngroups = ["Administrators"]\npassword = {{ ask = true }}\n'
    head = '[draft]\ntarget = "el-9"\n[locale]\nlanguage = "en-GB"\ntime_zone = "UTC"\n[[disk]]\nfate = "wipe"\n[disk.plan]\n'
    parts = [
        f'{{ role = "data", mount = "/srv{at}", size = "9 GiB", encrypted = true, passphrase = {{ ask = true }} }}'
        for at in (1, 2)
    ]
    disk = f'[[disk]]\nfate = "wipe"\npartition = [{{ role = "system", size = "rest" }}, {", ".join(parts)}]\n'
    subject = draft(
        head.replace('[[disk]]\nfate = "wipe"\n[disk.plan]\n', disk) + people.format("keeper") + people.format("warden")
    )
    asked: list[str] = []
    secrets = Secrets(tmp_path, lambda what: asked.append(what) or "Heron-4-moor")
    made, issued = issue(subject, tmp_path, secrets)
    assert issued is not None, made.report.findings
    assert sorted(asked) == [
        "part[/srv1] --passphrase",
        "part[/srv2] --passphrase",
        "the password of keeper",
        "the password of warden",
    ]


@pytest.mark.parametrize(
    "written",
    [
        '{ env = "JOIN_PW", "@action" = "modify" }',
        '{ "@value" = { env = "JOIN_PW" }, "@action" = "modify" }',
    ],
)
def test_a_secret_with_an_attribute_beside_it_is_a_secret(written, tmp_path):
    seats = {one.path.rsplit("/", 1)[-1]: one for one in draft(JOIN.format(written)).seats}
    assert seats["Password"].value == SecretRef((SecretSource("env", "JOIN_PW"),))
    assert seats["@action"].value == "modify"


def test_a_literal_with_an_attribute_beside_it_is_told_like_any_other():
    plain, marked = (check(JOIN.format(one)) for one in ('"Heron-4"', '{ "@value" = "Heron-4", "@action" = "modify" }'))
    assert rules_of(plain) == rules_of(marked)
    assert not any("Heron" in one.message for one in marked.findings)


@pytest.mark.parametrize(
    "written",
    ['{ "@value" = { env = "A" }, env = "B" }', '{ "@action" = "modify" }', '{ "@value" = "x", file = "y" }'],
)
def test_a_secret_that_is_said_twice_or_not_at_all_is_refused(written):
    found = check(JOIN.format(written)).findings
    assert [one.line for one in found if one.rule.startswith("field-")] == [10]


@pytest.mark.parametrize(
    ("held", "told"), [("a\0b", "U\\+0000"), ("a\nb", "a line end"), ("x" * 4_097, "more than 4,096")]
)
def test_what_is_no_secret_by_its_form_is_refused_without_being_shown(tmp_path, held, told):
    (tmp_path / "s.txt").write_text(held)
    with pytest.raises(RefusedError, match=told) as caught:
        Secrets(tmp_path).fetch(SecretRef((SecretSource("file", "s.txt"),)), "the key")
    assert held not in caught.value.sentence()
