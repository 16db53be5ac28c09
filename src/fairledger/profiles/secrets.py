"""Fetching secrets: by environment, file, keyring or question. Only writing (and comparing) does this."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

from fairledger.model.errors import FileTroubleError, RefusedError
from fairledger.model.pattern import pattern
from fairledger.model.values import SecretRef, SecretSource
from fairledger.profiles.seed import Seeds
from fairledger.storage.files import read_text
from fairledger.storage.looking import is_file, real

Ask = Callable[[str], str | None]
"""Asks the person at the terminal, without echo; None if there is nobody."""


_MOST_KEPT = 1000


_MOST_BYTES = 4_096
_CONTROL = pattern(r"[\x00\r\n\ud800-\udfff]")


def _examine(secret: str, what: str) -> None:
    """Refuses what no place holds; what a family cannot carry its writer refuses."""
    odd = _CONTROL.search(secret)
    if odd is not None:
        told = "a line end" if odd[0] in "\r\n" else f"the control character U+{ord(odd[0]):04X}"
        raise RefusedError(f"the secret for {what} holds {told}", remedy="is it the right file or variable?")
    if len(secret.encode()) > _MOST_BYTES:
        raise RefusedError(f"the secret for {what} has more than {_MOST_BYTES:,} bytes", remedy="is it the right one?")


class Secrets:
    """Fetches each secret once, and asks once for each thing. ``folder`` is where relative file names start."""

    def __init__(self, folder: Path, ask: Ask | None = None, seeds: Seeds | None = None) -> None:
        self.seeds = seeds or Seeds(folder)
        """Where the salts of hashes come from."""
        self._folder = folder
        self._ask = ask
        self._hidden: dict[tuple[object, ...], str] = {}
        """Secrets in the form in which they are written, by what they are for: many machines share one."""
        self.shared: dict[int, tuple[object, str, bool]] = {}
        """Secrets as they are written that are the same for every machine: by the identity of their place, which is
        kept with them so that it stays theirs, and whether that is another form than their own."""
        self.outside: list[str] = []
        """Files outside of the folder, links followed, from which secrets were read."""
        self._known: dict[SecretRef, str] = {}
        """The latest `_MOST_KEPT` of them: many machines may each have their own."""
        self._answers: dict[str, str | None] = {}
        """What was asked, by what it is for: two accounts that are both asked for have two passwords."""

    @property
    def asked(self) -> bool:
        """Whether anybody was asked for one."""
        return bool(self._answers)

    def fetch(self, ref: SecretRef, what: str) -> str:
        """The secret. ``what`` names it in a question. Raises `RefusedError` if no source has it."""
        if ref in self._known:
            return self._known[ref]
        for source in ref.sources:
            found = self._look(source, what)
            if found is not None:
                _examine(found, what)
                if source.kind != "ask":
                    self._keep(ref, found)
                return found
        told = "; ".join(source.told() for source in ref.sources)
        raise RefusedError(f"the secret for {what} is not to be had ({told})", remedy=_remedy(ref))

    def hidden(self, key: tuple[object, ...], machine: str, hide: Callable[[], str]) -> str:
        """A secret as ``hide`` makes it, once for each key; for each machine anew where each has a salt of its own."""
        whole = (*key, machine if self.seeds.own_salt else "")
        if whole not in self._hidden:
            if len(self._hidden) >= _MOST_KEPT:
                del self._hidden[next(iter(self._hidden))]
            self._hidden[whole] = hide()
        return self._hidden[whole]

    def _keep(self, ref: SecretRef, secret: str) -> None:
        if len(self._known) >= _MOST_KEPT:
            del self._known[next(iter(self._known))]
        self._known[ref] = secret

    def _look(self, source: SecretSource, what: str) -> str | None:
        name = str(source.name)
        if source.kind == "value":
            return name
        if source.kind == "env":
            return os.environ.get(name) or None
        if source.kind == "file":
            try:
                path = Path(name).expanduser()
            except RuntimeError as error:  # the account whose folder is meant does not exist
                raise RefusedError(f"{name} names nobody's folder", remedy="write the whole path") from error
            return self._from_file(self._folder / path)
        if source.kind == "keyring":
            return _from_keyring(name)
        if what not in self._answers:
            self._answers[what] = self._ask(what) if self._ask else None
        return self._answers[what]

    def _from_file(self, path: Path) -> str | None:
        if not is_file(path):
            return None
        try:
            text = read_text(path)
        except FileTroubleError as error:
            raise RefusedError("the file of a secret cannot be read", file=str(path), remedy=error.message) from error
        where = real(path)
        if not where.is_relative_to(real(self._folder)) and str(where) not in self.outside:
            self.outside.append(str(where))
        return text.removesuffix("\n").removesuffix("\r") or None


def _from_keyring(name: str) -> str | None:
    try:
        import keyring
    except ImportError as error:
        raise RefusedError(
            "secrets in a keyring need the extra package keyring", remedy='install "fair-ledger[keyring]"'
        ) from error
    found: str | None = keyring.get_password("fairledger", name)
    return found or None


def _remedy(ref: SecretRef) -> str:
    for source in ref.sources:
        if source.kind == "env":
            return f"set the environment variable {source.name}"
        if source.kind == "file":
            return f"put it into the file {source.name}"
        if source.kind == "keyring":
            return f"store it in the keyring as fairledger / {source.name}"
    return "run it in a terminal, or add a source such as env to the reference"
