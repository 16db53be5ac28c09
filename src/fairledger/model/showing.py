"""How values and texts are shown to a person: nothing that is not seen, and no password."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

from fairledger.model.pattern import pattern
from fairledger.model.values import SecretRef, Template


def shown(value: Any, *, secret: bool = False) -> str:
    """A value as it may be shown to a person; ``secret`` hides plain text."""
    if isinstance(value, SecretRef | Template):
        return visible(str(value))
    if secret and value not in (None, ""):
        return "(hidden)"
    return "" if value is None else visible(discreet(str(value)))


def visible(text: str) -> str:
    """Text as it may be shown: control and direction-changing characters as escapes, no password of an address."""
    text = without_addressed(text)
    if text.isprintable():
        return text
    return "".join(char if char.isprintable() else char.encode("unicode_escape").decode() for char in text)


def without_addressed(text: str) -> str:
    """Text without the passwords of addresses."""
    return _USER_INFORMATION.sub(r"\1(hidden)@", text) if "://" in text and "@" in text else text


def quoted(text: str) -> str:
    """Text as it may be shown, in quotes.

    >>> print(quoted("a\\x1bb"))
    'a\\x1bb'
    """
    return f"'{visible(text)}'"


_USER_INFORMATION = pattern(r"(\b[A-Za-z][A-Za-z0-9+.-]{1,15}://[^/\s:@]{1,200}:)[^/\s@]+@")


def hidden_in(text: str, secrets: Iterable[str]) -> str:
    """Text in which no secret stands any more, neither as it is nor as XML writes it."""
    from html import escape

    for secret in secrets:
        for written in {secret.strip(), escape(secret.strip(), quote=False)} - {""}:
            text = text.replace(written, "(hidden)")
    return text


_SECRET = ("password", "passwd", "passphrase", "secret", "token", "wpakey", "privatekey", "apikey")


def looks_secret(name: str) -> bool:
    """Whether a setting that no catalog knows is better not shown, by its name."""
    folded = name.casefold()
    return any(word in folded for word in _SECRET)


_WORD = r"""(?:"(?![$%{(<*])[^"\n]{1,200}"|'(?![$%{(<*])[^'\n]{1,200}'|(?![-/$%{(<*"'|&;])[^\s"'|&;<>]{1,200})"""
"""A word that says what it says: nothing that a shell works out, no option."""
_USER = r"""["']?[^\s:"']{1,99}"""
_PASSWORDS = tuple(
    pattern(told.replace("{word}", f"(?P<secret>{_WORD})").replace("{user}", _USER), re.IGNORECASE)
    for told in (
        r"(?<![\w/])--?(?:admin-?|user-?|root-?)?pass(?:word|wd|phrase)?(?:\s{1,9}|\s{0,9}[=:]\s{0,9}){word}",
        r"/(?:rp|pwd?|pass(?:word)?):{word}",
        r"\s/(?:rp|password)\s{1,9}{word}",
        r"\bnet1?(?:\.exe)?\s{1,9}user\s{1,9}[^\s/]\S{0,99}\s{1,9}{word}",
        r"\bnet1?(?:\.exe)?\s{1,9}use\s[^\n]{0,200}?/u(?:ser)?:\S{1,99}\s{1,9}{word}",
        r"\bnet1?(?:\.exe)?\s{1,9}use\s{1,9}(?:\w:\s{1,9})?\\\\\S{1,200}\s{1,9}{word}\s{1,9}/u(?:ser)?:",
        r"\b(?:curl|wget)\b[^\n|;&]{0,300}?\s(?:-u\s{0,9}|--user[ =]){user}:(?P<secret>[^\s\"'$]{1,200})",
        r"\b(?:sshpass|psexec(?:64)?|mysql\w{0,9}|7z\w?|plink|pscp)\b[^\n|;&]{0,200}?\s-(?:p|pw)\s{0,9}{word}",
        r"(?<![\w$:-])(?!publicKeyToken\b)[A-Z0-9_]{0,40}(?:PASSWORD|PASSWD|PASSPHRASE|SECRET|TOKEN)[A-Z0-9_]{0,40}\s{0,9}=\s{0,9}{word}",
        r"\$[A-Z0-9_:]{0,40}(?:PASS|SECRET|TOKEN)[A-Z0-9_]{0,40}\s{0,9}=\s{0,9}(?=[\"']){word}",
        r"\brootpw\s{1,9}(?:--plaintext\s{1,9})?{word}",
        r"\bpass:{word}",
        r"\bConvertTo-SecureString\s{1,9}(?:-String\s{1,9})?{word}",
        r"\becho\s{1,9}(?P<secret>[^\n|>]{1,200})\|\s{0,9}(?:sudo\s{1,9})?passwd\s[^\n]{0,99}--stdin",
        r"\becho\s{1,9}[^\n|:>]{1,99}:(?P<secret>[^\n|>]{1,200})\|\s{0,9}(?:sudo\s{1,9})?chpasswd(?!\s{1,9}(?:-e|--encrypted))\b",
        r"\bAuthorization:\s{0,9}(?:Basic|Bearer)\s{1,9}(?P<secret>[^\s\"']{4,400})",
    )
)
_NEAR = (
    *("pass", "rootpw", "/rp", "/pw", "net", "curl", "wget", "psexec", "mysql", "7z", "plink", "pscp"),
    *("secret", "token", "securestring", "authorization"),
)


_KEY = pattern(r"/ipk\s{1,9}(?P<secret>[A-Za-z0-9-]{5,40})", re.IGNORECASE)


def passwords_in(text: str) -> list[tuple[int, int]]:
    """Where passwords seem to stand in commands, from and to; mostly nowhere."""
    folded = text.lower()
    if not any(word in folded for word in _NEAR):
        return []
    found = (match.span("secret") for one in _PASSWORDS for match in one.finditer(text))
    return sorted(span for span in found if not _NO_SECRET.fullmatch(text[slice(*span)].strip()))


_NO_SECRET = pattern(r"[\"']?(?:\$6?\$?|/add|/delete|true|false|yes|no|null|none)?[\"']?", re.IGNORECASE)


def discreet(text: str) -> str:
    """A text of a file without the passwords that seem to stand in commands."""
    out, at = [], 0
    keys = [match.span("secret") for match in _KEY.finditer(text)] if "/ipk" in text.lower() else []
    for start, end in sorted((*passwords_in(text), *keys)):
        if start >= at:
            out += [text[at:start], "(hidden)"]
        at = max(at, end)
    return "".join((*out, text[at:])) if out else text
