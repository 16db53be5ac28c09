"""A variant of a draft, made of what an answer file says otherwise."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

from fairledger.authoring.emit import answers_text, extras_text, form_by
from fairledger.catalog.secrecy import is_secret
from fairledger.delivery.prepare import Prepared
from fairledger.exchange.exact import Side, matched
from fairledger.exchange.rest import rest_of
from fairledger.exchange.weighing import Weighing, dropping
from fairledger.model.errors import WrongUseError
from fairledger.model.pattern import pattern
from fairledger.model.sheet import Extra, Sheet
from fairledger.model.showing import quoted
from fairledger.subject.settling import settled
from fairledger.subject.subject import Subject, with_sheet

_NAME = pattern(r"[a-z0-9][a-z0-9_-]{0,39}")


def variant_text(prepared: Prepared, values: Mapping[str, str], side: Subject, name: str) -> str:
    """What is to be added to the draft so that its variant of that name says what a file says otherwise.

    Secrets are none of it: those are the draft's. Whether the variant says all of it is for the caller to see. Raises
    `ContentError` where the values cannot be filled in, `WrongUseError` for a name that is taken, or is none.
    """
    if not _NAME.fullmatch(name):
        raise WrongUseError(f"{quoted(name)} is no name for a variant", remedy="use small letters, digits and hyphens")
    document = prepared.draft.document
    if document is not None and name in document.variants:
        told = f"the draft has a variant {quoted(name)} already"
        raise WrongUseError(told, file=prepared.draft.file, remedy=f"choose another name, or say --variant {name}")
    filled = settled(with_sheet(prepared.draft, prepared.filled({**prepared.usual, **values})))
    adds_up = filled.family.adds_up
    mine = Side(side.sheet, side.catalog, adds_up=adds_up)
    said = Side(filled.sheet.as_in(side.sheet), filled.catalog, adds_up=adds_up)
    match = matched(said, mine)
    weighing = Weighing(mine, side.recognised.understood, said, match)
    both = match.both | {id(seat.node) for seat in mine.seats if is_secret(seat)}
    rest = rest_of(mine.sheet, mine.catalog, lambda one: id(one) in both, match.places)
    secret = {weighing.address(seat) for seat in said.seats if is_secret(seat)}
    drops = tuple(one for one in weighing.drops() if one and one not in secret)
    here = {one.text.strip() for one in filled.sheet.extras}
    body = "\n".join(_lines(name, rest, [one for one in rest.extras if one.text.strip() not in here], drops, side))
    return body.rstrip("\n") + "\n" if body.strip() else ""


def _lines(name: str, rest: Sheet, extras: Iterable[Extra], drops: tuple[str, ...], side: Subject) -> Iterator[str]:
    catalog = side.catalog
    known = {one.component: catalog.anywhere(one.component) for one in rest.blocks}
    repeats = {component: bool(one and one.repeats) for component, one in known.items()}
    if drops:
        yield f"[variant.{name}]"
        yield from (*dropping(drops), "")
    for line in (*answers_text(rest.blocks, form_by(catalog), repeats, lambda _line, _path: []), *extras_text(extras)):
        # a head stands by itself, and no other line begins so: keys and texts are quoted
        for head in ("[answers.", "[[answers.", "[[extra]]"):
            if line.startswith(head):
                mark = "[[" if head[1] == "[" else "["
                line = f"{mark}variant.{name}.{line[len(mark) :]}"  # noqa: PLW2901
                break
        yield line
