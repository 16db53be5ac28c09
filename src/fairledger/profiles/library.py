"""Where profiles are found: beside the draft, in the user's library, among those that ship."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.own import beside as catalog_beside
from fairledger.model.errors import FileTroubleError
from fairledger.model.pattern import pattern
from fairledger.model.suggest import nearest
from fairledger.storage.looking import entries, is_file

SHIPPED = Path(__file__).parent / "shipped"
_NAME = pattern(r"[a-z0-9][a-z0-9_-]*(\.[a-z0-9_-]+)*/[a-z0-9][a-z0-9_-]*(\.[a-z0-9_-]+)*")


class Library:
    """The folders of profiles that a draft sees, nearest first."""

    def __init__(self, beside: Path | None = None, own: Own | None = None) -> None:
        self._beside = beside
        self._own = own
        self._whole: Own | None = None

    @property
    def own(self) -> Own:
        """What is added to the catalog: by name, else by the folder beside the draft. Raises `CatalogError`."""
        if self._whole is None:
            named = self._own
            self._whole = catalog_beside(self._beside, named) if self._beside is not None else named or NOTHING
        return self._whole

    def folders(self) -> Iterator[Path]:
        """Where profiles are looked for, nearest first; the user's own place is worked out only if it is asked."""
        if self._beside is not None:
            yield self._beside / "profiles"
        yield user_library()
        yield SHIPPED

    def find(self, name: str) -> Path | None:
        """The file of a profile (``kind/title``); None if there is none of that name.

        Raises `FileTroubleError` for a folder that may not be looked into: a nearer profile may stand there.
        """
        if not valid_name(name):
            return None
        for folder in self.folders():
            path = folder / f"{name}.toml"
            try:
                if is_file(path):
                    return path
            except FileTroubleError as error:
                error.remedy = "check the permissions, or name another library in FAIRLEDGER_LIBRARY"
                raise
        return None

    def names(self) -> tuple[str, ...]:
        """Every profile that can be found, in alphabetical order."""
        found = {
            path.relative_to(folder).with_suffix("").as_posix()
            for folder in self.folders()
            for kind in entries(folder)
            for path in entries(kind, ".toml")
        }
        return tuple(sorted(found))

    def remedy(self, name: str) -> str:
        """What to do about a name that is not found: those that are like it, or that have a word of it."""
        names = self.names()
        kind, _, title = name.casefold().rpartition("/")
        words = {word for word in _WORD.findall(title) if len(word) >= _TELLING}
        alike = [one for one in names if words & set(_WORD.findall(one.partition("/")[2]))]
        near = nearest(name, names)
        if not near and not alike:
            alike = [one for one in names if one.partition("/")[0] in (kind, title)]
            alike += nearest(title, names, alike=0.5)
        found = list(dict.fromkeys((*near, *sorted(alike, key=lambda one: one.partition("/")[0] != kind))))[:4]
        if found:
            return f"did you mean {' or '.join(found)}?"
        if not valid_name(name):
            return "a profile is named kind/title, in small letters, digits and dashes, such as locale/en-gb"
        return "fairledger profile list names them; your own stand in the folder profiles/ beside the draft"


_WORD = pattern(r"[a-z0-9]+")
_TELLING = 3
"""Letters of a word that says something."""


def valid_name(name: str) -> bool:
    """Whether a text can be a profile's name: two plain words with one slash, never a way out of a folder."""
    return _NAME.fullmatch(name) is not None


def user_library() -> Path:
    """The user's own folder of profiles; the environment's FAIRLEDGER_LIBRARY overrides the usual place."""
    told = os.environ.get("FAIRLEDGER_LIBRARY")
    if told:
        return Path(told)
    from platformdirs import user_data_path

    return user_data_path("fairledger", appauthor=False) / "profiles"
