"""A draft carried to another release, edition or architecture: rewritten where the catalog knows how, the rest told."""

from __future__ import annotations

from pathlib import Path

import tomlkit
from msgspec import Struct

from fairledger.authoring.edit import AnswerChange, FieldChange, answer_value, changed, without_component
from fairledger.authoring.editors import for_target
from fairledger.authoring.spots import spot_of
from fairledger.catalog.address import Spot, Step
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.differ import Difference, differences
from fairledger.catalog.meant import target_named
from fairledger.catalog.own import Own
from fairledger.catalog.seats import Seat, Seats
from fairledger.catalog.secrecy import is_secret
from fairledger.catalog.setting import Setting
from fairledger.catalog.targets import reached
from fairledger.checks.engine import check
from fairledger.families.build import translate
from fairledger.intent.image import IMAGE
from fairledger.intent.intent import Intent
from fairledger.model.errors import LedgerError, WrongUseError
from fairledger.model.finding import Finding
from fairledger.model.places import Origin
from fairledger.model.showing import shown
from fairledger.model.suggest import did_you_mean
from fairledger.model.target import Target
from fairledger.subject.opening import Asked, looked_at, opened_draft
from fairledger.subject.subject import Opened, Subject, usable


class Move(Struct, frozen=True):
    """One thing that was done, or is left to do."""

    what: str
    why: str
    origin: Origin = Origin()


class Carried(Struct, frozen=True):
    """A draft for another target."""

    text: str
    old: Target
    new: Target
    rewritten: tuple[Move, ...]
    taken_out: tuple[Move, ...]
    to_do: tuple[Move, ...]
    """What only a person can decide, or what stands in a profile that other drafts share."""
    new_there: tuple[Difference, ...]
    """Settings that came with the new release."""
    findings: tuple[Finding, ...]
    """What check says now and did not say before."""


def carry(
    path: Path, to: str, *, edition: str | None = None, arch: str | None = None, own: Own | None = None
) -> Carried:
    """What a draft becomes for another target. Nothing is written. Raises as resolving does, and `WrongUseError`."""
    asked = Asked(own=own)
    before = opened_draft(path, asked)
    old = before.target
    assert old is not None
    carrier = _Carrier(before, target_named(to), asked)
    carrier.head(edition, arch)
    carrier.bypasses()
    carrier.answers()
    old_findings = {_told(one) for one in check(before).findings}
    now = check(carrier.looked_at()).findings
    came: tuple[Difference, ...] = ()
    if old.family == carrier.new.family:
        rows = differences(old, carrier.new)
        came = tuple(one for one in rows if one.what == "came" and one.sure and one.setting)
    return Carried(
        carrier.text,
        old,
        carrier.new,
        tuple(carrier.rewritten),
        tuple(carrier.taken_out),
        tuple(carrier.to_do),
        came,
        tuple(one for one in now if _told(one) not in old_findings),
    )


def _told(finding: Finding) -> tuple[str, str, str]:
    return (finding.rule, finding.where, finding.severity)


