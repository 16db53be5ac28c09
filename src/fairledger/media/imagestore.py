"""What an image holds: the components in its store, its packages, features, apps, and answer files in it.

The program ``wimlib-imagex`` lists and unpacks; nothing is mounted, and the image file is only read. Names in the store
follow the vendor's component store: lower case, and those of more than 40 characters are abbreviated in the middle.
"""

from __future__ import annotations

import os
import subprocess
from collections.abc import Callable, Iterable, Iterator
from functools import partial
from pathlib import Path
from tempfile import TemporaryFile
from threading import Timer
from typing import IO

from lxml import etree
from msgspec import Struct

from fairledger.media.programs import where_is
from fairledger.media.skeleton import Skeleton, skeleton_of
from fairledger.media.stretches import Stretch
from fairledger.model.errors import FileTroubleError
from fairledger.model.pattern import pattern
from fairledger.storage.looking import entries

PROGRAM = "wimlib-imagex"
MISSING = f"the program {PROGRAM} is not installed"
REMEDY = "install wimlib (Debian: wimtools), or keep a file of facts made where it is"
SECONDS = 20
MEMORY = 300 << 20
MOST_LISTED = 512 << 20
"""Bytes of the list of an image's files."""
MOST_MANIFESTS = 512 << 20
"""Bytes of package manifests."""
_MOST_NAME, _KEPT = 40, 19
_MANIFESTS = "/windows/winsxs/manifests/"
_PACKAGES = "/windows/servicing/packages/"
_APPS = "/program files/windowsapps/"
_ANSWERS = (
    "/windows/panther/unattend/unattend.xml",
    "/windows/panther/unattend.xml",
    "/windows/system32/sysprep/unattend.xml",
    "/unattend.xml",
    "/autounattend.xml",
)
_APP = pattern(r"(?P<name>[^_]+)_[^_]+_[^_]*_[^_]*_[^_]+")
_DOCUMENT = b"<?xml"
_MARK = b"\xef\xbb\xbf"
_CHUNK = 1 << 20


class Stored(Struct, frozen=True, kw_only=True):
    """What stands in one image, as it is named there."""

    components: tuple[tuple[str, str, str], ...] | None = None
    """Architecture, abbreviated name and newest version, of components in any language."""
    packages: tuple[str, ...] | None = None
    features: tuple[str, ...] | None = None
    apps: tuple[str, ...] | None = None
    answers: tuple[str, ...] | None = None
    problems: tuple[str, ...] = ()


def abbreviated(name: str) -> str:
    """A component's name as the store writes it."""
    low = name.lower()
    return low if len(low) <= _MOST_NAME else f"{low[:_KEPT]}..{low[-_KEPT:]}"


def stored_in(path: Path, index: int) -> Stored:
    """What an image holds. Raises `FileTroubleError` where the program is missing, or makes nothing of the file."""
    return _stored(path, index, lambda _: None)


def stored_within(medium: Path, stretches: tuple[Stretch, ...], index: int) -> Stored:
    """The same of an image file that lies within a disc or a stick, which is not copied. Raises as `stored_in`."""
    with skeleton_of(medium, stretches, index) as made:
        return _stored(made.path, index, partial(_bring_manifests, made, index))


def _stored(path: Path, index: int, bring: Callable[[str], None]) -> Stored:
    path = path.absolute()  # so that no name is taken for an option
    seen = _Seen()
    for line in _lines(path, ["dir", str(path), str(index), *_parts(path)]):
        seen.take(line)
    problems: list[str] = []
    features = _features(path, index, seen, bring, problems) if seen.packages else None
    return Stored(
        components=tuple(sorted((*key, version) for key, version in seen.components.items())) or None,
        packages=tuple(sorted(seen.packages)) or None,
        features=features,
        apps=tuple(sorted(seen.apps)) if seen.is_system else None,
        answers=tuple(sorted(seen.answers, key=lambda one: _ANSWERS.index(one.lower()))),
        problems=tuple(problems),
    )


