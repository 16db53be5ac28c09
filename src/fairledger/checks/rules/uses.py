"""Programs that are called in a way, or at a moment, in which they do not do what was meant: the table of uses."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.uses import Use, WrongUse, uses
from fairledger.checks.calls import calls_to, unread
from fairledger.checks.claims import SELF
from fairledger.checks.programs import NO_GRAMMAR, Call
from fairledger.checks.rule import Hit, rule
from fairledger.checks.view import View
from fairledger.intent.command import Command
from fairledger.model.finding import Severity
from fairledger.model.places import line_below
from fairledger.model.showing import visible


def _fits(use: Use, one: Command, call: Call) -> bool:
    if call.program not in use.programs or (use.shells and call.shell not in use.shells):
        return False
    if (use.when and one.moment[0] not in use.when) or (use.as_ and one.moment[1] not in use.as_):
        return False
    if (use.alone and call.fed) or (use.takes and call.takes.isdisjoint(use.takes)):
        return False
    return use.fits(call.words) and not (use.exact and call.named_file)


def _counts(view: View, use: Use) -> bool:
    if not use.counts_for(view.target):
        return False
    if use.beside:
        section, _, field = use.beside.partition(".")
        said = view.intent.sections.get(section)
        if said is None or getattr(said, field) in (None, ""):
            return False
    return not (use.unless and calls_to(view, use.unless))


def _register(wrong: WrongUse) -> None:
    programs = tuple(dict.fromkeys(name for use in wrong.use for name in use.programs))

    def wrong_use(view: View) -> Iterator[Hit]:
        calls = calls_to(view, programs)
        counting = [use for use in wrong.use if _counts(view, use)] if calls else []
        for here, one, call in calls if counting else ():
            use = next((use for use in counting if _fits(use, one, call)), None)
            if use is not None:
                words = {"program": visible(call.program), "add": use.add}
                told = (use.told or wrong.told).format(**words)
                severity = Severity(use.severity) if use.severity else None
                yield Hit(line_below(here.place, call.row), told, wrong.hint.format(**words), severity)

    wrong_use.__doc__ = "Calls of the programs in the table, one finding for each."
    rule(
        wrong.id,
        Severity(wrong.severity),
        wrong.says,
        source=wrong.source,
        fires=wrong.fires,
        silent=wrong.silent,
    )(wrong_use)


@rule(
    "scripts-unread",
    Severity.ADVICE,
    "A script could not be read, mostly since its shell's grammar is not installed: nobody looked for mistakes in it.",
    source=SELF,
    fires='[[command]]\nbody = "' + "cmd /c " * 6 + 'sc query"\n',
    silent='[[command]]\nbody = "cmd /c sc query"\n',
)
def scripts_unread(view: View) -> Iterator[Hit]:
    """All scripts that were not read, once."""
    left = unread(view)
    if left:
        here, why = left[0]
        told = "a script was not read" if len(left) == 1 else f"{len(left)} scripts were not read"
        lacking = any(reason == NO_GRAMMAR for _, reason in left)
        hint = "install it: pip install 'fair-ledger[scripts]'" if lacking else "look at it yourself"
        yield Hit(here, f"{told}: {NO_GRAMMAR if lacking else why}", hint)


for _one in uses().rule:
    _register(_one)
