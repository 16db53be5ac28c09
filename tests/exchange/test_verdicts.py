"""What comparing vouches for: a verdict that holds from both sides and along a chain, and names what it rests on."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from exchange.outside import answers_of
from factories import draft, examples, settled_file
from fairledger.exchange.compare import compare
from fairledger.subject.settling import settled

HERE = Path(__file__).parent
TEXTS = {path.name: path.read_text() for path in sorted((HERE / "files").iterdir())}
HEAD = "#version=RHEL9\n"


def verdict(one: str, other: str) -> str:
    return compare(settled_file(HEAD + one, Path("a.ks")), settled_file(HEAD + other, Path("b.ks"))).verdict


LOCK = "user --name=a --uid=1 {}\nuser --name=b --uid=2 {}\n"
ALIKE = "network --device={0} --bootproto=dhcp {2}\nnetwork --device={1} --bootproto=dhcp {3}\n"
REPOS = "repo --name=a --baseurl=http://192.0.2.1/a {}\nrepo --name=b --baseurl=http://192.0.2.1/b {}\n"


@pytest.mark.parametrize(
    ("one", "other", "expected"),
    [
        (LOCK.format("--lock", ""), LOCK.format("", "--lock"), "different"),
        (ALIKE.format("eno1", "eno2", "--activate", ""), ALIKE.format("eno1", "eno2", "", "--activate"), "different"),
        (ALIKE.format("eno1", "eno2", "--x=1", ""), ALIKE.format("eno1", "eno2", "", "--x=1"), "different"),
        (ALIKE.format("eno1", "eno2", "--x=1", ""), ALIKE.format("eno2", "eno1", "", "--x=1"), "not told"),
        # one line may undo another, and of several that stand for each other one counts
        ("clearpart --all\nclearpart --none\n", "clearpart --none\nclearpart --all\n", "different"),
        ("timezone UTC\ntimezone A/B\n", "timezone A/B\ntimezone UTC\n", "different"),
        ("services --enabled=a\nservices --disabled=b\n", "services --enabled=a --disabled=b\n", "different"),
        ("text\ngraphical\n", "graphical\ntext\n", "not told"),
        ("reboot\npoweroff\n", "poweroff\nreboot\n", "not told"),
        (REPOS.format("--cost=5", ""), REPOS.format("", "--cost=5"), "different"),
        (REPOS.format("--cost=5", ""), REPOS.format("--cost=5", ""), "same answers"),
        ("timezone Europe/Lisbon --utc\n", "timezone --isUtc Europe/Lisbon\n", "same in effect"),
        ("timezone Europe/Lisbon --utc\n", "timezone Europe/Lisbon\n", "different"),
        ("part / --size=9000\n", "partition / --size=9000\n", "same in effect"),
        ("%packages\na\nb\n%end\n", "%packages\nb\na\n%end\n", "same in effect"),
        ("%post\na\n%end\n%post\nb\n%end\n", "%post\nb\n%end\n%post\na\n%end\n", "different"),
        ("network --bootproto=dhcp\nnetwork --hostname=a\n", "network --hostname=a\nnetwork --bootproto=dhcp\n",
         "same answers"),
    ],
)  # fmt: skip
def test_the_verdict(one, other, expected):
    assert verdict(one, other) == verdict(other, one) == expected


def test_what_a_verdict_rests_on_is_named():
    found = compare(
        settled_file(HEAD + "timezone UTC --utc\n", Path("a.ks")),
        settled_file(HEAD + "timezone UTC --isUtc\n", Path("b.ks")),
    )
    assert found.equivalences == ("the section locale says the same",)


def test_secrets_that_are_not_to_be_had_leave_it_untold(monkeypatch):
    for name in ("ONE_PW", "OTHER_PW"):
        monkeypatch.delenv(name, raising=False)
    text = '[account]\nlocal = [{{ name = "keeper", password = {{ env = "{}" }} }}]\n'
    one, other = (settled(draft(text.format(name))) for name in ("ONE_PW", "OTHER_PW"))
    found = compare(one, other)
    assert (found.verdict, found.same, found.differences) == ("not told", False, ())
    assert [one.setting.rsplit("/", 1)[-1] for one in found.unknown] == ["Value"]


def test_of_two_installers_what_one_alone_has_words_for_is_named():
    one = settled(draft("[locale]\ntime_zone = 'Europe/London'\n"))
    found = compare(one, settled_file(HEAD + "timezone Europe/London\nlogging --level=info\n", Path("b.ks")))
    assert (found.verdict, found.not_understood) == ("not told", ("b.ks: logging",))


def mutated(text: str, choices: list[int]) -> str:
    """A file with some of its places changed: values, spellings, order; each by a number."""
    for number in choices:
        kind, at = number % 5, number // 5
        form = r">([^<>\n]+)</|((?!))|((?!))" if text.startswith("<") else r"((?!))|=(\S+)|^(\w+)$"
        leaves = list(re.finditer(form, text, re.MULTILINE))
        lines = text.splitlines(keepends=True)
        if kind == 0 and leaves:
            match = leaves[at % len(leaves)]
            group = next(one for one in (1, 2, 3) if match[one] is not None)
            text = text[: match.start(group)] + match[group].swapcase() + text[match.end(group) :]
        elif kind == 1 and leaves:
            match = leaves[at % len(leaves)]
            group = next(one for one in (1, 2, 3) if match[one] is not None)
            text = text[: match.end(group)] + "7" + text[match.end(group) :]
        elif kind == 2 and not text.startswith("<"):
            place = at % max(len(lines) - 1, 1)
            lines[place], lines[place + 1 : place + 2] = (lines[place + 1 : place + 2] or [""])[0], [lines[place]]
            text = "".join(lines)
        elif kind == 3 and not text.startswith("<"):
            place = at % len(lines)
            text = "".join([*lines[:place], *lines[place + 1 :]])
        elif kind == 4:
            text = text.replace("false", "0", 1) if at % 2 else text.replace("partition ", "part ")
    return text


CHOICES = st.lists(st.integers(0, 400), max_size=3)


@example(name="server.xml", one=[345], other=[], third=[49])  # a spelling that keeps a section from being understood
@given(name=st.sampled_from(sorted(TEXTS)), one=CHOICES, other=CHOICES, third=CHOICES)
@examples(60)
def test_sameness_is_reflexive_symmetric_and_transitive(name, one, other, third):
    path = Path(name)
    texts = [mutated(TEXTS[name], choices) for choices in (one, other, third)]
    sides = [settled_file(text, path) for text in texts]
    copies = [settled_file(text, path) for text in texts]
    assert compare(sides[0], copies[0]).verdict == "same answers"
    found = {(a, b): compare(sides[a], sides[b]) for a in range(3) for b in range(3) if a != b}
    for a, b in ((0, 1), (0, 2), (1, 2)):
        assert found[a, b].verdict == found[b, a].verdict
        if found[a, b].verdict == "same answers":
            assert answers_of(texts[a].encode()) == answers_of(texts[b].encode())
    if found[0, 1].same and found[1, 2].same:
        assert found[0, 2].same


def rows(one: str, other: str):
    found = compare(settled_file(HEAD + one, Path("a.ks")), settled_file(HEAD + other, Path("b.ks")))
    return [(row.component, row.setting, row.a, row.b) for row in found.differences], found.equivalences


@pytest.mark.parametrize(
    ("one", "other", "differences", "equivalences"),
    [
        # uses that nothing names are counted from one
        (
            "network --bootproto=dhcp\nnetwork --bootproto=dhcp --nodns\n",
            "network --bootproto=dhcp\nnetwork --bootproto=dhcp --x=1\n",
            [("network[#2]", "--nodns", "true", None), ("network[#2]", "--x", None, "1")],
            (),
        ),
        # what holds anyway may be said or not
        ("bootloader --location=mbr\n", "bootloader --timeout=5 --location=mbr\n", [("bootloader", "--timeout", None, "5")], ()),
        # a value twice is not the value once
        ("%packages\na\na\n%end\n", "%packages\na\n%end\n", [("%packages", "package", "a", None)], ()),
        ("%packages\na\nb\n%end\n", "%packages\na\nc\n%end\n",
         [("%packages", "package", None, "c"), ("%packages", "package", "b", None)], ()),
        ("firewall --enabled\nbootloader --timeout=05\n", "firewall --enabled\nbootloader --timeout=5\n", [],
         ("another spelling of a value: bootloader/--timeout",)),
    ],
)  # fmt: skip
def test_each_difference_has_its_place_and_each_equivalence_its_name(one, other, differences, equivalences):
    assert rows(one, other) == (differences, equivalences)
    turned = [(place, setting, b, a) for place, setting, a, b in differences]
    assert sorted(rows(other, one)[0], key=str) == sorted(turned, key=str)