class _Seen:
    """What the list of an image's files tells, line by line."""

    def __init__(self) -> None:
        self.components: dict[tuple[str, str], str] = {}
        self.packages: set[str] = set()
        self.count = 0
        """How many package manifests there are."""
        self.apps: set[str] = set()
        self.answers: list[str] = []
        self.is_system = False
        self.manifests: str = ""
        """The folder of package manifests, as it is written in the image."""

    def take(self, line: str) -> None:
        """One path of the image."""
        low = line.lower()
        if low.startswith(_MANIFESTS):
            self._component(low[len(_MANIFESTS) :])
        elif low.startswith(_PACKAGES):
            if low.endswith(".mum"):
                self.manifests = line[: len(_PACKAGES)]
                self.count += 1
                self.packages.add(line[len(_PACKAGES) :].partition("~")[0])
        elif low.startswith(_APPS):
            found = _APP.fullmatch(line[len(_APPS) :])
            if found is not None:
                self.apps.add(found["name"])
        elif low in _ANSWERS:
            self.answers.append(line)
        elif low == "/windows/system32":
            self.is_system = True

    def _component(self, name: str) -> None:
        """``ARCH_NAME_TOKEN_VERSION_LANGUAGE_HASH.manifest``: a name may hold the sign that parts them."""
        arch, _, rest = name.removesuffix(".manifest").partition("_")
        parts = rest.rsplit("_", 4)
        if len(parts) != 5 or not name.endswith(".manifest"):
            return
        title, _, version, _, _ = parts
        key = arch, title
        if key not in self.components or _order(version) > _order(self.components[key]):
            self.components[key] = version


def _order(version: str) -> tuple[int, ...]:
    return tuple(int(one) if one.isascii() and one.isdecimal() and len(one) < 10 else 0 for one in version.split("."))


def _bring_manifests(made: Skeleton, index: int, folder: str) -> None:
    """Copies the package manifests to their places. Raises `FileTroubleError` where they have none of their own."""
    size = 0
    total = 0
    for line in _lines(made.path, ["dir", str(made.path), str(index), f"--path={folder}", "--detailed"]):
        name, _, value = line.partition("=")
        told = value.split()
        if name.startswith("Compressed size") and told:
            size = int(told[0])
            total += size
        elif name.startswith("Offset in WIM") and told and size:
            if total > MOST_MANIFESTS:
                raise FileTroubleError("there is more of them than any image has", file=str(made.path))
            made.take(int(told[0]), size)
        elif name.startswith("Solid resource"):
            raise FileTroubleError(_TOGETHER, file=str(made.path))


_TOGETHER = "all its files are packed together: name the image file itself, not the disc with it"


def _features(
    path: Path, index: int, seen: _Seen, bring: Callable[[str], None], problems: list[str]
) -> tuple[str, ...] | None:
    """The optional features that package manifests offer: updates of theirs that can be selected.

    None unless every manifest was read: of a feature in one that was not, nobody could say that it is lacking.
    """
    found: set[str] = set()
    read = 0
    wanted = f"{seen.manifests}*.mum"
    try:
        bring(seen.manifests.rstrip("/"))
        for document in _documents(path, ["extract", str(path), str(index), wanted, "--to-stdout", *_parts(path)]):
            offered = _selectable(document)
            read += offered is not None
            found |= offered or set()
    except FileTroubleError as error:
        problems.append(f"its package manifests cannot be read: {error.message}")
        return None
    if read != seen.count:
        problems.append(f"of its {seen.count:,} package manifests {read:,} can be read: its features are not known")
        return None
    return tuple(sorted(found))


def _selectable(document: bytes) -> set[str] | None:
    """The features that a manifest offers; None where it cannot be read."""
    if b"<!DOCTYPE" in document or b"<!ENTITY" in document:
        return None
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False)
    try:
        root = etree.fromstring(document, parser)
    except etree.XMLSyntaxError:
        return None
    updates = (one for one in root.iterfind(".//{*}update") if one.find("{*}selectable") is not None)
    return {name for one in updates if (name := one.get("name"))}


