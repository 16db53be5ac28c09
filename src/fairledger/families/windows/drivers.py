"""Drivers in the words of Windows setup."""

from __future__ import annotations

from typing import Any

from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.windows.fields import secret_of, truth_of
from fairledger.intent.drivers import Drivers

_SEATS = {
    "setup": ("windowsPE", "Microsoft-Windows-PnpCustomizationsWinPE"),
    "image": ("offlineServicing", "Microsoft-Windows-PnpCustomizationsNonWinPE"),
}
_LIST = "DriverPaths/PathAndCredentials"
_CREDENTIALS = (("account", "Username"), ("domain", "Domain"), ("password", "Password"))
_KEEP = ("generalize", "Microsoft-Windows-PnpSysprep", "PersistAllDeviceInstalls")


def canonical(value: Drivers, words: Words) -> Drivers | None:  # noqa: ARG001
    """Credentials only where there are folders."""
    folders = value.setup or value.image
    kept = {name: getattr(value, name) for name in value.__struct_fields__ if folders or name == "keep"}
    made = Drivers(**kept)
    return made if made != Drivers() else None


def translate(value: Drivers, words: Words) -> None:
    """A numbered folder for every path, with the account that may read it."""
    for field, (pass_, component) in _SEATS.items():
        for at, folder in enumerate(getattr(value, field)):
            origin = words.origin("drivers", field, at)
            item = words.out.block(pass_, component, origin).add(_LIST, origin)
            item.put("@keyValue", str(at + 1), origin)
            item.put("Path", folder, origin)
            for name, setting in _CREDENTIALS:
                said = getattr(value, name)
                if said is not None:
                    item.put(f"Credentials/{setting}", said, words.origin("drivers", name))
    if value.keep is not None:
        origin = words.origin("drivers", "keep")
        words.out.block(_KEEP[0], _KEEP[1], origin).put(_KEEP[2], str(value.keep).lower(), origin)


def recognise(reader: Reader) -> Drivers | None:
    """Folders, if all of them are read by the same account."""
    rows = [(field, item) for field, seat in _SEATS.items() for item in reader.find(*seat, _LIST) if item.child("Path")]
    fields: dict[str, Any] = {}
    accounts = []
    for field, item in rows:
        group = item.child("Credentials")
        said = {name: group.child(setting) for name, setting in _CREDENTIALS} if group else {}
        accounts.append(
            {
                "account": text_of(said.get("account")),
                "domain": text_of(said.get("domain")),
                "password": secret_of(said.get("password")),
            }
        )
        path = text_of(item.child("Path"))
        fields[field] = (*fields.get(field, ()), path)
    if any(one != accounts[0] for one in accounts) or any(None in fields.get(field, ()) for field in _SEATS):
        fields = {}
    elif rows:
        fields.update(accounts[0])
        for field, item in rows:
            reader.take(item, "drivers", field, whole=True)
    keep = reader.first(*_KEEP)
    if truth_of(keep) is not None:
        fields["keep"] = truth_of(keep)
        reader.take(keep, "drivers", "keep")
    made = Drivers(**fields)
    return made if made != Drivers() else None
