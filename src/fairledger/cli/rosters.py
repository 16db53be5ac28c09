"""What is found in rosters, for people and for machines."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from fairledger.checks.engine import Report
from fairledger.cli.console import Console
from fairledger.cli.report import finding_json
from fairledger.cli.status import Status
from fairledger.exchange.differ import Difference
from fairledger.fleet.gather import Gathered
from fairledger.fleet.join import Joined
from fairledger.fleet.judge import Judged
from fairledger.fleet.record import manifest_in
from fairledger.fleet.roster import Machine, Noted, Roster
from fairledger.model.finding import Severity
from fairledger.model.showing import looks_secret, quoted, visible
from fairledger.subject.subject import FileKind, Opened

MOST_OF_A_KIND, MOST_SHOWN = 5, 200
_PLURAL = {Severity.ERROR: "errors", Severity.WARNING: "warnings", Severity.ADVICE: "pieces of advice"}
_ONE = {Severity.ERROR: "error", Severity.WARNING: "warning", Severity.ADVICE: "piece of advice"}


def as_json(judged: Judged) -> dict[str, Any]:
    """All of it."""
    counts = Counter(one.finding.severity for one in judged.notes)
    rows = [{**finding_json(one.finding), "row": one.row, "heading": one.heading} for one in _in_order(judged.notes)]
    return {
        "command": "roster",
        "rows": judged.rows,
        "machines": judged.machines,
        "findings": rows,
        "errors": counts[Severity.ERROR],
        "warnings": counts[Severity.WARNING],
        "advice": counts[Severity.ADVICE],
        "silenced": judged.silenced,
    }


def as_report(judged: Judged, file: str) -> Report:
    """The same as a report on the table, for forms that know no rows: there they stand in the messages."""
    found = []
    for one in _in_order(judged.notes):
        where = [f"row {one.row:,}"] if one.row is not None else []
        where += [visible(one.heading)] if one.heading is not None else []
        told = f"{', '.join(where)}: {one.finding.message}" if where else one.finding.message
        found.append(replace(one.finding, message=told))
    return Report(Opened(path=Path(file), data=b"", kind=FileKind.DRAFT), tuple(found))


def _in_order(notes: Sequence[Noted]) -> list[Noted]:
    return sorted(notes, key=lambda one: (one.finding.severity.rank, one.row or 0, one.heading or ""))


def show(judged: Judged, file: str, console: Console) -> None:
    """Worst first: rows with their columns, of many of one kind the first ones, and a verdict."""
    console.say(console.style(file, "bold") + console.style(f"  {judged.rows:,} {_rows(judged.rows)}", "dim"))
    told: Counter[str] = Counter()
    drafts: Counter[str] = Counter()
    shown = 0
    for one in _in_order(judged.notes):
        finding = one.finding
        if _of_draft(one, file):
            drafts[finding.file or ""] += 1
            continue
        told[finding.rule] += 1
        if told[finding.rule] > MOST_OF_A_KIND or shown >= MOST_SHOWN:
            continue
        shown += 1
        _show(one, file, console)
    for rule, count in told.items():
        if count > MOST_OF_A_KIND:
            console.say(console.style(f"  ... and {count - MOST_OF_A_KIND:,} more of the kind [{rule}]", "dim"))
    if drafts:
        count = sum(drafts.values())
        words = _ONE[Severity.ADVICE] if count == 1 else _PLURAL[Severity.ADVICE]
        quiet = f"{count:,} {words} on drafts and profiles: fairledger check {' '.join(judged.drafts[:5])}"
        console.paragraph(f"advice   {quiet}", indent="  ", hang="           ", style="dim")
    console.paragraph(verdict(judged), indent="  ", style=_manner(judged))


def _of_draft(one: Noted, file: str) -> bool:
    """Whether something is only advice on the draft, which a check of the draft tells."""
    return one.row is None and one.finding.severity == Severity.ADVICE and one.finding.file != file


def _rows(count: int) -> str:
    return "row" if count == 1 else "rows"


def _show(one: Noted, file: str, console: Console) -> None:
    finding = one.finding
    word = finding.severity.value
    place = f"row {one.row:,}" if one.row is not None else ""
    if one.row is not None and finding.file == file and finding.line:
        place += f" (line {finding.line:,})"
    elif one.row is None and finding.file and finding.file != file:
        place = f"{finding.file}, line {finding.line}" if finding.line else finding.file
    if one.heading is not None:
        place += f"{', ' if place else ''}column {one.heading}"
    told = f"{place}: {finding.message}" if place else finding.message
    console.paragraph(f"{word:<8} {told}", indent="  ", hang="           ", style=word)
    if finding.hint:
        console.paragraph(f"-> {finding.hint}  [{finding.rule}]", indent="           ", hang="           ", style="dim")


def verdict(judged: Judged) -> str:
    """A sentence that says how things stand."""
    counts = Counter(one.finding.severity for one in judged.notes)
    found = ", ".join(
        f"{counts[one]:,} {_ONE[one] if counts[one] == 1 else _PLURAL[one]}" for one in Severity if counts[one]
    )
    ready = f"{judged.machines:,} of {judged.rows:,} {_rows(judged.rows)} can be written"
    quiet = f"; {judged.silenced:,} silenced" if judged.silenced else ""
    return f"{found or 'nothing found'}; {ready}{quiet}"


def _manner(judged: Judged) -> str:
    if judged.errors:
        return "error"
    return "warning" if any(one.finding.severity == Severity.WARNING for one in judged.notes) else "good"


def show_machine(roster: Roster, name: str, console: Console) -> int:
    """What one machine gets: each placeholder with its value and where that comes from, then what is found."""
    from fairledger.fleet.look import looked_at
    from fairledger.model.errors import WrongUseError
    from fairledger.model.suggest import did_you_mean

    known: list[str] = []
    for row in roster.table:
        machine, notes, _ = looked_at(roster, row)
        if machine is not None:
            known.append(machine.name)
        if machine is None or machine.name != name:
            continue
        rows = [_origin(machine, blank) for blank in machine.lane.prepared.blanks]
        if console.json:
            found = [{**finding_json(one.finding), "row": one.row, "heading": one.heading} for one in notes]
            console.write_json({"machine": name, "row": row.number, "values": rows, "findings": found})
            return Status.FINDINGS if any(one.finding.severity == Severity.ERROR for one in notes) else Status.DONE
        prepared = machine.lane.prepared
        where = f"row {row.number:,} of {roster.table.file}, {prepared.draft.file}"
        variant = f", variant {prepared.resolved.variant}" if prepared.resolved.variant else ""
        console.say(console.style(name, "bold") + console.style(f"  {where}{variant}", "dim"))
        width = max((len(one["name"]) for one in rows), default=0)
        for one in rows:
            value = one["value"] if one["value"] is not None else "(nothing)"
            console.paragraph(f"{one['name']:<{width}}  {value}", indent="  ", hang="  " + " " * width + "  ")
            told = f"{one['from']}; stands in {', '.join(one['stands_in'])}"
            blank = "  " + " " * width + "  "
            console.paragraph(told, indent=blank, hang=blank, style="dim")
        for note in notes:
            _show(note, roster.table.file, console)
        return Status.FINDINGS if any(one.finding.severity == Severity.ERROR for one in notes) else Status.DONE
    raise WrongUseError(f"the table has no machine {quoted(name)}", remedy=did_you_mean(name, known))


def _origin(machine: Machine, blank: str) -> dict[str, Any]:
    lane = machine.lane
    value, come = machine.values.get(blank), f"column {blank}"
    if value is None:
        usual = lane.prepared.resolved.values.get(blank)
        value = usual[0] if usual is not None else None
        come = (
            f"usual value, {lane.prepared.draft.file}, line {usual[1].line}" if usual is not None else "nobody fills it"
        )
    secret = blank in lane.secret or looks_secret(blank)
    stands = lane.stands.get(blank, ("a script",))
    return {"name": blank, "value": "(secret)" if secret and value else value, "from": come, "stands_in": list(stands)}


MOST_DIFFERENCES = 3


def show_gathered(
    rows: Sequence[Gathered], out: Path | None, made: Sequence[str], draft: Path, console: Console
) -> None:
    """What became rows, and what stands against the other files."""
    if console.json:
        files = [
            {
                "file": one.file,
                "row": None if one.trouble else at,
                "trouble": one.trouble or None,
                "variant": one.variant or None,
                "verdict": one.comparison.verdict if one.comparison is not None else None,
                "differences": [_place_of(each) for each in one.comparison.differences] if one.comparison else [],
            }
            for at, one in _numbered(rows)
        ]
        told = {"command": "roster", "written": str(out) if out is not None else None, "variants": list(made)}
        console.write_json({**told, "files": files})
        return
    good = [one for one in rows if not one.trouble]
    if out is not None:
        console.say(console.style(f"wrote {out}", "bold") + f": {len(good):,} of {len(rows):,} files became rows")
        for name in made:
            count = sum(one.variant == name for one in good)
            console.say(f"  {draft} has a variant {name} now, for {count:,} of them; look at it before you trust it")
        unknown = sum(one.comparison is not None and one.comparison.verdict == "not told" for one in good)
        if unknown:
            sentence = f"of {unknown:,} of them nobody can tell whether their passwords are those of the draft"
            console.paragraph(sentence, indent="  ", hang="    ", style="warning")
    for one in rows:
        if one.trouble:
            console.paragraph(f"left out {one.file}: {one.trouble}", indent="  ", hang="    ", style="warning")
            found = one.comparison.differences if one.comparison is not None else ()
            for each in found[:MOST_DIFFERENCES]:
                console.say(f"    {_place_of(each)}")
            if len(found) > MOST_DIFFERENCES:
                console.say(f"    ... and {len(found) - MOST_DIFFERENCES:,} more")
    if out is None:
        console.say("no file became a row, and nothing was written")


def _numbered(rows: Sequence[Gathered]) -> Iterator[tuple[int, Gathered]]:
    at = 0
    for one in rows:
        at += not one.trouble
        yield at, one


def _place_of(one: Difference) -> str:
    return f"{one.pass_}:{one.component}" + (f"/{one.setting}" if one.setting else "")


def show_joined(joined: Joined, console: Console) -> None:
    """What came of joining: what is wrong first."""
    told = [finding_json(one) for one in joined.findings]
    if console.json:
        console.write_json(
            {
                "command": "roster",
                "written": None if joined.errors else str(manifest_in(joined.folder)),
                "shards": joined.shards,
                "rows": joined.rows,
                "machines": joined.machines,
                "files": joined.files,
                "left": list(joined.left),
                "findings": told,
            }
        )
        return
    for finding in joined.findings[:MOST_SHOWN]:
        _show(Noted(finding), "", console)
    if len(joined.findings) > MOST_SHOWN:
        console.say(console.style(f"  ... and {len(joined.findings) - MOST_SHOWN:,} more", "dim"))
    counts = f"{joined.shards} shards, {joined.rows:,} {_rows(joined.rows)}, {joined.machines:,} machines"
    if joined.errors:
        console.paragraph(f"nothing was written: {counts}", style="error")
        return
    console.say(console.style(f"wrote {manifest_in(joined.folder)}", "bold") + f": {counts}, {joined.files:,} files")
    if joined.left:
        rest = f", and {len(joined.left) - 5:,} more" if len(joined.left) > 5 else ""
        told_left = f"still there, although no shard has their machines: {', '.join(joined.left[:5])}{rest}"
        console.paragraph(told_left, indent="  ", hang="    ")
