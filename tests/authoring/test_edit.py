from __future__ import annotations

import pytest

from factories import DESK, draft, resolved, whole
from fairledger.authoring.edit import AnswerChange, answer_value, changed, field_change
from fairledger.authoring.portable import portable_steps
from fairledger.catalog.address import locate, split_assignment
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.meant import target_named
from fairledger.catalog.passes import pass_names
from fairledger.catalog.seats import Seats
from fairledger.model.errors import WrongUseError

TARGET = target_named(DESK)
CATALOG = Catalog(TARGET.family, TARGET)


def spot(address: str, fragment: str = ""):
    seats = Seats(draft(fragment).sheet, CATALOG)
    return locate(address, CATALOG, seats, pass_names(TARGET.family))


def edited(text: str, *assignments: str) -> str:
    changes = []
    for one in assignments:
        address, value = split_assignment(one)
        found = spot(address)
        changes.append(AnswerChange(found, answer_value(found, value)))
    return changed(text, changes, "desk.toml")


@pytest.mark.parametrize(
    ("address", "text"),
    [
        ("TimeZone", "specialize:Microsoft-Windows-Shell-Setup/TimeZone"),
        ("oobeSystem:TimeZone", "oobeSystem:Microsoft-Windows-Shell-Setup/TimeZone"),
        ("OOBE/HideEULAPage", "oobeSystem:Microsoft-Windows-Shell-Setup/OOBE/HideEULAPage"),
        (
            "LocalAccount[observer]/Group",
            "oobeSystem:Microsoft-Windows-Shell-Setup/UserAccounts/LocalAccounts/LocalAccount[observer]/Group",
        ),
        ("Disk[0]/CreatePartition[#2]/Size", None),
        (
            "Disk[0]/CreatePartitions/CreatePartition[+]/Size",
            "windowsPE:Microsoft-Windows-Setup/DiskConfiguration/Disk[0]/CreatePartitions/CreatePartition[+]/Size",
        ),
        (
            "OSImage/InstallFrom/MetaData[/IMAGE/NAME]/Value",
            "windowsPE:Microsoft-Windows-Setup/ImageInstall/OSImage/InstallFrom/MetaData[/IMAGE/NAME]/Value",
        ),
        (
            "Microsoft-Windows-International-Core-WinPE/UILanguage",
            "windowsPE:Microsoft-Windows-International-Core-WinPE/UILanguage",
        ),
    ],
)
def test_any_clear_tail_is_enough(address, text):
    if text is None:
        with pytest.raises(WrongUseError):
            spot(address)
    else:
        assert spot(address).text == text


@pytest.mark.parametrize(
    ("address", "told"),
    [
        ("UILanguage", "can mean 3 settings"),
        ("windowsPE:TimeZone", "does not count in the pass windowsPE"),
        ("specialise:TimeZone", "did you mean specialize"),
        ("TimeZon", "did you mean TimeZone"),
        ("OOBE/HideEulaPage", "did you mean HideEULAPage"),
        ("Microsoft-Windows-Shell-Setup/HideEULAPag", "did you mean HideEULAPage"),
        ("Microsoft-Windows-Shel-Setup/TimeZone", "did you mean Microsoft-Windows-Shell-Setup"),
        ("LocalAccount/Group", "is a list; which item"),
        ("OOBE[1]/HideEULAPage", "is no list"),
        ("OOBE//HideEULAPage", "is no address"),
        ("OOBE/HideEULAPage[", "is no address"),
    ],
)
def test_unclear_addresses_are_refused_with_what_would_do(address, told):
    with pytest.raises(WrongUseError) as caught:
        spot(address)
    assert told in caught.value.sentence() + " ".join(caught.value.candidates)


def test_candidates_say_where_each_is():
    with pytest.raises(WrongUseError) as caught:
        spot("UILanguage")
    assert "windowsPE:Microsoft-Windows-International-Core-WinPE/SetupUILanguage/UILanguage" in caught.value.candidates


def test_a_single_item_needs_no_name():
    fragment = '[account]\nlocal = [{ name = "observer" }]\n'
    assert spot("LocalAccount/Group", fragment).text.endswith("LocalAccount[observer]/Group")


def test_comments_and_order_stay():
    text = whole('# why\n[image]  # which\nedition = "Pro"\n')
    result = edited(text, "TimeZone=UTC", "OOBE/HideEULAPage=true")
    assert result.startswith(text)
    assert result[len(text) :] == (
        '\n[answers.specialize.Microsoft-Windows-Shell-Setup]\nTimeZone = "UTC"\n'
        "\n[answers.oobeSystem.Microsoft-Windows-Shell-Setup.OOBE]\nHideEULAPage = true\n"
    )
    assert edited(result, "TimeZone=UTC") == result


def test_one_label_in_one_call_is_one_item():
    text = whole("")
    result = edited(
        text,
        "specialize:RunSynchronousCommand[+note]/Path=cmd /c echo a",
        "specialize:RunSynchronousCommand[+note]/Description=a",
        "specialize:RunSynchronousCommand[+]/Path=cmd /c echo b",
    )
    assert result.count("[[answers.specialize.Microsoft-Windows-Deployment.RunSynchronous.RunSynchronousCommand]]") == 2
    again = edited(result, "LocalAccount[observer]/Group=Users", "LocalAccount[observer]/DisplayName=O")
    assert again.count('Name = "observer"') == 1


@pytest.mark.parametrize(
    ("assignment", "told"),
    [
        ("OOBE/HideEULAPage=yes", "allowed are true, false"),
        ("OOBE/ProtectYourPC=4", "allowed are 1, 2, 3"),
        ("OOBE=true", "takes no value of its own"),
        ("LogonCount=0", "1 or more"),
        ("RegisteredOwner=" + "x" * 300, "at most 256"),
    ],
)
def test_values_that_cannot_be_are_refused(assignment, told):
    with pytest.raises(WrongUseError) as caught:
        edited(whole(""), assignment)
    assert told in caught.value.sentence()


def fields(text: str, *assignments: str) -> str:
    changes = []
    for one in assignments:
        address, equals, value = one.partition("=")
        changes.append(field_change(portable_steps(address), value if equals else None))
    return changed(text, changes, "desk.toml")


def test_portable_fields_are_set_and_taken_out():
    result = fields(
        whole(""),
        "locale.time_zone=Europe/Lisbon",
        "locale.keyboards=pt,us",
        "account[observer].groups=Users",
        'account[observer].password={ env = "PW" }',
        "draft.firmware=bios",
    )
    found = resolved(result.partition("format = 1\n")[2])
    assert found.facts.firmware == "bios"
    assert found.intent.sections["locale"].keyboards == ("pt", "us")
    assert str(found.intent.sections["account"].local[0].password) == "(secret: env PW)"
    assert fields(result, "locale.time_zone", "locale.keyboards", "account[observer]").count("locale") == 0


def test_a_disk_field_changes_the_layout_of_a_profile_instead_of_replacing_it():
    result = fields(whole(""), "disk.partition[system].size=80 GiB")
    assert "extend = true" in result
    assert 'role = "system"' in result


@pytest.mark.parametrize(
    ("assignment", "told"),
    [
        ("locale.zone=UTC", "no field 'zone'"),
        ("disk.fate=erase", "cannot be 'erase'"),
        ("account.sign_in.count=often", "whole number"),
        ("account=x", "no field|names no field|no address"),
        ("account.local=x", "names no field"),
    ],
)
def test_portable_fields_that_cannot_be(assignment, told):
    with pytest.raises(WrongUseError, match=told):
        fields(whole(""), assignment)
