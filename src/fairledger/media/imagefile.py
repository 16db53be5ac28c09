"""Image files (WIM, their parts, and the solid form): the header and the list of images, nothing else is read.

Source: the vendor's public description of the format, "Windows Imaging File Format (WIM)". A file may come from
anybody: what it says of sizes and places is believed only as far as the file itself reaches.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from pathlib import Path
from typing import IO
from uuid import UUID

from lxml import etree
from msgspec import Struct

from fairledger.model.errors import FileTroubleError
from fairledger.storage.looking import is_file, is_there, size_of, trouble

MAGIC = b"MSWIM\0\0\0"
_HEADER = struct.Struct("<8sIIII16sHHI24s24s24sI24s60x")
"""Mark, its own size, version, flags, chunk, GUID, part, parts, images; lookup table, list, boot image's metadata; boot
index; integrity table."""
_RESOURCE = struct.Struct("<QQQ")
"""Size (56 bits) with flags above it, place, size when unpacked."""
SOLID = 0xE00
"""The version of files whose contents are packed together."""
_PACKED = 0x04
_COMPRESSIONS = ((0x20000, "xpress"), (0x40000, "lzx"), (0x80000, "lzms"))
_COMPRESSED = 0x2
_ARCHITECTURES = {"0": "x86", "5": "arm", "6": "ia64", "9": "amd64", "12": "arm64"}
"""PROCESSOR_ARCHITECTURE_* of the vendor's headers, in the words of answer files."""
MOST_LIST = 8 << 20
"""Bytes of a list of images that are read; real ones have some ten thousand."""
MOST_IMAGES = 1_000
_MOST_ELEMENTS = 100_000
_MOST_TEXT = 500


class Image(Struct, frozen=True, kw_only=True):
    """One image of a file, as its list tells it; what it does not tell is None."""

    index: int
    name: str | None = None
    shown: str | None = None
    """The name under which setup shows it."""
    edition: str | None = None
    """The vendor's identifier of the edition: ``Professional``, ``ServerStandardCore``."""
    installation: str | None = None
    """``Client``, ``Server``, ``Server Core`` or ``WindowsPE``."""
    arch: str | None = None
    version: str | None = None
    """Major and minor number: ``10.0``."""
    build: str | None = None
    revision: str | None = None
    """What updates made of the build."""
    languages: tuple[str, ...] = ()
    language: str | None = None
    """The one that counts where nobody says another."""
    size: int | None = None
    """Bytes of its files, unpacked."""


class ImageFile(Struct, frozen=True, kw_only=True):
    """A file with images."""

    size: int
    guid: str
    """What tells it apart; its parts have the same one."""
    part: int
    parts: int
    solid: bool
    compression: str | None
    """``none``, ``xpress``, ``lzx`` or ``lzms``."""
    count: int
    """How many images its header speaks of."""
    boots: int | None
    """The image that starts, if one does."""
    images: tuple[Image, ...]
    problems: tuple[str, ...] = ()
    """What could not be read, each in a sentence."""


def is_image_file(path: Path) -> bool:
    """Whether a file begins like one. Raises `FileTroubleError` where it cannot be read."""
    if not is_file(path):
        return False
    with _opened(path) as file:
        return file.read(len(MAGIC)) == MAGIC


def read_image_file(path: Path) -> ImageFile:
    """The header and the list of images. Raises `FileTroubleError` for what is no such file, or cut short."""
    if not is_file(path):
        told = "this is no file" if is_there(path) else "there is no such file"
        raise FileTroubleError(told, file=str(path), remedy="name an image file such as install.wim")
    size = size_of(path)
    try:
        with _opened(path) as file:
            return read_images(file, size, str(path))
    except OSError as error:
        raise trouble(path, error) from error


def _opened(path: Path) -> IO[bytes]:
    try:
        return path.open("rb")
    except OSError as error:
        raise trouble(path, error) from error


