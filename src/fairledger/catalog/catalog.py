"""The catalog of one target, or of a whole family when the target is unknown."""

from __future__ import annotations

from functools import cached_property, lru_cache
from typing import Any

from msgspec.structs import replace

from fairledger.catalog.index import component_of, names_of
from fairledger.catalog.own import NOTHING, Own, joined
from fairledger.catalog.setting import Component, Setting
from fairledger.catalog.targets import covers
from fairledger.model.target import Target


class Catalog:
    """Answers what may be set. Reads only the components that it is asked for."""

    def __init__(self, family: str, target: Target | None = None, own: Own = NOTHING) -> None:
        self.family = family
        self.target = target
        self.own = own
        """What was added to the packaged components."""
        self._entries = names_of(family)
        self._keys: dict[str, str] = {}
        for key, entry in sorted(self._entries.items()):
            if target is None or not entry.lines or target.line in entry.lines:
                self._keys.setdefault(key.partition("@")[0], key)
        self._added = {
            name: one
            for name, one in own.of(family).items()
            if target is None or not one.lines or target.line in one.lines
        }
        self.kept: dict[str, dict[Any, Any]] = {}
        """What others work out of its settings once, under names of their own."""
        self._components: dict[str, Component | None] = {}
        self._anywhere: dict[str, Component | None] = {}

    def names(self) -> tuple[str, ...]:
        """All components that the target has, in alphabetical order."""
        return tuple(name for name in self._all_names() if self.component(name) is not None)

    @cached_property
    def expected(self) -> dict[str, tuple[str, ...]]:
        """What no file should be without, in words, with the components that answer it; other bodies are not read."""
        found: dict[str, tuple[str, ...]] = {}
        told = [name for name in self._all_names() if name in self._added or self._entries[self._keys[name]].expected]
        for name in told:
            known = self.component(name)
            if known is not None and known.expected and not known.alias:
                found[known.expected] = (*found.get(known.expected, ()), name)
        return found

    def components(self) -> tuple[Component, ...]:
        """All of them."""
        return tuple(one for name in self._all_names() if (one := self.component(name)) is not None)

    def named(self, name: str) -> Component | None:
        """A component by its name, or by an end of it that no other has (``Shell-Setup``)."""
        found = self.component(name)
        if found is None and name:
            ends = [one for one in self._all_names() if one.endswith("-" + name)]
            found = self.component(ends[0]) if len(ends) == 1 else None
        return found

    def component(self, name: str) -> Component | None:
        """A component with just the settings that the target knows; None if it has no such component."""
        if name not in self._components:
            self._components[name] = self._fitted(name)
        return self._components[name]

    @cached_property
    def _of_all_releases(self) -> dict[str, str]:
        """The first key of each name, whatever its release."""
        return {key.partition("@")[0]: key for key in reversed(self._entries)}

    def anywhere(self, name: str) -> Component | None:
        """A component with the settings of all releases; of the target's line if that has it."""
        if name not in self._anywhere:
            key = self._keys.get(name) or self._of_all_releases.get(name)
            self._anywhere[name] = self._whole(name, key)
        return self._anywhere[name]

    def setting(self, component: str, path: str) -> Setting | None:
        """The setting at exactly that path, if the target knows it."""
        found = self.component(component)
        return found.setting(path) if found else None

    def with_tail(self, tail: str) -> tuple[tuple[str, str], ...]:
        """Components and paths of all settings whose path is, or ends with, ``tail`` (whole names)."""
        end = "/" + tail
        hits = [
            (name, path)
            for name in self._all_names()
            for path in self._paths(name)
            if path == tail or path.endswith(end)
        ]
        return tuple((name, path) for name, path in hits if self.setting(name, path) is not None)

    def all_names(self) -> tuple[str, ...]:
        """Last names of all settings, and of components: where a mistyped word may belong."""
        paths = (path for name in self._all_names() for path in self._paths(name))
        return (*dict.fromkeys(path.rsplit("/", 1)[-1] for path in paths), *self._all_names())

    def _all_names(self) -> list[str]:
        return sorted({*self._keys, *self._added})

    def _paths(self, name: str) -> tuple[str, ...]:
        """The paths of a component's settings; bodies are not read for it."""
        packaged = self._entries[self._keys[name]].paths if name in self._keys else ()
        added = self._added.get(name)
        return packaged if added is None else (*packaged, *(one.path for one in added.settings))

    def _whole(self, name: str, key: str | None) -> Component | None:
        packaged = component_of(self.family, key) if key else None
        added = self._added.get(name)
        if packaged is None or added is None:
            return packaged or added
        return joined(packaged, added, self.own.folder)

    def _fitted(self, name: str) -> Component | None:
        whole = self._whole(name, self._keys.get(name))
        if whole is None or self.target is None:
            return whole
        target = self.target
        if not covers(target, whole.since, whole.until):
            return None
        kept = tuple(
            one
            for one in whole.settings
            if covers(target, one.since, one.until) and (not one.lines or target.line in one.lines)
        )
        return whole if len(kept) == len(whole.settings) else replace(whole, settings=kept)


def catalog_of(family: str, target: Target | None = None, own: Own = NOTHING) -> Catalog:
    """The catalog of a target; the same one for the same target, unless something was added to it."""
    return _shared(family, target) if own is NOTHING else Catalog(family, target, own)


@lru_cache(maxsize=64)
def _shared(family: str, target: Target | None) -> Catalog:
    return Catalog(family, target)
