"""What is to be done is said in the words of the file that the reader has before him."""

from __future__ import annotations

import re

import pytest

from factories import check
from fairledger.catalog.questions import all_pages
from fairledger.families.reference import native, reference
from fairledger.intent.sections import SECTION_NAMES

CASES = [
    # a draft, and what it is told; an answer file of the same mistake, and what that is told
    (
        '[draft]\ntarget = "el-9"\n[locale]\nlanguage = "en-GB"\n',
        "question-end",
        'finish.action = "restart"',
        "#version=RHEL9\nlang en_GB.UTF-8\n",
        "reboot",
    ),
    (
        '[draft]\ntarget = "el-9"\n[account]\nadministrator = { password = { env = "PW" } }\n',
        "component-expected",
        "[locale]",
        "#version=RHEL9\nrootpw --lock\n",
        "answer keyboard",
    ),
    (
        '[locale]\nlanguage = "en-GB"\ntime_zone = "Europe/Lisboa"\n',
        "time-zone-unknown",
        "Europe/Lisbon",
        '<unattend xmlns="urn:schemas-microsoft-com:unattend"><settings pass="specialize"><component '
        'name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" '
        'language="neutral" versionScope="nonSxS"><TimeZone>Europe/Lisboa</TimeZone></component></settings></unattend>',
        "GMT Standard Time",
    ),
]


@pytest.mark.parametrize(("draft", "rule", "portable", "answers", "own"), CASES)
def test_a_draft_is_told_fields_and_an_answer_file_its_own_words(draft, rule, portable, answers, own):
    for text, word in ((draft, portable), (answers, own)):
        hints = [one.hint for one in check(text, questions=True).findings if one.rule == rule]
        assert any(word in hint for hint in hints), hints


def test_the_fields_that_answer_questions_exist():
    for page in all_pages():
        for word in re.findall(rf"\b(?:{'|'.join(SECTION_NAMES)})\.[a-z_.]*[a-z_]", page.remedy):
            assert any(path == word or path.startswith(f"{word}.") for path in reference()), page.remedy


def test_a_field_is_called_what_it_becomes():
    assert native("licence.accept", "windows", "client") == "UserData/AcceptEula"
    assert native("finish.action", "kickstart", "esxi") == "reboot"
    assert native("bypass.memory", "kickstart", "el") == ""
