"""Answer discs: small media that hold an answer file and its scripts, and nothing else."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import PurePosixPath
from threading import Lock
from types import SimpleNamespace
from typing import Any

from fairledger.delivery.fill import Made
from fairledger.model.errors import WrongUseError

_ALWAYS = 946_684_800
"""The moment that stands on every disc, in seconds: the same files make the same bytes."""
_MOST_NAME = 20
_MOST_LABEL = 16
"""Characters of a label that both forms of directories can hold."""
_LETTERS = frozenset("ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_")
_PATCHED = Lock()


def disc_of(files: Sequence[Made], label: str) -> bytes:
    """The bytes of a disc with long names for either kind of system.

    The same files and label make the same bytes. Raises `WrongUseError` for a label that no disc can have.
    """
    import pycdlib

    if not label or len(label) > _MOST_LABEL or not set(label) <= _LETTERS:
        remedy = f"take up to {_MOST_LABEL} capital letters, digits and underscores"
        raise WrongUseError(f"a disc cannot have the label {label!r}", remedy=remedy)
    with _one_moment():
        disc = pycdlib.PyCdlib()
        disc.new(interchange_level=3, joliet=3, rock_ridge="1.09", vol_ident=label)
        made = _Folders(disc)
        for one in files:
            way = PurePosixPath(one.name)
            place = f"{made.plain(way.parent)}/{_plain_name(way.name, made.taken)};1"
            disc.add_fp(io.BytesIO(one.data), len(one.data), place, rr_name=way.name, joliet_path=f"/{one.name}")
        out = io.BytesIO()
        disc.write_fp(out)
        disc.close()
    return out.getvalue()


class _Folders:
    """The folders of a disc, made when something is put into them."""

    def __init__(self, disc: Any) -> None:
        self._disc = disc
        self._known = {PurePosixPath("."): ""}
        self.taken: set[str] = set()
        """Names in the older form that are given away; each stands once on the whole disc."""

    def plain(self, folder: PurePosixPath) -> str:
        """A folder's path in the older form."""
        if folder not in self._known:
            above = self.plain(folder.parent)
            self._known[folder] = f"{above}/{_plain_name(folder.name, self.taken).rstrip('.')}"
            self._disc.add_directory(self._known[folder], rr_name=folder.name, joliet_path=f"/{folder}")
        return self._known[folder]


def _plain_name(name: str, taken: set[str]) -> str:
    """A name in the letters that every reader of discs knows, as near to the real one as these allow."""
    stem, _, ending = name.upper().rpartition(".") if "." in name else (name.upper(), "", "")
    stem, ending = ("".join(one if one in _LETTERS else "_" for one in part) for part in (stem, ending))
    number, made = 0, ""
    while not made or made in taken:
        more = f"_{number}" if number else ""
        made = f"{stem[: _MOST_NAME - len(more)]}{more}.{ending[:3]}"
        number += 1
    taken.add(made)
    return made


@contextmanager
def _one_moment() -> Iterator[None]:
    """Lets the library see one moment and no time zone, which it would write onto the disc."""
    import time

    import pycdlib.dates
    import pycdlib.headervd
    import pycdlib.pycdlib

    modules: tuple[Any, ...] = (pycdlib.pycdlib, pycdlib.headervd, pycdlib.dates)
    still = SimpleNamespace(
        time=lambda: float(_ALWAYS),
        localtime=time.gmtime,
        gmtime=time.gmtime,
        strftime=time.strftime,
        strptime=time.strptime,
        struct_time=time.struct_time,
    )
    with _PATCHED:
        for one in modules:
            one.time = still
        try:
            yield
        finally:
            for one in modules:
                one.time = time
