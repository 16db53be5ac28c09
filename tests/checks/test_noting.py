"""What was found before a value was filled in, and what is looked for after, is together what is found at once."""

from __future__ import annotations

import pytest

from factories import DESK, NOWHERE, whole
from fairledger.catalog.meant import target_named
from fairledger.checks.engine import in_order
from fairledger.checks.rule import all_rules, run, run_noting
from fairledger.checks.view import View
from fairledger.model.errors import LedgerError
from fairledger.model.values import Blank, Template, fill
from fairledger.subject.opening import Asked, opened
from fairledger.subject.subject import Subject, refilled, with_sheet

BYPASS = "reg add HKLM\\SYSTEM\\Setup\\LabConfig /v BypassTPMCheck /t REG_DWORD /d 1 /f"


def subject_of(text: str) -> Subject | None:
    name, asked = "desk.toml", Asked()
    if text.lstrip().startswith("<"):
        name, asked = "answer.xml", Asked(target=DESK)
    elif text.startswith(("#version=", "accepteula")):
        name = "answer.ks"
    try:
        return opened(NOWHERE / name, asked, (whole(text) if name == "desk.toml" else text).encode())
    except LedgerError:
        return None


def emptied(subject: Subject, empty) -> tuple[Subject, dict[str, str]]:
    """The subject with placeholders in the place of the plain values with the numbers that ``empty`` wants."""
    values: dict[str, str] = {}
    count = 0

    def change(_block, _way, value):
        nonlocal count
        count += 1
        if not isinstance(value, str) or not value or not empty(count):
            return value
        values[f"v{count}"] = value
        return Template((Blank(f"v{count}"),))

    return with_sheet(subject, subject.sheet.map_values(change)), values


def found_after(open_: Subject, values: dict[str, str]):
    view = View(open_)
    _ = open_.recognised
    noticed = run_noting(view)
    sheet = open_.sheet.map_values(lambda _block, _way, value: fill(value, values))
    filled, same = refilled(open_, sheet)
    holds, found = noticed.with_values(View(filled, view)) if same else (False, run(View(filled)))
    return in_order([*(noticed.before if holds else ()), *found]), in_order(run(View(with_sheet(open_, sheet))))


@pytest.mark.parametrize("rule", all_rules(), ids=lambda rule: rule.id)
def test_every_rule_says_after_filling_what_it_says_at_once(rule):
    for example in (rule.fires, rule.silent):
        subject = subject_of(example)
        if subject is None:
            continue
        total = sum(1 for _ in subject.sheet.scalars())
        at_once = in_order(run(View(subject)))
        # all values are open, every other, and some alone
        for empty in (
            lambda _: True,
            lambda number: number % 2,
            *(lambda number, at=at: number == at for at in range(1, total + 1, 1 + total // 5)),
        ):
            after, plain = found_after(*emptied(subject, empty))
            assert after == plain
            assert plain == at_once


def test_a_value_that_makes_an_answer_mean_another_thing_is_seen():
    text = '[[command]]\nwhen = "setup-starts"\nbody = "${line}"\nfill = true\n[bypass]\nmemory = true\n'
    subject = opened(NOWHERE / "desk.toml", data=whole(text).encode())
    assert target_named(DESK) == subject.target
    _ = subject.recognised
    sheet = subject.sheet.map_values(lambda _block, _way, value: fill(value, {"line": BYPASS}))
    filled, same = refilled(subject, sheet)
    assert not same
    assert filled.intent.sections == with_sheet(subject, sheet).intent.sections
    after, plain = found_after(subject, {"line": BYPASS})
    assert after == plain
