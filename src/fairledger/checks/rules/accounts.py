"""Who can sign in, and whether anybody can look after the machine; keys, dates, names that are taken."""

from __future__ import annotations

import re
from base64 import b64encode
from collections.abc import Iterator
from functools import cache

from fairledger.checks.claims import KICKSTART, PRACTICE, SELF, WINDOWS, WINDOWS_TOOLS
from fairledger.checks.rule import Hit, rule
from fairledger.checks.view import View
from fairledger.families.interface import Family
from fairledger.intent.account import ACCOUNT, Account, LocalAccount
from fairledger.intent.command import COMMAND
from fairledger.intent.identity import IDENTITY
from fairledger.intent.join import JOIN
from fairledger.model.finding import Severity
from fairledger.model.showing import quoted, visible

_OBSERVER = '[account]\nlocal = [{ name = "observer", groups = ["Administrators"], password = { env = "PW" } }]\n'
_SERVER = '[draft]\ntarget = "windows-server-2022"\nfirmware = "uefi"\n[start]\nadministrator = "hide"\n'
_LINUX = "#version=RHEL9\nrootpw --lock\nuser --name=keeper --groups=wheel --iscrypted --password=$6$abcdefgh$" + (
    "x" * 86 + "\n"
)
_KEYS = (
    "#version=RHEL9\nrootpw --lock\nuser --name=keeper --groups=wheel\n"
    'sshkey --username=keeper "ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIExampleExampleExampleExampleExampleExample k"\n'
)


def _local(view: View) -> Iterator[tuple[int, LocalAccount]]:
    account = view.intent.get(ACCOUNT)
    yield from enumerate(account.local if account else ())


@cache
def _groups_of(family: Family) -> frozenset[str]:
    """The groups of every system by their English names, in lower case."""
    return frozenset(known.casefold() for known in family.groups().values())


def _named_as_groups(view: View) -> Iterator[tuple[int, LocalAccount]]:
    groups = _groups_of(view.family) if view.limits.names_shared else frozenset()
    for at, one in _local(view):
        if isinstance(one.name, str) and one.name.casefold() in groups:
            yield at, one


def _open(one: LocalAccount) -> bool:
    """Whether a placeholder hides what groups it will have."""
    return any(not isinstance(group, str) for group in one.groups)


@rule(
    "account-named-as-machine",
    Severity.ERROR,
    "An account cannot have the machine's own name: setup refuses it.",
    source=f"{WINDOWS}, UserAccounts, ComputerName",
    fires=_OBSERVER + '[identity]\nname = "OBSERVER"\n',
    silent=_OBSERVER + '[identity]\nname = "LMR-DESK-01"\n',
)
def account_named_as_machine(view: View) -> Iterator[Hit]:
    """Local accounts that are called as the machine is."""
    identity = view.intent.get(IDENTITY)
    name = identity.name if identity else None
    for at, one in _local(view):
        alike = isinstance(name, str) and isinstance(one.name, str) and name.casefold() == one.name.casefold()
        if alike and view.limits.names_shared:
            told = f"the account {visible(str(one.name))} has the machine's name"
            yield Hit(view.intent.placed("account", "local", at, "name"), told, "rename one of them")
    for at, one in view.kept.once("accounts as groups", lambda: list(_named_as_groups(view))):
        told = f"every system has a group {visible(str(one.name))}, and an account cannot have its name"
        yield Hit(view.intent.placed("account", "local", at, "name"), told, "rename the account")
    if not isinstance(name, str) or not view.limits.names_shared:
        return
    if name.casefold() in [one.casefold() for one in view.limits.accounts_there]:
        told = f"the machine has the name of an account that every system has ({visible(name)})"
        yield Hit(view.intent.placed("identity", "name"), told, "rename the machine")


