"""Reading and writing the user's files: limits, atomic replacing, files for the owner only."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, nullcontext, suppress
from pathlib import Path

from fairledger.model.errors import ChangedError, FileTroubleError, RefusedError
from fairledger.model.pattern import pattern
from fairledger.storage.looking import is_file, is_folder, is_there, real, trouble

MOST_BYTES = 64 * 1024 * 1024
"""Larger files are refused unread."""
MOST_WHOLE = 4 << 30
"""Larger files are not carried from place to place in memory."""
MOST_LEVELS = 200
"""Deeper nesting is refused."""
MOST_PARTS = 200_000
"""Files with more elements or statements are refused."""
MOST_LINES = 1_000_000
"""Texts of more lines are refused."""
MOST_FILES = 1_000
"""Files that take in more files, in all, are refused."""


def too_many(file: str, what: str, most: int = MOST_PARTS) -> FileTroubleError:
    """That a file holds more than is looked at."""
    told = f"the file holds more than {most:,} {what}"
    return FileTroubleError(told, file=file, remedy="is it the right file?")


def read_bytes(path: Path, most: int | None = None) -> bytes:
    """A file's bytes. Raises `FileTroubleError` if it cannot be read or is too large."""
    try:
        if is_folder(path):
            raise FileTroubleError("this is a folder, not a file", file=str(path), remedy="name a file inside it")
        if is_there(path) and not is_file(path):
            raise FileTroubleError("this is a pipe or a device, not a file", file=str(path), remedy="save it first")
        most = MOST_BYTES if most is None else most
        with path.open("rb") as file:
            data = file.read(most + 1)
    except OSError as error:
        raise trouble(path, error) from error
    if len(data) > most:
        raise FileTroubleError(
            f"the file is larger than {most >> 20:,} MiB", file=str(path), remedy="is it the right file?"
        )
    return data


STANDARD_INPUT = Path("standard input")
"""What stands for it where a file's name is told."""


def read_standard_input() -> bytes:
    """All that comes in. Raises `FileTroubleError` if nothing can, or if it is too much."""
    import sys

    if sys.stdin is None or sys.stdin.isatty():
        told = "nothing comes in on standard input"
        raise FileTroubleError(told, remedy="name a file, or put one into it: fairledger check - < FILE")
    data = sys.stdin.buffer.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise FileTroubleError(
            f"standard input holds more than {MOST_BYTES >> 20:,} MiB", remedy="is it the right file?"
        )
    return data


def read_head(path: Path, most: int) -> bytes:
    """A file's first bytes. Raises `FileTroubleError` if it cannot be read."""
    try:
        with path.open("rb") as file:
            return file.read(most)
    except OSError as error:
        raise trouble(path, error) from error


def read_whole(path: Path) -> bytes:
    """The bytes of a file that is carried as it is, and may be larger than one that is read. Raises as `read_bytes`."""
    return read_bytes(path, MOST_WHOLE)


def read_text(path: Path) -> str:
    """A UTF-8 file's text, line ends as they are. Raises `FileTroubleError` where it is no such text."""
    return unmarked(read_bytes(path), str(path))


def unmarked(data: bytes, file: str) -> str:
    """The text of UTF-8 bytes, without a mark before it. Raises `FileTroubleError` where they are no such text."""
    if data.count(b"\n") > MOST_LINES:
        raise too_many(file, "lines", MOST_LINES)
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        raise FileTroubleError("the file is not UTF-8 text", file=file, line=line, remedy="save it as UTF-8") from error


_DECLARATION = pattern(r"""<\?xml[^>]*?encoding\s*=\s*["']([A-Za-z0-9._-]+)["'][^>]*\?>""")
_MARKED = {"utf-8-sig": b"\xef\xbb\xbf", "utf-16-le-sig": b"\xff\xfe", "utf-16-be-sig": b"\xfe\xff"}
"""Encodings with the mark before the text."""
_ENCODINGS = {"utf-8", "utf8", "us-ascii", "ascii", "utf-16", "iso-8859-1", "windows-1252"}


def decode(data: bytes, file: str) -> str:
    """The text of an answer file. Raises `FileTroubleError` if it is none."""
    return decode_as(data, file)[0]


def decode_as(data: bytes, file: str) -> tuple[str, str]:
    """Text and encoding of an answer file: UTF-8 or UTF-16, with or without mark, or as an XML declaration says.

    `encoded` gives the bytes back. Raises `FileTroubleError` if it is no such text.
    """
    if data.count(b"\n") > MOST_LINES:
        raise too_many(file, "lines", MOST_LINES)
    encoding = next((name for name, mark in _MARKED.items() if data.startswith(mark)), None)
    if encoding is None and data[:2] in (b"<\0", b"\0<"):
        encoding = "utf-16-le" if data[:1] == b"<" else "utf-16-be"
    if encoding is None:
        match = _DECLARATION.match(data[:200].decode("latin-1"))
        named = match[1].lower() if match else "utf-8"
        # a declaration that was read as single bytes cannot be in UTF-16: somebody saved the text anew
        encoding = "utf-8" if named == "utf-16" else named
        if named not in _ENCODINGS:
            raise FileTroubleError(f"the encoding {named} is not read", file=file, line=1, remedy="save it as UTF-8")
    try:
        mark = _MARKED.get(encoding, b"")
        return data[len(mark) :].decode(encoding.removesuffix("-sig")), encoding
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        told = f"the file is not {encoding.upper().removesuffix('-SIG')} text"
        raise FileTroubleError(told, file=file, line=line, remedy="is it an answer file? save it as UTF-8") from error


