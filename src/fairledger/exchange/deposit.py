"""Writing what adopting came to: the draft, its secrets, a roster's first row; all or none."""

from __future__ import annotations

import csv
from io import StringIO
from pathlib import Path
from typing import TYPE_CHECKING

from fairledger.authoring.secrecy import holds_secret
from fairledger.model.errors import RefusedError
from fairledger.storage.files import read_bytes
from fairledger.storage.looking import is_there
from fairledger.storage.together import Piece, write_together

if TYPE_CHECKING:
    from fairledger.exchange.adopt import Adopted


def deposit(adopted: Adopted, out: Path, *, parameters: bool, replace: bool) -> list[Path]:
    """Writes the files, the draft first. Raises `RefusedError` if one of them exists and may not be replaced."""
    files: list[tuple[Path, bytes, bool]] = [
        (out, adopted.text.encode("utf-8", "surrogatepass"), holds_secret(adopted.text))
    ]
    files += [(out.parent / name, (secret + "\n").encode(), True) for name, secret in adopted.secrets.items()]
    if parameters and any(not row.stays for row in adopted.own):
        rows = {row.name: row.value for row in adopted.own if not row.stays}
        held = StringIO()
        writer = csv.writer(held, lineterminator="\n")
        writer.writerow(rows)
        writer.writerow(rows.values())
        files.append((out.with_suffix(".csv"), held.getvalue().encode(), False))
    for path, data, _ in files:
        if is_there(path) and not replace and read_bytes(path) != data:
            raise RefusedError("the file exists already", file=str(path), remedy="allow it with --replace")
    write_together([Piece(path, data, private) for path, data, private in files], replace=True)
    return [path for path, _, _ in files]
