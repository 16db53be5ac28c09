"""Catalog files: what is written once unfolds, what others add is taken in, what is wrong has a place."""

from __future__ import annotations

import pytest
from hypothesis import HealthCheck, given
from hypothesis import strategies as st

from factories import DESK, examples
from fairledger.catalog.authored import read_component
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.differ import differences
from fairledger.catalog.lists import LISTS, look_up
from fairledger.catalog.meant import target_named
from fairledger.catalog.own import beside, own_catalog
from fairledger.model.errors import CatalogError, FileTroubleError

GAUGE = """
name = "Larkmoor-Wind-Gauge"
passes = ["specialize", "oobeSystem"]
about = "Wind gauges."
[settings]
"Mast" = { kind = "group", passes = ["specialize"], since = ["windows-8.1"], sure = false }
"Mast/Reader" = { like = "reader", about = "Who reads it." }
[[each]]
rows = [{ at = "Top", where = "the top" }, { at = "Foot", where = "the foot" }]
[each.settings]
"Mast/<at>" = { kind = "integer", about = "Height of <where>." }
"""
SHAPES = '[reader]\n"." = { kind = "group" }\n"Name" = { kind = "text", about = "The name." }\n'


@pytest.fixture
def folder(tmp_path):
    part = tmp_path / "catalog" / "windows"
    part.mkdir(parents=True)
    (part / "shapes.toml").write_text(SHAPES)
    (part / "gauge.toml").write_text(GAUGE)
    return part


def test_shapes_rows_and_groups_unfold(folder):
    gauge = read_component(folder / "gauge.toml")
    assert [one.path for one in gauge.settings] == ["Mast", "Mast/Reader", "Mast/Reader/Name", "Mast/Top", "Mast/Foot"]
    foot, name = gauge.setting("Mast/Foot"), gauge.setting("Mast/Reader/Name")
    assert foot.about == "Height of the foot."
    for one in (foot, name):
        assert (one.passes, one.since, one.sure) == (("specialize",), ("windows-8.1",), False)


def test_what_stands_beside_a_draft_is_taken_in(folder):
    (folder / "shell.toml").write_text(
        'name = "Microsoft-Windows-Shell-Setup"\npasses = ["specialize"]\n'
        '[settings]\n"Barometer" = { kind = "text", about = "Ours." }\n'
    )
    own = beside(folder.parents[1])
    catalog = Catalog("windows", target_named(DESK), own)
    assert catalog.named("Wind-Gauge").name in catalog.names()
    shell = catalog.component("Microsoft-Windows-Shell-Setup")
    assert {"Barometer", "ComputerName"} <= {one.path for one in shell.settings}
    assert shell.setting("TimeZone").kind == "time-zone"
    assert catalog.with_tail("Barometer")
    assert not catalog.with_tail("Mast/Windlass")
    assert Catalog("windows", target_named("windows-7"), own).setting("Larkmoor-Wind-Gauge", "Mast/Top") is None
    assert Catalog("windows", target_named(DESK)).component("Larkmoor-Wind-Gauge") is None
    assert beside(folder).families == {}
    with pytest.raises(FileTroubleError, match="no such folder"):
        own_catalog(folder / "nowhere")


@pytest.mark.parametrize(
    ("name", "text", "told"),
    [
        (
            "gauge.toml",
            GAUGE.replace("specialize", "specialise"),
            "gauge.toml:3: there is no pass 'specialise'; did you",
        ),
        ("gauge.toml", GAUGE.replace("8.1", "8.2"), "gauge.toml:6: there is no target 'windows-8.2'"),
        (
            "gauge.toml",
            GAUGE.replace('like = "reader"', 'like = "raeder"'),
            "gauge.toml:7: Mast/Reader: there is no shape",
        ),
        ("gauge.toml", GAUGE.replace("<at>", "Top"), "Mast/Top stands there twice"),
        (
            "gauge.toml",
            GAUGE.replace('kind = "group"', 'kind = "text"'),
            "gauge.toml:7: Larkmoor-Wind-Gauge/Mast/Reader",
        ),
        ("gauge.toml", GAUGE + "[each]\n", "not a catalog file"),
        (
            "gauge.toml",
            "name = 'x'\npasses = ['specialize']\nsettings = 3\n",
            "gauge.toml:3: settings must hold a table",
        ),
        ("shapes.toml", "reader = 3\n", "shapes.toml:1: reader must hold a table"),
        ("other.toml", GAUGE, "Larkmoor-Wind-Gauge stands in two files; join them"),
    ],
)
def test_a_wrong_file_is_refused_with_its_place(folder, name, text, told):
    (folder / name).write_text(text)
    with pytest.raises(CatalogError) as caught:
        own_catalog(folder.parent)
    assert told in caught.value.sentence()