def encoded(text: str, encoding: str, file: str) -> bytes:
    """The bytes of a text in an encoding that `decode_as` gave.

    Raises `FileTroubleError` for characters that the encoding does not have.
    """
    try:
        return _MARKED.get(encoding, b"") + text.encode(encoding.removesuffix("-sig"))
    except UnicodeEncodeError as error:
        told = f"the file is written in {encoding}, which has no {error.object[error.start]!r}"
        raise FileTroubleError(told, file=file, remedy="save it as UTF-8 first") from error


def declared_as(text: str) -> str:
    """The encoding that the XML declaration of a text names, in lower case; empty without one."""
    match = _DECLARATION.match(text)
    return match[1].lower() if match else ""


UNFINISHED = ".unfinished"
"""How the name of a file ends that is not yet in its place."""


def write_file(path: Path, data: bytes | Iterable[bytes], *, replace: bool = False, private: bool = False) -> None:
    """Writes a whole file or none: beside it first, then moved into place.

    ``replace`` allows an existing file to be replaced; ``private`` makes the file readable by its owner only.
    Raises `RefusedError` if the file exists and may not be replaced, `FileTroubleError` if writing fails.
    """
    if is_folder(path):
        raise FileTroubleError("this is a folder, not a file", file=str(path), remedy="name a file inside it")
    if is_there(path) and not replace:
        raise RefusedError("the file exists already", file=str(path), remedy="allow it with --replace, or name another")
    ready_folder(path)
    import tempfile

    try:
        # in the same folder, since moving within one file system replaces at once
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.", suffix=UNFINISHED)
        beside = Path(name)
        try:
            with os.fdopen(handle, "wb") as file:
                file.writelines((data,) if isinstance(data, bytes) else data)
            if not private:
                with suppress(PermissionError):  # a stick's file system may know no such rights
                    beside.chmod(new_mode(path))
            into_place(beside, path, replace=replace)
        finally:
            beside.unlink(missing_ok=True)
    except FileExistsError as error:
        raise RefusedError("the file exists already", file=str(path), remedy="allow it with --replace") from error
    except OSError as error:
        raise trouble(path, error) from error


def ready_folder(path: Path) -> None:
    """Makes the folder in which a file is to stand. Raises `FileTroubleError`."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        if is_file(path.parent):
            told = f"{path.parent} is a file, not a folder"
            raise FileTroubleError(told, file=str(path), remedy="name another folder") from error
        raise trouble(path, error) from error


def rewrite(path: Path, data: bytes, was: bytes, *, private: bool = False) -> None:
    """Puts other bytes into a file that was read, whole or not at all, where it really is.

    A link is followed, and a file with several names keeps them. Raises `ChangedError` where it no longer holds what
    was read: then somebody else's change would be lost.
    """
    where = real(path)
    with alone_in(where.parent):
        if read_bytes(where) != was:
            raise ChangedError("the file changed while it was worked on", file=str(path), remedy="run it again")
        if data == was:
            return
        if where.stat().st_nlink > 1:
            _over(where, data)
        else:
            write_file(where, data, replace=True, private=private)


def _over(path: Path, data: bytes) -> None:
    """Writes over a file that has other names too. The new bytes stand beside it until that is done."""
    import tempfile

    try:
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
        with os.fdopen(handle, "wb") as safe:
            safe.write(data)
        with path.open("r+b") as file:
            file.write(data)
            file.truncate()
        Path(name).unlink()
    except OSError as error:
        raise trouble(path, error) from error


@contextmanager
def alone_in(folder: Path, *, shared: bool = False) -> Iterator[None]:
    """Nobody else rewrites files in the folder meanwhile, as far as the system can hold them back.

    Those who say ``shared`` keep out of each other's way by themselves, and wait for the others only.
    """
    try:
        import fcntl
    except ImportError:  # Windows locks no folders
        with nullcontext() if shared else by_name(folder):
            yield
        return
    try:
        handle = os.open(folder, os.O_RDONLY)
    except OSError:  # a folder that may be written in and not read
        yield
        return
    try:
        with suppress(OSError):  # file systems of other machines may have none
            fcntl.flock(handle, fcntl.LOCK_SH if shared else fcntl.LOCK_EX)
        yield
    finally:
        os.close(handle)


@contextmanager
def by_name(folder: Path) -> Iterator[None]:
    """As `alone_in`, by a file that stands for the folder among the user's temporary ones."""
    import tempfile
    from hashlib import sha256

    try:
        from filelock import FileLock
    except ImportError:  # what was read is still compared
        yield
        return
    name = sha256(str(real(folder)).casefold().encode("utf-8", "surrogatepass")).hexdigest()[:32]
    with FileLock(Path(tempfile.gettempdir()) / f"fairledger-{name}.lock"):
        yield


def into_place(beside: Path, path: Path, *, replace: bool) -> None:
    """Moves the finished file; without ``replace`` a file that came meanwhile is not overwritten."""
    if replace:
        beside.replace(path)
        return
    try:
        # unlike a move it fails where a file is, so that none that came meanwhile is lost
        path.hardlink_to(beside)
    except FileExistsError:
        raise
    except OSError:  # the file system has no hard links (FAT on a stick)
        beside.replace(path)


def new_mode(path: Path) -> int:
    """The mode of the file that is replaced, else what the process gives to new files."""
    if is_there(path):
        return path.stat().st_mode & 0o777
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask
