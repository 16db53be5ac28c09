"""An answer file taken up as a draft that comes to the same answers; what has no portable form stays direct answers.

The draft is proved: the answer file that it comes to is written, read, and held against the first one answer for
answer. A section is used where it says what the file says; what it adds is dropped, what it lacks stands beside it.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from functools import cached_property, partial
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from fairledger.authoring.emit import answers_text, arch_text, extras_text, form_by, key, sections_text, text
from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.owners import owner_of
from fairledger.exchange.exact import Side, matched, told_apart
from fairledger.exchange.own_values import OwnValue, own_elsewhere, with_parameters
from fairledger.exchange.taking import to_take_up
from fairledger.exchange.weighing import Weighing, blamed_for, dropping, refused_in
from fairledger.families.build import recognise
from fairledger.families.casting import stamped
from fairledger.families.stamps import is_stamp, stamp_text
from fairledger.intent.intent import Intent
from fairledger.intent.walk import FieldPath, changed
from fairledger.model.errors import ContentError, WrongUseError
from fairledger.model.finding import Finding, Severity
from fairledger.model.sheet import Block, Node, Sheet
from fairledger.model.showing import hidden_in
from fairledger.model.target import Target
from fairledger.model.values import SecretRef, SecretSource, Template, fill
from fairledger.profiles.document import read_document
from fairledger.profiles.library import Library
from fairledger.profiles.resolve import resolve
from fairledger.profiles.seed import for_comparing
from fairledger.subject.opening import Asked, of_draft
from fairledger.subject.settling import settled
from fairledger.subject.subject import Subject, with_sheet


class Adopted(Struct, frozen=True):
    """What became of an answer file."""

    text: str
    """The draft, or the profile."""
    target: Target
    basis: str
    sections: tuple[str, ...]
    answers: int
    """How many direct answers were kept."""
    own: tuple[OwnValue, ...]
    """Values of that one machine."""
    secrets: dict[str, str]
    """File names and the secrets that belong into them."""
    kept_apart: tuple[str, ...]
    """Where the draft does not say what the file says."""
    findings: tuple[Finding, ...]
    """What is wrong with the file as such."""
    comments: int = 0
    """How many comments found no place beside a setting, and stand at the draft's top."""
    total: int = 0
    """How many answers the file has."""
    drops: int = 0
    """How many answers that sections would bring besides are taken out."""


class _Made(Struct, frozen=True):
    """A draft, and how far it is the file."""

    text: str
    rest: Sheet
    drops: tuple[str, ...]
    apart: tuple[str, ...]
    direct: int = 0
    """How many answers of the file no section says; what only tells a part apart is not counted twice."""


class Manner(Struct, frozen=True):
    """How a file is to be adopted."""

    parameters: bool = False
    """Values of one machine become placeholders."""
    hold_secrets: bool = True
    """Secrets go into files of their own; otherwise the environment must have them."""
    section: str = ""
    """Only this section, as a profile."""


def adopt(
    data: bytes, path: Path, out: Path, manner: Manner, *, target: str | None = None, own: Own = NOTHING
) -> Adopted:
    """Takes up an answer file. ``out`` is where the draft will lie.

    Raises `ContentError` where nothing can be read, `WrongUseError` where the wished section is not there,
    `FileTroubleError` where it is too large.
    """
    side, basis = to_take_up(path, Asked(target=target, own=own), data)
    comments = [one for one in side.family.comments(side.text) if not is_stamp(one[1])]
    return _Adopter(side, basis, out, manner, comments).run()


