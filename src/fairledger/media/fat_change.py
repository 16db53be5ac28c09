"""Changing files in a small volume with FAT: the image that firmware starts from a disc.

The library writes; that all else stayed as it was is shown by reading it again, by other ways than those.
"""

from __future__ import annotations

import io
import tempfile
import warnings
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from fairledger.media.contents import contents_of
from fairledger.media.stretches import Within
from fairledger.model.errors import FileTroubleError

_REMEDY = "use an answer disc beside the untouched original"


def files_in(data: bytes) -> dict[str, bytes]:
    """The files of a volume. Raises `FileTroubleError` where it cannot be read as a whole."""
    with tempfile.TemporaryDirectory(prefix="fairledger-") as folder:
        path = Path(folder) / "volume.img"
        path.write_bytes(data)
        found = contents_of(path, 0, places=True)
    if found.partly or found.problems:
        raise FileTroubleError(
            "the volume that firmware starts from cannot be read", file="the boot image", remedy=_REMEDY
        )
    if len({name for name, _ in found.files}) != len(found.files):
        raise FileTroubleError("two files of one name stand in it", file="the boot image", remedy=_REMEDY)
    return {name: Within(io.BytesIO(data), found.places[name], size).read() for name, size in found.files}


def with_files(data: bytes, new: Mapping[str, bytes]) -> bytes:
    """A volume in which some of its files hold something else. Raises `FileTroubleError` where that cannot be done."""
    before = files_in(data)
    with tempfile.TemporaryDirectory(prefix="fairledger-") as folder:
        path = Path(folder) / "volume.img"
        path.write_bytes(data)
        try:
            _write(path, new)
        except Exception as error:
            told = "the volume that firmware starts from cannot be changed: it is full, or of an unusual form"
            raise FileTroubleError(told, file="the boot image", remedy=_REMEDY) from error
        made = path.read_bytes()
    if files_in(made) != {**before, **new} or len(made) != len(data):
        told = "changing the volume that firmware starts from did not come to what was meant"
        raise FileTroubleError(told, file="the boot image", remedy=_REMEDY)
    return made


def _write(path: Path, new: Mapping[str, bytes]) -> None:
    from pyfatfs.PyFatFS import PyFatFS

    warnings.simplefilter("ignore")
    volume = PyFatFS(str(path))
    try:
        for name, data in new.items():
            with volume.openbin(_own_name(volume.fs.root_dir, name), "w") as file:
                file.write(data)
    finally:
        volume.close()


def _own_name(folder: Any, name: str) -> str:
    """A path as the library writes it, which takes short names in other letters for new ones."""
    from fairledger.media.inside_fat import name_of

    here, out = folder, ""
    for part in name.split("/"):
        folders, files, _ = here.get_entries()
        here = next(one for one in (*folders, *files) if name_of(one) == part)
        out += f"/{here}"
    return out
