"""Unix hashes of passwords, the same for the same password, machine and account."""

from __future__ import annotations

import hashlib


def hashed(secret: str, account: str, machine: str = "") -> str:
    """A SHA-512 hash of the form ``$6$``, with a salt that follows from what is hashed."""
    from passlib.hash import sha512_crypt

    told = "\0".join((machine, account, secret)).encode("utf-8", "surrogatepass")
    salt = hashlib.sha256(b"fair-ledger\0" + told).hexdigest()[:16]
    made: str = sha512_crypt.using(salt=salt, rounds=5000).hash(secret)
    return made
