"""Names, accounts, sign-in and passwords."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.setting import Setting
from fairledger.checks.calls import accounts_made
from fairledger.checks.claims import KICKSTART, PRACTICE, SELF, WINDOWS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.intent.account import ACCOUNT
from fairledger.intent.identity import IDENTITY
from fairledger.model.finding import Severity
from fairledger.model.pattern import pattern
from fairledger.model.showing import quoted, visible
from fairledger.model.suggest import did_you_mean

_SIGNED = "[answers.oobeSystem.Microsoft-Windows-Shell-Setup.AutoLogon]\n"
_ACCOUNT = '[account]\nlocal = [{ name = "observer", password = { env = "PW" } }]\n'
_LABEL = pattern(r"[A-Za-z0-9]([A-Za-z0-9-]*[A-Za-z0-9])?")


@rule(
    "machine-name",
    Severity.ERROR,
    "The installer refuses the machine's name, or cuts it.",
    source="the naming conventions of the target's vendor, and RFC 1123",
    fires='[identity]\nname = "LMR-DESK-STATION-01"\n',
    silent='[identity]\nname = "LMR-DESK-01"\n',
    by_itself=True,
)
def machine_name(view: View) -> Iterator[Hit]:
    """Names that are too long, empty, only digits, or hold what a name cannot."""
    identity = view.intent.get(IDENTITY)
    name = identity.name if identity else None
    if not isinstance(name, str):
        return
    spot = view.intent.placed("identity", "name")
    labels = name.split(".") if view.limits.machine_name_dots else [name]
    most = view.limits.machine_name_length
    if len(name.encode()) > most:
        unit = "characters" if name.isascii() else "bytes"
        told = f"the machine name {visible(name)} has {len(name.encode())} {unit}, at most {most} are allowed"
        yield Hit(spot, told, "shorten it")
    elif "_" in name and all(_LABEL.fullmatch(label.replace("_", "x")) for label in labels):
        told = f"the machine name {visible(name)} has an underscore, which names on the net cannot have"
        yield Hit(spot, told, "use a hyphen", Severity.WARNING)
    elif not all(_LABEL.fullmatch(label) for label in labels):
        told = f"the machine name {quoted(name)} holds what a name cannot"
        yield Hit(spot, told, "use letters, digits and hyphens, the hyphens inside")
    elif labels[0].isdecimal():
        yield Hit(spot, f"the machine name {name} is only digits", "add a letter")


@rule(
    "account-name",
    Severity.ERROR,
    "The installer refuses the account's name.",
    source="the naming conventions of the target's vendor",
    fires='[account]\nlocal = [{ name = "observer/night" }]\n',
    silent=_ACCOUNT,
    by_itself=True,
)
def account_name(view: View) -> Iterator[Hit]:
    """Names of local accounts that the system cannot have."""
    account = view.intent.get(ACCOUNT)
    for place, one in enumerate(account.local if account else ()):
        if not isinstance(one.name, str):
            continue
        spot = view.intent.placed("account", "local", place, "name")
        bad = [char for char in one.name if char in view.limits.account_name_forbids or not char.isprintable()]
        if bad:
            yield Hit(spot, f"the account name {quoted(one.name)} holds {quoted(bad[0])}", "leave it out")
        elif not one.name.strip(" ."):
            yield Hit(spot, "the account has no name", "name it")


@rule(
    "sign-in-account-unknown",
    Severity.ERROR,
    "Automatic sign-in names an account that the file does not make: the machine stops at the sign-in page.",
    source=SELF,
    fires=_ACCOUNT + '[account.sign_in]\naccount = "keeper"\ncount = 1\n',
    silent=_ACCOUNT + '[account.sign_in]\naccount = "observer"\ncount = 1\n',
)
def sign_in_account_unknown(view: View) -> Iterator[Hit]:
    """Automatic sign-in without an account, or with one that nobody makes."""
    account = view.intent.get(ACCOUNT)
    sign_in = account.sign_in if account else None
    if account is None or sign_in is None:
        return
    spot = view.intent.placed("account", "sign_in", "account")
    if sign_in.account is None:
        yield Hit(spot, "automatic sign-in names no account", "name the account")
        return
    domain = sign_in.domain if isinstance(sign_in.domain, str) else "."
    identity = view.intent.get(IDENTITY)
    own = identity.name if identity is not None and isinstance(identity.name, str) else "."
    if sign_in.domain is not None and domain.strip().casefold() not in ("", ".", own.casefold()):
        return
    names = [one.name for one in account.local]
    if not isinstance(sign_in.account, str) or any(not isinstance(name, str) for name in names):
        known = sign_in.account in names or not isinstance(sign_in.account, str)
    else:
        folded = sign_in.account.casefold()
        known = folded == "administrator" or any(isinstance(name, str) and name.casefold() == folded for name in names)
    if not known and isinstance(sign_in.account, str) and sign_in.account.casefold() in accounts_made(view):
        return  # a command makes it
    if not known:
        made = ", ".join(visible(str(name)) for name in names) or "none"
        told = f"automatic sign-in uses the account {visible(str(sign_in.account))}, which is not made here"
        yield Hit(spot, told, f"accounts made here: {made}")


@rule(
    "sign-in-uncounted",
    Severity.WARNING,
    "Automatic sign-in without a count goes on for ever: whoever starts the machine is in.",
    source=f"{WINDOWS}, AutoLogon/LogonCount",
    fires=_ACCOUNT + '[account.sign_in]\naccount = "observer"\n',
    silent=_ACCOUNT + '[account.sign_in]\naccount = "observer"\ncount = 1\n',
)
def sign_in_uncounted(view: View) -> Iterator[Hit]:
    """Automatic sign-in without an end."""
    account = view.intent.get(ACCOUNT)
    if view.limits.sign_in_count and account and account.sign_in and account.sign_in.count is None:
        spot = view.intent.placed("account", "sign_in")
        yield Hit(spot, "automatic sign-in has no count and goes on for ever", "say how many times, usually 1")


def _is_password(setting: Setting) -> object:
    return setting.kind == "password"


@rule(
    "sign-in-off",
    Severity.WARNING,
    "Automatic sign-in is filled in and not switched on: nobody is signed in.",
    source=f"{WINDOWS}, AutoLogon/Enabled",
    fires=_SIGNED + 'Username = "observer"\nEnabled = false\n',
    silent=_SIGNED + 'Username = "observer"\nEnabled = true\n',
)
def sign_in_off(view: View) -> Iterator[Hit]:
    """A name for automatic sign-in without the switch."""
    for seat in view.having("sign-in"):
        enabled = seat.having("sign-in-switch")
        if seat.having("sign-in-account") is not None and (enabled is None or enabled.text == "false"):
            told = "automatic sign-in has a name and is not switched on"
            yield at(enabled or seat, told, "write Enabled true, or take the whole group out")


@rule(
    "password-readable",
    Severity.WARNING,
    "A password stands readable in the answer file: whoever holds the medium has it.",
    source=PRACTICE,
    fires=(
        "[[answers.oobeSystem.Microsoft-Windows-Shell-Setup.UserAccounts.LocalAccounts.LocalAccount]]\n"
        'Name = "observer"\nPassword = { Value = "Kestrel-7-moor", PlainText = true }\n'
    ),
    silent=_ACCOUNT,
    always=True,
)
def password_readable(view: View) -> Iterator[Hit]:
    """Secrets in the clear; advice where the installer knows no other way."""
    for seat in view.where(_is_password):
        setting, value = seat.setting, seat.value
        if setting is None or not value:
            continue
        hideable = view.family.hides(setting.parent, seat.block.component)
        if view.family.readable(seat.block, seat.way):
            where = seat.shown if "/" in seat.shown else f"{seat.block.component} ({seat.shown})"
            told = f"the password in {where} stands readable in the answer file"
            hint = (
                "refer to it as a secret in a draft, so that it is written encoded or hashed"
                if hideable
                else "this setting has no encoded form: use an account with few rights, and delete the file afterwards"
            )
            yield at(seat, told, hint, None if hideable else Severity.ADVICE)


@rule(
    "password-encoding",
    Severity.ERROR,
    "The password is said to be encoded, and is not: the account gets another one, or setup stops.",
    source=f"{WINDOWS}, PlainText beside a password's Value",
    fires=(
        "[[answers.oobeSystem.Microsoft-Windows-Shell-Setup.UserAccounts.LocalAccounts.LocalAccount]]\n"
        'Name = "observer"\nPassword = { Value = "Kestrel-7-moor", PlainText = false }\n'
    ),
    silent=_ACCOUNT,
    always=True,
)
def password_encoding(view: View) -> Iterator[Hit]:
    """Secrets in the clear that bear the mark of encoded ones. They are not told."""
    for seat in view.where(_is_password):
        if view.family.garbled(seat.block, seat.way):
            told = f"the password in {seat.shown} is said to be encoded, and is not"
            yield at(seat, told, "write PlainText true, or refer to it as a secret, which is then encoded")


@rule(
    "secret-in-draft",
    Severity.WARNING,
    "A secret itself stands in a draft or profile, which goes into version control and to colleagues.",
    source=PRACTICE,
    fires='[account]\nlocal = [{ name = "observer", password = "Kestrel-7-moor" }]\n',
    silent=_ACCOUNT,
    always=True,
)
def secret_in_draft(view: View) -> Iterator[Hit]:
    """Literal secrets where a reference belongs."""
    for seat in view.seats:
        if seat.reference is not None and seat.reference.literal:
            told = f"the secret for {seat.shown} itself stands in the file"
            yield at(seat, told, 'refer to it: { env = "NAME", ask = true }')


_HASH = pattern(r"\$(1|2[abxy]|5|6|7|y|gy)\$[./A-Za-z0-9=,+$-]{8,}")


@rule(
    "hash-form",
    Severity.ERROR,
    "What is said to be a hash is none: nobody can sign in with it.",
    source="the manual page of crypt",
    fires="#version=RHEL9\nrootpw --iscrypted Kestrel-7-moor\n",
    silent="#version=RHEL9\nrootpw --iscrypted $6$abcdefgh$" + "x" * 86 + "\n",
)
def hash_form(view: View) -> Iterator[Hit]:
    """Hashes of no known form, and of weak ones. The hash itself is never told."""
    account = view.intent.get(ACCOUNT)
    if account is None:
        return
    admin = account.administrator.password if account.administrator else None
    rows = [(admin, ("account", "administrator", "password"))]
    rows += [(one.password, ("account", "local", place, "password")) for place, one in enumerate(account.local)]  # type: ignore[misc]
    for secret, path in rows:
        if secret is None or secret.form != "hash" or not secret.literal:
            continue
        holder = view.intent.at(path[:-1])
        if getattr(holder, "locked", False) or getattr(holder, "enabled", None) is False:
            continue  # no password fits anyway
        text = next(str(source.name) for source in secret.sources if source.kind == "value")
        spot = view.intent.placed(*path)
        if text in ("*", "!", "!!"):
            continue
        if not _HASH.fullmatch(text):
            hint = "make one with: fairledger secret hash"
            yield Hit(spot, "the password is said to be a hash, but has the form of none", hint)
        elif text.startswith("$1$"):
            hint = "make a stronger one with: fairledger secret hash"
            yield Hit(spot, "the password's hash is of a weak kind (MD5)", hint, Severity.WARNING)


_LOADER_HASH = pattern(r"grub\.pbkdf2\.sha512\.\d+\.[0-9A-Fa-f]+\.[0-9A-Fa-f]+")


@rule(
    "loader-hash",
    Severity.ERROR,
    "The boot loader knows one kind of hash only: with any other, nobody gets past its password.",
    source=f"{KICKSTART}, bootloader --iscrypted; the boot loader's manual, password_pbkdf2",
    fires="#version=RHEL9\nbootloader --iscrypted --password=$6$abcdefgh$" + "x" * 86 + "\n",
    silent="#version=RHEL9\nbootloader --iscrypted --password=grub.pbkdf2.sha512.10000.0A0B.0C0D\n",
)
def loader_hash(view: View) -> Iterator[Hit]:
    """Passwords of boot loaders that are said to be hashes, and are none of theirs. They are never told."""
    for seat in view.having("loader-hash"):
        if seat.text and not view.family.readable(seat.block, seat.way) and not _LOADER_HASH.fullmatch(seat.text):
            told = "the boot loader's password is no hash that it can read, so that it lets nobody in"
            yield at(seat, told, "make one with grub2-mkpasswd-pbkdf2, or refer to the password itself in a draft")


@rule(
    "group-unknown",
    Severity.ADVICE,
    "An account is put into a group that the system does not bring, or that has this name in one language only.",
    source="the vendor's list of well-known groups",
    fires=_ACCOUNT.replace("password", 'groups = ["Wardens"], password'),
    silent=_ACCOUNT.replace("password", 'groups = ["Administrators"], password'),
)
def group_unknown(view: View) -> Iterator[Hit]:
    """Groups by names that nobody knows, or that only one display language knows."""
    account = view.intent.get(ACCOUNT)
    rows = [(place, one) for place, one in enumerate(account.local if account else ()) if one.groups]
    known = view.family.groups() if rows else {}
    for place, one in rows if known else ():
        spot = view.intent.placed("account", "local", place, "groups")
        for group in one.groups:
            if not isinstance(group, str):
                continue
            right = known.get(group.casefold())
            if right is None and "," in group:
                told = f"{visible(group)} is taken for one group: a comma does not part names here"
                yield Hit(spot, told, "write a semicolon between the groups", Severity.WARNING)
            elif right is None:
                near = did_you_mean(group, dict.fromkeys(known.values()))
                hint = near or "make it with a command, or use a group that every system has"
                yield Hit(spot, f"the system brings no group {visible(group)}", hint)
            elif right.casefold() != group.casefold():
                told = f"the group {visible(group)} has that name in one display language only"
                yield Hit(spot, told, f"write {right}, which is right in all of them", Severity.WARNING)
    for seat in view.having("account-groups"):
        for group in (seat.text or "").split(";"):
            right = view.family.groups().get(group.strip().casefold())
            if right is None and group.strip():
                near = did_you_mean(group, dict.fromkeys(view.family.groups().values()))
                yield at(seat, f"the system brings no group {visible(group)}", near or "use a group that is there")
