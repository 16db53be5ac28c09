"""Accounts that need no password for sudo: a script after the installation, since no command says so."""

from __future__ import annotations

from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.fields import only
from fairledger.families.kickstart.lines import has
from fairledger.model.pattern import pattern
from fairledger.model.places import Origin
from fairledger.model.values import Text

_AFTER = ("post", "%post")
_NAME = pattern(r"[a-z_][a-z0-9_-]{0,31}")
_HEAD = pattern(r"# Lets ([a-z_][a-z0-9_-]{0,31}) do everything with sudo, without a password\n")
NAMES = "lower-case letters, digits, hyphens and underscores"


def can(name: Text, words: Words) -> bool:
    """Whether a script can say it of an account of that name: in the file that it writes, others mean something."""
    return isinstance(name, str) and _NAME.fullmatch(name) is not None and has(words, _AFTER[1])


def _script(name: str) -> str:
    return f"""# Lets {name} do everything with sudo, without a password
umask 0227
echo '{name} ALL=(ALL) NOPASSWD: ALL' >/etc/sudoers.d/{name}
chmod 0440 /etc/sudoers.d/{name}"""


def translate(name: str, origin: Origin, words: Words) -> None:
    """The script, which stops the installation where it fails: nobody could look after the machine."""
    block = words.out.block(*_AFTER, origin, again=True)
    block.put("--erroronfail", "true", origin)
    block.put("body", _script(name), origin)


def recognise(reader: Reader, accounts: dict[Text, int]) -> list[Text]:
    """The accounts of which scripts in our own form say it; ``accounts`` are those that the file makes, by place."""
    found: list[Text] = []
    for root in reader.find(*_AFTER, ""):
        body = text_of(root.child("body"))
        head = _HEAD.match(body) if isinstance(body, str) else None
        if head is None or not isinstance(body, str) or head[1] not in accounts:
            continue
        if body.rstrip("\n") == _script(head[1]) and only(root, "--erroronfail", "body"):
            reader.take_block(root, "account", "local", accounts[head[1]], "sudo_without_password")
            for child in root.children:
                reader.take(child)
            found.append(head[1])
    return found
