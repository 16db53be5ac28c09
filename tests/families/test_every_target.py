"""One intent in the words of every target: what comes out is sound, and what is lost is said."""

from __future__ import annotations

import msgspec
import pytest

from factories import NOWHERE, check_answers, checked, resolved
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.export import as_json
from fairledger.catalog.meant import target_named
from fairledger.catalog.passes import pass_names
from fairledger.catalog.routes import routes_of
from fairledger.catalog.targets import all_targets
from fairledger.families.registry import family_named
from fairledger.model.facts import Facts
from fairledger.model.kinds import KINDS
from fairledger.model.values import SecretRef
from fairledger.profiles.seed import for_comparing
from fairledger.subject.opening import of_draft

TARGETS = all_targets()

COMMON = """
[locale]
language = "en-GB"
keyboards = ["gb"]
time_zone = "Atlantic/Azores"
[licence]
accept = true
[identity]
name = "lmr-gate-03"
[account.administrator]
password = { env = "ROOT_PW" }
[[account.local]]
name = "keeper"
groups = ["Administrators"]
password = { env = "KEEPER_PW" }
[finish]
action = "restart"
[[network.interface]]
name = "eno1"
method = "static"
address = "192.0.2.30/24"
gateway = "192.0.2.1"
name_servers = ["192.0.2.53"]
"""
BY_FAMILY = {
    "windows": '[image]\nindex = 1\n[disk]\nfate = "wipe"\npartition = [{ role = "firmware", size = "300 MiB" }, '
    '{ role = "system", size = "rest" }]\n',
    "kickstart": '[disk]\nwhich = "first"\nfate = "wipe"\n',
}
LINUX = (
    '[disk]\nwhich = "sda"\nfate = "wipe"\npartition = [{ role = "firmware", size = "600 MiB" }, '
    '{ role = "boot", size = "1 GiB", format = "xfs" }, { role = "system", size = "rest", format = "xfs" }]\n'
)
CLASSIC = (
    '[disk]\nwhich = "first"\nfate = "wipe"\npartition = [{ mount = "store", size = "rest", format = "vmfs3" }]\n'
    '[[volume]]\nname = "console"\nkind = "virtual-disk"\nsize = "8 GiB"\nstore = "store"\n'
    'partition = [{ role = "system", size = "5 GiB", format = "ext3" }]\n'
)
BY_LINE = {"el": LINUX, "fedora": LINUX, "esx": CLASSIC}


def draft_for(target) -> str:
    layout = BY_LINE.get(target.line) or BY_FAMILY[target.family]
    common = COMMON.replace("eno1", "vmnic0") if target.line in ("esx", "esxi") else COMMON
    return f'[draft]\ntarget = "{target.id}"\nfirmware = "uefi"\n{common}{layout}'


@pytest.mark.parametrize("target", TARGETS, ids=lambda target: target.id)
def test_one_intent_is_sound_in_every_target(target):
    found = resolved(draft_for(target))
    report = checked(of_draft(found, NOWHERE))
    errors = [finding for finding in report.findings if finding.severity == "error"]
    assert errors == []
    family = family_named(target.family)

    def reveal(block, way, value):
        return (
            family.conceal(block, way, "Heron-4", form="plain", salt=for_comparing)
            if isinstance(value, SecretRef)
            else value
        )

    data = family.write(of_draft(found, NOWHERE).sheet.map_values(reveal), target)
    again = check_answers(data, "answer", target=target.id, facts=Facts(firmware="uefi"))
    assert [finding for finding in again.findings if finding.severity == "error"] == []
    assert b"Heron-4" not in data
    assert b"lmr-gate-03" in data


@pytest.mark.parametrize("target", TARGETS, ids=lambda target: target.id)
def test_every_target_has_routes_and_says_what_is_typed(target):
    routes = routes_of(target)
    assert {"stick", "plain"} <= {route.name for route in routes}
    for route in routes:
        assert route.file
        assert route.goes


@pytest.mark.parametrize("target", TARGETS, ids=lambda target: target.id)
def test_the_export_has_the_agreed_shape(target):
    value = msgspec.json.decode(msgspec.json.encode(as_json(Catalog(target.family, target))))
    assert value["target"] == target.id
    names = [component["name"] for component in value["components"]]
    assert names == sorted(set(names))
    for component in value["components"]:
        assert set(component) == {"name", "passes", "complete", "settings"}
        assert set(component["passes"]) <= set(pass_names(target.family))
        for setting in component["settings"]:
            assert set(setting) == {
                "path",
                "kind",
                "passes",
                "usual_pass",
                "values",
                "min",
                "max",
                "max_length",
                "key",
                "repeats",
                "required",
                "since",
                "until",
                "deprecated",
                "sure",
                "about",
            }
            assert setting["kind"] in KINDS
            assert setting["usual_pass"] in setting["passes"]
            assert setting["about"] or setting["kind"] == "group"


@pytest.mark.parametrize(
    ("target", "has", "lacks"),
    [
        ("el-7", {"authconfig", "install", "btrfs", "upgrade"}, {"authselect", "timesource", "rhsm", "rdp", "module"}),
        ("el-8", {"authconfig", "install", "authselect", "rhsm", "syspurpose"}, {"btrfs", "timesource", "upgrade"}),
        ("el-9", {"timesource", "authselect", "vnc"}, {"install", "autostep", "rdp"}),
        ("el-10", {"timesource", "rdp"}, {"vnc", "pwpolicy", "authconfig", "%anaconda"}),
        ("fedora-43", {"timesource", "authselect", "mount"}, {"install", "authconfig"}),
        (
            "esxi-8",
            {"vmaccepteula", "install", "%firstboot", "serialnum"},
            {"lang", "volgroup", "%packages", "virtualdisk"},
        ),
        ("esx-4", {"virtualdisk", "esxlocation", "timezone", "%packages"}, {"lang", "%firstboot"}),
    ],
)
def test_what_came_and_went(target, has, lacks):
    found = target_named(target)
    names = set(Catalog(found.family, found).names())
    assert has <= names
    assert not lacks & names
