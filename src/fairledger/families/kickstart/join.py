"""Joining a domain in the words of kickstart: with a password that counts once, or with none.

The installer knows no account that adds machines; the machine's account must stand ready in the domain.
"""

from __future__ import annotations

from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.fields import secret_of
from fairledger.families.kickstart.lines import has
from fairledger.intent.join import Join
from fairledger.model.values import SecretRef


def _password(value: Join) -> SecretRef | None:
    """The password that counts once: only where it is not that of an account that adds machines."""
    return value.password if value.account is None and value.password and value.password.form == "plain" else None


def canonical(value: Join, words: Words) -> Join | None:
    """Domain, unit, and the password that counts once."""
    if value.domain is None or not has(words, "realm"):
        return None
    return Join(domain=value.domain, unit=value.unit, password=_password(value))


def translate(value: Join, words: Words) -> None:
    """One command."""
    if value.workgroup is not None:
        words.leave_out(("join",), value, ("workgroup",), "its system knows no workgroups without further software")
    if value.domain is None:
        return
    if not has(words, "realm"):
        why = "its installer joins no domain"
        words.cannot(("join", "domain"), "joining a domain", why, "join it after the first start")
        return
    if value.account is not None or (value.password is not None and _password(value) is None):
        why = "it joins with a password that counts once, or with none"
        hint = "prepare the machine's account in the domain and give its one-time password as join.password"
        words.cannot(("join", "account"), "an account that adds machines", why, hint)
    line = words.out.block("setup", "realm", words.origin("join"))
    line.put("command", "join", words.origin("join", "domain"))
    if value.unit is not None:
        line.put("--computer-ou", value.unit, words.origin("join", "unit"))
    secret = _password(value)
    if secret is not None:
        line.put("--one-time-password", secret, words.origin("join", "password"))
    else:
        line.put("--no-password", "true", words.origin("join"))
    line.put("domain", value.domain, words.origin("join", "domain"))


def recognise(reader: Reader) -> Join | None:
    """The command, if it says nothing that a section cannot hold."""
    for root in reader.find("setup", "realm", ""):
        domain = text_of(root.child("domain"))
        if domain is None or root.child("command") is None:
            continue
        unit = text_of(root.child("--computer-ou"))
        password = secret_of(root, "--one-time-password")
        for setting, field in (
            ("command", "domain"),
            ("domain", "domain"),
            ("--computer-ou", "unit"),
            ("--one-time-password", "password"),
            ("--no-password", "password"),
        ):
            if setting != "--one-time-password" or password is not None:
                reader.take(root.child(setting), "join", field)
        return Join(domain=domain, unit=unit, password=password)
    return None
