"""Joining a domain or a workgroup."""

from __future__ import annotations

import re
from collections.abc import Iterator

from fairledger.checks.claims import WINDOWS
from fairledger.checks.rule import Hit, rule
from fairledger.checks.view import View
from fairledger.intent.identity import IDENTITY
from fairledger.intent.join import JOIN
from fairledger.model.finding import Severity
from fairledger.model.showing import quoted, visible

_DOMAIN = '[join]\ndomain = "larkmoor.example"\n'
_JOINED = _DOMAIN + 'account = "joiner"\npassword = { env = "PW" }\n'


@rule(
    "join-both",
    Severity.ERROR,
    "A machine joins a domain or a workgroup, not both: setup refuses the file.",
    source=f"{WINDOWS}, UnattendedJoin/Identification",
    fires=f'{_DOMAIN}account = "joiner"\npassword = {{ env = "PW" }}\nworkgroup = "LARKMOOR"\n',
    silent='[join]\nworkgroup = "LARKMOOR"\n',
)
def join_both(view: View) -> Iterator[Hit]:
    """Domain and workgroup in one file."""
    join = view.intent.get(JOIN)
    if join is not None and join.domain and join.workgroup:
        told = "the machine is to join a domain and a workgroup"
        yield Hit(view.intent.placed("join", "workgroup"), told, "take one of them out")


@rule(
    "join-without-account",
    Severity.WARNING,
    "Only an account with the right to do so can add a machine to a domain, unless the domain was prepared for it.",
    source=f"{WINDOWS}, UnattendedJoin/Identification/Credentials",
    fires=_DOMAIN,
    silent=f'{_DOMAIN}account = "joiner"\npassword = {{ env = "PW" }}\n',
)
def join_without_account(view: View) -> Iterator[Hit]:
    """A domain without an account, or without its password."""
    join = view.intent.get(JOIN)
    if join is not None and join.domain and not (join.account and join.password):
        missing = "an account" if not join.account else f"the password of {join.account}"
        names = f"{view.called('join.account')} and {view.called('join.password')}"
        hint = f"add {names}, or prepare the machine's account in the domain"
        if not view.limits.joins_with_account:
            missing = "a word on how: the machine's account must stand ready there"
            hint = "say --no-password where it does, or give its --one-time-password"
        yield Hit(view.intent.placed("join", "domain"), f"joining the domain needs {missing}", hint)


@rule(
    "join-account-with-domain",
    Severity.WARNING,
    "The account's name holds a domain, which stands in a field of its own: both together are the name of nobody.",
    source=f"{WINDOWS}, Credentials/Domain and Username",
    fires=_DOMAIN + "account = 'LARKMOOR\\joiner'\npassword = { env = \"PW\" }\n",
    silent=_JOINED + 'account_domain = "LARKMOOR"\n',
)
def join_account_with_domain(view: View) -> Iterator[Hit]:
    """Names with a backslash."""
    join = view.intent.get(JOIN)
    if join is not None and isinstance(join.account, str) and "\\" in join.account and join.domain:
        told = f"{visible(join.account)} names the account's domain too"
        yield Hit(
            view.intent.placed("join", "account"),
            told,
            f"write the name alone, and {view.called('join.account_domain')}",
        )


@rule(
    "machine-named-as-group",
    Severity.WARNING,
    "The machine has the name of its workgroup or domain: the network cannot tell them apart, and setup refuses it.",
    source="the vendor's naming conventions for computers, domains and workgroups",
    fires='[identity]\nname = "LARKMOOR"\n[join]\nworkgroup = "LARKMOOR"\n',
    silent='[identity]\nname = "LMR-DESK-01"\n[join]\nworkgroup = "LARKMOOR"\n',
)
def machine_named_as_group(view: View) -> Iterator[Hit]:
    """One name for both."""
    identity, join = view.intent.get(IDENTITY), view.intent.get(JOIN)
    name = identity.name if identity is not None else None
    if join is None or not isinstance(name, str) or not view.limits.names_shared:
        return
    for group in (join.workgroup, join.domain):
        if isinstance(group, str) and name.casefold() == group.partition(".")[0].casefold():
            told = f"machine and {'workgroup' if group is join.workgroup else 'domain'} are both called {visible(name)}"
            yield Hit(view.intent.placed("identity", "name"), told, "rename the machine")


