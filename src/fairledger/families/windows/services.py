"""Services of Windows: how each starts, with a record of how it did before."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from fairledger.catalog.tidy import Effect, tidy
from fairledger.families.interface import Words
from fairledger.families.windows.tidy_job import Job, Took, steps_of
from fairledger.families.windows.tidy_sections import TidySection
from fairledger.intent.services import Services
from fairledger.model.pattern import pattern
from fairledger.model.target import Target
from fairledger.model.values import Text

STARTS = {"enabled": "auto", "delayed": "delayed-auto", "manual": "demand", "disabled": "disabled"}
_NAME = pattern(r"[A-Za-z0-9_.$@{}-][A-Za-z0-9_.$@{} -]{0,79}(?<! )")


class _Services(TidySection):
    """How services start."""

    def canonical(self, value: Services, words: Words) -> Services | None:  # noqa: ARG002
        """Each service once, and none that must not be switched off."""
        kept = {field: tuple(name for name, at in _said(value) if at == field) for field in STARTS}
        return Services(**kept) if any(kept.values()) else None

    def jobs(self, value: Services, target: Target) -> Iterator[Job]:  # noqa: ARG002
        """A line for each, behind those of its record."""
        for name, field in _said(value):
            effects = (Effect(kind="service", service=name, start=STARTS[field]),)
            steps = steps_of(effects, f"services.{name}")
            about = f"services.{field}: {name}"
            yield Job(path=("services", field), about=about, effects=effects, steps=steps, undo="exact")

    def tell(self, value: Services, words: Words) -> None:
        """Says which names are none, which stand twice, and which must stay."""
        seen: dict[str, str] = {}
        for field in STARTS:
            for name in getattr(value, field):
                why, hint = _wrong(name, field, seen)
                if why:
                    words.field_error(("services", field), f"services.{field}: {name}: {why}", hint)
                seen.setdefault(str(name).lower(), field)
        words.told += [("services", field) for field in STARTS]

    def found(self, there: dict[tuple[str, ...], list[Effect]], target: Target) -> tuple[Any, list[Took]]:  # noqa: ARG002
        """Services whose start lines set, each once."""
        fields = {start: field for field, start in STARTS.items()}
        kept: dict[str, list[str]] = {field: [] for field in STARTS}
        took = []
        for seat, rows in there.items():
            one = rows[0]
            if seat[0] != "service" or len(rows) > 1 or _wrong(one.service, fields[one.start], {})[0]:
                continue
            kept[fields[one.start]].append(one.service)
            took.append(Took(("services", fields[one.start]), (one,), f"services.{one.service}"))
        made = Services(**{field: tuple(names) for field, names in kept.items()}) if took else None
        return made, took


def _wrong(name: Text, field: str, seen: dict[str, str]) -> tuple[str, str]:
    """What is wrong with a service, and the remedy; empty if nothing is."""
    if not isinstance(name, str) or not _NAME.fullmatch(name):
        return "it is no name of a service", "write the short name that the system gives it, as Spooler"
    must = {one.lower(): why for one, why in tidy().must.items()}
    if field == "disabled" and name.lower() in must:
        return f"it must not be switched off: {must[name.lower()]}", "take it out"
    if name.lower() in seen:
        return f"it stands in {seen[name.lower()]} too", "leave it in one of them"
    return "", ""


def _said(value: Services) -> Iterator[tuple[str, str]]:
    seen: dict[str, str] = {}
    for field in STARTS:
        for name in getattr(value, field):
            if not _wrong(name, field, seen)[0]:
                yield name, field
            seen.setdefault(str(name).lower(), field)


SECTION = _Services("services")
