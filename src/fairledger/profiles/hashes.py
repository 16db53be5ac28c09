"""Hashes of passwords, as the installers of Unix systems take them."""

from __future__ import annotations


def unix_hash(secret: str, salt: str | None = None) -> str:
    """A hash of the form ``$6$`` (SHA-512), which the installers of Unix systems accept.

    ``salt`` has up to 16 characters of ``./0-9A-Za-z``; a random one if none is given.
    """
    from passlib.hash import sha512_crypt

    known = sha512_crypt.using(rounds=5000, **({"salt": salt} if salt else {}))
    made: str = known.hash(secret)
    return made


def hash_fits(secret: str, hashed: str) -> bool:
    """Whether a Unix hash is that of a secret; false for hashes of unknown forms."""
    from passlib.context import CryptContext

    try:
        return bool(CryptContext(["sha512_crypt", "sha256_crypt", "md5_crypt", "bcrypt"]).verify(secret, hashed))
    except (ValueError, TypeError):
        return False
