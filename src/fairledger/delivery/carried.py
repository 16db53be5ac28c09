"""Files that go along with an answer file: read where the draft names them, once for all machines."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from msgspec import Struct

from fairledger.intent.file import FILE, File
from fairledger.intent.intent import Intent
from fairledger.media.contents import known
from fairledger.model.errors import ContentError
from fairledger.model.finding import Severity, finding_at
from fairledger.model.places import Place
from fairledger.storage.files import read_bytes
from fairledger.storage.looking import files_below, inside, is_file, is_folder, others_may_read

MOST_BYTES = 2 << 30
"""Bytes of all of them."""


class Carried(Struct, frozen=True):
    """A file that goes along."""

    name: str
    """Its path from the answer file on."""
    data: bytes
    private: bool
    """Whether nobody else may read it where it lies."""


class Carrier:
    """The files of a draft; those whose names are known are read once."""

    def __init__(self, intent: Intent, folder: Path) -> None:
        files: tuple[File, ...] = intent.get(FILE) or ()
        self._rows = [(one, intent.place("file", at)) for at, one in enumerate(files)]
        self._folder = folder
        self._read: dict[File, tuple[Carried, ...]] = {}

    def __bool__(self) -> bool:
        return bool(self._rows)

    def of(self, taken: Sequence[str]) -> tuple[Carried, ...]:
        """Those of one machine, beside files of these names. Raises `ContentError` for missing ones and clashes."""
        found: list[Carried] = []
        names = {one.casefold(): one for one in taken}
        for one, place in self._rows:
            for made in self._files(one, place):
                other = names.setdefault(made.name.casefold(), made.name)
                if made.name.casefold() in {one.path for one in known().answers}:
                    raise _wrong(f"{made.name} on the medium would be taken for an answer file", place)
                if other is not made.name:
                    raise _wrong(f"{one.source} would lie on the medium as {made.name}, which is there already", place)
                found.append(made)
        if sum(len(made.data) for made in found) > MOST_BYTES:
            raise _wrong(f"what goes along is larger than {MOST_BYTES >> 30} GiB", self._rows[0][1])
        return tuple(found)

    def _files(self, one: File, place: Place) -> tuple[Carried, ...]:
        if one not in self._read:
            self._read[one] = tuple(self._from(one, place))
        return self._read[one]

    def _from(self, one: File, place: Place) -> Iterator[Carried]:
        source = one.source
        path = self._folder / source
        if inside(self._folder, source) and is_file(path):
            yield Carried(one.carried, read_bytes(path, MOST_BYTES), not others_may_read(path))
        elif inside(self._folder, source) and is_folder(path) and one.to is None:
            for name in files_below(path):
                whole = path / name
                yield Carried(f"{one.carried}/{name}", read_bytes(whole, MOST_BYTES), not others_may_read(whole))
        else:
            raise _wrong(f"{source} does not lie beside the draft", place)


def _wrong(told: str, place: Place) -> ContentError:
    hint = "bring it, or name another; the path counts from the draft's folder"
    return ContentError([finding_at("file-missing", Severity.ERROR, told, place, hint)])
