"""The process that looks into a disc or a folder: it writes what it found to standard output, and may be killed."""

from __future__ import annotations

import os
import stat
import sys
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager
from operator import methodcaller
from pathlib import Path
from typing import IO, Any, cast

import msgspec

from fairledger.media.contents import MOST_FILES, MOST_TEXT, Contents, known, narrowed
from fairledger.media.imagefile import ImageFile, read_images
from fairledger.model.errors import FileTroubleError
from fairledger.storage.looking import is_folder

_DEEPEST = 60
Opener = Callable[[str], AbstractContextManager[IO[bytes]]]


def main() -> int:
    """Looks into what the first argument names."""
    narrowed()
    path = Path(sys.argv[1])
    try:
        found = _of_folder(path) if is_folder(path) else _of_disc(path)
        sys.stdout.buffer.write(msgspec.msgpack.encode(found))
    except MemoryError:
        return 9
    return 0


def _of_folder(path: Path) -> Contents:
    files: list[tuple[str, int]] = []
    problems: list[str] = []
    for above, folders, names in os.walk(path, onerror=lambda error: problems.append(_unread(error))):
        folders.sort()
        here = Path(above).relative_to(path).as_posix()
        for name in sorted(names):
            way = name if here == "." else f"{here}/{name}"
            try:
                found = os.lstat(os.path.join(above, name))  # noqa: PTH118 - many of them
            except OSError:
                continue
            if not stat.S_ISREG(found.st_mode):  # a link leads elsewhere, and a pipe would be waited for
                continue
            size = found.st_size
            files.append((way.encode("utf-8", "replace").decode(), size))
        if len(files) > MOST_FILES:
            raise MemoryError
    texts, images = _looked_into(files, lambda way: cast("IO[bytes]", (path / way).open("rb")), problems)
    return Contents(files=tuple(files), texts=texts, images=images, problems=tuple(problems))


def _unread(error: OSError) -> str:
    return f"a folder cannot be looked into: {error.strerror}"


def _of_disc(path: Path) -> Contents:
    import pycdlib

    disc = pycdlib.PyCdlib()
    try:
        disc.open(str(path))
        way = "udf_path" if disc.has_udf() else "rr_path" if disc.has_rock_ridge() else ""
        way = way or ("joliet_path" if disc.has_joliet() else "iso_path")
        return _listed(disc, way)
    except Exception as error:  # noqa: BLE001 - whatever a broken disc makes a reader of discs do
        return Contents(problems=(f"its directories cannot be read ({type(error).__name__})",))


def _listed(disc: Any, way: str) -> Contents:
    files: list[tuple[str, int]] = []
    begins: dict[int, str] = {}
    for name, record in _walked(disc, way, "/", 0):
        files.append((name[1:], int(record.get_data_length())))
        begins.setdefault(_begin(disc, record, way), name[1:])
        if len(files) > MOST_FILES:
            raise MemoryError
    problems: list[str] = []

    def opened(name: str) -> AbstractContextManager[IO[bytes]]:
        found: AbstractContextManager[IO[bytes]] = disc.open_file_from_iso(**{way: f"/{name}"})
        return found

    texts, images = _looked_into(files, opened, problems)
    forms = ["iso 9660"] + [name for name, has in _FORMS if getattr(disc, has)()]
    return Contents(
        forms=tuple(forms),
        files=tuple(sorted(files)),
        texts=texts,
        images=images,
        starts=tuple(_starts(disc, begins)),
        problems=tuple(problems),
    )


_FORMS = (("joliet", "has_joliet"), ("rock ridge", "has_rock_ridge"), ("udf", "has_udf"))
_UEFI = 0xEF
_HOLDS_OTHERS = methodcaller("is_dir")
"""Asks a record of a disc, not the system."""


def _begin(disc: Any, record: Any, way: str) -> int:
    """The sector where a file begins, as boot records count; -1 where nobody knows it."""
    try:
        if way == "udf_path":
            return int(disc.udf_main_descs.partitions[0].part_start_location + record.alloc_descs[0].log_block_num)
        return int(record.extent_location())
    except Exception:  # noqa: BLE001 - not every record knows it
        return -1


def _walked(disc: Any, way: str, above: str, depth: int) -> Iterator[tuple[str, Any]]:
    if depth > _DEEPEST:
        raise ValueError("too deep")
    for record in disc.list_children(**{way: above}):
        name = _name(record, way) if record is not None else ""
        if not name:
            continue
        here = f"{above.rstrip('/')}/{name}"
        if _HOLDS_OTHERS(record):
            yield from _walked(disc, way, here, depth + 1)
        else:
            yield here, record


def _name(record: Any, way: str) -> str:
    """A file's name; empty for a folder itself, the one above, and names that lead anywhere else."""
    raw = record.rock_ridge.name() if way == "rr_path" and record.rock_ridge is not None else record.file_identifier()
    if raw in (b"", b".", b"..", b"\0", b"\1", b"/"):
        return ""
    name = str(raw.decode("utf-16-be" if way == "joliet_path" else "utf-8", "replace"))
    name = name.partition(";")[0].rstrip(".") if way == "iso_path" else name
    return "" if "/" in name else name


def _starts(disc: Any, begins: dict[int, str]) -> Iterator[tuple[str, str | None]]:
    """What the boot records say."""
    catalog = disc.eltorito_boot_catalog
    if catalog is None:
        return
    rows = [(catalog.validation_entry.platform_id, [catalog.initial_entry])]
    rows += [(section.platform_id, section.section_entries) for section in catalog.sections]
    for platform, entries in rows:
        for entry in entries:
            yield "uefi" if platform == _UEFI else "bios", begins.get(entry.get_rba())


def _looked_into(
    files: list[tuple[str, int]], opened: Opener, problems: list[str]
) -> tuple[dict[str, bytes], dict[str, ImageFile]]:
    """The small files that tell something, and the lists of image files."""
    texts: dict[str, bytes] = {}
    images: dict[str, ImageFile] = {}
    for name, size in files:
        low = name.lower()
        try:
            if low in known().texts and size <= MOST_TEXT:
                with opened(name) as file:
                    texts[low] = file.read(MOST_TEXT)
            elif low in known().images:
                with opened(name) as file:
                    images[low] = read_images(file, size, name)
        except FileTroubleError as error:
            problems.append(f"{name}: {error.message}")
        except Exception as error:  # noqa: BLE001 - whatever a broken disc makes a reader of discs do
            problems.append(f"{name} cannot be read ({type(error).__name__})")
    return texts, images


if __name__ == "__main__":
    raise SystemExit(main())
