"""Joining: the manifests of a roster's parts, held against each other and made one."""

from __future__ import annotations

from collections.abc import Iterator
from hashlib import blake2b
from heapq import merge
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from fairledger.fleet.names import alike
from fairledger.fleet.record import Entry, Head, Shard, manifest_in, read_entries, read_head, shards_in
from fairledger.model.errors import WrongUseError
from fairledger.model.finding import Finding, Severity
from fairledger.model.showing import quoted, visible
from fairledger.storage.files import alone_in, write_file
from fairledger.storage.looking import is_folder, is_there, real

_MOST_TOLD = 10
"""Rows that are named; of more only the number is said."""


class Joined(Struct, frozen=True):
    """What came of it."""

    folder: Path
    shards: int
    rows: int
    machines: int
    files: int
    findings: tuple[Finding, ...]
    left: tuple[str, ...]
    """Files of machines that no part has any more."""

    @property
    def errors(self) -> bool:
        """Whether anything is wrong, so that nothing was written."""
        return any(one.severity == Severity.ERROR for one in self.findings)


def join(folder: Path) -> Joined:
    """Holds the manifests of all parts in a folder against each other, and writes one where nothing is wrong.

    Raises `WrongUseError` where there are none, or those of several divisions, `FileTroubleError`.
    """
    if not is_folder(folder):
        raise WrongUseError("this is no folder", file=str(folder), remedy="name that where all shards wrote")
    with alone_in(real(folder)):
        return _joined(folder)


def _joined(folder: Path) -> Joined:
    paths = shards_in(folder)
    counts = sorted({parts for _, parts in paths})
    if not counts:
        remedy = "each comes from: roster write DRAFT TABLE --shard K/N --out FOLDER"
        raise WrongUseError("no manifest of a shard stands here", file=str(folder), remedy=remedy)
    if len(counts) > 1:
        told = f"there are manifests of {' and of '.join(str(one) for one in counts)} shards"
        raise WrongUseError(told, file=str(folder), remedy="take those away that are old")
    heads = {shard: read_head(path) for shard, path in sorted(paths.items())}
    findings = list(_of_parts(heads, paths, counts[0]))
    beside = _Beside()
    machines: set[int] = set()
    files: set[int] = set()
    rows: set[int] = set()
    for shard, path in sorted(paths.items()):
        for entry in (one for one in read_entries(path) if not one.left):
            files.add(hash(entry.file))
            machines.add(hash(entry.machine))
            rows.add(entry.row)
            findings += beside.clashes(entry, path)
            if not is_there(folder / entry.file):
                findings.append(
                    _wrong("shard-file", f"{quoted(entry.file)} is not there", "write the shard again", path)
                )
            if entry.row % counts[0] != shard[0] % counts[0]:
                told = f"row {entry.row:,} belongs to another shard"
                findings.append(_wrong("shard-row", told, "write the shard again", path))
    findings += _untold(heads, rows, paths)
    old = [one for path in (manifest_in(folder), *paths.values()) for one in read_entries(path)]
    gone = {one.file: one for one in old if hash(one.file) not in files and is_there(folder / one.file)}
    joined = Joined(
        folder,
        counts[0],
        max(one.rows for one in heads.values()),
        len(machines),
        len(files),
        tuple(sorted(dict.fromkeys(findings), key=lambda one: one.sort_key)),
        tuple(gone),
    )
    if not joined.errors:
        parts = merge(*(_lines(path) for path in paths.values()), key=lambda one: (one.row, one.file))
        left = (replace(one, left=True, own=()) for one in gone.values())
        write_file(manifest_in(folder), (one.line().encode() for one in (*parts, *left)), replace=True)
    return joined


def _lines(path: Path) -> Iterator[Entry]:
    """The entries of a part as they stand in the whole."""
    return (replace(one, own=()) for one in read_entries(path) if not one.left)


class _Beside:
    """What was seen so far that must be one machine's own."""

    def __init__(self) -> None:
        self._seen: dict[int, int] = {}

    def clashes(self, entry: Entry, path: Path) -> Iterator[Finding]:
        """What another row has already."""
        for told in (f"file {alike(entry.file)}", *entry.own):
            digest = blake2b(told.encode("utf-8", "surrogatepass"), digest_size=8).digest()
            first = self._seen.setdefault(int.from_bytes(digest), entry.row)
            if first != entry.row:
                kind, _, said = told.partition(" ")
                sentence = f"row {entry.row:,}: the {visible(kind)} {quoted(said[:80])} is that of row {first:,} too"
                yield _wrong("machine-twice", sentence, "give each machine its own, and write both shards again", path)


def _of_parts(heads: dict[Shard, Head], paths: dict[Shard, Path], count: int) -> Iterator[Finding]:
    """Whether all parts are there, and are of one table."""
    for part in range(1, count + 1):
        if (part, count) not in heads:
            told = f"shard {part} of {count} is not there"
            yield Finding("shard-missing", Severity.ERROR, told, f"write it: --shard {part}/{count}")
    first = next(iter(heads.values()))
    for shard, head in heads.items():
        if head.shard != shard or (head.rows, head.table) != (first.rows, first.table):
            told = "the shard was written from another table than the first"
            yield _wrong("shard-table", told, "write it again from the same table", paths[shard])


def _untold(heads: dict[Shard, Head], rows: set[int], paths: dict[Shard, Path]) -> Iterator[Finding]:
    """What nobody can vouch for."""
    for shard, head in heads.items():
        if head.refused:
            named = ", ".join(f"{one:,}" for one in head.refused[:_MOST_TOLD])
            more = f", and {len(head.refused) - _MOST_TOLD:,} more" if len(head.refused) > _MOST_TOLD else ""
            told = f"rows came to no machine: {named}{more}"
            yield Finding("shard-refused", Severity.WARNING, told, "mend them, and write again", file=str(paths[shard]))
        expected = range(shard[0], head.rows + 1, shard[1])
        missing = [one for one in expected if one not in rows and one not in head.refused]
        if missing:
            named = ", ".join(f"{one:,}" for one in missing[:_MOST_TOLD])
            more = f", and {len(missing) - _MOST_TOLD:,} more" if len(missing) > _MOST_TOLD else ""
            yield _wrong("shard-row", f"rows are missing: {named}{more}", "write the shard again", paths[shard])
        for name in head.untold:
            told = f"the column {quoted(name)} is secret: nobody knows whether two shards have one value in it"
            yield Finding("shard-untold", Severity.WARNING, told, "roster check looks through the whole table")
    if any(head.table is None for head in heads.values()):
        told = "a column fills a secret: nobody knows whether all shards come from one and the same table"
        yield Finding("shard-untold", Severity.WARNING, told, "see that it was not changed in between")


def _wrong(rule: str, told: str, hint: str, path: Path) -> Finding:
    return Finding(rule, Severity.ERROR, told, hint, file=str(path))
