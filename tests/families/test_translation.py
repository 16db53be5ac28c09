"""Recognising is the inverse of translating, for any section, any intent and every target."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from intents import INTENTS, SECTIONS

from factories import examples
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.seats import Seats
from fairledger.catalog.targets import all_targets
from fairledger.families.build import canonical, recognise, translate
from fairledger.intent.intent import Intent
from fairledger.model.facts import machine

ALIKE = {
    "windows-7",
    "windows-8.1",
    "windows-10-1809",
    "windows-11-24h2",
    "windows-server-2008-r2",
    "windows-server-2025",
}
TARGETS = [target for target in all_targets() if target.family != "windows" or target.id in ALIKE]
"""Of the many releases that are written alike, those at the ends and some between."""
CATALOGS = {target.id: Catalog(target.family, target) for target in TARGETS}
FACTS = st.builds(
    machine,
    arch=st.just("amd64"),
    firmware=st.sampled_from([None, "uefi", "bios"]),
    disk_mib=st.sampled_from([None, 240000]),
)


def there_and_back(intent, target, facts):
    catalog = CATALOGS[target.id]
    sheet, _ = translate(intent, target, facts)
    expected = canonical(intent, target, facts)
    found = recognise(Seats(sheet, catalog), target)
    assert found.intent.sections == expected.sections
    assert found.remainder.blocks == ()
    again, _ = translate(expected, target, facts)
    assert again.bare() == sheet.bare()
    assert canonical(expected, target, facts).sections == expected.sections


@pytest.mark.parametrize("target", TARGETS, ids=lambda target: target.id)
@examples(50)
@given(intent=INTENTS, facts=FACTS)
def test_translating_loses_nothing_but_what_it_says(target, intent, facts):
    there_and_back(intent, target, facts)


@pytest.mark.parametrize("name", SECTIONS)
@pytest.mark.parametrize("target", TARGETS, ids=lambda target: target.id)
@examples(15)
@given(data=st.data(), facts=FACTS)
def test_each_section_comes_back(target, name, data, facts):
    value = data.draw(SECTIONS[name])
    there_and_back(Intent({name: value} if value else {}), target, facts)
