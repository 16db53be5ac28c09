"""What is put into a folder: gathered first, so that the plan tells it and nothing is written before all is known."""

from __future__ import annotations

from pathlib import Path

from fairledger.delivery.plan import Step
from fairledger.media.programs import free_in
from fairledger.model.errors import FileTroubleError, RefusedError
from fairledger.storage.files import read_whole
from fairledger.storage.looking import entries, inside, is_file, is_folder, is_there
from fairledger.storage.together import Piece

_SPARE = 64 << 10
"""Bytes that a file system takes for itself."""


class Placing:
    """The files of one delivery into a folder."""

    def __init__(self, folder: Path, *, replace: bool) -> None:
        self.folder, self._replace = folder, replace
        self.there = {path.name.casefold(): path for path in entries(folder)} if is_folder(folder) else {}
        """What stands at the top of it, by names in small letters."""
        self.needs: list[str] = []
        self.steps: list[Step] = []
        self.pieces: list[Piece] = []
        self.kept: list[Piece] = []
        """Copies of what is changed."""
        self.wanted: list[tuple[Path, bytes]] = []
        self._going: dict[str, bytes] = {}

    def put(self, name: str, data: bytes, source: str, *, private: bool = False) -> Path:
        """One file at its place; under the very name of one that only differs in its letters' size.

        Raises `FileTroubleError` where no file can stand there, `RefusedError` where another one goes there too.
        """
        if not inside(self.folder, name) and is_there(self.folder):
            raise FileTroubleError("a link there leads elsewhere", file=str(self.folder / name), remedy="take it away")
        path = self.folder / name
        same = self.there.get(name.casefold()) if "/" not in name else None
        if same is not None and same.name != name:
            path = same
        if is_folder(path):
            raise FileTroubleError("a folder stands where a file is to be put", file=str(path), remedy="take it away")
        other = self._going.setdefault(str(path).casefold(), data)
        if other != data:
            raise RefusedError("two files would go to one place", file=str(path), remedy="deliver them apart")
        self.wanted.append((path, data))
        old = read_whole(path) if is_file(path) else None
        if old == data:
            return path
        action = "write" if old is None else "replace"
        if old is not None and not self._replace:
            self.needs.append(f"--replace, since {path} stands there already")
        self.steps.append(Step(action=action, path=str(path), bytes=len(data), source=source))
        self.pieces.append(Piece(path, data, private))
        return path

    def change(self, path: Path, old: bytes, new: bytes) -> None:
        """A file that stands there, with a copy of it beside."""
        beside = path.with_name(f"{path.name}.before")
        if not is_there(beside):
            self.kept.append(Piece(beside, old))
        self.steps.append(Step(action="change", path=str(path), bytes=len(new), source=f"its copy is {beside.name}"))
        self.pieces.append(Piece(path, new))
        self.wanted.append((path, new))

    def must_have_room(self) -> None:
        """Raises `FileTroubleError` where there is too little room."""
        wanted = sum(len(one.data) for one in (*self.pieces, *self.kept))
        free = free_in(self.folder)
        if free is not None and free < wanted + _SPARE:
            told = f"there is room for {free:,} bytes, and {wanted:,} are wanted"
            raise FileTroubleError(told, file=str(self.folder), remedy="make room first")
