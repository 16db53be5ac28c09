"""A medium, looked at without being copied, mounted or believed."""

from __future__ import annotations

from collections.abc import Iterator
from configparser import ConfigParser
from configparser import Error as ConfigError
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.meant import target_named
from fairledger.catalog.targets import all_targets
from fairledger.media.booting import BootEntry, entries_in, settings_in
from fairledger.media.contents import Contents, contents_of, known
from fairledger.media.disc import DiscHead, head_of
from fairledger.media.imagefile import Image, ImageFile, is_image_file, read_image_file
from fairledger.media.stretches import Stretch
from fairledger.media.system import System, edition_of, system_of
from fairledger.media.volumes import Stick, stick_of, table_of, volume_of
from fairledger.model.errors import FileTroubleError
from fairledger.model.holdings import TreeFacts
from fairledger.model.showing import quoted
from fairledger.storage.looking import is_folder, must_be_file, size_of

IMAGE_FILE, DISC, FOLDER, STICK = "image file", "disc", "folder", "stick"
LARGEST = (4 << 30) - 1
"""Bytes of the largest file that FAT32 can hold. (The vendor's description of the file system.)"""


class Held(Struct, frozen=True, kw_only=True):
    """An image of a medium, with its edition as the catalog calls it, where it knows it."""

    file: str
    image: Image
    edition: str | None
    starts: bool = False


class Answers(Struct, frozen=True, kw_only=True):
    """An answer file that stands on a medium already."""

    path: str
    takes: str
    """What becomes of it, in words."""
    first: bool | None
    """Whether it is the one that the installer takes; None where nobody knows."""


class Medium(Struct, frozen=True, kw_only=True):
    """What a medium is and holds; what nobody knows is None, or empty."""

    path: Path
    kind: str
    size: int | None = None
    """Bytes; of a folder those of its files."""
    label: str | None = None
    forms: tuple[str, ...] = ()
    starts: tuple[tuple[str, str | None], ...] = ()
    """What starts it (``bios``, ``uefi``), and by which file where that is known."""
    system: System = System()
    images: tuple[Held, ...] = ()
    files: tuple[ImageFile, ...] = ()
    """The image files."""
    entries: tuple[BootEntry, ...] = ()
    answers: tuple[Answers, ...] = ()
    """Answer files that stand on it, in the order in which an installer looks."""
    too_large: tuple[tuple[str, int], ...] = ()
    """Files that no stick with FAT32 can hold."""
    channel: str | None = None
    """For which channel of sale its setup is made, as its own file says."""
    edition: str | None = None
    """The edition that its own file says setup installs."""
    key_given: bool = False
    """Whether a product key stands on it."""
    tree: TreeFacts | None = None
    """What its repositories offer; None where none stands there, or nobody knows."""
    places: dict[str, tuple[Stretch, ...]] = {}
    """Where the bytes of its image files lie in its own file, by their paths."""
    partly: bool = False
    """Whether only the usual places were looked at."""
    problems: tuple[str, ...] = ()
    """What could not be read, and what does not go together."""

    @property
    def boots(self) -> tuple[str, ...]:
        """The kinds of firmware that start it."""
        return tuple(sorted({how for how, _ in self.starts}))


def look_at(path: Path) -> Medium:
    """What a medium is. Raises `FileTroubleError` for what cannot be looked at."""
    if is_folder(path):
        found = contents_of(path)
        size = sum(size for _, size in found.files)
        return _meant(Medium(path=path, kind=FOLDER, size=size), found)
    must_be_file(path)
    if is_image_file(path):
        return _of_images(Medium(path=path, kind=IMAGE_FILE, size=size_of(path)), {path.name: read_image_file(path)})
    head = head_of(path)
    if head is not None:
        return _of_disc(path, head)
    stick = stick_of(path)
    if stick is not None:
        return _of_stick(path, stick)
    remedy = "discs (ISO), sticks with FAT, folders and image files (install.wim, .esd, .swm) can be looked at"
    raise FileTroubleError("this is no medium that can be looked at", file=str(path), remedy=remedy)


def _of_disc(path: Path, head: DiscHead) -> Medium:
    medium = Medium(path=path, kind=DISC, size=size_of(path), label=head.label, forms=head.forms)
    try:
        found = contents_of(path)
    except FileTroubleError as error:
        return replace(medium, problems=(error.message,))
    table = table_of(path)
    forms = (*(found.forms or head.forms), *([f"{table} in front, so that it is a stick as well"] if table else []))
    return _meant(replace(medium, forms=forms), found)


def _of_stick(path: Path, stick: Stick) -> Medium:
    """With what its largest volume with FAT holds."""
    forms = tuple(one.form or "an unknown form" for one in stick.volumes)
    medium = Medium(path=path, kind=STICK, size=size_of(path), forms=(*([stick.table] if stick.table else []), *forms))
    chosen = volume_of(stick)
    problems = [
        f"volume {number} ({one.form or 'of an unknown form'}) is not looked into"
        for number, one in enumerate(stick.volumes, 1)
        if one is not chosen
    ]
    medium = replace(medium, problems=tuple(problems))
    if chosen is None:
        return medium
    try:
        found = contents_of(path, chosen.place)
    except FileTroubleError as error:
        return replace(medium, label=chosen.label, problems=(*problems, error.message))
    found = replace(found, problems=(*problems, *found.problems))
    return _meant(replace(medium, label=found.label or chosen.label), found)


