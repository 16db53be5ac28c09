"""``fairledger roster``: many machines from one draft and a table."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, asked_of, pairs_of
from fairledger.cli.progress import progress_of
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.fleet.roster import Roster, Wishes
    from fairledger.fleet.write import Outcome


EXAMPLES = (
    "fairledger roster new desks.csv --for desk.toml --pattern 'LMR-DESK-{01..20}'",
    "fairledger roster check desk.toml desks.csv",
    "fairledger roster show desk.toml desks.csv LMR-DESK-07",
    "fairledger roster write desk.toml desks.csv --route stick --out files",
    "fairledger roster gather desk.toml files/*/autounattend.xml --out again.csv",
    "fairledger roster join files",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """What is to be done with which table."""
    actions = parser.add_subparsers(dest="action", metavar="ACTION", required=True)
    new = actions.add_parser("new", help="a new table with a draft's columns, names and addresses counted up")
    judged = actions.add_parser("check", help="whether every row comes to a right file, and all go together")
    one = actions.add_parser("show", help="what one machine gets, and where from")
    written = actions.add_parser("write", help="the files of all machines, or of some")
    gathered = actions.add_parser("gather", help="answer files that exist, back into one table")
    joined = actions.add_parser("join", help="the manifests of shards, put together and held against each other")
    _add_new(new)
    for action in (judged, one, written):
        _add_table(action)
    for action in (judged, written):
        action.add_argument("--workers", type=int, metavar="N", help="processes at once (default: one for each core)")
        action.add_argument("--shard", metavar="K/N", help="every N-th row only, from the K-th on: 3/8")
    one.add_argument("name", metavar="NAME", help="the machine")
    _add_write(written)
    _add_gather(gathered)
    joined.add_argument("folder", type=Path, metavar="FOLDER", help="the folder where all shards wrote")
    for action in (new, judged, one, written, gathered, joined):
        forms = ("text", "json", "sarif", "junit") if action is judged else ("text", "json")
        action.add_argument("--format", choices=forms, default="text", help="form of the output")
        if action is not joined:
            add_catalog(action)


def _add_new(new: argparse.ArgumentParser) -> None:
    new.add_argument("table", type=Path, metavar="TABLE", help="the table to be made")
    new.add_argument("--for", dest="draft", type=Path, required=True, metavar="DRAFT", help="the draft that it fills")
    new.add_argument("--pattern", metavar="NAMES", help="the machines' names: 'lmr-gate-{01..24}'")
    new.add_argument(
        "--count-up", action="append", default=[], metavar="COLUMN=FIRST", help="a column that counts; may be repeated"
    )
    new.add_argument("--rows", type=int, metavar="N", help="how many rows, where no pattern says so (default: 1)")
    new.add_argument("--replace", action="store_true", help="replace the table if it exists")


def _add_table(action: argparse.ArgumentParser) -> None:
    action.add_argument("draft", type=Path, metavar="DRAFT", help="the draft that the rows fill")
    action.add_argument("table", type=Path, metavar="TABLE", help="the table (.csv, .tsv, .xlsx; - reads one)")
    action.add_argument("--encoding", help="how the table is written (default: UTF-8, UTF-16 by its mark)")
    action.add_argument("--route", help="how the files reach the installer (default: as the draft says)")
    action.add_argument("--named-by", default="", metavar="COLUMN", help="the column that names the machines")
    action.add_argument(
        "--unique", action="append", default=[], metavar="COLUMN", help="no two rows may hold the same there"
    )
    action.add_argument(
        "--pass-over", action="append", default=[], metavar="COLUMN", help="a column that is for others"
    )


def _add_write(written: argparse.ArgumentParser) -> None:
    written.add_argument("names", nargs="*", metavar="NAME", help="these machines only")
    written.add_argument("--out", type=Path, default=Path("out"), metavar="FOLDER", help="where to (default: out)")
    written.add_argument("--flat", action="store_true", help="files beside each other, not a folder for each machine")
    written.add_argument("--replace", action="store_true", help="replace files that were edited by hand, or not by us")
    written.add_argument("--prune", action="store_true", help="take the files of machines away that left the table")
    written.add_argument("--keep-going", action="store_true", help="write the good rows although others are wrong")
    written.add_argument("--seed", metavar="HEX", help="instead of the project's file .fairledger-seed: 32 hex digits")
    written.add_argument("--own-salt", action="store_true", help="hash each machine's passwords with a salt of its own")


def _add_gather(gathered: argparse.ArgumentParser) -> None:
    gathered.add_argument("draft", type=Path, metavar="DRAFT", help="the draft that would write them")
    gathered.add_argument("files", nargs="+", type=Path, metavar="FILE", help="the answer files")
    gathered.add_argument("--out", type=Path, required=True, metavar="TABLE", help="the table to be made")
    gathered.add_argument("--variant", default="", metavar="NAME", help="the variant of the draft that they are")
    gathered.add_argument(
        "--variant-for",
        action="append",
        default=[],
        metavar="NAME",
        help="make a variant of that name for the first file that differs; may be repeated",
    )
    gathered.add_argument("--replace", action="store_true", help="replace the table if it exists")


def run(options: argparse.Namespace, console: Console) -> int:
    """Does it."""
    actions = {"new": _new, "check": _check, "show": _show, "write": _write, "gather": _gather, "join": _join}
    return actions[options.action](options, console)


def _wishes(options: argparse.Namespace) -> Wishes:
    from fairledger.fleet.roster import Wishes

    return Wishes(
        route=options.route,
        named_by=options.named_by,
        unique=tuple(options.unique),
        pass_over=tuple(options.pass_over),
        asked=asked_of(options),
        writes=options.action == "write",
        shard=_shard(getattr(options, "shard", None)),
    )


def _shard(said: str | None) -> tuple[int, int]:
    """Which of how many parts. Raises `WrongUseError` for what is none."""
    from fairledger.model.errors import WrongUseError

    part, slash, parts = (said or "1/1").partition("/")
    numbers = [int(one) for one in (part, parts) if one.isascii() and one.isdecimal() and len(one) < 7]
    if not slash or len(numbers) != 2 or not 1 <= numbers[0] <= numbers[1]:
        raise WrongUseError(f"{said!r} is no part of a table", remedy="write --shard 3/8 for the third of eight")
    return numbers[0], numbers[1]


def _workers(options: argparse.Namespace) -> int | None:
    """How many processes. Raises `WrongUseError` for fewer than one."""
    from fairledger.model.errors import WrongUseError

    if options.workers is not None and not 1 <= options.workers <= 256:
        raise WrongUseError(f"{options.workers} processes cannot work", remedy="say --workers 1, or up to 256")
    workers: int | None = options.workers
    return workers


def _roster(options: argparse.Namespace) -> Roster:
    from fairledger.fleet.opening import open_table
    from fairledger.fleet.roster import Roster

    return Roster(options.draft, open_table(options.table, options.encoding), _wishes(options))


def _new(options: argparse.Namespace, console: Console) -> int:
    from fairledger.fleet.begin import names_of, new_table
    from fairledger.fleet.roster import Lane, Wishes
    from fairledger.storage.files import write_file

    counts = pairs_of(options.count_up, "counts nothing", "write --count-up COLUMN=FIRST")
    names = names_of(options.pattern) if options.pattern else ()
    rows = len(names) or (options.rows if options.rows is not None else 1)
    lane = Lane(options.draft, "", Wishes(asked=asked_of(options)))
    text = new_table(lane, names, counts, rows)
    write_file(options.table, text.encode(), replace=options.replace)
    head = text.partition("\n")[0].split(",")
    if console.json:
        console.write_json({"command": "roster", "written": str(options.table), "columns": head, "rows": rows})
        return Status.DONE
    console.say(console.style(f"wrote {options.table}", "bold") + f": {rows:,} rows with {', '.join(head)}")
    console.say(f"Next: fill in the rest, then: fairledger roster check {options.draft} {options.table}")
    return Status.DONE


def _check(options: argparse.Namespace, console: Console) -> int:
    from fairledger.cli.rosters import as_json, as_report, show
    from fairledger.fleet.crew import Crew, Hands
    from fairledger.fleet.judge import Judge

    roster = _roster(options)
    progress = progress_of(console)
    with Crew(Hands(roster), _workers(options)) as crew:
        judge = Judge(roster, crew)
        for _ in judge.run():
            progress("checked", judge.rows, 0)
    progress("checked", judge.rows, judge.rows)
    judged = judge.judged()
    if options.format == "text":
        show(judged, judge.file, console)
    elif options.format == "json":
        console.write_json(as_json(judged))
    else:
        from fairledger.cli import forms
        from fairledger.model.finding import Severity

        report = as_report(judged, judge.file)
        if options.format == "sarif":
            console.write_json(forms.sarif([report]))
        else:
            console.lines(forms.junit([report], Severity.ERROR).decode().rstrip("\n"))
    return Status.FINDINGS if judged.errors else Status.DONE


def _show(options: argparse.Namespace, console: Console) -> int:
    from fairledger.cli.rosters import show_machine

    return show_machine(_roster(options), options.name, console)


def _write(options: argparse.Namespace, console: Console) -> int:
    from fairledger.fleet.keys import Keys
    from fairledger.fleet.write import How, Writing

    how = How(
        flat=options.flat,
        replace=options.replace,
        prune=options.prune,
        keep_going=options.keep_going,
        only=tuple(options.names),
        workers=_workers(options),
    )
    keys = Keys(console.asker(twice=True), options.seed, own_salt=options.own_salt)
    if options.own_salt:
        console.note("each password is hashed anew for each machine, which takes as long as signing in there would")
    progress = progress_of(console)
    outcome = Writing(_roster(options), options.out, how, keys, progress).run()
    progress("wrote", 1, 1)
    for where in keys.outside:
        console.note(f"a secret was read from outside of the draft's folder: {where}")
    for path in keys.made:
        console.note(f"made {path}: the salts of hashes come from it; keep it under version control")
    return _told(outcome, options, console)


def _join(options: argparse.Namespace, console: Console) -> int:
    from fairledger.cli.rosters import show_joined
    from fairledger.fleet.join import join

    joined = join(options.folder)
    show_joined(joined, console)
    return Status.FINDINGS if joined.errors else Status.DONE


def _gather(options: argparse.Namespace, console: Console) -> int:
    from fairledger.cli.rosters import show_gathered
    from fairledger.fleet.gather import Gathering
    from fairledger.fleet.roster import VARIANT
    from fairledger.fleet.table import table_text
    from fairledger.storage.files import write_file
    from fairledger.storage.looking import is_there

    if is_there(options.out) and not options.replace:
        from fairledger.model.errors import RefusedError

        raise RefusedError("the file exists already", file=str(options.out), remedy="allow it with --replace")
    gathering = Gathering(options.draft, options.variant, asked_of(options), options.variant_for)
    rows = [gathering.take(path) for path in options.files]
    good = [one for one in rows if not one.trouble]
    prepared = gathering.lanes[0].prepared
    blanks = dict.fromkeys(name for lane in gathering.lanes for name in lane.prepared.blanks)
    head = [name for name in blanks if any(one.values.get(name) != prepared.usual.get(name) for one in good)]
    if good:
        varied = any(one.variant for one in good)
        cells = [[*([one.variant] if varied else []), *(one.values.get(name, "") for name in head)] for one in good]
        text = table_text([*([VARIANT] if varied else []), *head], cells)
        private = any(name in lane.secret for name in head for lane in gathering.lanes)
        gathering.keep()
        write_file(options.out, text.encode(), replace=options.replace, private=private)
    show_gathered(rows, options.out if good else None, gathering.made, options.draft, console)
    return Status.DONE if len(good) == len(rows) else Status.FINDINGS


def _told(outcome: Outcome, options: argparse.Namespace, console: Console) -> int:
    from fairledger.cli.rosters import as_json, show

    status = Status.FINDINGS if outcome.judged.errors or not outcome.done else Status.DONE
    if console.json:
        told = as_json(outcome.judged)
        told |= {"written": outcome.written, "stayed": outcome.stayed, "left": list(outcome.left)}
        console.write_json(told | {"pruned": [*outcome.stale, *outcome.pruned], "missing": list(outcome.missing)})
        return Status.WRONG_USE if outcome.missing else status
    if outcome.missing:
        console.error(f"the table has no machine {', '.join(outcome.missing)}; nothing was written")
        return Status.WRONG_USE
    if outcome.judged.care or not outcome.done:
        show(outcome.judged, str(options.table), console)
    if not outcome.done:
        console.say("nothing was written" + ("; --keep-going writes the good rows" if outcome.judged.machines else ""))
        return status
    written, stayed = outcome.written, outcome.stayed
    console.say(
        console.style(f"wrote {written:,} {'machine' if written == 1 else 'machines'} below {options.out}", "bold")
        + (f"; {stayed:,} stayed as {'it was' if stayed == 1 else 'they were'}" if stayed else "")
    )
    for title, names in ((_STALE, outcome.stale), (_PRUNED, outcome.pruned), (_LEFT, outcome.left)):
        if names:
            rest = f", and {len(names) - 5:,} more" if len(names) > 5 else ""
            console.paragraph(f"{title}: {', '.join(names[:5])}{rest}", indent="  ", hang="    ")
    console.say(f"  what was written stands in {outcome.manifest}")
    return status


_STALE = "took away, which only the replaced files called"
_PRUNED = "took away, since their machines left the table"
_LEFT = "still there, although their machines left the table (--prune takes them away)"
