"""What accounts and names say against each other: rules for passwords, changes of them, signing in by itself."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.checks.calls import calls_of
from fairledger.checks.claims import SELF, WINDOWS, WINDOWS_TOOLS
from fairledger.checks.rule import Hit, rule
from fairledger.checks.view import View
from fairledger.intent.account import ACCOUNT, Account
from fairledger.intent.identity import IDENTITY
from fairledger.intent.join import JOIN
from fairledger.model.finding import Severity
from fairledger.model.showing import visible
from fairledger.model.values import SecretRef

_ONE = '[account]\nlocal = [{ name = "observer", groups = ["Administrators"], password = { env = "PW" }'
_MOST = 14
"""The longest least length that the system's own tool takes."""


@rule(
    "password-rule-refuses",
    Severity.WARNING,
    "The rule for passwords counts before the accounts are made: one whose password breaks it is not made at all.",
    source=f"{WINDOWS_TOOLS}, net accounts",
    fires='[account]\npolicy = { shortest_password = 8 }\nlocal = [{ name = "observer" }]\n',
    silent='[account]\npolicy = { lockout_after = 5 }\nlocal = [{ name = "observer" }]\n',
)
def password_rule_refuses(view: View) -> Iterator[Hit]:
    """Least lengths that the tool does not take, or that accounts of the same file break, or may break."""
    account = view.intent.get(ACCOUNT)
    least = account.policy.shortest_password if account is not None and account.policy is not None else None
    if account is None or not isinstance(least, int) or not least or not view.limits.accounts_come_last:
        return
    if least > _MOST:
        spot = view.intent.placed("account", "policy", "shortest_password")
        yield Hit(spot, f"a least length of {least} is refused", f"write {_MOST} or less", Severity.ERROR)
    for at, one in enumerate(account.local):
        spot = view.intent.placed("account", "local", at, "password" if one.password else "name")
        known = _length(one.password)
        if known is None:
            told = f"the rule wants {least} characters of the password of {visible(str(one.name))} when it is made"
            yield Hit(spot, told, "make sure that it has them", Severity.ADVICE)
        elif known < least:
            has = "a shorter password" if known else "no password"
            told = f"{visible(str(one.name))} has {has}, and the rule wants {least} characters: the account is not made"
            yield Hit(spot, told, "lengthen the password, or shorten the rule", Severity.ERROR)


def _length(password: SecretRef | None) -> int | None:
    """How long a password is; None where it stands elsewhere."""
    if password is None:
        return 0
    held = next((one.name for one in password.sources if one.kind == "value"), None)
    return len(held) if isinstance(held, str) else None


@rule(
    "password-kept-and-changed",
    Severity.ERROR,
    "A password that never expires cannot be one that must be changed at the first sign-in.",
    source=f"{WINDOWS_TOOLS}, net user",
    fires=_ONE + ", change_password = true, password_expires = false }]\n",
    silent=_ONE + ", change_password = true }]\n",
)
def password_kept_and_changed(view: View) -> Iterator[Hit]:
    """Both in one account."""
    account = view.intent.get(ACCOUNT)
    for at, one in enumerate(account.local if account else ()):
        if one.change_password and one.password_expires is False:
            told = f"the password of {visible(str(one.name))} never expires, and must be changed"
            yield Hit(view.intent.placed("account", "local", at, "change_password"), told, "take one of the two out")


@rule(
    "sign-in-stops",
    Severity.ERROR,
    "Signing in without a person stops: at the password that must be changed, or since the account is switched off.",
    source=SELF,
    fires=_ONE + ', change_password = true }]\nsign_in = { account = "observer", count = 2 }\n',
    silent=_ONE + ' }]\nsign_in = { account = "observer", count = 2 }\n',
)
def sign_in_stops(view: View) -> Iterator[Hit]:
    """Accounts that cannot be signed in, or not as often as is asked."""
    account = view.intent.get(ACCOUNT)
    sign_in = account.sign_in if account is not None else None
    if account is None or sign_in is None or not isinstance(sign_in.account, str):
        return
    spot = view.intent.placed("account", "sign_in", "account")
    if _switched_off(account, sign_in.account):
        yield Hit(spot, "the administrator signs in without a person, and is switched off", "take one of the two out")
    folded = sign_in.account.casefold()
    mine = (one for one in account.local if isinstance(one.name, str) and one.name.casefold() == folded)
    if any(one.change_password for one in mine) and sign_in.count != 1:
        told = f"{visible(sign_in.account)} must change the password, and then signs in with the old one"
        yield Hit(spot, told, "let it sign in once, or let the password stay")


