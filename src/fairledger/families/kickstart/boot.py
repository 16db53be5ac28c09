"""The boot loader in the words of kickstart."""

from __future__ import annotations

from msgspec.structs import replace

from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.fields import on, secret_of
from fairledger.families.kickstart.lines import has
from fairledger.families.table import Row, TableSection
from fairledger.intent.boot import Boot

_LOADER = "bootloader"
_HASHED = "--iscrypted"
_PLACES = (("disk", "mbr"), ("partition", "partition"), ("nowhere", "none"))
_ROWS = TableSection(
    Boot,
    "boot",
    (
        Row("parameters", "setup", _LOADER, "--append"),
        Row("drive", "setup", _LOADER, "--boot-drive"),
        Row("location", "setup", _LOADER, "--location", "choice", _PLACES),
        Row("seconds", "setup", _LOADER, "--timeout", "number"),
        Row("keep_order", "setup", _LOADER, "--leavebootorder", "flag"),
    ),
)


def canonical(value: Boot, words: Words) -> Boot | None:
    """The options that the release's command has; a password where it takes a hash."""
    made: Boot = _ROWS.canonical(value, words) or Boot()
    made = replace(made, password=value.password) if has(words, _LOADER, _HASHED) else made
    return made if made != Boot() else None


def translate(value: Boot, words: Words) -> None:
    """One command; its password is written as a hash."""
    _ROWS.translate(replace(value, password=None), words)
    if value.password is None:
        return
    origin = words.origin("boot", "password")
    if not has(words, _LOADER, _HASHED):
        words.leave_out(("boot",), value, ("password",), "its installer takes no hash of it")
        return
    line = words.out.block("setup", _LOADER, origin)
    line.put(_HASHED, "true", origin)
    line.put("--password", value.password, origin)


def recognise(reader: Reader) -> Boot | None:
    """The first command of the kind."""
    made: Boot = _ROWS.recognise(reader) or Boot()
    for root in reader.find("setup", _LOADER, ""):
        secret = secret_of(root, "--password") if on(root, _HASHED) else None
        if secret is not None:
            made = replace(made, password=secret)
            reader.take(root.child("--password"), "boot", "password")
            reader.take(root.child(_HASHED))
        break
    return made if made != Boot() else None