@rule(
    "unit-elsewhere",
    Severity.WARNING,
    "The organisational unit lies in another domain than the one that is joined.",
    source="RFC 4514, distinguished names; RFC 2247, domains in them",
    fires=_JOINED + 'unit = "OU=Desks,DC=other,DC=example"\n',
    silent=_JOINED + 'unit = "OU=Desks,DC=larkmoor,DC=example"\n',
)
def unit_elsewhere(view: View) -> Iterator[Hit]:
    """Units whose last parts are not the joined domain's."""
    join = view.intent.get(JOIN)
    if join is None or not isinstance(join.domain, str) or not isinstance(join.unit, str):
        return
    parts = [part.strip()[3:] for part in re.split(r"(?<!\\),", join.unit) if part.strip()[:3].upper() == "DC="]
    domain, whole = join.domain.rstrip("."), ".".join(parts)
    # a name without dots is the domain's short one, which need not be a part of the long one
    if parts and "." in domain and whole.casefold() != domain.casefold():
        told = f"the unit lies in {visible(whole)}, and the machine joins {visible(domain)}"
        yield Hit(view.intent.placed("join", "unit"), told, "name a unit of the domain that is joined")


@rule(
    "workgroup-name",
    Severity.ERROR,
    "The name of a workgroup holds characters that it cannot have.",
    source="the vendor's naming conventions for computers, domains and workgroups",
    fires='[join]\nworkgroup = "LARK/MOOR"\n',
    silent='[join]\nworkgroup = "LARKMOOR"\n',
)
def workgroup_name(view: View) -> Iterator[Hit]:
    """Names that no workgroup can have."""
    join = view.intent.get(JOIN)
    name = join.workgroup if join else None
    if isinstance(name, str) and re.search(r'[\\/:*?"<>|,;=+\[\]]', name):
        told = f"{quoted(name)} cannot be the name of a workgroup"
        yield Hit(view.intent.placed("join", "workgroup"), told, "use letters, digits and hyphens")


@rule(
    "domain-name",
    Severity.ERROR,
    "What is given as a domain is none.",
    source="RFC 1123, names of hosts and domains",
    fires='[join]\ndomain = "larkmoor example"\naccount = "joiner"\npassword = { env = "PW" }\n',
    silent='[join]\ndomain = "larkmoor.example"\naccount = "joiner"\npassword = { env = "PW" }\n',
)
def domain_name(view: View) -> Iterator[Hit]:
    """Domains with characters that no domain has."""
    join = view.intent.get(JOIN)
    name = join.domain if join else None
    if isinstance(name, str) and not re.fullmatch(r"[A-Za-z0-9_-]+(\.[A-Za-z0-9_-]+)*\.?", name):
        yield Hit(view.intent.placed("join", "domain"), f"{quoted(name)} is no domain", "write it as larkmoor.example")


@rule(
    "unit-form",
    Severity.ERROR,
    "An organisational unit is written as a distinguished name, with its domain.",
    source="RFC 4514, distinguished names",
    fires='[join]\ndomain = "larkmoor.example"\naccount = "joiner"\npassword = { env = "PW" }\nunit = "Desks"\n',
    silent='[join]\ndomain = "larkmoor.example"\naccount = "joiner"\npassword = { env = "PW" }\n'
    'unit = "OU=Desks,DC=larkmoor,DC=example"\n',
)
def unit_form(view: View) -> Iterator[Hit]:
    """Units that are no distinguished names."""
    join = view.intent.get(JOIN)
    unit = join.unit if join else None
    whole = isinstance(unit, str) and re.match(r"\s*(OU|CN)\s*=", unit, re.IGNORECASE)
    domain = isinstance(unit, str) and re.search(r",\s*DC\s*=", unit, re.IGNORECASE)
    if isinstance(unit, str) and (not whole or (not domain and view.limits.units_with_domain)):
        told = f"{quoted(unit)} is no distinguished name of a unit"
        yield Hit(view.intent.placed("join", "unit"), told, "write it as OU=Desks,DC=larkmoor,DC=example")