@rule(
    "account-exists",
    Severity.WARNING,
    "The account is there already, in every system: it cannot be made once more.",
    source=f"{PRACTICE}, accounts that every system brings",
    fires='[account]\nlocal = [{ name = "Administrator", password = { env = "PW" } }]\n',
    silent=_OBSERVER,
)
def account_exists(view: View) -> Iterator[Hit]:
    """Accounts that every system of the family brings."""
    known = {name.casefold() for name in view.limits.accounts_there}
    for at, one in _local(view):
        if isinstance(one.name, str) and one.name.casefold() in known:
            told = f"every system has an account {visible(one.name)} already"
            yield Hit(view.intent.placed("account", "local", at, "name"), told, "choose another name, or administrator")


@rule(
    "password-missing",
    Severity.WARNING,
    "An account with all rights has no password: whoever reaches the machine owns it, or, on systems that lock such an "
    "account, nobody can sign in to it.",
    source=PRACTICE,
    fires='[account]\nlocal = [{ name = "keeper", groups = ["Administrators"] }]\n',
    silent=_OBSERVER,
)
def password_missing(view: View) -> Iterator[Hit]:
    """Administrators without password and keys."""
    account = view.intent.get(ACCOUNT)
    for at, one in _local(view):
        if not one.administers or one.password is not None or one.ssh_keys:
            continue
        spot = view.intent.placed("account", "local", at)
        if not view.limits.locked_without_password:
            told = f"{visible(str(one.name))} has all rights and no password"
            yield Hit(spot, told, 'refer to one: password = { env = "NAME" }')
        elif account is not None:
            told = f"{visible(str(one.name))} has all rights, but neither password nor key: nobody can sign in as it"
            others = any(other is not one and (other.password or other.ssh_keys) for other in account.local)
            root = account.administrator
            others = others or (root is not None and root.enabled is not False and bool(root.password or root.ssh_keys))
            hint = "give it ssh_keys or a password, unless a script does"
            yield Hit(spot, told, hint, Severity.ADVICE if others else None)


@rule(
    "sudo-asks",
    Severity.ADVICE,
    "An account with all rights signs in with a key and has no password, for which sudo asks all the same.",
    source="the manual page of sudoers",
    fires=_KEYS,
    silent=_KEYS + "%post\necho 'keeper ALL=(ALL) NOPASSWD: ALL' >/etc/sudoers.d/keeper\n%end\n",
)
def sudo_asks(view: View) -> Iterator[Hit]:
    """Administrators with keys alone, where nothing lets them use their rights."""
    if not view.limits.locked_without_password or any("NOPASSWD" in one.body for _, one in view.each(COMMAND)):
        return
    for at, one in _local(view):
        if one.administers and one.ssh_keys and one.password is None and not one.sudo_without_password:
            told = f"{visible(str(one.name))} signs in with a key, but sudo asks for a password that it does not have"
            hint = "sudo_without_password = true, or give it a password"
            yield Hit(view.intent.placed("account", "local", at), told, hint)


@rule(
    "nobody-administers",
    Severity.WARNING,
    "Accounts are made, but none of them may look after the machine.",
    source=PRACTICE,
    fires=_OBSERVER.replace("Administrators", "Users"),
    silent=_OBSERVER,
)
def nobody_administers(view: View) -> Iterator[Hit]:
    """Files with accounts, none of which has all rights, and without the built-in one."""
    account = view.intent.get(ACCOUNT)
    if account is None or not account.local or any(one.administers or _open(one) for one in account.local):
        return
    if view.intent.get(JOIN) is not None:
        return  # the domain has administrators of its own
    if view.limits.groups_given and any(not one.groups for one in account.local):
        return  # the installer decides
    admin = account.administrator
    if admin is not None and admin.enabled is not False and (admin.password or admin.enabled or admin.ssh_keys):
        return
    told = "none of the accounts has all rights, and the built-in administrator cannot sign in"
    hint = (
        f"put one of them into {view.limits.admin_group}" if view.limits.admin_group else "give one of them all rights"
    )
    yield Hit(view.intent.placed("account", "local", 0), told, hint, _severity(account))


