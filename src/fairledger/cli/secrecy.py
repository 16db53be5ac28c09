"""What is told of secrets that were fetched."""

from __future__ import annotations

from fairledger.cli.console import Console
from fairledger.profiles.secrets import Secrets
from fairledger.profiles.seed import Seeds


def tell_of(secrets: Secrets | None, seeds: Seeds, console: Console) -> None:
    """Where secrets came from that lie elsewhere, and the seed if it was made now."""
    for where in secrets.outside if secrets is not None else ():
        console.note(f"a secret was read from outside of the draft's folder: {where}")
    if seeds.made is not None:
        console.note(f"made {seeds.made}: the salts of hashes come from it; keep it under version control")
