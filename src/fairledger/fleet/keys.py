"""Secrets for the drafts of a roster: each one's files are looked for from its own folder, as when it is alone."""

from __future__ import annotations

from pathlib import Path

from fairledger.profiles.secrets import Ask, Secrets
from fairledger.profiles.seed import Seeds


class Keys:
    """The secrets of all drafts. Whoever was asked for something is not asked again for another draft."""

    def __init__(self, ask: Ask | None = None, seed: str | None = None, *, own_salt: bool = False) -> None:
        """``seed`` and ``own_salt`` are those of `Seeds`. Raises `WrongUseError` for a seed that is none."""
        Seeds(Path(), seed)
        self.seed = seed
        self.own_salt = own_salt
        self._ask = ask
        self._answers: dict[str, str | None] = {}
        self._known: dict[Path, Secrets] = {}
        self._outside: dict[str, None] = {}

    def of(self, draft: Path) -> Secrets:
        """Those of a draft."""
        folder = draft.parent
        if folder not in self._known:
            seeds = Seeds(folder, self.seed, own_salt=self.own_salt)
            self._known[folder] = Secrets(folder, self._asked if self._ask is not None else None, seeds)
        return self._known[folder]

    @property
    def asked(self) -> bool:
        """Whether anybody was asked for one."""
        return any(one.asked for one in self._known.values())

    @property
    def outside(self) -> tuple[str, ...]:
        """Files outside of the drafts' folders from which secrets were read."""
        told = (path for one in self._known.values() for path in one.outside)
        return tuple(dict.fromkeys((*self._outside, *told)))

    @property
    def made(self) -> tuple[Path, ...]:
        """Files that were made for new seeds."""
        return tuple(one.seeds.made for one in self._known.values() if one.seeds.made is not None)

    def heard(self, outside: tuple[str, ...]) -> None:
        """Files from which somebody else read secrets."""
        self._outside |= dict.fromkeys(outside)

    def _asked(self, what: str) -> str | None:
        if what not in self._answers:
            self._answers[what] = self._ask(what) if self._ask is not None else None
        return self._answers[what]
