"""Commands beside each other: what excludes what, what must come before, and words that a release has lost."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.setting import Setting
from fairledger.catalog.targets import name_of, order_of, reached
from fairledger.checks.claims import KICKSTART
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.model.finding import Severity
from fairledger.model.kinds import choices_of
from fairledger.model.showing import visible

_LINUX = "#version=RHEL9\n"


@rule(
    "choice-gone",
    Severity.ERROR,
    "The release has lost this one of the words, or has it not yet: its installer stops at it.",
    source=KICKSTART,
    fires=_LINUX + "autopart --type=btrfs\n",
    silent=_LINUX + "autopart --type=lvm\n",
)
def choice_gone(view: View) -> Iterator[Hit]:
    """Choices that went with an earlier release of the line, or come with a later one."""
    target = view.target
    for seat in view.where(_changes) if target is not None else ():
        setting, word = seat.setting, (seat.text or "").strip()
        if target is None or setting is None:
            continue
        gone, came = setting.gone.get(word, ()), setting.came.get(word, ())
        first = next((name for name in came if name in order_of(target.line)), "")
        told = ""
        if reached(target, gone):
            last = next(name for name in gone if name in order_of(target.line))
            told = f"{target.name} has no {visible(word)} here: none since {name_of(last)}"
        elif first and not reached(target, came):
            told = f"{target.name} has no {visible(word)} here: it came with {name_of(first)}"
        if told:
            every = [*choices_of(setting.kind, setting), *setting.usual]
            fits = [one for one in every if not reached(target, setting.gone.get(one, ()))]
            fits = [one for one in fits if one not in setting.came or reached(target, setting.came[one])]
            # of free names, somebody's own packages may have others
            own = None if setting.choices else Severity.WARNING
            yield at(seat, told, f"use {' or '.join(fits[:3])}" if fits else "use another one", own)


def _changes(setting: Setting) -> object:
    return (setting.gone or setting.came) and "words" not in setting.traits


@rule(
    "command-excluded",
    Severity.ERROR,
    "Two commands cannot stand in one file: the installer refuses one of them, or does what nobody meant.",
    source=KICKSTART,
    fires=_LINUX + "autopart\nreqpart\n",
    silent=_LINUX + "autopart\n",
)
def command_excluded(view: View) -> Iterator[Hit]:
    """Commands that exclude another one, told at the later one."""
    there: set[tuple[str, str]] = set()
    excluded: dict[tuple[str, str], str] = {}
    for root in view.seats.roots:
        known, pass_ = root.component, root.block.pass_
        if known is None:
            continue
        other = excluded.get((pass_, known.name)) or next((one for one in known.excludes if (pass_, one) in there), "")
        if other:
            yield at(root, f"{known.name} cannot stand beside {other}", "take one of the two out")
        there.add((pass_, known.name))
        for one in known.excludes:
            excluded.setdefault((pass_, one), known.name)


@rule(
    "option-behind",
    Severity.ERROR,
    "An option stands behind the word that ends the options: it is taken for another word, and refused.",
    source=f"{KICKSTART}, realm join",
    fires=_LINUX + "realm join larkmoor.example --no-password\n",
    silent=_LINUX + "realm join --no-password larkmoor.example\n",
)
def option_behind(view: View) -> Iterator[Hit]:
    """Options behind a word behind which they are words, as the line stands in its file."""
    if not view.file:
        return  # a draft's line is written in the right order
    for last in view.having("after-options"):
        word = last.place.origin
        for seat in last.parent.children if last.parent is not None else ():
            here = seat.place.origin
            behind = (here.line or 0, here.column or 0) > (word.line or 0, word.column or 0)
            if behind and seat.name.startswith("-"):
                yield at(seat, f"{seat.name} stands behind {visible(last.text or last.name)}", "write it before that")


@rule(
    "command-before",
    Severity.ERROR,
    "A command counts only behind another one, which is not there or comes later.",
    source=KICKSTART,
    fires=_LINUX + "iscsi --ipaddr=192.0.2.40\n",
    silent=_LINUX + "iscsiname iqn.2026-11.example.larkmoor:gate\niscsi --ipaddr=192.0.2.40\n",
)
def command_before(view: View) -> Iterator[Hit]:
    """The first use of a command before that which it needs."""
    seen: set[str] = set()
    for root in view.seats.roots:
        known = root.component
        if (
            known is not None
            and known.name not in seen
            and (lacking := [one for one in known.after if one not in seen])
        ):
            yield at(root, f"{known.name} needs {lacking[0]} before it", f"write {lacking[0]} above it")
        seen.add(known.name if known is not None else "")


@rule(
    "command-inside",
    Severity.ERROR,
    "A command counts only inside a section: the installer stops at it elsewhere.",
    source=KICKSTART,
    fires=_LINUX + "pwpolicy root --minlen=8\n",
    silent=_LINUX + "%anaconda\npwpolicy root --minlen=8\n%end\n",
)
def command_inside(view: View) -> Iterator[Hit]:
    """Commands that stand outside of the section to which they belong."""
    for root in view.seats.roots:
        if root.component is not None and root.component.section:
            told = (
                f"{root.component.name} counts only inside {root.component.section}, and the installer stops at it here"
            )
            yield at(root, told, f"move it into a section {root.component.section}")
