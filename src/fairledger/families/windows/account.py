"""Accounts and automatic sign-in in the words of Windows setup."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from fairledger.catalog.seats import Seat
from fairledger.families.fields import number_of, text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.windows.command_lines import (
    AS_SYSTEM,
    FIRST_SIGN_IN,
    POWERSHELL,
    Form,
    add_command,
    commands_at,
    for_build,
)
from fairledger.families.windows.fields import password_of, truth_of
from fairledger.families.windows.groups import add_member, parted, recognise_members
from fairledger.families.windows.names import SHELL
from fairledger.intent.account import Account, Administrator, LocalAccount, Policy, SignIn
from fairledger.model.finding import Severity
from fairledger.model.places import Origin
from fairledger.model.sheet import Branch
from fairledger.model.values import SecretRef, Template, Text, concat, join, parse_text, split

_LOCAL = "UserAccounts/LocalAccounts/LocalAccount"
_ADMINISTRATOR = "UserAccounts/AdministratorPassword"
_FIELDS = (("name", "Name"), ("display_name", "DisplayName"), ("description", "Description"))
_CMDLETS = 14393
"""The first build with commands for accounts; those before it are asked through WMI and ADSI."""
_WMI = "Get-WmiObject Win32_UserAccount -Filter 'LocalAccount=True' | Where-Object "


def _switch(verb: str, disabled: str) -> tuple[Form, ...]:
    """The built-in administrator by its well-known identifier: its name changes with the display language."""
    asked = "{$_.SID -like 'S-1-5-21-*-500'} | ForEach-Object {$_.Disabled = " + disabled + "; $_.Put()}"
    return (
        Form((_WMI + asked,)),
        Form((f"Get-LocalUser | Where-Object SID -Like 'S-1-5-21-*-500' | {verb}-LocalUser",), _CMDLETS),
    )


def _never(state: str, opposite: str) -> tuple[Form, ...]:
    """That a password never expires, or does."""
    asked = "} | ForEach-Object {$_.PasswordExpires = " + opposite + "; $_.Put()}"
    return (
        Form((f"{_WMI}{{$_.Name -eq ", asked)),
        Form(("Set-LocalUser -Name ", f" -PasswordNeverExpires {state}"), _CMDLETS),
    )


_SWITCH = {True: _switch("Enable", "$false"), False: _switch("Disable", "$true")}
_NEVER = {True: _never("$true", "$false"), False: _never("$false", "$true")}
_EXPIRES = (
    Form(
        (
            "$u = [ADSI]('WinNT://./' + ",
            " + ',user'); $u.psbase.InvokeSet('AccountExpirationDate', ([datetime]",
            ").AddDays(1)); $u.psbase.CommitChanges()",
        )
    ),
    Form(("Set-LocalUser -Name ", " -AccountExpires ([datetime]", ").AddDays(1)"), _CMDLETS),
)
"""The system counts the moment from which nobody gets in: the day after the last one."""
_CHANGES = {
    state: Form(("net.exe user ", f" /logonpasswordchg:{word}")) for state, word in ((False, "no"), (True, "yes"))
}
_RULES = (
    ("lockout_after", "/lockoutthreshold:"),
    ("lockout_minutes", "/lockoutduration:"),
    ("longest_days", "/maxpwage:"),
    ("shortest_password", "/minpwlen:"),
)
_WINDOW = "/lockoutwindow:"
"""Wrong passwords are counted for as long as the lockout lasts: a longer window, the usual one, would be refused."""
_RULES_TOOL = "net.exe accounts"


def canonical(value: Account, words: Words) -> Account | None:  # noqa: ARG001
    """What comes back: asking leaves no trace, and the sign-in's password is usually the account's."""
    sign_in = value.sign_in
    if sign_in is not None:
        own, made_here = _password_here(value, sign_in.account)
        if made_here and sign_in.password == own:
            sign_in = replace(sign_in, password=None)
    admin = replace(value.administrator, ssh_keys=(), ssh_password=None) if value.administrator is not None else None
    admin = admin if admin != Administrator() else None
    local = tuple(_canonical_local(one) for one in value.local)
    policy = value.policy if value.policy != Policy() else None
    made = Account(local=local, administrator=admin, sign_in=sign_in, policy=policy)
    return made if made != Account() else None


def _canonical_local(one: LocalAccount) -> LocalAccount:
    direct, by_id = parted(one.groups)
    kept = replace(one, groups=(*direct, *by_id), id=None, group_id=None, shell=None, home=None, ssh_keys=())
    return replace(kept, locked=False, sudo_without_password=False)


def translate(value: Account, words: Words) -> None:
    """Accounts at the first start; what setup has no setting for is done by commands."""
    for at, account in enumerate(value.local):
        _translate_local(account, ("account", "local", at), words)
    admin = value.administrator
    if admin is not None:
        words.leave_out(
            ("account", "administrator"), admin, ("ssh_keys", "ssh_password"), "setup has no setting for it"
        )
    if admin is not None and admin.password is not None:
        origin = words.origin("account", "administrator", "password")
        shell = words.out.block("oobeSystem", SHELL, origin)
        _put_password(shell.child("UserAccounts", origin), "AdministratorPassword", admin.password, origin)
    if admin is not None and admin.enabled is not None:
        origin = words.origin("account", "administrator", "enabled")
        about = f"Built-in administrator {'on' if admin.enabled else 'off'}"
        line = for_build(_SWITCH[admin.enabled], words.target).line()
        add_command(words, AS_SYSTEM, line, about, origin)
    if value.sign_in is not None:
        _translate_sign_in(value, value.sign_in, words)
    if value.policy is not None:
        _translate_policy(value.policy, words)


def _translate_policy(policy: Policy, words: Words) -> None:
    """One command for all that is said."""
    parts: list[Text] = []
    for field, option in _RULES:
        said = getattr(policy, field)
        if said is not None:
            told: Text = "unlimited" if field == "longest_days" and said == 0 else str(said)
            value = said if isinstance(said, Template) else told
            parts += [f" {option}", value]
            parts += [f" {_WINDOW}", value] if field == "lockout_minutes" else []
    if parts:
        origin = words.origin("account", "policy")
        add_command(words, AS_SYSTEM, concat(_RULES_TOOL, *parts), "Rules for passwords", origin)


def _translate_local(account: LocalAccount, path: tuple[str | int, ...], words: Words) -> None:
    origin = words.origin(*path)
    item = words.out.block("oobeSystem", SHELL, origin).add(_LOCAL, origin)
    for field, setting in _FIELDS:
        text = getattr(account, field)
        if text is not None:
            item.put(setting, text, words.origin(*path, field))
    why = "setup has no setting for it"
    words.leave_out(path, account, ("id", "group_id", "shell", "home", "ssh_keys", "sudo_without_password"), why)
    if account.locked:
        hint = "give it a password that nobody knows"
        words.cannot((*path, "locked"), f"the locked account {account.name}", why, hint, Severity.WARNING)
    direct, by_id = parted(account.groups)
    if direct:
        item.put("Group", join(direct, ";"), words.origin(*path, "groups"))
    for group in by_id:
        add_member(group, account.name, words, words.origin(*path, "groups"))
    if account.password is not None:
        if account.password.form == "hash":
            why = "it needs the password itself, not a hash of it"
            words.cannot((*path, "password"), "a hashed password", why, 'refer to the password with form = "plain"')
        else:
            _put_password(item, "Password", account.password, words.origin(*path, "password"))
    if account.password_expires is not None:
        line = for_build(_NEVER[not account.password_expires], words.target).line(account.name)
        about = "Password expires" if account.password_expires else "Password never expires"
        add_command(words, FIRST_SIGN_IN, line, about, words.origin(*path, "password_expires"))
    if account.change_password is not None:
        line = _CHANGES[account.change_password].line(account.name)
        add_command(words, FIRST_SIGN_IN, line, "Change of password", words.origin(*path, "change_password"))
    if account.expires is not None:
        line = for_build(_EXPIRES, words.target).line(account.name, account.expires)
        add_command(words, FIRST_SIGN_IN, line, "Last day of the account", words.origin(*path, "expires"))


def _translate_sign_in(value: Account, sign_in: SignIn, words: Words) -> None:
    origin = words.origin("account", "sign_in")
    shell = words.out.block("oobeSystem", SHELL, origin)
    shell.put("AutoLogon/Enabled", "true", origin)
    if sign_in.account is not None:
        shell.put("AutoLogon/Username", sign_in.account, words.origin("account", "sign_in", "account"))
    if sign_in.domain is not None:
        shell.put("AutoLogon/Domain", sign_in.domain, words.origin("account", "sign_in", "domain"))
    if sign_in.count is not None:
        count = str(sign_in.count) if isinstance(sign_in.count, int) else sign_in.count
        shell.put("AutoLogon/LogonCount", count, words.origin("account", "sign_in", "count"))
    own, made_here = _password_here(value, sign_in.account)
    secret = sign_in.password or own
    if secret is not None and secret.form == "plain":
        _put_password(shell.child("AutoLogon", origin), "Password", secret, origin)
    elif secret is None and made_here:
        shell.put("AutoLogon/Password/Value", "", origin)
        shell.put("AutoLogon/Password/PlainText", "true", origin)


def _put_password(above: Branch, group: str, secret: SecretRef, origin: Origin) -> None:
    above.put(f"{group}/Value", secret, origin)
    above.put(f"{group}/PlainText", "false", origin)


def _password_here(value: Account, name: Text | None) -> tuple[SecretRef | None, bool]:
    """The password that an account gets in this very section, and whether it is made or set there."""
    for account in value.local:
        if _folded(account.name) == _folded(name):
            return account.password, True
    admin = value.administrator
    if admin is not None and admin.password is not None and _folded(name) == "administrator":
        return admin.password, True
    return None, False


def _folded(name: Text | None) -> object:
    return name.casefold() if isinstance(name, str) else name


def recognise(reader: Reader) -> Account | None:
    """Accounts, and the commands that belong to them."""
    local = [
        _recognise_local(reader, seat, at)
        for at, seat in enumerate(one for one in reader.find("oobeSystem", SHELL, _LOCAL) if text_of(one.child("Name")))
    ]
    recognise_members(reader, local)
    _recognise_sets(reader, local)
    admin: dict[str, Any] = {}
    group = reader.first("oobeSystem", SHELL, _ADMINISTRATOR)
    if password_of(group) is not None:
        admin["password"] = password_of(group)
        reader.take(group, "account", "administrator", "password", whole=True)
    for item, line in commands_at(reader, AS_SYSTEM, POWERSHELL):
        for state, forms in _SWITCH.items():
            if line == for_build(forms, reader.target).line() and "enabled" not in admin:
                admin["enabled"] = state
                reader.take(item, "account", "administrator", "enabled", whole=True)
    account = Account(
        local=tuple(LocalAccount(**one) for one in local),
        administrator=Administrator(**admin) if admin else None,
    )
    account = replace(account, sign_in=_recognise_sign_in(reader, account), policy=_recognise_policy(reader))
    return account if account != Account() else None


def _recognise_local(reader: Reader, seat: Seat, at: int) -> dict[str, Any]:
    path = ("account", "local", at)
    reader.places[path] = seat
    fields: dict[str, Any] = {}
    reader.take_fields(seat, _FIELDS, path, fields, text_of)
    group = seat.child("Group")
    groups = text_of(group)
    if groups:
        fields["groups"] = split(groups, ";")
        reader.take(group, *path, "groups")
    password = seat.child("Password")
    if password_of(password) is not None:
        fields["password"] = password_of(password)
        reader.take(password, *path, "password", whole=True)
    return fields


def _recognise_sets(reader: Reader, local: list[dict[str, Any]]) -> None:
    """What commands say of an account that is made here, each field once."""
    rows: list[tuple[str, Form, Any]] = [
        ("password_expires", _of(_NEVER[state], reader), not state) for state in _NEVER
    ]
    rows += [("expires", _of(_EXPIRES, reader), None)]
    rows += [("change_password", form, state) for state, form in _CHANGES.items()]
    for item, line in commands_at(reader, FIRST_SIGN_IN, POWERSHELL):
        for field, form, state in rows:
            values = form.values_in(line)
            name = values[0] if values else None
            at = next((at for at, one in enumerate(local) if values and one["name"] == name), None)
            if values and at is not None and field not in local[at]:
                local[at][field] = values[1] if state is None else state
                reader.take(item, "account", "local", at, field, whole=True)
                break


def _of(forms: tuple[Form, ...], reader: Reader) -> Form:
    return for_build(forms, reader.target)


def _recognise_policy(reader: Reader) -> Policy | None:
    options = {option: field for field, option in _RULES}
    for item, line in commands_at(reader, AS_SYSTEM, "net.exe"):
        if not line.startswith(_RULES_TOOL + " /"):
            continue
        fields: dict[str, Any] = {}
        window: str | None = None
        for word in line.removeprefix(_RULES_TOOL).split():
            option, _, said = word.partition(":")
            if f"{option}:" == _WINDOW and window is None:
                window = said
                continue
            value = parse_text("0" if said == "unlimited" else said)
            number = int(value) if isinstance(value, str) and value.isdecimal() and len(value) < 10 else value
            if options.get(f"{option}:") is None or isinstance(number, str):
                fields = {}
                break
            fields[options[f"{option}:"]] = number
        lasts = fields.get("lockout_minutes")
        if fields and window == (None if lasts is None else str(lasts)):  # else they are counted for another time
            reader.take(item, "account", "policy", whole=True)
            return Policy(**fields)
    return None


def _recognise_sign_in(reader: Reader, account: Account) -> SignIn | None:
    group = reader.first("oobeSystem", SHELL, "AutoLogon")
    if group is None or truth_of(group.child("Enabled")) is not True:
        return None
    path = ("account", "sign_in")
    reader.take(group, *path)
    reader.take(group.child("Enabled"))
    fields: dict[str, Any] = {}
    reader.take_fields(group, (("account", "Username"), ("domain", "Domain")), path, fields, text_of)
    count = number_of(group.child("LogonCount"))
    if count is not None:
        fields["count"] = count
        reader.take(group.child("LogonCount"), *path, "count")
    password = group.child("Password")
    own, made_here = _password_here(account, fields.get("account"))
    secret = password_of(password)
    if password is not None and (secret is not None or (made_here and own is None)):
        reader.take(password, *path, "password", whole=True)
        if not (made_here and secret == own):
            fields["password"] = secret
    return SignIn(**fields)
