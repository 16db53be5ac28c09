from __future__ import annotations

import build_index
import pytest

from fairledger.catalog import values
from fairledger.catalog.authored import component_files, read_component
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.index import DATA, INDEX, build
from fairledger.catalog.meant import target_named
from fairledger.catalog.passes import pass_names
from fairledger.catalog.spoken import spoken_by
from fairledger.catalog.targets import all_targets, covers
from fairledger.model.errors import CatalogError, WrongUseError
from fairledger.model.kinds import KINDS, SECRET_KINDS, complaint

FAMILIES = sorted({target.family for target in all_targets()})
FILES = [path for family in FAMILIES for path in component_files(DATA / family)]


@pytest.mark.parametrize("family", FAMILIES)
def test_the_packaged_index_is_current(family):
    names, bodies = build(family)
    assert (INDEX / f"{family}.names.json").read_bytes() == names, "run tools/build_index.py"
    assert (INDEX / f"{family}.bodies.json").read_bytes() == bodies, "run tools/build_index.py"


@pytest.mark.parametrize("table", build_index.TABLES, ids=lambda table: table.__name__)
def test_the_packaged_tables_are_current(table):
    assert table.INDEX.read_bytes() == table.build(), "run tools/build_index.py"


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.stem)
def test_every_setting_makes_sense(path):
    component = read_component(path)
    known = pass_names(path.parent.name)
    ids = {target.id for target in all_targets()}
    assert set(component.passes) <= set(known)
    assert component.about
    for setting in component.settings:
        where = f"{component.name}/{setting.path}"
        assert set(setting.passes) <= set(component.passes), where
        assert setting.about or setting.kind == "group", f"{where} is not described"
        assert {*setting.since, *setting.until, *setting.deprecated} <= ids, where
        for value, _ in setting.choices:
            assert not complaint(setting.kind, value, setting), f"{where}: {value}"
        if setting.example and setting.kind not in SECRET_KINDS:
            assert not complaint(setting.kind, setting.example, setting), f"{where}: its own example"
        parent = component.setting(setting.parent) if setting.parent else None
        assert parent is None or parent.kind in ("group", "list"), f"{where} stands in a value"
        assert parent is None or {*component.passes_of(setting)} <= {*component.passes_of(parent)}, where


def test_a_catalog_reads_only_what_is_asked_for(monkeypatch):
    from fairledger.catalog import catalog as module

    read = []
    real = module.component_of
    monkeypatch.setattr(module, "component_of", lambda family, name: read.append(name) or real(family, name))
    fresh = Catalog("windows", target_named("windows-11-24h2"))
    assert fresh.setting("Microsoft-Windows-Security-SPP-UX", "SkipAutoActivation")
    assert read == ["Microsoft-Windows-Security-SPP-UX"]


def test_tails_find_settings(desk_catalog):
    assert desk_catalog.with_tail("TimeZone") == (("Microsoft-Windows-Shell-Setup", "TimeZone"),)
    assert len(desk_catalog.with_tail("UILanguage")) == 3
    assert desk_catalog.with_tail("Zone") == ()


def test_ranges_count_along_a_line():
    target = target_named("windows-11-24h2")
    assert covers(target, ("windows-11-24h2",), ())
    assert covers(target, ("el-99",), ("esx-1",)), "other lines do not limit it"
    with pytest.raises(WrongUseError, match="no target 'windows-11-24h3'") as caught:
        target_named("windows-11-24h3")
    assert "windows-11-24h2" in caught.value.remedy


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("name = 1", "Expected `str`"),
        ("nme = 'x'\npasses = []", "unknown key nme; did you mean name"),
        ("name = 'x'\npasses = ['specialize']\n[settings]\na = { kind = 'choise' }", "did you mean choice"),
        ("name = 'x'\npasses = ['specialize']\n[settings]\na = { kind = 'text', pases = [] }", "did you mean passes"),
        ("name = 'x'\npasses = ['specialize']\n[settings]\na = { kind = 'text', passes = ['y'] }", "never stands in y"),
        ("name = 'x'\npasses = ['specialize']\n[settings]\na = { kind = 'choice' }", "needs choices"),
        ("name = 'x'\npasses = ['specialize']\n[settings]\na = { kind = 'list', key = 'b' }", "key b is no setting"),
        ("name = 'x'\npasses = ['specialize']\n[settings]\na = { kind = 'text', pattern = '(' }", "pattern"),
        ("name =", "not a catalog file"),
    ],
)
def test_a_broken_catalog_file_is_refused_with_its_place(tmp_path, text, told):
    path = tmp_path / "station.toml"
    path.write_text(text)
    with pytest.raises(CatalogError) as caught:
        read_component(path)
    assert told in caught.value.sentence()
    assert "station.toml" in caught.value.sentence()


def test_value_lists_fit_together():
    found = values.values()
    for tag, row in found.languages.items():
        assert KINDS["locale"].accepts(tag)
        assert not row.keyboard or row.keyboard in found.keyboards, tag
        assert values.language_of(row.number) == tag
    for name, row in found.keyboards.items():
        assert row.language in found.languages, name
        assert values.keyboard_of(row.layout) == name
    for target in all_targets():
        assert all(values.known_language(tag) for tag in spoken_by(target))
    assert set(found.zones_since) <= set(values.windows_zones())
    assert values.windows_zone("Europe/Lisbon") == "GMT Standard Time"
    assert values.language_number("EN-gb") == "0809"
    assert values.known_language("en-NL")
    assert not values.known_language("en-UK")
