"""Files that differ in a few values: what is found of them together is what is found of each alone."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from factories import examples
from fairledger.catalog.targets import name_of
from fairledger.checks.likeness import Likeness
from fairledger.cli.many import Hearing, Teller
from fairledger.fleet.checking import Checking
from fairledger.subject.opening import ALONE

TARGETS = {"desk.xml": "windows-11-24h2", "older.xml": "windows-7", "extended.xml": "windows-10-22h2"}
VALUE = re.compile(r"^(\s*<[^<>]+>)([^<>&]+)((?:</[^<>]+>)+\s*)$")
"""A line with a value and nothing behind it but ends."""
VALUES = (
    *(
        "LMR-DESK-07",
        "LMR-DESK-STATION-01",
        "x",
        "keeper",
        "Administrators",
        "true",
        "false",
        "0",
        "1",
        "2",
        "300",
        "9999",
    ),
    *("en-GB", "pt-PT", "xx-XX", "0809:00000809", "GMT Standard Time", "Europe/Lisboa", "EFI", "Primary", "NTFS", "C"),
    *(
        "TODO",
        "$NAME",
        "*",
        "{0}",
        "cmd /c del C:\\larkmoor",
        "net user keeper Kestrel-7 /add",
        "shutdown /r",
        "192.0.2.31/24",
    ),
    *(
        "XXXXX-XXXXX-XXXXX-XXXXX-XXXXX",
        "Windows 11 Pro",
        "Curlew-7-fen",
        "é\u202e",
        "a b",
        "powershell -enc AAAA",
        "Always",
    ),
)


def stamped(path: Path) -> str:
    """A file that says for which release it is."""
    first, _, rest = path.read_text(encoding="utf-8").partition("\n")
    name = name_of(TARGETS.get(path.name, "windows-11-24h2"))
    return f"{first}\n<!-- answers for {name}: a station -->\n{rest}"


FILES = {path.name: stamped(path) for path in sorted((Path(__file__).parent / "files").glob("*.xml"))}
FILES = {name: text for name, text in FILES.items() if any(map(VALUE.match, text.split("\n")))}


def alone(text: str, path: Path):
    return Checking(ALONE, Hearing(), Teller(coloured=False, width=90), several=True)(path, text.encode())


@pytest.mark.parametrize("name", FILES)
@examples(14)
@given(data=st.data())
def test_files_with_other_values_say_together_what_each_says_alone(name, data):
    lines = FILES[name].split("\n")
    spots = [at for at, line in enumerate(lines) if VALUE.match(line)]
    work = Checking(ALONE, Hearing(), Teller(coloured=False, width=90), several=True)
    work(Path("first.xml"), FILES[name].encode())
    for number in range(3):
        changed = list(lines)
        for at in data.draw(st.lists(st.sampled_from(spots), min_size=1, max_size=3, unique=True)):
            value = data.draw(st.sampled_from(VALUES) | st.text("abXY09 .:\\/-_%*'\"", max_size=12))
            changed[at] = VALUE.sub(lambda found, value=value: found[1] + value + found[3], lines[at])
        text, path = "\n".join(changed), Path(f"{number}.xml")
        together = work(path, text.encode())
        by_itself = alone(text, path)
        assert (together.report, together.own) == (by_itself.report, by_itself.own)
        assert together.told == by_itself.told


def series(name: str, change) -> list[bool]:
    """Whether files that change so are taken for ones like the first."""
    work = Checking(ALONE, Hearing(), Teller(coloured=False, width=90), several=True)
    work(Path("first.xml"), FILES[name].encode())
    likeness: Likeness = work.__dict__["likeness"]
    return [likeness.report(Path(f"{at}.xml"), change(FILES[name], at).encode()) is not None for at in range(3)]


def named(text: str, at: int) -> str:
    return re.sub(r"<ComputerName>[^<]*", f"<ComputerName>LMR-DESK-{at}", text)


def test_files_of_one_kind_are_known_and_others_are_not():
    assert series("desk.xml", named) == [True] * 3
    assert series("desk.xml", lambda text, at: named(text, at) + "<!-- -->") == [False] * 3
    assert (
        series("desk.xml", lambda text, at: named(text, at).replace("<ComputerName>", "<ComputerName >")) == [False] * 3
    )
    assert series("desk.xml", lambda text, at: re.sub(r"(<ComputerName>)[^<]*", r"\1&#65;", text)) == [False] * 3
    assert series("desk.xml", lambda text, at: re.sub(r"(<ComputerName>)[^<]*", r"\1 A ", text)) == [False] * 3
    assert series("desk.xml", lambda text, at: named(text, at).replace('"amd64"', '"x86"', 1)) == [False] * 3


def test_a_file_in_another_folder_is_looked_at_by_itself():
    work = Checking(ALONE, Hearing(), Teller(coloured=False, width=90), several=True)
    work(Path("one/first.xml"), FILES["desk.xml"].encode())
    likeness: Likeness = work.__dict__["likeness"]
    text = named(FILES["desk.xml"], 2).encode()
    assert likeness.report(Path("two/a.xml"), text) is None
    assert likeness.report(Path("one/a.xml"), text) is not None