@pytest.mark.parametrize(
    ("stray", "told"), [("gauge.toml", "outside of a family's folder"), ("windoze/x.toml", "windows")]
)
def test_a_file_in_a_wrong_folder_is_refused(folder, stray, told):
    path = folder.parent / stray
    path.parent.mkdir(exist_ok=True)
    path.write_text(GAUGE)
    with pytest.raises(CatalogError) as caught:
        own_catalog(folder.parent)
    assert told in caught.value.sentence()


def test_releases_differ_by_what_the_ranges_say():
    found = {(one.component, one.setting): one for one in differences(target_named("windows-7"), target_named(DESK))}
    shell = "Microsoft-Windows-Shell-Setup"
    assert found["Microsoft-Windows-Setup", "ImageInstall/OSImage/Compact"].what == "came"
    assert found[shell, "ShowWindowsLive"].what == "went"
    assert found[shell, "OOBE/NetworkLocation"].what == "changed"
    assert found[shell, "OOBE/NetworkLocation"].told.startswith("out of date")
    assert (shell, "TimeZone") not in found
    assert differences(target_named(DESK), target_named(DESK)) == ()
    back = {
        (one.component, one.setting): one.what for one in differences(target_named(DESK), target_named("windows-7"))
    }
    assert back["Microsoft-Windows-Setup", "ImageInstall/OSImage/Compact"] == "went"


@pytest.mark.parametrize(
    ("kind", "words", "windows", "linux"),
    [
        ("time-zone", "lisbon", "GMT Standard Time", "Europe/Lisbon"),
        ("time-zone", "azores", "Azores Standard Time", "Atlantic/Azores"),
        ("keyboard", "swiss french", "100c:0000100c", "ch(fr)"),
        ("language", "portug braz", "pt-BR", "pt_BR.UTF-8"),
        ("region", "germny", "94", ""),
        ("region", "reunion", "198", ""),
        ("firewall-group", "remote desktop", "@FirewallAPI.dll,-28752", ""),
        ("feature", "net framework 3.5", "NetFx3ServerFeatures", ""),
    ],
)
def test_values_are_found_by_what_people_call_them(kind, words, windows, linux):
    best = look_up(kind, words)[0]
    assert (best.windows, best.linux) == (windows, linux)


MANY = ("time-zone", "language", "keyboard", "region")


def test_every_value_has_a_name():
    for kind, rows in LISTS.items():
        listed = list(rows())
        assert len({row.windows for row in listed}) == len(listed) >= (100 if kind in MANY else 4), kind
        assert all(row.name for row in listed)
    assert look_up("region", "xyzzyq") == ()
    assert [row.linux for row in look_up("keyboard", "qwertz")][:3] == ["de", "ch", "ch(fr)"]
    for words in ("gmt+1", "UTC+01:00", "+1"):
        zones = look_up("time-zone", words)
        assert {row.name for row in zones} == {"UTC+01:00"}
        assert zones[0].linux == "Europe/Berlin"
    assert [row.name for row in look_up("time-zone", "-3:30")] == ["UTC-03:30"]
    assert look_up("time-zone", "swiss")[0].linux == "Europe/Zurich"
    assert [row.windows for row in look_up("language", "swiss")][:3] == ["de-CH", "it-CH", "fr-CH"]
    assert look_up("language", "english")[0].windows == "en-US"
    assert [row.words for row in look_up("region", "swiss")] == ["CH"]
    assert dict.fromkeys(row.name for row in look_up("time-zone", "kathmandu")) == {"UTC+05:45": None}


PIECES = """
name = 'x'
passes = ['specialize']
passes = 3
[settings]
[[each]]
[each.settings]
rows = [1, {}]
rows = 3
'A' = { kind = 'text' }
'A/B' = { like = 'reader' }
'A/G' = { like = ['reader'] }
'C' = 1
'D' = { kind = 'choice', choices = 7 }
'E' = { kind = 'list', key = 'F' }
settings = []
lines = ['client']
about = 'é'
"""
TOML_PIECES = st.sampled_from(PIECES.strip().splitlines())


@examples(150, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(pieces=st.lists(TOML_PIECES, max_size=7), shapes=st.sampled_from([SHAPES, "", "[a]\nb = 1\n", "reader = []\n"]))
def test_any_catalog_file_is_read_or_refused_with_its_name(folder, pieces, shapes):
    (folder / "shapes.toml").write_text(shapes)
    (folder / "gauge.toml").write_text("\n".join(pieces), encoding="utf-8")
    try:
        own = own_catalog(folder.parent)
    except CatalogError as error:
        assert ".toml" in error.sentence()
    else:
        Catalog("windows", target_named(DESK), own).components()


@given(kind=st.sampled_from(sorted(LISTS)), words=st.text(max_size=20))
@examples(60)
def test_any_words_can_be_looked_up(kind, words):
    assert isinstance(look_up(kind, words), tuple)
