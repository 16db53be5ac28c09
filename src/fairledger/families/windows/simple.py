"""Sections whose fields match settings one by one."""

from __future__ import annotations

from fairledger.families.table import Row, TableSection
from fairledger.families.windows.names import SHELL
from fairledger.intent.branding import Branding
from fairledger.intent.join import Join
from fairledger.intent.start import Start

_JOIN = "Microsoft-Windows-UnattendedJoin"
_PAGE = (("hide", "true"), ("show", "false"))
_RECOMMENDED = (("all", "1"), ("updates", "2"), ("off", "3"))


def _page(field: str, setting: str) -> Row:
    return Row(field, "oobeSystem", SHELL, f"OOBE/{setting}", "choice", _PAGE, moot="hide")


def _join(field: str, setting: str, how: str = "text") -> Row:
    return Row(field, "specialize", _JOIN, f"Identification/{setting}", how)


def _oem(field: str, setting: str) -> Row:
    return Row(field, "specialize", SHELL, f"OEMInformation/{setting}")


SIMPLE = {
    "join": TableSection(
        Join,
        "join",
        (
            _join("domain", "JoinDomain"),
            _join("workgroup", "JoinWorkgroup"),
            _join("account", "Credentials/Username"),
            _join("account_domain", "Credentials/Domain"),
            _join("password", "Credentials/Password", "secret"),
            _join("unit", "MachineObjectOU"),
        ),
    ),
    "start": TableSection(
        Start,
        "start",
        (
            _page("licence", "HideEULAPage"),
            _page("wireless", "HideWirelessSetupInOOBE"),
            _page("registration", "HideOEMRegistrationScreen"),
            _page("administrator", "HideLocalAccountScreen"),
            Row("recommended", "oobeSystem", SHELL, "OOBE/ProtectYourPC", "choice", _RECOMMENDED),
        ),
    ),
    "branding": TableSection(
        Branding,
        "branding",
        (
            _oem("manufacturer", "Manufacturer"),
            _oem("model", "Model"),
            _oem("logo", "Logo"),
            _oem("support_phone", "SupportPhone"),
            _oem("support_hours", "SupportHours"),
            _oem("support_url", "SupportURL"),
        ),
    ),
}
"""By the section's name; the module of that name hands them on."""
