"""A medium, looked at without being copied, mounted or believed."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from fairledger.catalog.targets import target_named
from fairledger.media.imagefile import Image, ImageFile, is_image_file, read_image_file
from fairledger.media.system import System, edition_of, system_of
from fairledger.model.errors import FileTroubleError
from fairledger.storage.looking import is_file, is_folder, is_there

IMAGE_FILE = "image file"


class Held(Struct, frozen=True, kw_only=True):
    """An image of a medium, with its edition as the catalog calls it, where it knows it."""

    image: Image
    edition: str | None


class Medium(Struct, frozen=True, kw_only=True):
    """What a medium is and holds."""

    path: Path
    kind: str
    size: int
    file: ImageFile
    system: System
    images: tuple[Held, ...]

    @property
    def problems(self) -> tuple[str, ...]:
        """What could not be read, and what does not go together."""
        return self.file.problems


def look_at(path: Path) -> Medium:
    """What a medium is. Raises `FileTroubleError` for what cannot be looked at."""
    if not is_file(path):
        told = "this is a folder" if is_folder(path) else "this is no file" if is_there(path) else ""
        remedy = "name the image file in it: sources/install.wim" if is_folder(path) else "check the name"
        raise FileTroubleError(told or "there is no such file", file=str(path), remedy=remedy)
    if not is_image_file(path):
        remedy = "image files can be looked at: install.wim, install.esd, install.swm, boot.wim"
        raise FileTroubleError("this is no image file", file=str(path), remedy=remedy)
    file = read_image_file(path)
    system = system_of(file.images)
    known = [target_named(name) for name in system.targets]
    images = tuple(Held(image=one, edition=edition_of(one, known)) for one in file.images)
    return Medium(path=path, kind=IMAGE_FILE, size=file.size, file=file, system=system, images=images)
