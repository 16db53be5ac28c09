"""What choices come to, told, and the script that takes them back in the reverse order."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from fairledger.catalog.tidy import ANY, HIVES, Change, Choice, Chosen, Effect, Registry, choices_of, known, of_change
from fairledger.families.quoting import IN_SCRIPT
from fairledger.families.windows import effect_lines
from fairledger.families.windows.effect_lines import LOAD, LOG, UNLOAD
from fairledger.families.windows.tidy_job import Job, records
from fairledger.families.windows.tidy_script import HEAD, NAME
from fairledger.families.windows.tidy_sections import jobs_of
from fairledger.intent.intent import Intent
from fairledger.model.target import Target
from fairledger.model.values import escaped

_APART = {
    "apps": ("lean", "Apps that are taken away before anybody gets them."),
    "services": ("lean", "How services start."),
}
"""Topic and meaning of the sections that are no data."""
ENDINGS = (".cmd", ".ps1")


def chosen(intent: Intent, target: Target, *, single: bool) -> tuple[Chosen, ...]:
    """The choices that sections make."""
    return tuple(_told(job, intent, target, single=single) for job in jobs_of(intent, target))


def _told(job: Job, intent: Intent, target: Target, *, single: bool) -> Chosen:
    path = (str(job.path[0]), job.name)
    choice = choice_of(intent, path)
    topic, about = (choice.topic, choice.about) if choice is not None else _APART[path[0]]
    value = str(job.value)
    if choice is None:
        value = _apps(job, target) if path[0] == "apps" else job.effects[0].service
    return Chosen(
        path=path,
        place=job.path,
        value=value,
        topic=topic,
        about=about,
        usual=choice.usual if choice is not None else "",
        loses=choice.loses if choice is not None else "",
        effects=job.effects,
        undo=job.undo,
        how=_how(job, single=single),
    )


def choice_of(intent: Intent, path: tuple[str, str]) -> Choice | None:
    """A choice by its section and name; None for apps and services."""
    section, name = path
    return intent.own.get(name) if section == "own" else choices_of(section).get(name)


def _apps(job: Job, target: Target) -> str:
    names = {one.package: name for name, one in known(target).items()}
    return ", ".join(names[one.package] for one in job.effects)


def _how(job: Job, *, single: bool) -> str:
    """What brings it about."""
    set_ = [one for one in job.effects if one.kind in ("setting", "firewall")]
    steps = [one for one in job.steps if one.when == "installed"]
    late = [one for one in job.steps if one.when == "sign-in"]
    told = []
    if set_:
        told.append(f"{_count(len(set_), 'setting')} of the answer file")
    if steps:
        fits = job.fits("installed", single=single)
        told.append(f"{_count(len(steps), 'command')} before the first start" if fits else f"the script {NAME}")
    if late:
        told.append(f"{_count(len(late), 'command')} at the first sign-in")
    return "by " + " and ".join(told)


def _count(number: int, what: str) -> str:
    return f"a {what}" if number == 1 else f"{number} {what}s"


def taken_back(intent: Intent, target: Target, ending: str) -> str:
    """The script that takes choices back, for a file of that ending; empty for others, and where nothing can be."""
    rows = list(_rows(intent, target))
    if ending not in ENDINGS or not rows:
        return ""
    return _batch(rows) if ending == ".cmd" else _powershell(rows)


def _rows(intent: Intent, target: Target) -> Iterator[tuple[str, str]]:
    """Lines of a batch file with the choices that they take back, the last that was done first."""
    jobs = [job for job in reversed(jobs_of(intent, target)) if job.undo != "none"]
    rows = [(job.about.partition(": ")[0], *row) for job in jobs for row in _back(job, intent, target)]
    yield from ((name, line) for name, hive, line in rows if hive == "first_user")
    later = [(name, line) for name, hive, line in rows if hive == "new_users"]
    if later:
        # whoever takes it back is one of those who came later
        yield from ((name, line.replace(effect_lines.NEW_USERS, "HKCU", 1)) for name, line in later)
        yield from (("later users", LOAD), *later, ("later users", UNLOAD))
    yield from ((name, line) for name, hive, line in rows if hive not in ("first_user", "new_users"))


def _back(job: Job, intent: Intent, target: Target) -> Iterator[tuple[str, str]]:
    """The hive and the line of each step back of one choice."""
    section, field = str(job.path[0]), job.name
    if job.undo == "exact":
        yield from (("", line) for line in _exactly(job, section, field))
        return
    choice, value = choice_of(intent, (section, field)), job.value
    if choice is None:
        return
    for change in reversed(choice.changes(target)):
        word = str(value)
        if not (word in change.key_alone or {word, ANY} & {*change.data, *change.run}):
            continue
        yield from _change_back(change, choice.usual, value)


def _exactly(job: Job, section: str, field: str) -> Iterator[str]:
    service = next((one.service for one in job.effects if one.kind == "service"), "")
    if service:
        (record, key), *_ = records(job.effects, f"{section}.{service}")
        yield from effect_lines.restoring(record, key, ("DelayedAutostart", "Start"))
        return
    for record, key in reversed(records(job.effects, f"{section}.{field}")):
        names = tuple(one.name for one in job.effects if one.key == key)
        yield from effect_lines.restoring(record, key, names)


def _change_back(change: Change, usual: str, value: Any) -> Iterator[tuple[str, str]]:
    if change.back:
        yield "first_user" if change.when == "sign-in" else "", change.back
    elif change.setting and change.registry is not None:
        yield from _value_back(change.registry, value)
    elif change.firewall and usual in change.data:
        yield "", str(effect_lines.line(Effect(kind="firewall", key=change.firewall, data=change.data[usual])))
    elif change.task or change.feature:
        other = {"disable": "enable", "enable": "disable"}[str(change.data.get(str(value)))]
        kind, name = ("task", change.task) if change.task else ("feature", change.feature)
        yield "", str(effect_lines.line(Effect(kind=kind, command=name, data=other)))
    else:
        yield from _value_back(change, value)


def _value_back(row: Registry, value: Any) -> Iterator[tuple[str, str]]:
    for hive in HIVES:
        key = getattr(row, hive)
        if not key:
            continue
        effect = next(_effects(row, value), None)
        if effect is None:
            continue
        if row.whole:
            yield hive, f"reg delete {effect_lines.word(rf'{effect_lines.ROOTS[hive]}{chr(92)}{row.whole}')} /f"
        elif row.usual is not None:
            kind = row.type or ("dword" if isinstance(row.usual, int) else "string")
            there = Effect(kind="registry", hive=hive, key=key, name=row.name, type=kind, data=row.usual)
            yield hive, str(effect_lines.registry(there, batch=True))
        else:
            yield hive, effect_lines.without(effect)


def _effects(row: Registry, value: Any) -> Iterator[Effect]:
    change = Change(**{name: getattr(row, name) for name in Registry.__struct_fields__})
    yield from of_change(change, value)


_HEADING = "Takes back what was chosen, as far as that can be. Run it as administrator, once as each of its users."


def _batch(rows: list[tuple[str, str]]) -> str:
    out = HEAD.replace("{log}", LOG).replace("@echo off\n", f"@echo off\nrem {_HEADING}\n")
    for name, line in rows:
        out += f'>>"%log%" echo back: {name}\n{line} >>"%log%" 2>&1\n>>"%log%" echo exit code %errorlevel%\n'
    return out + "exit /b 0\n"


_STEP = """function Step($name, $line) {
  Add-Content -LiteralPath $log -Value "back: $name"
  $call = New-Object Diagnostics.ProcessStartInfo
  $call.FileName = $env:ComSpec
  $call.Arguments = '/d /s /c "' + $line + ' >>"' + $log + '" 2>&1"'
  $call.UseShellExecute = $false
  $run = [Diagnostics.Process]::Start($call)
  $run.WaitForExit()
  Add-Content -LiteralPath $log -Value ("exit code " + $run.ExitCode)
}
"""


def _powershell(rows: list[tuple[str, str]]) -> str:
    log = LOG.replace("%SystemRoot%", "$env:SystemRoot")
    out = f'# {_HEADING}\n$log = "{log}"\n{_STEP}'
    for name, line in rows:
        at_prompt = line.replace("%%", "%")
        out += f"Step '{name}' '{escaped(at_prompt, IN_SCRIPT)}'\n"
    return out