class _Adopter:
    """Adopts one file."""

    def __init__(self, side: Subject, basis: str, out: Path, manner: Manner, comments: list[tuple[int, str]]) -> None:
        assert side.target is not None
        self.side = side
        self.target = side.target
        self.basis = basis
        self.out = out
        self.manner = manner
        self.comments = comments
        self.secrets: dict[str, str] = {}
        self.own: tuple[OwnValue, ...] = ()
        self.mine = Side(side.sheet, side.catalog, adds_up=side.family.adds_up)
        self.left_over: list[str] = []
        self.meant = side.recognised
        """What is understood of the file, without the sections that are not worth their while."""

    def run(self) -> Adopted:
        """Tries with all sections, and without those that are not worth what they need, or do not come back."""
        if self.manner.section:
            return self.profile(self.meant.intent.sections)
        left_out: set[str] = set()
        while True:
            portable = {*self.meant.intent.sections}
            # every round leaves out at least one section more, so that it ends
            made, unfit = self.attempt(portable)
            if not unfit & portable:
                break
            left_out |= unfit
            # what a section took that is not worth its while, another one may have
            self.meant = recognise(self.side.seats, self.side.target, left_out)
        found = self.meant.intent.sections
        return Adopted(
            made.text,
            self.target,
            self.basis,
            tuple(name for name in found if name in portable),
            made.direct,
            self.own,
            self.secrets if self.manner.hold_secrets else {},
            made.apart,
            tuple(one for one in self.side.findings if one.severity == Severity.ERROR),
            len(self.left_over),
            sum(1 for _ in self.side.sheet.scalars()),
            len(made.drops),
        )

    def attempt(self, portable: set[str]) -> tuple[_Made, set[str]]:
        """A draft with these sections, and those of them that should not be among them."""
        bare = _Made(self.draft(portable, Sheet(), ()), Sheet(), (), ())
        if portable:
            try:
                said = self.resolved(bare.text)
            except ContentError as error:
                blamed = {one.message.partition(".")[0].partition("[")[0] for one in error.findings}
                if not blamed & portable:
                    raise
                return bare, blamed
            if refused := refused_in(said.findings, bare.text) & portable:
                return bare, refused
            first = Side(said.sheet, said.catalog, adds_up=said.family.adds_up)
            match = matched(first, self.mine)
            weighed = Weighing(self.mine, self.meant.understood, first, match)
            if weighed.unfit & portable:
                return bare, weighed.unfit
            rest, drops = self.hidden(self.plain(weighed.rest())), weighed.drops()
            both = match.both
        else:
            rest, drops, both = self.hidden(self.plain(self.side.sheet)), (), frozenset()
        direct = sum(1 for _, node in self.side.sheet.scalars() if id(node) not in both)
        text = self.draft(portable, rest, drops)
        again = self.resolved(text)
        apart = told_apart(Side(self.reread(again), again.catalog, adds_up=again.family.adds_up), self.mine)
        made = _Made(text, rest, drops, tuple(apart), direct)
        return made, blamed_for(apart, self.mine, self.meant.understood, again) if apart else set()

    def resolved(self, text: str) -> Subject:
        """The draft as it is compared, its placeholders filled."""
        library = Library(self.out.parent, self.side.catalog.own)
        resolved = resolve(read_document(text, str(self.out), tolerant=True), library)
        values = {row.name: row.value for row in self.own if not row.stays}
        self.draft_sheet = of_draft(resolved, self.out)
        made = settled(self.draft_sheet, self.fetch, lambda value: fill(value, values))
        return with_sheet(made, made.sheet.as_in(self.side.sheet))

    def reread(self, again: Subject) -> Sheet:
        """The sheet of the answer file that the draft comes to: written, and read like any other file."""
        values = {row.name: row.value for row in self.own if not row.stays}
        family = self.side.family

        def reveal(block: Block, way: tuple[Node, ...], value: object) -> str | SecretRef | Template:
            whole = fill(value, values)  # type: ignore[arg-type]
            secret = self.fetch(whole) if isinstance(whole, SecretRef) else None
            if secret is None or not isinstance(whole, SecretRef):
                return whole
            return family.conceal(block, way, secret, form=whole.form, salt=for_comparing)

        sheet = self.draft_sheet.sheet.map_values(reveal)
        casts = family.cast(sheet, self.target, again.catalog.own)
        # with its stamp, since a reader may go by the release that it names
        whole = stamped(casts[0], *family.stamp(self.target, stamp_text(self.target, "")))
        data = whole.whole(lambda hole: str(hole.value))
        read = family.read(data, self.side.file, None, again.catalog.own).sheet
        return family.unveiled(replace(read, companions=sheet.companions)).as_in(self.side.sheet)

    def plain(self, rest: Sheet) -> Sheet:
        """Blocks for the architecture that most are for, which need not say it."""
        named = tuple(replace(one, variant="" if one.variant == self.arch else one.variant) for one in rest.blocks)
        return Sheet(named, tuple(one for one in rest.extras if not self.side.family.extra_fault(one.text)[0]))

    def profile(self, found: Mapping[str, object]) -> Adopted:
        """One section as a profile."""
        name = self.manner.section
        if name not in found:
            told = f"nothing in the file can be taken up as [{name}]"
            there = ", ".join(found) or "none"
            raise WrongUseError(told, file=self.side.file, remedy=f"sections that are there: {there}")
        intent = self.referring(Intent({name: found[name]}, self.meant.intent.places))
        notes = _Notes([], intent, self.own).notes
        lines = ["format = 1", "", "[profile]", f"title = {text(f'{name}, from {Path(self.side.file).name}')}"]
        lines += ["", *sections_text(intent, notes)]
        secrets = self.secrets if self.manner.hold_secrets else {}
        return Adopted(
            "\n".join(lines).rstrip("\n") + "\n", self.target, self.basis, (name,), 0, self.own, secrets, (), ()
        )

    @cached_property
    def arch(self) -> str:
        """The architecture that most components name."""
        named = Counter(one.variant for one in self.side.sheet.blocks if one.variant)
        usual = max(sorted(named), key=named.__getitem__, default="")
        return usual if usual in self.target.architectures else ""

    def hidden(self, sheet: Sheet) -> Sheet:
        """Secrets of direct answers as references; groups that can hide them say so."""
        catalog, family = self.side.catalog, self.side.family

        def refer(block: Block, way: tuple[Node, ...], value: object) -> SecretRef | str | Template:
            known = catalog.anywhere(block.component)
            path = "/".join(node.name for node in way)
            setting = known.setting(path) if known else None
            hideable = len(way) > 1 and family.hides("/".join(node.name for node in way[:-1]), block.component)
            veiled = family.veil(way)
            if veiled is not None:
                return veiled
            if setting is None or not setting.secret or not isinstance(value, str) or not value:
                return value  # type: ignore[return-value]
            who = owner_of(known, block, way)
            form = "hash" if not family.readable(block, way) and not hideable else "plain"
            return self.reference(value, who or block.component.rpartition("-")[2].strip("-"), form)

        return sheet.map_values(refer)

    def referring(self, intent: Intent) -> Intent:
        """An intent whose secrets are references."""
        sections = {}
        for name, value in intent.sections.items():
            sections[name] = changed(value, partial(self._referred, intent), (name,))
        made = Intent(sections, intent.places)
        made, self.own = with_parameters(made, replaced=self.manner.parameters)
        return made

    def _referred(self, intent: Intent, path: FieldPath, value: object) -> object:
        """A field's value; a secret that stands in the file as a reference to where it will be."""
        first = value.sources[0] if isinstance(value, SecretRef) else None
        if (
            not isinstance(value, SecretRef)
            or first is None
            or first.kind != "value"
            or not isinstance(first.name, str)
        ):
            return value
        around = (intent.at(path[:end]) for end in range(len(path) - 1, 1, -1))
        named = (
            getattr(part, "name", None) or getattr(part, "account", None) for part in (*around, intent.at(path[:1]))
        )
        who = next((one for one in named if isinstance(one, str) and one), str(path[0]))
        return self.reference(first.name, who, value.form)

    def reference(self, secret: str, who: str, form: str) -> SecretRef:
        """Where a secret will be had from: a file of its own, or the environment."""
        word = "".join(char if char.isascii() and char.isalnum() else "-" for char in who.lower()).strip("-")[:40]
        base = f"secrets/{self.out.stem}-{word or 'secret'}"
        name, number = f"{base}.txt", 1
        # one secret that stands twice goes into one file, two secrets of one name into two
        while self.secrets.get(name, secret) != secret:
            number += 1
            name = f"{base}-{number}.txt"
        self.secrets[name] = secret
        if self.manner.hold_secrets:
            return SecretRef((SecretSource("file", name),), form)
        told = Path(name).stem.upper().replace("-", "_")
        return SecretRef((SecretSource("env", told), SecretSource("ask")), form)

    def draft(self, portable: set[str], rest: Sheet, drops: tuple[str, ...]) -> str:
        """The draft's text: sections, what they say too much, and the rest as direct answers."""
        self.secrets = dict(self.secrets) if rest.blocks else {}
        found = self.meant.intent
        intent = self.referring(
            Intent({name: value for name, value in found.sections.items() if name in portable}, found.places)
        )
        marked = [row for row in self.own if not self.manner.parameters]
        _, every = with_parameters(self.side.intent, replaced=False)
        stays = tuple(replace(row, stays=True) for row in every if row.path.partition(".")[0] not in portable)
        elsewhere = tuple(own_elsewhere(intent, rest, (*self.own, *stays)))
        self.own += (*stays, *elsewhere)
        secrets = sorted(self.secrets.values(), key=len, reverse=True)
        comments = [(line, hidden_in(told, secrets)) for line, told in self.comments]
        notes = _Notes(comments, intent, (*marked, *elsewhere), stays)
        body = [*sections_text(intent, notes.notes)]
        catalog = self.side.catalog
        known = {one.component: catalog.anywhere(one.component) for one in rest.blocks}
        repeats = {name: bool(one and one.repeats) for name, one in known.items()}
        body += answers_text(rest.blocks, form_by(catalog), repeats, notes.notes)
        body += extras_text(rest.extras)
        self.left_over = notes.rest()
        head = ["format = 1", *dropping(drops), "", *[f"# {line}".rstrip() for line in self.left_over], "[draft]"]
        head += [f"title = {text(f'Adopted from {Path(self.side.file).name}')}", f"target = {text(self.target.id)}"]
        head += arch_text(self.side.sheet.kinds, self.arch, self.target)
        words = {one.component: one.written for one in self.side.sheet.blocks if one.written}
        for seat in self.mine.seats:
            if seat.setting is not None and seat.setting.alias:
                words[f"{seat.block.component}/{seat.setting.alias}"] = seat.name
        if words:
            head.append(f"written = {{ {', '.join(f'{key(name)} = {text(other)}' for name, other in words.items())} }}")
        return "\n".join([*head, "", *body]).rstrip("\n") + "\n"

    def fetch(self, ref: SecretRef) -> str | None:
        """A secret that is being put away."""
        for source in ref.sources:
            for name, secret in self.secrets.items():
                if str(source.name) in (name, Path(name).stem.upper().replace("-", "_")):
                    return secret
        return None


