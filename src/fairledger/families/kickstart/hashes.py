"""Unix hashes of passwords, the same for the same password, machine and account."""

from __future__ import annotations

import hashlib

from fairledger.profiles.hashes import unix_hash


def hashed(secret: str, account: str, machine: str = "") -> str:
    """A hash whose salt follows from what is hashed, so that the same draft gives the same bytes."""
    told = "\0".join((machine, account, secret)).encode("utf-8", "surrogatepass")
    return unix_hash(secret, hashlib.sha256(b"fair-ledger\0" + told).hexdigest()[:16])