def _of_images(medium: Medium, files: dict[str, ImageFile]) -> Medium:
    """With what image files tell; a part of a set of them tells what the first one tells."""
    own = [image for file in files.values() for image in file.images]
    system = system_of(own)
    targets = [target_named(name) for name in system.targets]
    held = tuple(
        Held(file=name, image=one, edition=edition_of(one, targets), starts=one.index == file.boots)
        for name, file in files.items()
        for one in file.images
    )
    several = len(files) > 1
    problems = [f"{name}: {one}" if several else one for name, file in files.items() for one in file.problems]
    return replace(
        medium, system=system, images=held, files=tuple(files.values()), problems=(*medium.problems, *problems)
    )


def _meant(medium: Medium, found: Contents) -> Medium:
    """What the files of a medium mean."""
    there = {name.lower(): name for name, _ in found.files}
    texts = {there.get(name, name): data for name, data in found.texts.items()}
    files = {there.get(name, name): file for name, file in found.images.items()}
    medium = _of_images(replace(medium, problems=found.problems), files)
    if medium.system.family is None:
        medium = replace(medium, system=_tree(found.texts) or _hypervisor(found.texts) or medium.system)
    # firmware starts a file of a volume, but nothing of a disc that no boot record names
    of_files = known().starts if medium.kind in (FOLDER, STICK) else {}
    starts = [*found.starts, *((how, there[name]) for name, how in of_files.items() if name in there)]
    channel, edition = _setup_says(found.texts.get("sources/ei.cfg", b""))
    medium = replace(
        medium,
        starts=_each_once(starts),
        entries=tuple(one for name, data in texts.items() for one in entries_in(name, data)),
        answers=tuple(_answers(medium, there)),
        too_large=tuple((name, size) for name, size in found.files if size > LARGEST),
        channel=channel,
        edition=edition,
        key_given=b"value" in found.texts.get("sources/pid.txt", b"").lower(),
        tree=found.tree,
        places={there.get(name, name): where for name, where in found.places.items()},
        partly=found.partly,
    )
    return replace(medium, problems=(*medium.problems, *_clashes(medium)))


def _answers(medium: Medium, there: dict[str, str]) -> Iterator[Answers]:
    """Answer files that stand there."""
    taken = False
    for one in known().answers:
        if one.path not in there or medium.system.family not in (None, one.family):
            continue
        found = medium.kind == FOLDER or not one.label or medium.label == one.label
        unsure = bool(one.label) and medium.label is None
        first = None if found and unsure else found and not one.later and not taken
        taken = taken or bool(first)
        told = one.takes if found else f"no installer takes it by itself: the volume is not labelled {one.label}"
        if found and unsure:
            told = f"{told}, if the volume is labelled {one.label}"
        yield Answers(path=there[one.path], takes=told, first=first)


def _each_once(starts: list[tuple[str, str | None]]) -> tuple[tuple[str, str | None], ...]:
    """Those of which the file is known; of a kind without any, that it is there."""
    named = dict.fromkeys(one for one in starts if one[1] is not None)
    bare = dict.fromkeys(one for one in starts if one[1] is None and one[0] not in {how for how, _ in named})
    return (*named, *bare)


def _clashes(medium: Medium) -> Iterator[str]:
    """What of a medium does not go together."""
    for entry in medium.entries:
        for label in entry.labels:
            if medium.label is not None and label != medium.label:
                looks = f"{quoted(entry.title)} looks for the label {quoted(label)}"
                yield f"{entry.file}: {looks}, and the medium's is {quoted(medium.label)}"


def _setup_says(data: bytes) -> tuple[str | None, str | None]:
    """Channel and edition of ``ei.cfg``. (The vendor's description of edition configuration files.)"""
    said: dict[str, str] = {}
    section = ""
    for line in data.decode("utf-8-sig", "replace").splitlines():
        word = line.strip()
        if word.startswith("[") and word.endswith("]"):
            section = word[1:-1].strip().lower()
        elif word and section:
            said.setdefault(section, word)
    return said.get("channel"), said.get("editionid")


def _tree(texts: dict[str, bytes]) -> System | None:
    """What a tree of packages says of itself."""
    parser = ConfigParser(interpolation=None, strict=False)
    try:
        parser.read_string(texts.get(".treeinfo", b"").decode("utf-8", "replace"))
    except ConfigError:
        return None
    names = [parser.get(at, key, fallback="") for at, key in _NAMED]
    version = parser.get("release", "version", fallback="") or parser.get("general", "version", fallback="")
    arch = parser.get("tree", "arch", fallback="") or parser.get("general", "arch", fallback="") or None
    line = next((known().trees[one.lower()] for one in names if one.lower() in known().trees), None)
    if line is None:
        return None
    number = version.partition(".")[0]
    targets = [one for one in all_targets() if one.line == line and one.build == number]
    return System(
        family="kickstart",
        targets=tuple(one.id for one in targets),
        name=next((one for one in names if one), None),
        build=version or None,
        arch=arch,
    )


_NAMED = (("release", "name"), ("release", "short"), ("general", "family"))


def _hypervisor(texts: dict[str, bytes]) -> System | None:
    """What the hypervisor's loader says."""
    data = texts.get("efi/boot/boot.cfg") or texts.get("boot.cfg") or b""
    said = settings_in(data.decode("utf-8", "replace"))
    build, title = said.get("build", ""), said.get("title", "")
    if "esxi" not in title.lower() or not build:
        return None
    targets = [one for one in all_targets() if one.line == "esxi" and f"{build}.".startswith(f"{one.build}.")]
    return System(family="kickstart", targets=tuple(one.id for one in targets), name="ESXi", build=build, arch="x86_64")
