"""Root, accounts and their keys in the words of kickstart."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from fairledger.catalog.seats import Seat
from fairledger.families.fields import number_of, text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart import sudo
from fairledger.families.kickstart.fields import on, secret_of
from fairledger.families.kickstart.lines import command, has
from fairledger.families.unix.groups import here, portable
from fairledger.intent.account import Account, Administrator, LocalAccount
from fairledger.model.finding import Severity
from fairledger.model.places import Origin
from fairledger.model.sheet import Branch
from fairledger.model.values import SecretRef, Text, join, split

ADMINISTRATORS = "wheel"
"""The group whose members may do all."""

_SSH = "--allow-ssh"
_TEXTS = (("name", "--name"), ("display_name", "--gecos"), ("shell", "--shell"), ("home", "--homedir"))
_NUMBERS = (("id", "--uid"), ("group_id", "--gid"))


def canonical(value: Account, words: Words) -> Account | None:
    """Root always, accounts where the line makes any."""
    local = tuple(_canonical_local(one, words) for one in value.local) if has(words, "user") else ()
    root = value.administrator
    if root is not None:
        locked = root.enabled is False and has(words, "rootpw", "--lock")
        keys = root.ssh_keys if has(words, "sshkey") else ()
        over_ssh = root.ssh_password if has(words, "rootpw", _SSH) and root.password is not None else None
        root = Administrator(
            enabled=False if locked else None, password=root.password, ssh_keys=keys, ssh_password=over_ssh or None
        )
    made = Account(local=local, administrator=root if root != Administrator() else None)
    return made if made != Account() else None


def _canonical_local(one: LocalAccount, words: Words) -> LocalAccount:
    groups = tuple(here(group, ADMINISTRATORS) for group in one.groups)
    named = tuple(portable(group, ADMINISTRATORS) for group in groups if group != "")
    free = one.sudo_without_password and sudo.can(one.name, words)
    kept = replace(one, groups=named, sudo_without_password=free)
    return replace(kept, description=None, password_expires=None, expires=None, change_password=None)


def translate(value: Account, words: Words) -> None:
    """Passwords are written as hashes."""
    if value.administrator is not None:
        _translate_root(value.administrator, words)
    why = "its installer has nothing of the kind"
    words.leave_out(("account",), value, ("sign_in", "policy"), why)
    for at, one in enumerate(value.local):
        if has(words, "user"):
            _translate_local(one, ("account", "local", at), words)
        else:
            told = f"the account {one.name}"
            words.cannot(("account", "local", at), told, why, "make it with a command", Severity.WARNING)


def _translate_root(root: Administrator, words: Words) -> None:
    locked = root.enabled is False and has(words, "rootpw", "--lock")
    if root.enabled is False and not locked:
        path = ("account", "administrator", "enabled")
        words.cannot(
            path, "root without a password", "its installer wants one", "give root a password", Severity.WARNING
        )
    if has(words, "sshkey"):
        _translate_keys("root", root.ssh_keys, ("account", "administrator"), words)
    else:
        words.leave_out(("account", "administrator"), root, ("ssh_keys",), "its installer has nothing of the kind")
    if root.ssh_password and root.password is None:
        why = "root has no password"
        path = ("account", "administrator", "ssh_password")
        words.cannot(path, "signing in over SSH with a password", why, "give it one, or ssh_keys")
    if root.ssh_password is False:
        words.told.append(("account", "administrator", "ssh_password"))  # which is so by itself
    if root.password is None and not locked:
        return
    line = words.out.block("setup", "rootpw", words.origin("account", "administrator"))
    if locked:
        line.put("--lock", "true", words.origin("account", "administrator", "enabled"))
    if root.password is not None:
        _put_password(line, "password", root.password, words.origin("account", "administrator", "password"))
        if root.ssh_password and has(words, "rootpw", _SSH):
            line.put(_SSH, "true", words.origin("account", "administrator", "ssh_password"))


def _translate_local(one: LocalAccount, path: tuple[str | int, ...], words: Words) -> None:
    words.leave_out(
        path,
        one,
        ("description", "password_expires", "expires", "change_password"),
        "the user command has no option for it",
    )
    line = command(words, "user", words.origin(*path))
    for field, setting in _TEXTS:
        if getattr(one, field) is not None:
            line.put(setting, getattr(one, field), words.origin(*path, field))
    groups = tuple(group for one_of in one.groups if (group := here(one_of, ADMINISTRATORS)) != "")
    if groups:
        line.put("--groups", join(groups, ","), words.origin(*path, "groups"))
    for field, setting in _NUMBERS:
        number = getattr(one, field)
        if number is not None:
            line.put(setting, str(number) if isinstance(number, int) else number, words.origin(*path, field))
    if one.password is not None:
        _put_password(line, "--password", one.password, words.origin(*path, "password"))
    if one.locked:
        line.put("--lock", "true", words.origin(*path, "locked"))
    _translate_keys(one.name, one.ssh_keys, path, words)
    if one.sudo_without_password and isinstance(one.name, str) and sudo.can(one.name, words):
        sudo.translate(one.name, words.origin(*path, "sudo_without_password"), words)
    elif one.sudo_without_password:
        why = f"the script that says so takes names of {sudo.NAMES}"
        words.cannot((*path, "sudo_without_password"), "sudo without a password", why, "rename the account")


def _translate_keys(name: Text, keys: tuple[Text, ...], path: tuple[str | int, ...], words: Words) -> None:
    for at, key in enumerate(keys):
        origin = words.origin(*path, "ssh_keys", at)
        opener = command(words, "sshkey", origin)
        opener.put("--username", name, origin)
        opener.put("key", key, origin)


def _put_password(line: Branch, setting: str, secret: SecretRef, origin: Origin) -> None:
    line.put("--iscrypted", "true", origin)
    line.put(setting, secret, origin)


def recognise(reader: Reader) -> Account | None:
    """Root, accounts, and the keys that belong to them."""
    root: dict[str, Any] = {}
    for seat in reader.find("setup", "rootpw", ""):
        secret = secret_of(seat, "password")
        if secret is not None:
            root["password"] = secret
            _take_password(reader, seat, "password", ("account", "administrator", "password"))
        if on(seat, _SSH) and secret is not None:
            root["ssh_password"] = True
            reader.take(seat.child(_SSH), "account", "administrator", "ssh_password")
        if on(seat, "--lock"):
            root["enabled"] = False
            reader.take(seat.child("--lock"), "account", "administrator", "enabled")
    local: list[dict[str, Any]] = []
    for seat in reader.find("setup", "user", ""):
        if text_of(seat.child("--name")):
            local.append(_recognise_local(reader, seat, len(local)))
    named = {one["name"]: at for at, one in reversed([*enumerate(local)])}
    for name in sudo.recognise(reader, named):
        local[named[name]]["sudo_without_password"] = True
    for seat in reader.find("setup", "sshkey", ""):
        _recognise_key(reader, seat, local, named, root)
    made = Account(
        local=tuple(LocalAccount(**one) for one in local), administrator=Administrator(**root) if root else None
    )
    return made if made != Account() else None


def _recognise_local(reader: Reader, root: Seat, at: int) -> dict[str, Any]:
    path = ("account", "local", at)
    reader.places[path] = root
    fields: dict[str, Any] = {}
    reader.take_fields(root, _TEXTS, path, fields, text_of)
    groups = text_of(root.child("--groups"))
    if groups:
        fields["groups"] = tuple(portable(group, ADMINISTRATORS) for group in split(groups, ","))
        reader.take(root.child("--groups"), *path, "groups")
    reader.take_fields(root, _NUMBERS, path, fields, number_of)
    if on(root, "--lock"):
        fields["locked"] = True
        reader.take(root.child("--lock"), *path, "locked")
    secret = secret_of(root, "--password")
    if secret is not None:
        fields["password"] = secret
        _take_password(reader, root, "--password", (*path, "password"))
    return fields


def _recognise_key(
    reader: Reader, root: Seat, local: list[dict[str, Any]], named: dict[Any, int], admin: dict[str, Any]
) -> None:
    name, key = text_of(root.child("--username")), text_of(root.child("key"))
    if name == "root" and key:
        keys = admin.get("ssh_keys", ())
        admin["ssh_keys"] = (*keys, key)
        reader.take(root.child("--username"))
        reader.take(root.child("key"), "account", "administrator", "ssh_keys", len(keys))
        return
    at = named.get(name)
    if at is None or not key:
        return
    keys = local[at].get("ssh_keys", ())
    local[at]["ssh_keys"] = (*keys, key)
    reader.take(root.child("--username"))
    reader.take(root.child("key"), "account", "local", at, "ssh_keys", len(keys))


def _take_password(reader: Reader, root: Seat, setting: str, path: tuple[str | int, ...]) -> None:
    reader.take(root.child(setting), *path)
    for flag in ("--iscrypted", "--plaintext"):
        reader.take(root.child(flag))
