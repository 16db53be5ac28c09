"""Licence terms and key in the words of Windows setup."""

from __future__ import annotations

from typing import Any, Literal

from msgspec.structs import replace

from fairledger.catalog.seats import Seat
from fairledger.catalog.setup_keys import editions_with_key, setup_key
from fairledger.catalog.targets import known_target
from fairledger.families.interface import Reader, Words
from fairledger.families.windows.command_lines import (
    AS_SYSTEM,
    POWERSHELL,
    Form,
    add_command,
    commands_at,
)
from fairledger.families.windows.fields import secret_of, truth_of
from fairledger.families.windows.image import chosen
from fairledger.families.windows.names import SETUP, SHELL
from fairledger.intent.licence import Licence
from fairledger.model.values import SecretRef, Template, Text, form, formed, takes, unformed

_ACCEPT = "UserData/AcceptEula"
_KEY = "UserData/ProductKey"
_SPP_UX = "Microsoft-Windows-Security-SPP-UX"
_SKIPS = {"skip": "true", "auto": "false"}
_SERVER = Form(
    (
        r"$k = 'HKLM:SOFTWARE\Microsoft\Windows NT\CurrentVersion\SoftwareProtectionPlatform'; $h, $p = ",
        ".Split(':'); sp $k KeyManagementServiceName $h; if ($p) {sp $k KeyManagementServicePort $p}",
    )
)
"""The values that the system's own script would set; its service need not run yet."""


_PUBLISHED = "published-key"


def canonical(value: Licence, words: Words) -> Licence | None:
    """As it is; a published key only where there is one."""
    if value.key == "published" and not _published(words)[0]:
        value = replace(value, key=None)
    return value if value != Licence() else None


def translate(value: Licence, words: Words) -> None:
    """Terms and key stand with the user data."""
    if value.accept is not None:
        origin = words.origin("licence", "accept")
        words.out.block("windowsPE", SETUP, origin).put(_ACCEPT, str(value.accept).lower(), origin)
    key, why = _published(words) if value.key == "published" else (value.key, "")
    if why:
        words.field_error(("licence", "key"), why, "write an edition that has one, or a key of your own")
    if key is not None and key != "":
        origin = words.origin("licence", "key")
        block = words.out.block("windowsPE", SETUP, origin)
        block.put(f"{_KEY}/Key", key, origin)
        block.put(f"{_KEY}/WillShowUI", "OnError", origin)
    if value.activation_key is not None:
        origin = words.origin("licence", "activation_key")
        words.out.block("specialize", SHELL, origin).put("ProductKey", value.activation_key, origin)
    if value.activation is not None:
        origin = words.origin("licence", "activation")
        words.out.block("specialize", _SPP_UX, origin).put("SkipAutoActivation", _SKIPS[value.activation], origin)
    if value.activation_server is not None:
        line = _SERVER.line(value.activation_server)
        add_command(words, AS_SYSTEM, line, "Activation server", words.origin("licence", "activation_server"))


def _published(words: Words) -> tuple[Text, str]:
    """The key that is published for the image's edition; without one, why there is none."""
    image = words.intent.sections.get("image")
    edition: Text | None = getattr(image, "edition", None)
    if isinstance(edition, Template):
        return formed(edition, f"{_PUBLISHED} {words.target.id}"), ""
    found = setup_key(words.target, edition) if edition is not None else ""
    unknown = isinstance(edition, str) and words.target.editions and not words.target.edition_of(edition)
    if found or unknown:  # of an edition that there is not, the image tells
        return found, ""
    named = edition or "no edition in [image]"
    told = ", ".join(editions_with_key(words.target))
    return "", f"there is no published key for {named}" + (f", but for {told}" if told else "")


@form(_PUBLISHED)
def _key_for(edition: str, target: str) -> str:
    row = known_target(target)
    return setup_key(row, edition) if row is not None else ""


def _is_published(seat: Seat | None, reader: Reader) -> bool:
    """Whether a key is the one that is published for the image that the file chooses."""
    value = seat.value if seat is not None else None
    edition = chosen(reader)
    if isinstance(value, Template):
        return takes(value, _PUBLISHED) and unformed(value, _PUBLISHED) == edition
    held = isinstance(value, str) and isinstance(edition, str) and reader.target is not None
    return held and bool(value) and value == setup_key(reader.target, str(edition))  # type: ignore[arg-type]


def recognise(reader: Reader) -> Licence | None:
    """Terms and key."""
    accept = reader.first("windowsPE", SETUP, _ACCEPT)
    accepted = {"true": True, "false": False}.get((accept.text or "").strip()) if accept else None
    if accepted is not None:
        reader.take(accept, "licence", "accept")
    seat = reader.first("windowsPE", SETUP, f"{_KEY}/Key")
    key: SecretRef | Literal["published"] | None = secret_of(seat)
    if _is_published(seat, reader):
        key = "published"
    if key is not None:
        reader.take(seat, "licence", "key")
        shown = reader.first("windowsPE", SETUP, f"{_KEY}/WillShowUI")
        if shown is not None and shown.text == "OnError":
            reader.take(shown)
    made = replace(_recognise_activation(reader), accept=accepted, key=key)
    return made if made != Licence() else None


def _recognise_activation(reader: Reader) -> Licence:
    """What activates the installed system."""
    fields: dict[str, Any] = {}
    key = reader.first("specialize", SHELL, "ProductKey")
    if secret_of(key) is not None:
        fields["activation_key"] = secret_of(key)
        reader.take(key, "licence", "activation_key")
    skips = reader.first("specialize", _SPP_UX, "SkipAutoActivation")
    if truth_of(skips) is not None:
        fields["activation"] = "skip" if truth_of(skips) else "auto"
        reader.take(skips, "licence", "activation")
    for item, line in commands_at(reader, AS_SYSTEM, POWERSHELL):
        found = _SERVER.values_in(line)
        if found is not None and "activation_server" not in fields:
            fields["activation_server"] = found[0]
            reader.take(item, "licence", "activation_server", whole=True)
    return Licence(**fields)
