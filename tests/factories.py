"""Makes drafts, subjects and reports for the tests."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path
from typing import Any

from hypothesis import settings
from msgspec.structs import replace

from fairledger.catalog.own import Own
from fairledger.catalog.setting import Component
from fairledger.checks.engine import Report
from fairledger.checks.engine import check as checked
from fairledger.cli.many import Hearing, silent
from fairledger.delivery.fill import filled
from fairledger.delivery.place import Folder, place
from fairledger.delivery.prepare import prepare
from fairledger.fleet.checking import Beside, Checking
from fairledger.model.facts import Facts
from fairledger.profiles.document import read_document
from fairledger.profiles.library import Library
from fairledger.profiles.resolve import Resolved, Selection, resolve
from fairledger.profiles.secrets import Secrets
from fairledger.subject.opening import ALONE, Asked, looked_at, opened
from fairledger.subject.settling import settled
from fairledger.subject.subject import Subject

DESK = "windows-11-24h2"
TIMES = int(os.environ.get("EXAMPLES_TIMES", "1"))
"""How many times the usual number of examples a property is tried with."""


def examples(number: int, **others: Any) -> settings:
    """So many examples, or as many times that as were asked for."""
    return settings(max_examples=number * TIMES, **others)


HEAD = f'format = 1\n[draft]\ntarget = "{DESK}"\nfirmware = "uefi"\n'
NOWHERE = Path("nowhere")


def whole(fragment: str, head: str = HEAD) -> str:
    """A draft's whole text from its sections; a fragment with a head of its own gets only the format."""
    return ("format = 1\n" if "[draft]" in fragment else head) + fragment


def check(text: str, folder: Path = NOWHERE, given: str = "", *, questions: bool = False) -> Report:
    """Checks a fragment of a draft, or the text of an answer file; ``given`` are options of the command.

    Of what fragments leave open is told only with ``questions``.
    """
    if given == "two files in one call":
        return _beside_itself(text)
    told = dict(zip(given.split()[::2], given.split()[1::2], strict=True))
    root, facts = told.get("--root"), Facts(route=told.get("--route"), medium=medium(told.get("--medium")))
    if text.lstrip().startswith("<") or not text.strip():
        return check_answers(text, "answer.xml", questions=questions, target=DESK, facts=facts)
    if text.startswith(("#version=", "accepteula")):
        target = "el-9" if "--target" in told else None
        asked = {"target": target, "facts": facts, "root": Path(root) if root else None}
        if "--catalog" in told:
            gauge = Component(name="gauge", passes=("setup",))
            asked["own"] = Own({"kickstart": {"gauge": gauge}}, told["--catalog"])
        return check_answers(text, "answer.ks", questions=questions, **asked)
    return check_draft(whole(text), folder / "desk.toml", questions=questions, facts=facts)


def _beside_itself(text: str) -> Report:
    """An answer file, checked beside another one that differs in its last line."""
    with tempfile.TemporaryDirectory() as folder:
        work = Checking(ALONE, Hearing(), silent, several=True)
        first, last = (
            work(Path(folder) / name, (text + end).encode()) for name, end in (("a.ks", ""), ("b.ks", "#\n"))
        )
        beside = Beside()
        assert [*beside.look(first)] == []
        return replace(last.report, findings=tuple(beside.look(last)))


def medium(name: str | None) -> str | None:
    """The facts of one of the example's media, or of one of the tests' own."""
    places = [Path(__file__).parents[1] / "examples" / "stations", Path(__file__).parent / "media" / "facts"]
    found = [place / part for place in places for part in (name or "", Path(name or "").name) if name]
    return next((str(one) for one in found if one.is_file()), name)


def check_draft(text: str, path: Path, *, questions: bool = False, facts: Facts = ALONE.facts) -> Report:
    """Checks a draft's whole text."""
    report = checked(looked_at(path, Asked(facts=facts), text.encode()))
    return report if questions else without_questions(report)


def check_answers(text: str | bytes, name: str | Path, *, questions: bool = False, **asked) -> Report:
    """Checks an answer file; ``asked`` is what is said along with it."""
    data = text if isinstance(text, bytes) else text.encode("utf-8", "surrogatepass")
    report = checked(looked_at(Path(name), Asked(**asked), data))
    return report if questions else without_questions(report)


def without_questions(report: Report) -> Report:
    """A report without what nobody answers."""
    return replace(report, findings=tuple(one for one in report.findings if not one.rule.startswith("question-")))


def rules_of(report: Report) -> list[str]:
    """The ids of what was found."""
    return [finding.rule for finding in report.findings]


def resolved(fragment: str, folder: Path = NOWHERE) -> Resolved:
    """A resolved draft from a fragment."""
    return resolved_text(whole(fragment), "desk.toml", Library(folder))


def resolved_text(text: str, file: str, library: Library, selection: Selection | None = None) -> Resolved:
    """A resolved draft from its whole text."""
    return resolve(read_document(text, file, tolerant=True), library, selection)


def draft(fragment: str, folder: Path = NOWHERE) -> Subject:
    """The subject of a draft from a fragment."""
    return opened(folder / "desk.toml", data=whole(fragment).encode())


def settled_file(text: str | bytes, path: Path, target: str | None = None) -> Subject:
    """An answer file as it is compared."""
    data = text if isinstance(text, bytes) else text.encode()
    return settled(opened(path, Asked(target=target), data))


def issue(subject: Subject, out: Path, secrets: Secrets | None = None, *, overwrite: bool = False, **asked):
    """A draft's files for one machine, and the record of them; None where errors stand against it."""
    prepared = prepare(subject, asked.get("route", "plain"), without_secrets=secrets is None)
    made = filled(prepared, asked.get("values", {}), secrets)
    return made, place(prepared, made, Folder(out, replace=overwrite)) if made.files else None


def made(fragment: str, **values: str) -> str:
    """The answer file that a fragment comes to, its placeholders filled with ``values``."""
    files = filled(prepare(draft(fragment), "plain"), values, Secrets({})).files
    return files[0].data.decode()


WIPING = """
[image]
edition = "Pro"
[licence]
accept = true
[identity]
name = "LMR-DESK-01"
[disk]
fate = "wipe"
partition = [
  { role = "firmware", size = "260 MiB" },
  { role = "reserved", size = "16 MiB" },
  { role = "system", size = "rest", letter = "C" },
]
"""
GATE = """format = 1
[draft]
target = "el-9"
[identity]
name = "{0}"
[source]
url = "http://192.0.2.10/el9"
[disk]
which = "sda"
fate = "wipe"
plan = {{}}
[locale]
language = "en-GB"
keyboards = ["gb"]
time_zone = "Europe/London"
[packages]
groups = ["core"]
[answers.setup.rootpw]
"--lock" = true
"""
