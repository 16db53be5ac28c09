"""A folder of one's own beside a large file that is made, which a killed run leaves and the next one clears."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from fairledger.storage.files import alone_in, ready_folder
from fairledger.storage.looking import entries, is_folder, is_there, trouble

_ENDING = ".fairledger-work"


def unfinished_work(path: Path) -> bool:
    """Whether a run that was to make a file was cut short, or still goes on."""
    return is_there(_folder(path))


@contextmanager
def working_beside(path: Path) -> Iterator[Path]:
    """An empty folder for its owner alone, on the same file system; gone afterwards. Raises `FileTroubleError`.

    Whoever else makes the same file meanwhile waits.
    """
    ready_folder(path)
    folder = _folder(path)
    try:
        folder.mkdir(mode=0o700, exist_ok=True)
        with alone_in(folder):
            folder.mkdir(mode=0o700, exist_ok=True)  # whoever was waited for took it away
            for one in entries(folder):
                _gone(one)
            try:
                yield folder.absolute()
            finally:
                shutil.rmtree(folder, ignore_errors=True)
    except OSError as error:
        raise trouble(path, error) from error


def _folder(path: Path) -> Path:
    return path.with_name(f".{path.name}{_ENDING}")


def _gone(path: Path) -> None:
    if is_folder(path) and not path.is_symlink():
        shutil.rmtree(path)
    else:
        path.unlink()
