"""Looking what is there: a place that may not be looked into is trouble, never an empty one."""

from __future__ import annotations

import os
import stat
from pathlib import Path

from fairledger.model.errors import FileTroubleError


def is_file(path: Path) -> bool:
    """Whether a file stands there. Raises `FileTroubleError` where nobody may look."""
    return stat.S_ISREG(_mode(path))


def is_folder(path: Path) -> bool:
    """Whether a folder stands there. Raises `FileTroubleError` where nobody may look."""
    return stat.S_ISDIR(_mode(path))


def must_be_file(path: Path) -> None:
    """Raises `FileTroubleError` where no file stands that can be read from any place of it."""
    if not is_file(path):
        told = "this is a pipe or a device, not a file" if is_there(path) else "there is no such file"
        raise FileTroubleError(told, file=str(path), remedy="check the name")


def is_there(path: Path) -> bool:
    """Whether anything stands there. Raises `FileTroubleError` where nobody may look."""
    return _mode(path) != 0


def entries(folder: Path, ending: str = "", beginning: str = "") -> tuple[Path, ...]:
    """What stands in a folder, by name; nothing where there is no folder. Raises `FileTroubleError`."""
    try:
        names = (path.name for path in folder.iterdir())
        return tuple(
            folder / name for name in sorted(one for one in names if one.endswith(ending) and one.startswith(beginning))
        )
    except PermissionError as error:
        raise trouble(folder, error) from error
    except (OSError, ValueError):
        return ()


def files_below(folder: Path, most: int = 100_000) -> tuple[str, ...]:
    """The files in a folder and in all below it, by their paths with ``/``; links that lead out of it are left out.

    Raises `FileTroubleError` for folders that cannot be looked into, and for more files than that.
    """
    found: list[str] = []
    try:
        for above, folders, names in os.walk(folder, onerror=_raised):
            folders.sort()
            here = Path(above).relative_to(folder).as_posix()
            for name in sorted(names):
                way = name if here == "." else f"{here}/{name}"
                mode = os.lstat(f"{above}{os.sep}{name}").st_mode
                # folders that are links are not gone into, so that only a file itself may lead out
                if stat.S_ISREG(mode) or (stat.S_ISLNK(mode) and is_file(folder / way) and inside(folder, way)):
                    found.append(way)
            if len(found) > most:
                raise FileTroubleError(
                    f"it holds more than {most:,} files", file=str(folder), remedy="name a part of it"
                )
    except OSError as error:
        raise trouble(folder, error) from error
    return tuple(found)


def _raised(error: OSError) -> None:
    raise error


def real(path: Path) -> Path:
    """Where a path leads in the end, links followed; the path itself where that cannot be told."""
    try:
        return Path(os.path.realpath(path))
    except (OSError, ValueError):
        return path.absolute()


def inside(folder: Path, place: str) -> bool:
    """Whether a place below a folder is there in the end too, links followed. ``..`` is never inside."""
    path = str(folder)
    for part in place.split("/"):
        if part in ("", ".", ".."):
            return False
        path = f"{path}{os.sep}{part}"
        try:
            if stat.S_ISLNK(os.lstat(path).st_mode):
                return real(folder / place).is_relative_to(real(folder))
        except FileNotFoundError:
            return True  # nothing is there that could lead anywhere
        except (OSError, ValueError):
            return real(folder / place).is_relative_to(real(folder))
    return True


def size_of(path: Path) -> int:
    """How many bytes a file has. Raises `FileTroubleError`."""
    try:
        return path.stat().st_size
    except OSError as error:
        raise trouble(path, error) from error


def identity_of(path: Path) -> tuple[int, int, int, int] | None:
    """What a file is as long as nobody writes into it: disk, number there, size, moment of its last change."""
    try:
        found = path.stat()
    except (OSError, ValueError):
        return None
    # a folder may hold something else, and tell nothing of it
    return (found.st_dev, found.st_ino, found.st_size, found.st_mtime_ns) if stat.S_ISREG(found.st_mode) else None


def changed_at(path: Path) -> float:
    """When a file was changed, in seconds; 0 where nobody can tell."""
    try:
        return path.stat().st_mtime
    except (OSError, ValueError):
        return 0.0


def others_may_read(path: Path) -> bool:
    """Whether anybody but its owner may read a file, as far as the system has such rights."""
    return os.name == "posix" and bool(_mode(path) & 0o077)


def _mode(path: Path) -> int:
    """The kind of what stands there; 0 for nothing, as for names that no file can have and for links to themselves."""
    try:
        return path.stat().st_mode
    except PermissionError as error:
        raise trouble(path, error) from error
    except (OSError, ValueError):
        return 0


def trouble(path: Path, error: OSError) -> FileTroubleError:
    """What a system's error means to a person."""
    if isinstance(error, FileNotFoundError):
        return FileTroubleError("there is no such file", file=str(path), remedy="check the name")
    if isinstance(error, PermissionError):
        return FileTroubleError("access is denied", file=str(path), remedy="check the permissions")
    return FileTroubleError((error.strerror or "cannot be used").lower(), file=str(path))
