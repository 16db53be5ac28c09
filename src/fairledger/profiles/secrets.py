"""Fetching secrets: by environment, file, keyring or question. Only writing (and comparing) does this."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

from fairledger.model.errors import FileTroubleError, RefusedError
from fairledger.model.values import SecretRef, SecretSource
from fairledger.storage.files import read_text

Ask = Callable[[str], str | None]
"""Asks the person at the terminal, without echo; None if there is nobody."""


class Secrets:
    """Fetches each secret once. ``folder`` is where relative file names start."""

    def __init__(self, folder: Path, ask: Ask | None = None) -> None:
        self._folder = folder
        self._ask = ask
        self._known: dict[SecretRef, str] = {}

    def fetch(self, ref: SecretRef, what: str) -> str:
        """The secret. ``what`` names it in a question. Raises `RefusedError` if no source has it."""
        if ref not in self._known:
            self._known[ref] = self._fetched(ref, what)
        return self._known[ref]

    def _fetched(self, ref: SecretRef, what: str) -> str:
        for source in ref.sources:
            found = self._look(source, what)
            if found is not None:
                return found
        told = "; ".join(source.told() for source in ref.sources)
        raise RefusedError(f"the secret for {what} is not to be had ({told})", remedy=_remedy(ref))

    def _look(self, source: SecretSource, what: str) -> str | None:
        name = str(source.name)
        if source.kind == "value":
            return name
        if source.kind == "env":
            return os.environ.get(name) or None
        if source.kind == "file":
            return self._from_file(self._folder / Path(name).expanduser())
        if source.kind == "keyring":
            return _from_keyring(name)
        return self._ask(what) if self._ask else None

    def _from_file(self, path: Path) -> str | None:
        if not path.is_file():
            return None
        try:
            text = read_text(path)
        except FileTroubleError as error:
            raise RefusedError("the file of a secret cannot be read", file=str(path), remedy=error.message) from error
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
