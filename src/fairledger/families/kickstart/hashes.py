"""Hashes of passwords, in the form that each command takes."""

from __future__ import annotations

import hashlib
from functools import lru_cache

from fairledger.profiles.hashes import unix_hash

BOOT_LOADER = "bootloader"
_ROUNDS = 10_000
"""As many as the boot loader's own tool takes."""


@lru_cache(maxsize=64)
def hashed(secret: str, command: str, salt: str) -> str:
    """A hash with that salt: for accounts as in the system's own files, for the boot loader in its own form."""
    if command != BOOT_LOADER:
        return unix_hash(secret, salt)
    grains = hashlib.sha512(salt.encode()).digest()
    made = hashlib.pbkdf2_hmac("sha512", secret.encode("utf-8", "surrogatepass"), grains, _ROUNDS, 64)
    return f"grub.pbkdf2.sha512.{_ROUNDS}.{grains.hex().upper()}.{made.hex().upper()}"