def _severity(account: Account) -> Severity | None:
    """A built-in administrator that is switched off makes it certain."""
    locked = account.administrator is not None and account.administrator.enabled is False
    return None if locked else Severity.ADVICE


@rule(
    "sign-in-often",
    Severity.WARNING,
    "Automatic sign-in counts so high that it hardly ever ends.",
    source=f"{WINDOWS}, AutoLogon/LogonCount",
    fires=_OBSERVER + '[account.sign_in]\naccount = "observer"\ncount = 999\n',
    silent=_OBSERVER + '[account.sign_in]\naccount = "observer"\ncount = 1\n',
)
def sign_in_often(view: View) -> Iterator[Hit]:
    """Counts above 20."""
    account = view.intent.get(ACCOUNT)
    sign_in = account.sign_in if account else None
    if sign_in is not None and isinstance(sign_in.count, int) and sign_in.count > 20:
        spot = view.intent.placed("account", "sign_in", "count")
        yield Hit(spot, f"automatic sign-in goes on for {sign_in.count} starts", "say how many are needed, usually 1")


@rule(
    "sign-in-password",
    Severity.ERROR,
    "Automatic sign-in uses another password than the account gets: the machine stops at the sign-in page.",
    source=SELF,
    fires=_OBSERVER + '[account.sign_in]\naccount = "observer"\ncount = 1\npassword = { env = "OTHER" }\n',
    silent=_OBSERVER + '[account.sign_in]\naccount = "observer"\ncount = 1\n',
)
def sign_in_password(view: View) -> Iterator[Hit]:
    """Sign-in passwords that differ from that of an account made here."""
    account = view.intent.get(ACCOUNT)
    sign_in = account.sign_in if account else None
    if account is None or sign_in is None:
        return
    for one in account.local if sign_in.password is not None and not sign_in.domain else ():
        if one.name == sign_in.account and one.password != sign_in.password:
            spot = view.intent.placed("account", "sign_in", "password")
            told = f"the password of the automatic sign-in is not the one that {visible(str(one.name))} gets"
            yield Hit(spot, told, "leave it out, so that the account's own is taken")
    locked = {one.name for one in account.local if one.password is not None and isinstance(one.name, str)}
    for seat in view.having("sign-in"):
        user = seat.having("sign-in-account")
        secret = any(one.setting is not None and one.setting.secret for one in seat.walk())
        if user is not None and user.text in locked and not secret:
            told = f"{visible(user.text)} has a password, and automatic sign-in does not know it"
            yield Hit(seat.place, told, "give it there too", Severity.WARNING)


@rule(
    "account-date",
    Severity.ERROR,
    "The last day of an account is no date.",
    source=f"{WINDOWS_TOOLS}, Set-LocalUser",
    fires=_OBSERVER.replace("password", 'expires = "30.6.2027", password'),
    silent=_OBSERVER.replace("password", 'expires = "2027-06-30", password'),
    by_itself=True,
)
def account_date(view: View) -> Iterator[Hit]:
    """Days that are not written year, month, day."""
    for at, one in _local(view):
        if isinstance(one.expires, str):
            from datetime import date

            try:
                date.fromisoformat(one.expires)
            except ValueError:
                told = f"{quoted(one.expires)} is no day"
                yield Hit(view.intent.placed("account", "local", at, "expires"), told, "write it as 2027-06-30")


_KEY = r"(ssh-(rsa|ed25519|dss)|ecdsa-sha2-nistp\d+|sk-(ssh|ecdsa)-\S+)\s+[A-Za-z0-9+/]{16,}={0,3}(\s.*)?"


