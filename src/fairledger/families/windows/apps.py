"""Apps that are taken away before anybody signs in, so that nobody gets them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from fairledger.catalog.tidy import Effect, known, tidy
from fairledger.families.interface import Words
from fairledger.families.windows.effect_lines import packed, removing
from fairledger.families.windows.tidy_job import LONGEST, Job, Took
from fairledger.families.windows.tidy_script import Step
from fairledger.families.windows.tidy_sections import TidySection
from fairledger.intent.apps import Apps
from fairledger.model.suggest import did_you_mean
from fairledger.model.target import Target

_PATH = ("apps", "remove")


_MANY = 2
"""More commands than that are none: each takes seconds to begin with."""


def _steps(rows: list[tuple[str, ...]]) -> tuple[Step, ...]:
    lines = [removing(names) for names in rows]
    return tuple(Step(when="installed", prompt=line, batch=line) for line in lines)


class _Apps(TidySection):
    """Which apps go."""

    def canonical(self, value: Apps, words: Words) -> Apps | None:
        """The apps that go, by name."""
        gone = _gone(value, words.target)
        return Apps(remove=tuple(gone)) if gone else None

    def jobs(self, value: Apps, target: Target) -> Iterator[Job]:
        """Commands of as many as they hold; one line of the script where that would be many."""
        gone = _gone(value, target)
        apps = known(target)
        effects = tuple(Effect(kind="app", package=apps[name].package) for name in gone)
        packages = [one.package for one in effects]
        steps = _steps(packed(packages, LONGEST["installed"]))
        scripted = _steps([tuple(packages)]) if len(steps) > _MANY else ()
        if gone:
            path = _PATH if value.remove else ("apps", "others")
            about = "apps that go"
            yield Job(path=path, about=about, effects=effects, steps=steps, scripted=scripted, undo="none")

    def tell(self, value: Apps, words: Words) -> None:
        """Says which names are none, which apps the release does not bring, and which must stay."""
        there = known(words.target)
        for field in ("remove", "keep"):
            for name in getattr(value, field):
                _tell(name, field, there, value, words)
        if value.keep and value.others != "remove":
            words.needless(("apps", "keep"), "apps.keep", "nothing takes them away")
        if value.others and not there:
            words.cannot(("apps", "others"), "apps.others", "it brings no apps that are known", "leave it out")
        words.told += [("apps", field) for field in ("remove", "keep", "others")]

    def found(self, there: dict[tuple[str, ...], list[Effect]], target: Target) -> tuple[Any, list[Took]]:
        """Apps that lines take away, if every one of them is known."""
        names = {one.package.lower(): name for name, one in known(target).items() if not one.stays}
        rows = [one for seat, found in there.items() if seat[0] == "app" for one in found if one.when == "installed"]
        if not rows or any(one.package.lower() not in names for one in rows):
            return None, []
        gone = {names[one.package.lower()] for one in rows}
        kept = tuple(name for name in known(target) if name in gone)
        return Apps(remove=kept), [Took(_PATH, tuple(rows))]


def _gone(value: Apps, target: Target) -> list[str]:
    """The apps that go, in the order of the catalog."""
    named = set(value.remove)
    return [
        name
        for name, one in known(target).items()
        if not one.stays and (name in named or (value.others == "remove" and name not in value.keep))
    ]


def _tell(name: str, field: str, there: dict[str, Any], value: Apps, words: Words) -> None:
    path, all_of_them = ("apps", field), tidy().apps
    if name not in all_of_them:
        hint = did_you_mean(name, there or all_of_them) or f"fairledger tidy list {words.target.id} lean"
        words.field_error(path, f"apps.{field}: there is no app {name!r}", hint)
    elif field == "remove" and name in value.keep:
        words.field_error(path, f"apps.{field}: {name} is told to go and to stay", "take it out of one of them")
    elif name not in there:
        words.needless(path, f"apps.{field}: {name}", "the release does not bring it")
    elif field == "remove" and there[name].stays:
        told = f"apps.remove: {name} must stay: {there[name].stays}"
        words.field_error(path, told, "take it out of the list")


SECTION = _Apps("apps")
