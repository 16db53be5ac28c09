"""Salts of password hashes: from a public random seed that a project keeps, and the account; never from the secret.

With a seed the same draft, values and secrets give the same bytes, and another project's are others. A salt is not
secret: it keeps one table of guesses from serving for every hash.
"""

from __future__ import annotations

import hashlib
from base64 import b64encode
from collections.abc import Callable
from pathlib import Path

from fairledger.model.errors import FileTroubleError, RefusedError, WrongUseError
from fairledger.model.pattern import pattern
from fairledger.storage.files import read_text, write_file
from fairledger.storage.looking import is_file

NAME = ".fairledger-seed"
"""The file that holds the seed, in the nearest folder upwards that has one; it belongs into version control."""
_SEED = pattern("[0-9a-f]{32}")

Salt = Callable[[str], str]
"""By the account: 16 characters of ``./0-9A-Za-z``."""


def salt_of(seed: str, account: str, machine: str = "") -> str:
    """A salt of 16 characters of ``./0-9A-Za-z``, from 32 hex digits, the account, and perhaps the machine's name."""
    told = "\0".join(("fair-ledger", seed, account, machine)).encode("utf-8", "surrogatepass")
    return b64encode(hashlib.sha256(told).digest(), altchars=b"./").decode()[:16]


def for_comparing(account: str) -> str:
    """A salt for hashes that are only held against each other and never written."""
    return salt_of("0" * 32, account)


class Seeds:
    """The seed of a project, looked for when the first hash is made, and made where there is none."""

    def __init__(self, folder: Path, given: str | None = None, *, own_salt: bool = False) -> None:
        """``given`` counts instead of a file; with ``own_salt`` each machine has salts of its own.

        Raises `WrongUseError` for a seed that is none.
        """
        if given is not None and not _SEED.fullmatch(given):
            raise WrongUseError(f"{given!r} is no seed", remedy="a seed has 32 digits of 0-9 and a-f")
        self.folder = folder
        self._seed = given
        self.own_salt = own_salt
        self.made: Path | None = None
        """The file that was made for a new seed."""

    def salt(self, account: str, machine: str = "") -> str:
        """The salt of an account's hash. Raises `RefusedError` where there is no seed and none can be made."""
        if self._seed is None:
            self._seed = self._found() or self._new()
        return salt_of(self._seed, account, machine if self.own_salt else "")

    def _found(self) -> str | None:
        for folder in (self.folder.absolute(), *self.folder.absolute().parents):
            path = folder / NAME
            if is_file(path):
                seed = read_text(path).strip()
                if not _SEED.fullmatch(seed):
                    remedy = "take it from version control, or delete it for a new one: all hashes change then"
                    raise RefusedError("this is no seed of 32 hex digits", file=str(path), remedy=remedy)
                return seed
        return None

    def _new(self) -> str:
        from secrets import token_hex

        path, seed = self.folder / NAME, token_hex(16)
        try:
            write_file(path, f"{seed}\n".encode())
        except FileTroubleError as error:
            told = "hashes need a seed, and none can be put here"
            raise RefusedError(told, file=str(path), remedy=f"say --seed {seed}, and keep that number") from error
        except RefusedError:  # somebody else was faster
            found = self._found()
            if found is None:
                raise
            return found
        self.made = path
        return seed