def _documents(path: Path, arguments: list[str]) -> Iterator[bytes]:
    """The XML documents that the program writes one behind the other."""
    rest = b""
    for chunk in _bounded(path, arguments, MOST_MANIFESTS, "there is more of them than any image has"):
        *whole, rest = _split(rest + chunk)
        yield from filter(None, map(bytes.strip, whole))
    if rest.strip():
        yield rest.strip()


def _split(data: bytes) -> list[bytes]:
    """The documents in some bytes; the last one may go on. A mark of the encoding may stand before each."""
    out, at = [], 0
    while (next_ := data.find(_DOCUMENT, at + 4)) >= 0:
        begin = next_ - 3 if data[next_ - 3 : next_] == _MARK else next_
        out.append(data[at:begin])
        at = begin
    return [*out, data[at:]]


def _lines(path: Path, arguments: list[str]) -> Iterator[str]:
    rest = b""
    for chunk in _bounded(path, arguments, MOST_LISTED, "its list of files is longer than any image has"):
        *whole, rest = (rest + chunk).split(b"\n")
        for line in whole:
            yield line.decode("utf-8", "replace")
    yield rest.decode("utf-8", "replace")


def _bounded(path: Path, arguments: list[str], most: int, told: str) -> Iterator[bytes]:
    """What the program writes, if that is no more than so many bytes. Raises `FileTroubleError`."""
    total = 0
    for chunk in _output(path, arguments):
        total += len(chunk)
        if total > most:
            raise FileTroubleError(told, file=str(path))
        yield chunk


def _parts(path: Path) -> list[str]:
    """The other parts of an image file that stands in several, as the program wants them named."""
    if path.suffix.lower() != ".swm":
        return []
    own = path.stem.rstrip("0123456789")
    return [f"--ref={_plain(one)}" for one in entries(path.parent, beginning=own) if one.suffix.lower() == ".swm"]


def _plain(path: Path) -> str:
    """A path without signs that stand for others."""
    return "".join(f"[{sign}]" if sign in "*?[" else sign for sign in str(path))


def _output(path: Path, arguments: Iterable[str]) -> Iterator[bytes]:
    """What the program writes. Raises `FileTroubleError` where it is missing, fails or takes too long."""
    found = where_is(PROGRAM)
    if found is None:
        raise FileTroubleError(MISSING, file=str(path), remedy=REMEDY)
    with TemporaryFile() as told:
        process = subprocess.Popen(  # noqa: S603 - the arguments are no shell's
            [found, *arguments],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=told,
            env={**os.environ, "LC_ALL": "C.UTF-8", "WIMLIB_IMAGEX_IGNORE_CASE": "1"},
            preexec_fn=_narrowed if os.name == "posix" else None,  # noqa: PLW1509 - no thread runs here
        )
        ending = Timer(SECONDS, process.kill)
        ending.start()
        try:
            yield from _read(process.stdout)
            if process.wait(timeout=SECONDS) != 0:
                raise FileTroubleError(f"the image cannot be looked into: {_said(told)}", file=str(path))
        except subprocess.TimeoutExpired as error:
            raise FileTroubleError("looking into the image takes too long", file=str(path)) from error
        finally:
            ending.cancel()
            process.kill()
            process.wait()
            if process.stdout is not None:
                process.stdout.close()


def _read(pipe: IO[bytes] | None) -> Iterator[bytes]:
    while pipe is not None and (chunk := pipe.read(_CHUNK)):
        yield chunk


def _said(told: IO[bytes]) -> str:
    told.seek(0)
    lines = [line.strip() for line in told.read(4096).decode("utf-8", "replace").splitlines() if line.strip()]
    found = next((line for line in lines if line.startswith("[ERROR]")), lines[-1] if lines else "the program failed")
    return found.removeprefix("[ERROR]").strip().removeprefix("ERROR:").strip().rstrip(".!")


def _narrowed() -> None:
    """Takes time and memory from the program that it shall not have."""
    import resource

    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
    resource.setrlimit(resource.RLIMIT_FSIZE, (1 << 30, 1 << 30))