def read_images(file: IO[bytes], size: int, name: str) -> ImageFile:
    """The same of a file that is open, and so large. Raises `FileTroubleError`."""
    head = file.read(_HEADER.size)
    if not head.startswith(MAGIC):
        raise FileTroubleError("this is no image file", file=name, remedy="name one such as install.wim")
    if len(head) < _HEADER.size:
        raise FileTroubleError("the image file ends within its header", file=name, remedy="copy it again")
    _, own, version, flags, _, guid, part, parts, count, _, told, _, boots, _ = _HEADER.unpack(head)
    if own != _HEADER.size:
        raise FileTroubleError("the image file's header has another size", file=name, remedy="copy it again")
    packed, place, _ = _RESOURCE.unpack(told)
    length, marks = packed & ((1 << 56) - 1), packed >> 56
    problems: list[str] = []
    text = _list(file, size, place, length, marks, problems)
    images = tuple(_images(text, problems))
    if text is not None and len(images) != count:
        problems.append(f"its header speaks of {count:,} images, and its list of {len(images):,}")
    if not 1 <= part <= parts:
        problems.append(f"it says that it is part {part} of {parts}")
    return ImageFile(
        size=size,
        guid=str(UUID(bytes_le=guid)),
        part=part,
        parts=parts,
        solid=version == SOLID,
        compression=_compression(flags),
        count=count,
        boots=boots or None,
        images=images,
        problems=tuple(problems),
    )


def _compression(flags: int) -> str | None:
    if not flags & _COMPRESSED:
        return "none"
    return next((name for flag, name in _COMPRESSIONS if flags & flag), None)


def _list(file: IO[bytes], size: int, place: int, length: int, marks: int, problems: list[str]) -> str | None:
    """The text of the list of images; None with the reason where there is none to be read."""
    if length == 0:
        problems.append("it has no list of images")
    elif marks & _PACKED:
        problems.append("its list of images is packed, which no installer of the vendor writes")
    elif length > MOST_LIST:
        problems.append("its list of images is too large to be one")
    elif place < _HEADER.size or place + length > size:
        problems.append("its list of images lies outside of the file: it was not copied whole, or is a part of several")
    else:
        file.seek(place)
        try:
            return file.read(length).decode("utf-16")
        except UnicodeDecodeError:
            problems.append("its list of images is no text")
    return None


def _images(text: str | None, problems: list[str]) -> Iterator[Image]:
    if text is None:
        return
    if "<!" in text or text.count("<") > _MOST_ELEMENTS:
        problems.append("its list of images is none that the vendor's programs write")
        return
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    try:
        root = etree.fromstring(text.rstrip("\0").encode("utf-8"), parser)
    except (etree.XMLSyntaxError, ValueError):
        problems.append("its list of images is not well-formed")
        return
    seen: set[int] = set()
    for at, one in enumerate(root.iterfind("IMAGE")):
        index = _number(one.get("INDEX"))
        if at >= MOST_IMAGES or index is None or index in seen:
            problems.append("its list of images has too many, or the same one twice")
            return
        seen.add(index)
        yield _image(one, index)


def _image(one: etree._Element, index: int) -> Image:
    numbers = {name: _text(one, f"WINDOWS/VERSION/{name.upper()}") for name in ("major", "minor", "build", "spbuild")}
    version = f"{numbers['major']}.{numbers['minor']}" if numbers["major"] and numbers["minor"] else None
    languages = [_short(found.text) for found in one.iterfind("WINDOWS/LANGUAGES/LANGUAGE")]
    return Image(
        index=index,
        name=_text(one, "NAME"),
        shown=_text(one, "DISPLAYNAME"),
        edition=_text(one, "WINDOWS/EDITIONID") or _text(one, "FLAGS"),
        installation=_text(one, "WINDOWS/INSTALLATIONTYPE"),
        arch=_ARCHITECTURES.get(_text(one, "WINDOWS/ARCH") or ""),
        version=version,
        build=numbers["build"],
        revision=numbers["spbuild"],
        languages=tuple(found for found in languages if found),
        language=_text(one, "WINDOWS/LANGUAGES/DEFAULT"),
        size=_number(_text(one, "TOTALBYTES")),
    )


def _text(one: etree._Element, path: str) -> str | None:
    return _short(one.findtext(path))


def _short(text: str | None) -> str | None:
    return text.strip()[:_MOST_TEXT] or None if text else None


def _number(text: str | None) -> int | None:
    return int(text) if text is not None and text.isascii() and text.isdecimal() and len(text) < 19 else None