class _Notes:
    """Comments, each handed out once: before the first thing that stood at or below its line."""

    def __init__(
        self,
        comments: list[tuple[int, str]],
        intent: Intent,
        own: tuple[OwnValue, ...],
        unnamed: tuple[OwnValue, ...] = (),
    ) -> None:
        self.comments = list(comments)
        self.lines = sorted({one.place.origin.line for one in intent.places.values() if one.place.origin.line})
        self.marks = {row.path.rpartition(":")[2] for row in own}
        self.lines_of_own = {row.line for row in unnamed if row.line}

    def notes(self, line: int | None, path: str) -> list[str]:
        """The comments that belong to something from that line, and whether it is the machine's own."""
        out = []
        if line is not None:
            # a comment belongs to the next thing below it, unless something stands between
            for one in [one for one in self.comments if line - _NEAR <= one[0] <= line]:
                between = any(one[0] < other < line for other in self.lines)
                if between or (one[0] in self.lines and one[0] != line):
                    continue
                self.comments.remove(one)
                out += [f"# {part}".rstrip() for part in one[1].splitlines()]
        if path in self.marks or line in self.lines_of_own:
            self.lines_of_own.discard(line or 0)
            out.append("# this machine's own: the next one must have another")
        return out

    def rest(self) -> list[str]:
        """Those that found no place."""
        return [part.strip() for _, told in self.comments for part in told.splitlines() if part.strip()]


_NEAR = 3
"""A comment belongs to what stands within so many lines below it."""
