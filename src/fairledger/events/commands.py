"""The commands and scripts of an answer file, each with its moment, its rights and its options."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import structs

from fairledger.catalog.items import number_of_item
from fairledger.catalog.seats import Seat
from fairledger.catalog.secrecy import is_secret
from fairledger.events.decoding import accounts_made, decoded
from fairledger.events.event import Event, Weight
from fairledger.events.teller import Teller
from fairledger.events.warnings import warnings_of
from fairledger.families.build import translate
from fairledger.intent.command import COMMAND
from fairledger.model.paths import path_ends
from fairledger.model.sheet import Block, Companion, Sheet
from fairledger.model.showing import discreet, shown
from fairledger.model.values import Scalar, blanks_of
from fairledger.subject.subject import Subject


def is_command(seat: Seat) -> bool:
    """Whether a seat holds a command line or a script."""
    setting = seat.setting
    if seat.value in (None, ""):
        return False
    return setting is not None and (setting.kind == "command" or setting.form == "body")


def tell(teller: Teller) -> Iterator[Event]:
    """Every one of them, in the order of the passes."""
    subject = teller.subject
    order = {name: at for at, name in enumerate(teller.passes)}
    seats = [one for one in subject.seats if is_command(one)]
    beside = {one.name: one for one in subject.sheet.companions}
    called = subject.family.companions_of(subject.sheet)
    lists: dict[int, int] = {}
    written = _written(subject)

    def turn(one: Seat) -> tuple[int, int, int]:
        """When it runs: pass by pass, list by list as they stand, in each by number."""
        above = one.parent.parent if one.parent is not None else None
        place = lists.setdefault(id(above) if above is not None else id(one), len(lists))
        return (
            order.get(one.block.pass_, len(order)),
            place,
            number_of_item(one.parent) if one.parent is not None else 0,
        )

    for seat in sorted(seats, key=turn):
        text = (shown(seat.value) if seat.text is None else seat.text).strip("\n")
        ends = set(path_ends(text)) if beside or called else set()
        lies = next((beside[end] for end in path_ends(text) if end in beside), None) if beside else None
        script = lies.told if lies is not None else ""
        whole = f"{text}\n{script}".rstrip("\n")
        plain, how = subject.family.unwrapped(text)
        hidden = ((plain,) if plain != text else ()) + decoded(whole)
        # what a section of the file is known to bring is told by the section; the line that calls a script is known
        known = _own(teller, seat, written)
        # a profile that a section writes is no script: nothing of it runs
        runs = "" if lies is not None and known and not lies.runs else script
        judged = (runs if script and known else "" if known != COMMAND.name and known else whole, *hidden)
        warned = tuple(dict.fromkeys(word for one in judged for word in warnings_of(one)))
        warned += tuple(f"makes the account {one}" for text_ in judged for one in accounts_made(text_))
        if not script and any(name in ends for name in called):
            warned = (*warned, "calls a script that is not beside the file, so that it cannot be read here")
        rows = [
            f"{'runs' if one is plain else 'decoded'}: {line}" for one in hidden for line in one.strip().splitlines()
        ]
        yield structs.replace(
            _bare(teller, seat),
            what=_title(seat, text, lies.body if lies is not None else "", how),
            severity=Weight.CARE if warned else Weight.NOTE,
            quote=discreet("\n".join((whole, *rows))),
            says=() if known and known != COMMAND.name else _says(teller, seat, lies, plain),
            warnings=warned,
        )


def _says(teller: Teller, seat: Seat, lies: Companion | None, plain: str) -> tuple[str, ...]:
    """What a command or the script that it calls does, in words."""
    target = teller.subject.target
    moment = teller.passes.get(seat.block.pass_)
    if target is None:
        return ()
    kind = "line" if lies is None else "powershell" if lies.name.endswith(".ps1") else "cmd"
    body = plain if lies is None else lies.told
    late = moment is not None and moment.commands == "sign-in"
    said, unknown = teller.subject.family.spoken(body, kind, target, sign_in=late)
    if said and unknown:
        rest = "one more line is" if unknown == 1 else f"{unknown} more lines are"
        return *said, f"{rest} not understood"
    return said


def _bare(teller: Teller, seat: Seat) -> Event:
    """When a command runs, as whom, with what rights, and where it stands."""
    moment = teller.passes.get(seat.block.pass_)
    rights = moment.rights if moment is not None and moment.rights else None
    when = moment.when if moment is not None else seat.block.pass_
    seen = f"; {moment.seen}" if moment is not None and moment.seen else ""
    origin = seat.node.origin
    return Event(
        chapter=f"Commands {when}" + (f", with {rights}" if rights else "") + seen,
        phase=seat.block.pass_,
        moment=when,
        as_=moment.runs_as or None if moment is not None else None,
        rights=rights,
        what="",
        restarts=_restarts(seat),
        file=(origin.file or teller.subject.file) if origin.line else None,
        line=origin.line,
    )


def _own(teller: Teller, seat: Seat, written: frozenset[str]) -> str:
    """The section that is known to bring a command, in these very words; empty where it is somebody's own."""
    subject = teller.subject
    item = seat.parent
    understood = subject.understood.get(id(item.node), "") if item is not None else ""
    # what only looks like ours is not ours: the sections must write the very same line again
    by = seat.node.origin.by or (understood if seat.text in written else "")
    alone = Sheet((Block(seat.block.pass_, seat.block.component, "", (seat.node,)),))
    return by if by != COMMAND.name or subject.family.companions_of(alone) else ""