@rule(
    "sign-in-domain",
    Severity.WARNING,
    "Automatic sign-in looks for the account in a domain that the machine does not know: it stops at the sign-in page.",
    source=f"{WINDOWS}, AutoLogon/Domain",
    fires=_ONE + ' }]\nsign_in = { account = "observer", count = 1, domain = "WORKGROUP" }\n',
    silent=_ONE + ' }]\nsign_in = { account = "observer", count = 1, domain = "." }\n',
)
def sign_in_domain(view: View) -> Iterator[Hit]:
    """Workgroups, which know no accounts, and domains that are not joined here."""
    account, join, identity = view.intent.get(ACCOUNT), view.intent.get(JOIN), view.intent.get(IDENTITY)
    sign_in = account.sign_in if account is not None else None
    domain = sign_in.domain.strip() if sign_in is not None and isinstance(sign_in.domain, str) else ""
    own = identity.name if identity is not None else None
    if domain in ("", ".") or not (own is None or isinstance(own, str)) or domain.casefold() == (own or "").casefold():
        return
    spot = view.intent.placed("account", "sign_in", "domain")
    group = join.workgroup if join is not None and isinstance(join.workgroup, str) else "WORKGROUP"
    joined = join.domain if join is not None else None
    if domain.casefold() == group.casefold() and not joined:
        told = f"{visible(domain)} is a workgroup, which has no accounts of its own"
        yield Hit(spot, told, "leave it out, or write a dot, for an account of the machine")
    elif isinstance(joined, str) and domain.casefold() not in (joined.casefold(), joined.partition(".")[0].casefold()):
        told = f"the machine joins {visible(joined)}, and automatic sign-in looks in {visible(domain)}"
        yield Hit(spot, told, "name the domain that it joins, or leave it out")
    elif joined is None:
        told = f"automatic sign-in looks in the domain {visible(domain)}, which the file does not join"
        yield Hit(spot, told, "join it, or leave the domain out for an account of the machine")


@rule(
    "sign-in-without-password",
    Severity.WARNING,
    "The built-in administrator is to be signed in, and nothing switches it on or gives it a password.",
    source=f"{WINDOWS}, AdministratorPassword",
    fires='[account.sign_in]\naccount = "Administrator"\ncount = 1\n',
    silent='[account.administrator]\npassword = { env = "PW" }\n'
    '[account.sign_in]\naccount = "Administrator"\ncount = 1\n',
)
def sign_in_without_password(view: View) -> Iterator[Hit]:
    """The built-in administrator, of whom the file says nothing."""
    account = view.intent.get(ACCOUNT)
    sign_in = account.sign_in if account is not None else None
    if account is None or sign_in is None or not isinstance(sign_in.account, str) or sign_in.domain not in (None, "."):
        return
    made = any(one.name == sign_in.account for one in account.local)
    admin = account.administrator
    known = admin is not None and (admin.password is not None or admin.enabled is not None)
    called = any("administrator" in " ".join(call.words).lower() for _, _, call in calls_of(view))
    if sign_in.account.casefold() == "administrator" and not (made or known or called):
        told = "the built-in administrator is signed in, and has no password here"
        hint = f"give it one with {view.called('account.administrator.password')}, or sign another account in"
        yield Hit(view.intent.placed("account", "sign_in", "account"), told, hint)


def _switched_off(account: Account, name: str) -> bool:
    off = account.administrator is not None and account.administrator.enabled is False
    return off and name.casefold() == "administrator"


@rule(
    "name-after-joining",
    Severity.WARNING,
    "The machine joins the domain while it is renamed: it may be known there under the name that it had before.",
    source=f"{WINDOWS_TOOLS}, renaming a machine",
    fires='[identity]\npattern = "LMR-{serial}"\n[join]\ndomain = "larkmoor.example"\n',
    silent='[identity]\nname = "LMR-${n}"\n[join]\ndomain = "larkmoor.example"\n',
)
def name_after_joining(view: View) -> Iterator[Hit]:
    """Names that are made at the machine, beside a domain."""
    identity, join = view.intent.get(IDENTITY), view.intent.get(JOIN)
    if identity is not None and identity.pattern is not None and join is not None and join.domain is not None:
        told = "the machine gets its name from its serial number while it joins the domain"
        hint = (
            f"write {view.called('identity.name')} with a placeholder and a roster, or join afterwards with a command"
        )
        yield Hit(view.intent.placed("identity", "pattern"), told, hint)


@rule(
    "name-pattern-long",
    Severity.ERROR,
    "The pattern leaves the serial number no room: all machines get the same name.",
    source="the naming conventions of the target's vendor",
    fires='[identity]\npattern = "LMR-STATION-01-{serial}"\n',
    silent='[identity]\npattern = "LMR-{serial}"\n',
)
def name_pattern_long(view: View) -> Iterator[Hit]:
    """Patterns with less than four characters for the number."""
    identity = view.intent.get(IDENTITY)
    pattern = identity.pattern if identity is not None else None
    if isinstance(pattern, str) and pattern.count("{serial}") == 1:
        room = view.limits.machine_name_length - len(pattern.replace("{serial}", "").encode())
        if room < 4:
            told = f"the pattern leaves the serial number {max(room, 0)} characters of its own"
            severity = Severity.WARNING if room > 0 else None
            yield Hit(view.intent.placed("identity", "pattern"), told, "shorten what stands around it", severity)
