"""Whether a disc that was made anew is the original with what was meant to be other: read by none that made it."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from fairledger.delivery.rebuild import WINDOWS_BOOTS, Changes
from fairledger.media.contents import contents_of
from fairledger.media.disc import head_of
from fairledger.media.original import EFI_PARTITIONS, Original
from fairledger.model.errors import FileTroubleError

_CATALOG = ("boot.cat", "boot.catalog")


def differing(original: Original, changes: Changes, made: Path) -> list[str]:
    """What is not as it was meant. Raises `FileTroubleError` where it cannot be read."""
    found = contents_of(made, places=True)
    if found.partly or found.problems:
        raise FileTroubleError("the new disc cannot be read as a whole", file=str(made))
    new = Original(made, found)
    return [*_heads(original, new), *_files(original, changes, new), *_starts(original, changes, new)]


def _heads(original: Original, new: Original) -> Iterator[str]:
    before, after = head_of(original.path), head_of(new.path)
    if before is None or after is None or before.label != after.label:
        yield "its label is another"
    lost = set(original.found.forms) - set(new.found.forms)
    if lost:
        yield f"its directories are no longer written as {', '.join(sorted(lost))}"
    if original.table != new.table:
        yield "the partition table in front of it is another, so that it would not start as a stick"
    elif original.table and original.code != new.code:
        yield "the code in front of it is another, so that it would not start as a stick"


def _files(original: Original, changes: Changes, new: Original) -> Iterator[str]:
    wanted = {**original.sizes, **{path: len(data) for path, data in changes.files.items()}}
    for path in sorted(wanted.keys() ^ new.sizes.keys()):
        if path.lower().rpartition("/")[2] not in _CATALOG:
            yield f"{path} {'is missing' if path in wanted else 'stands on it, and not on the original'}"
    for path, size in wanted.items():
        if path in new.sizes and new.sizes[path] != size:
            yield f"{path} has {new.sizes[path]:,} bytes, and should have {size:,}"
    for path, data in changes.files.items():
        if path in new.sizes and new.read(path) != data:
            yield f"{path} does not hold what was written"


def _starts(original: Original, changes: Changes, new: Original) -> Iterator[str]:
    """Whether the same firmware starts the same from it."""
    if [one.firmware for one in original.boots] != [one.firmware for one in new.boots]:
        yield "the same firmware does not start it"
        return
    windows = "udf" in original.found.forms
    for before, after in zip(original.boots, new.boots, strict=True):
        name = WINDOWS_BOOTS[before.firmware] if windows else original.started(before)
        started = new.started(after)
        if name is not None:
            if (started or "").casefold() != name.casefold():
                yield f"{before.firmware} starts something else from it"
            continue
        part = next((one for one in new.partitions if one.place == after.place), None)
        wanted = changes.boot_image or _image(original)
        if part is None or wanted is None or new.read_partition(part)[: len(wanted)] != wanted:
            yield f"what {before.firmware} starts from it is not what was meant"
    yield from _partition(original, changes, new)


def _image(original: Original) -> bytes | None:
    one = original.appended()
    return original.read_partition(one) if one is not None else None


def _partition(original: Original, changes: Changes, new: Original) -> Iterator[str]:
    """Partitions that firmware starts from, where it is a stick."""
    before = [one for one in original.partitions if one.kind in EFI_PARTITIONS]
    after = [one for one in new.partitions if one.kind in EFI_PARTITIONS]
    if len(before) != len(after):
        yield "another number of partitions is started by firmware"
    elif original.appended() is not None:
        wanted = changes.boot_image or _image(original)
        if not any(wanted is not None and new.read_partition(one)[: len(wanted)] == wanted for one in after):
            yield "the partition that firmware starts does not hold what was meant"