@rule(
    "key-public",
    Severity.ERROR,
    "What is given as a public key is none: nobody can sign in with it.",
    source="RFC 4253 and the manual page of sshd, authorized_keys",
    fires='#version=RHEL9\nuser --name=keeper\nsshkey --username=keeper "the key of the keeper"\n',
    silent='#version=RHEL9\nsshkey --username=keeper "ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIExample keeper"\n',
)
def key_public(view: View) -> Iterator[Hit]:
    """Keys of no known form; private ones above all."""
    account = view.intent.get(ACCOUNT)
    admin = account.administrator if account else None
    rows = [(key, ("account", "administrator", "ssh_keys")) for key in (admin.ssh_keys if admin else ())]
    rows += [(key, ("account", "local", at, "ssh_keys")) for at, one in _local(view) for key in one.ssh_keys]  # type: ignore[misc]
    for key, path in rows:
        if isinstance(key, str) and not re.fullmatch(_KEY, key.strip()):
            told = "a PRIVATE key is given" if "PRIVATE KEY" in key else "a public key has the form of none"
            yield Hit(view.intent.placed(*path), told, "give the line of a file that ends in .pub")
        elif isinstance(key, str) and not _begins_as_it_says(key):
            told = "a public key is cut, or is of another kind than it says"
            yield Hit(
                view.intent.placed(*path), told, "copy the whole line of the file that ends in .pub", Severity.WARNING
            )


def _begins_as_it_says(key: str) -> bool:
    """Whether the body begins with its kind, as the bodies of all public keys do (RFC 4253, 6.6)."""
    match = re.search(r"((?:ssh|ecdsa|sk)-\S+)\s+(\S+)", key)
    if match is None:
        return True
    kind = match[1].encode()
    lead = b64encode(len(kind).to_bytes(4, "big") + kind).decode().rstrip("=")
    return match[2].startswith(lead[: (4 + len(kind)) * 8 // 6])


@rule(
    "account-id",
    Severity.ADVICE,
    "Numeric ids below 1000 belong to the system's own accounts.",
    source=f"{KICKSTART}, user --uid; the usual bounds of login.defs",
    fires="#version=RHEL9\nuser --name=keeper --uid=500\n",
    silent="#version=RHEL9\nuser --name=keeper --uid=1500\n",
)
def account_id(view: View) -> Iterator[Hit]:
    """Low ids."""
    for at, one in _local(view):
        if isinstance(one.id, int) and one.id < 1000:
            told = f"the account {visible(str(one.name))} has the id {one.id}"
            yield Hit(view.intent.placed("account", "local", at, "id"), told, "use 1000 or more, or leave it out")


@rule(
    "account-id-twice",
    Severity.ERROR,
    "Two accounts have the same numeric id: they are one and the same to the system.",
    source=SELF,
    fires="#version=RHEL9\nuser --name=keeper --uid=1500\nuser --name=observer --uid=1500\n",
    silent="#version=RHEL9\nuser --name=keeper --uid=1500\nuser --name=observer --uid=1501\n",
)
def account_id_twice(view: View) -> Iterator[Hit]:
    """Ids that two accounts share."""
    seen: dict[int, str] = {}
    for at, one in _local(view):
        if isinstance(one.id, int) and seen.setdefault(one.id, str(one.name)) != str(one.name):
            told = f"{visible(seen[one.id])} and {visible(str(one.name))} have the same id {one.id}"
            yield Hit(view.intent.placed("account", "local", at, "id"), told, "give each its own, or leave it out")


@rule(
    "account-nobody",
    Severity.WARNING,
    "The page for the administrator's password is hidden and the file gives none: who can sign in is left to chance.",
    source=f"{WINDOWS}, OOBE/HideLocalAccountScreen, UserAccounts",
    fires=_SERVER,
    silent=_SERVER + _OBSERVER,
)
def account_nobody(view: View) -> Iterator[Hit]:
    """Hidden account pages without any account."""
    account, join = view.intent.get(ACCOUNT), view.intent.get(JOIN)
    made = account is not None and (account.local or account.administrator is not None)
    if made or (join is not None and join.domain is not None):
        return
    for seat in view.saying("account-pages-hidden"):
        told = "the page for the administrator's password is hidden, and the file gives neither that nor an account"
        yield Hit(
            seat.place, told, f"set {view.called('account.administrator.password')}, make an account, or show the page"
        )