class _Carrier:
    """Changes the text step by step."""

    def __init__(self, before: Subject, new: Target, asked: Asked) -> None:
        self.text = before.text
        self.path = before.path
        self.before = before
        self.new = new
        self.asked = asked
        self.rewritten: list[Move] = []
        self.taken_out: list[Move] = []
        self.to_do: list[Move] = []

    def looked_at(self) -> Opened:
        """What the text comes to now."""
        return looked_at(self.path, self.asked, self.text.encode("utf-8", "surrogatepass"))

    def wanted(self) -> Intent:
        """What the draft and its profiles wanted at the beginning."""
        assert self.before.draft is not None
        return self.before.draft.intent

    def head(self, edition: str | None, arch: str | None) -> None:
        """Target, architecture, edition."""
        self.text = for_target(self.text, self.before.target.id, self.new.id) if self.before.target else self.text
        document = tomlkit.parse(self.text)
        head = document["draft"]
        assert isinstance(head, dict)
        head["target"] = self.new.id
        said = head.get("arch")
        if isinstance(said, list) and arch is None:
            there = [str(one) for one in said if one in self.new.architectures]
            if there and len(there) < len(said):
                self.rewritten.append(Move(f"arch = {', '.join(there)}", f"{self.new.name} has no others"))
            said = there[0] if len(there) == 1 else None if there else said[0]
            if there:
                head["arch"] = there if len(there) > 1 else there[0]
        wanted = arch or (str(said) if said is not None else None)
        if wanted is not None and wanted not in self.new.architectures:
            if arch is not None:
                hint = did_you_mean(arch, self.new.architectures)
                raise WrongUseError(f"{self.new.name} does not exist for {arch!r}", remedy=hint)
            wanted = self.new.architectures[0]
            self.rewritten.append(Move(f"arch = {wanted}", f"{self.new.name} does not exist for {said}"))
        if wanted is not None:
            head["arch"] = wanted
        image = self.wanted().get(IMAGE)
        old = str(image.edition) if image is not None and image.edition else ""
        chosen = edition or old
        if edition is not None and edition not in self.new.editions:
            hint = did_you_mean(edition, self.new.editions)
            raise WrongUseError(f"{self.new.name} has no edition {edition!r}", remedy=hint)
        if chosen and chosen in self.new.editions and edition is not None and chosen != old:
            document.setdefault("image", tomlkit.table())["edition"] = chosen
            self.rewritten.append(Move(f"image.edition = {chosen}", f"instead of {old or 'nothing'}"))
        elif old and old not in self.new.editions and self.new.editions:
            hint = f"editions: {', '.join(self.new.editions)}; say --edition"
            origin = self.wanted().place("image", "edition").origin
            self.to_do.append(Move(f"image.edition = {old} does not exist there", hint, origin))
        self.text = tomlkit.dumps(document)

    def bypasses(self) -> None:
        """Ways past requirements that do not work there are taken out of the draft."""
        one = self.looked_at()
        now = one.draft if isinstance(one, Subject) else None
        value = now.intent.sections.get("bypass") if now is not None else None
        if now is None or value is None:
            return
        only = Intent({"bypass": value}, now.intent.places)
        _, findings = translate(only, self.new, now.facts)
        for finding in findings:
            field = _field_of(finding, now.intent, value.__struct_fields__)
            why = finding.message + (f"; {finding.hint}" if finding.hint else "")
            origin = now.intent.place("bypass", field).origin if field else Origin()
            if not field or origin.file != str(self.path):
                self.to_do.append(Move(f"bypass.{field}".rstrip("."), why, origin))
                continue
            change = FieldChange((Step("bypass"), Step(field)))
            self.text = changed(self.text, [change], str(self.path))
            self.taken_out.append(Move(f"bypass.{field}", why, origin))

    def answers(self) -> None:
        """Direct answers that the new release does not know, one after the other."""
        skipped: set[tuple[str, str]] = set()
        for _ in range(1000):
            now = usable(self.looked_at())
            seats, catalog = now.seats, now.catalog
            gone = _gone(seats, catalog, self.new)
            seat = next((one for one in gone if (one.block.component, one.shown) not in skipped), None)
            if seat is None:
                return
            skipped.add((seat.block.component, seat.shown))
            self._one(seat, catalog, now)

    def _one(self, seat: Seat, catalog: Catalog, now: Subject) -> None:
        """Rewrites or takes out one answer."""
        origin = seat.node.origin
        known = catalog.anywhere(seat.block.component)
        setting = known.setting(seat.path) if known else None
        title = f"{seat.block.pass_}:{seat.block.component}/{seat.shown}".rstrip("/")
        value = shown(seat.value, secret=setting.secret if setting is not None else is_secret(seat))
        what = f"{title} = {value}" if seat.value is not None else title
        why = f"{self.new.name} has no such setting"
        instead = (setting.instead if setting else "") or (known.instead if known else "")
        if instead:
            why += f"; instead: {instead}"
        if origin.file != str(self.path) or origin.by:
            self.to_do.append(Move(what, f"{why} (it stands in {origin})", origin))
            return
        try:
            if seat.parent is None:
                self.text = without_component(self.text, seat.block.pass_, seat.block.component, str(self.path))
                self.taken_out.append(Move(title, f"{self.new.name} has no such component", origin))
                return
            spot = spot_of(seat, known, now.seats.roots)
            successor = _successor(setting, seat, catalog)
            steps: list[AnswerChange | FieldChange] = [AnswerChange(spot)]
            if successor is not None and seat.text is not None:
                last = (successor.name, "", None)
                there = Spot(spot.pass_, spot.component, successor, (*spot.steps[:-1], last), spot.key, spot.item)
                steps.insert(0, AnswerChange(there, answer_value(there, seat.text)))
            self.text = changed(self.text, steps, str(self.path))
        except LedgerError as error:
            self.to_do.append(Move(what, f"{why} ({error.message})", origin))
            return
        if successor is not None:
            self.rewritten.append(Move(what, f"now {successor.path}", origin))
        else:
            self.taken_out.append(Move(what, why, origin))


def _field_of(finding: Finding, intent: Intent, names: tuple[str, ...]) -> str:
    """The field of the section that a finding speaks of."""
    lines = {name: intent.place("bypass", name).origin for name in names}
    return next((name for name, at in lines.items() if (at.file, at.line) == (finding.file, finding.line)), "")


def _gone(seats: Seats, catalog: Catalog, new: Target) -> list[Seat]:
    """What the family knows and the target does not, components with nothing in them included; and old spellings."""
    out = [root for root in seats.roots if not root.children and root.component is None]
    for seat in seats:
        if seat.children or seat.is_mark:
            continue
        known = catalog.anywhere(seat.block.component)
        whole = known is not None and seat.component is None
        renamed = seat.setting is not None and reached(new, seat.setting.deprecated)
        renamed = renamed and _successor(seat.setting, seat, catalog) is not None
        if whole or known is None or renamed or (known.setting(seat.path) is not None and seat.setting is None):
            out.append(seat)
    return out


def _successor(setting: Setting | None, seat: Seat, catalog: Catalog) -> Setting | None:
    """The setting of the same component that took the place of another, if the catalog names it by its path."""
    now = catalog.component(seat.block.component)
    if setting is None or not setting.instead or now is None:
        return None
    beside = f"{setting.parent}/{setting.instead}".lstrip("/")
    return now.setting(beside) or now.setting(setting.instead)
