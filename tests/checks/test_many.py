"""Many files in one call: what is remembered of one file says nothing wrong of the next."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from factories import check_answers, draft
from fairledger.catalog import common as common_module
from fairledger.catalog.catalog import Catalog, catalog_of
from fairledger.catalog.common import Common
from fairledger.catalog.meant import target_named
from fairledger.catalog.seats import Seats
from fairledger.checks.engine import Report, findings_of
from fairledger.checks.signs import Sign
from fairledger.checks.view import View
from fairledger.families.registry import family_named
from fairledger.families.windows.xml_marks import XmlMarks, starts
from fairledger.model.pattern import pattern
from fairledger.model.sheet import Block, Node, Sheet
from fairledger.subject.opening import Asked, opened
from fairledger.subject.subject import with_sheet

FILES = sorted((Path(__file__).parent / "files").iterdir())
TARGETS = {"desk.xml": "windows-11-24h2", "older.xml": "windows-7", "extended.xml": "windows-10-22h2"}
SHELL = "Microsoft-Windows-Shell-Setup"


def checked(path: Path, text: str | None = None, common: Common | None = None) -> Report:
    data = path.read_bytes() if text is None else text.encode()
    return check_answers(data, path.name, target=TARGETS.get(path.name), common=common)


def test_each_file_alone_and_after_all_others_says_the_same():
    """Values, scripts, shapes and catalogs are remembered; the second round lives on what the first one left."""
    broken = {path: re.sub(r"(?i)\b(lmr|en_?|pw)\b", "TODO", path.read_text(encoding="utf-8")) for path in FILES}
    alone = {}
    for path in FILES:
        alone[path] = (checked(path).findings, checked(path, broken[path]).findings)
    common = Common()
    for path in (*reversed(FILES), *FILES):
        assert (checked(path, None, common).findings, checked(path, broken[path], common).findings) == alone[path]
    assert sum(len(after) > len(before) for before, after in alone.values()) >= 3


NAMES = 'publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS"'
PART = f'<component name="{SHELL}" processorArchitecture="amd64" {NAMES}>{{}}</component>'
GROUPS = '<UserAccounts><LocalAccounts><LocalAccount {}:action="add"><Name>lmr{}</Name></LocalAccount></LocalAccounts>'
ODD = {
    "another prefix": (GROUPS.format("wcm", 1) + "</UserAccounts>", GROUPS.format("x", 1) + "</UserAccounts>"),
    "a comment": ("<!-- <component > --><TimeZone>Mars</TimeZone>", "<!-- <component x> --><TimeZone>Mars</TimeZone>"),
    "literal": ("<TimeZone><![CDATA[<component >]]></TimeZone>", "<TimeZone><![CDATA[<component>]]></TimeZone>"),
    "nested": (PART.format("<TimeZone>Mars</TimeZone>"), PART.format("<TimeZone>Moon</TimeZone>")),
    "twice": (
        "<CopyProfile>no</CopyProfile></component>" + PART.format("<TimeZone>Mars</TimeZone>")[:-12],
        "<CopyProfile>no</CopyProfile>",
    ),
    "stray text": ("Larkmoor<TimeZone>UTC</TimeZone>", "<TimeZone>UTC</TimeZone>Larkmoor"),
    "no name": ('</component><component ="">'.replace(' =""', ""), "<TimeZone>GMT</TimeZone>"),
}


@pytest.mark.parametrize("name", ODD)
@pytest.mark.parametrize("most", [400, 1])
def test_files_that_have_parts_in_common_say_what_they_say_alone(name, most, monkeypatch):
    monkeypatch.setattr(common_module, "_MOST_KEPT", most)
    state = "http://schemas.microsoft.com/WMIConfig/2002/State"
    common = Common()
    for wcm, x in ((state, "urn:x"), ("urn:x", state)):
        root = f'<unattend xmlns="urn:schemas-microsoft-com:unattend" xmlns:wcm="{wcm}" xmlns:x="{x}">'
        for lead in ("", "\n"):
            for body in (*ODD[name], *ODD[name]):
                for pass_ in ("specialize", "windowsPE"):
                    inner = PART.format("<RegisteredOwner> </RegisteredOwner>\n" + body)
                    text = f'{root}{lead}<settings pass="{pass_}">{inner}</settings></unattend>'
                    path = Path(f"{len(common.read)}.xml")
                    assert checked(path, text, common).findings == checked(path, text).findings


def test_alike_files_share_what_is_read_and_each_finding_names_its_file(monkeypatch):
    desk = next(path for path in FILES if path.name == "desk.xml")
    text, common = desk.read_text(encoding="utf-8").replace("<settings", "<!-- <component > --><settings"), Common()
    first, second = (
        checked(Path(f"{name}.xml"), text.replace("<TimeZone>", f"<TimeZone>{name}"), common) for name in "ab"
    )
    shared = [mine is other for mine, other in zip(first.of.sheet.blocks, second.of.sheet.blocks, strict=True)]
    assert shared.count(False) == text.count("<TimeZone>") < shared.count(True)
    assert {one.file for one in first.findings} == {"a.xml"}
    assert {one.file for one in second.findings} == {"b.xml"}
    seats = list(Seats(first.of.sheet, catalog_of("windows", first.target), common))
    monkeypatch.setattr(common_module, "_MOST_KEPT", 1)
    common.make_room()
    assert not common.read
    assert not any(seat.children for seat in seats)


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.name)
def test_a_shared_catalog_says_what_a_new_one_says(path):
    family = family_named("windows" if path.suffix == ".xml" else "kickstart")
    reading = family.read(path.read_bytes(), path.name)
    target = target_named(TARGETS[path.name]) if path.name in TARGETS else (family.guess(reading) or (None, ""))[0]
    subject = opened(path, Asked(target=target.id if target else None))
    assert subject.catalog is catalog_of(family.name, target)
    assert findings_of(subject) == findings_of(replace(subject, catalog=Catalog(family.name, target)))


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.name)
def test_seats_are_found_by_path_and_by_setting_as_by_walking(path):
    family = family_named("windows" if path.suffix == ".xml" else "kickstart")
    sheet = family.read(path.read_bytes(), path.name).sheet
    seats = Seats(sheet, catalog_of(family.name))
    walked = [seat for root in seats.roots for seat in root.walk()]
    assert walked == [
        seat for root in seats.roots for seat in (root, *(one for one in seats if one.block is root.block))
    ]
    for seat in walked:
        here = (seat.block.pass_, seat.block.component)
        same = [one for one in walked if (one.block.pass_, one.block.component) == here and one.path == seat.path]
        assert seats.find(*here, seat.path) == same
    by_setting = [seat for _, row in seats.by_setting for seat in row]
    assert sorted(map(id, (*by_setting, *seats.unknown))) == sorted(id(one) for one in walked if one.parent)
    places = {id(seat): at for at, seat in enumerate(by_setting)}
    for seat in by_setting:
        above = seat.parent
        assert above is None or places.get(id(above), -1) < places[id(seat)], "groups come before what is in them"
    passwords = [seat for seat in by_setting if seat.setting.kind == "password"]
    view = View(opened(path))
    found = [seat.shown for seat in view.where(_is_password)]
    assert found == [seat.shown for seat in passwords] == [seat.shown for seat in view.where(_is_password)]
    seats.let_go()
    assert not any(seat.children for seat in walked)


def _is_password(setting):
    return setting.kind == "password"


def test_the_same_value_is_judged_by_its_own_setting():
    def found(name: str, value: str) -> list[str]:
        sheet = Sheet((Block("specialize", SHELL, "amd64", (Node(name, value),)),))
        return [one.rule for one in findings_of(with_sheet(draft(""), sheet))]

    for _ in range(2):
        assert "value-wrong" in found("CopyProfile", "Larkmoor")
        assert "value-wrong" not in found("RegisteredOwner", "Larkmoor")
        assert "value-wrong" not in found("CopyProfile", "true")


TEXT = st.text(st.sampled_from("ab \n\r"), max_size=6)
INNER = st.recursive(
    TEXT | st.sampled_from(["<!-- <x> \n -->", "<![CDATA[<y>\n]]>", "<?z <z>\n?>", "<e/>", '<f g=">\n"/>']),
    lambda inner: st.lists(inner, max_size=4).map(lambda parts: f"<d\n h='/'>{''.join(parts)}</d >"),
    max_leaves=12,
)


@given(st.sampled_from(["", '<?xml version="1.0"?>\n', "<!-- < -->"]), INNER)
def test_start_tags_are_found_where_they_stand(before, inner):
    text = f"{before}<a>{inner}</a>"
    marks = XmlMarks(text)
    assert list(starts(text)) == [marks.at(element.start) for element in marks.elements]


def test_a_sign_is_searched_once_and_a_pattern_made_when_used():
    sign = Sign(r"^pause$")
    assert sign.found("echo\nPAUSE")[0] == "PAUSE"
    assert sign.found("echo\nPAUSE") is sign.found("echo\nPAUSE")
    assert sign.found("pauses") is None is sign.found("pauses")
    wrong = pattern("(")
    with pytest.raises(Exception, match="missing \\)"):
        wrong.search("x")
    assert pattern("a+").fullmatch("aa").end() == 2