def _written(subject: Subject) -> frozenset[str]:
    """The lines that a file's sections come to."""
    if subject.target is None:
        return frozenset()
    sheet, _ = translate(subject.intent, subject.target, subject.facts)
    return frozenset(node.value for _, node in sheet.scalars() if isinstance(node.value, str))


def accounts(teller: Teller) -> Iterator[Event]:
    """The accounts that commands make, beside those that the file asks the installer for."""
    for one in tell(teller):
        for warning in one.warnings:
            if warning.startswith("makes the account "):
                told = f"{warning.removeprefix('makes the account ')}, which a command makes"
                yield structs.replace(one, chapter="", what=told, severity=Weight.CARE, quote="", warnings=())


def _title(seat: Seat, text: str, script: Scalar, how: tuple[str, ...]) -> str:
    about = seat.parent.having("command-about") if seat.parent is not None else None
    told = (shown(about.value) if about is not None else "") or ("a script" if "\n" in text else "a command")
    options = [*how, *_options(seat)]
    blanks = dict.fromkeys((*(blanks_of(seat.value) if seat.value is not None else ()), *blanks_of(script)))
    options += [f"filled in: {', '.join(blanks)}"] if blanks else []
    return told + (f" ({', '.join(options)})" if options else "")


def _restarts(seat: Seat) -> bool:
    """Whether the machine may restart after it."""
    beside = seat.parent.walk() if seat.parent is not None else []
    return any(one.setting is not None and one.setting.says.get(one.text or "") == "restarts" for one in beside)


def _options(seat: Seat) -> list[str]:
    """What stands beside a command and says how it runs: in the words of the catalog, where it knows them."""
    beside = seat.parent.walk()[1:] if seat.parent is not None else []
    out = []
    for one in beside:
        setting = one.setting
        told = setting is not None and (setting.ordinal or "command-about" in setting.traits)
        if one is seat or one.value is None or told:
            continue
        secret = is_secret(one)
        name, value = one.path.rsplit("/", 1)[-1], shown(one.value, secret=secret)
        about = setting.about.partition(". ")[0].rstrip(".") if setting is not None else ""
        words = f"{about[:1].lower()}{about[1:]}" if about else name
        out.append(words if value == "true" and setting is not None and setting.form == "flag" else f"{words}: {value}")
    return out
