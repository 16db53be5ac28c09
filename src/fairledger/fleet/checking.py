"""Checking many files, each by itself and all beside each other."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from hashlib import sha256
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.common import Common
from fairledger.checks.engine import Report, check
from fairledger.checks.likeness import Likeness
from fairledger.fleet.names import address, alike
from fairledger.intent.identity import IDENTITY
from fairledger.intent.network import NETWORK
from fairledger.model.errors import LedgerError
from fairledger.model.finding import Finding, Severity
from fairledger.model.showing import quoted
from fairledger.storage.files import read_bytes
from fairledger.subject.opening import Asked, looked_at
from fairledger.subject.subject import FileKind, Opened, Subject

_NOBODYS = ("localhost", "*", "")
"""Names that stand for none: every machine may have them."""
_AUTOMATIC = ("auto", "dhcp", "off")


class Owned(Struct, frozen=True):
    """Something that should be one machine's only, with the line in which it stands."""

    kind: str
    same: str
    """In one spelling."""
    said: str
    line: int | None


class Checked(Struct, frozen=True):
    """A file that was checked, or why it could not be."""

    path: Path
    report: Report | None
    trouble: LedgerError | None = None
    told: str = ""
    """The report as it is printed."""
    own: tuple[Owned, ...] = ()


class Checking(Struct, frozen=True, dict=True):
    """How each file is checked; what files have in common is worked out once in each process."""

    asked: Asked
    hears: Callable[[Report], Report]
    """What of a report is heard."""
    tell: Callable[[Report], str]
    """How a report is printed; for a report with all that was read. Both may be sent to another process."""
    several: bool = False
    """Whether there are more files, beside which this one is held."""

    def __call__(self, path: Path, data: bytes | None = None) -> Checked:
        """A file, or what stands in none, checked."""
        try:
            data = read_bytes(path) if data is None else data
            return self._like_others(path, data) or self._by_itself(path, data)
        except LedgerError as error:
            return Checked(path, None, error)

    def _by_itself(self, path: Path, data: bytes) -> Checked:
        asked = replace(self.asked, common=self._common()) if self.several else self.asked
        opened = looked_at(path, asked, data)
        report = self.hears(check(opened))
        told, own = self.tell(report), tuple(_owned(opened)) if self.several else ()
        slim = report.slim()
        if self.several and isinstance(opened, Subject):
            self._likeness().learn(opened)
        return Checked(path, slim, None, told, own)

    def _like_others(self, path: Path, data: bytes) -> Checked | None:
        """The same where a file is like the one before; None where it is not."""
        found = self._likeness().report(path, data) if self.several else None
        if found is None:
            return None
        report, one = self.hears(found[0]), found[1]
        return Checked(path, report.slim(let_go=False), None, self.tell(report), tuple(_owned(one)))

    def _common(self) -> Common:
        common: Common = self.__dict__.setdefault("common", Common())
        return common

    def _likeness(self) -> Likeness:
        likeness: Likeness = self.__dict__.setdefault("likeness", Likeness())
        return likeness


def _owned(one: Opened) -> Iterator[Owned]:
    """What only one machine should have: of answer files, since drafts are often for the same machine as they."""
    if not isinstance(one, Subject) or one.kind is not FileKind.ANSWERS:
        return
    yield Owned("file", sha256(one.data).hexdigest(), "", 1)
    intent = one.recognised.intent
    identity, network = intent.get(IDENTITY), intent.get(NETWORK)
    name = identity.name if identity is not None else None
    if isinstance(name, str) and name.partition(".")[0].casefold() not in _NOBODYS:
        yield Owned("name", alike(name), name, intent.place("identity", "name").origin.line)
    for at, each in enumerate(network.interface if network is not None else ()):
        for field in ("address", "ipv6"):
            said = getattr(each, field)
            same = address(said) if isinstance(said, str) and said not in _AUTOMATIC else None
            if same is not None:
                line = intent.place("network", "interface", at, field).origin.line
                yield Owned("address", same, said, line)


class Beside:
    """Files held beside each other: what two of them have that is one machine's only."""

    def __init__(self) -> None:
        self._seen: dict[tuple[str, str], str] = {}

    def look(self, one: Checked) -> Iterator[Finding]:
        """What a file has that an earlier one has too; files that are the same to the last byte once."""
        for own in one.own:
            first = self._seen.setdefault((own.kind, own.same), str(one.path))
            if first == str(one.path):
                continue
            twin = own.kind == "file"
            told = (
                f"this is the same file as {first}" if twin else f"the {own.kind} {quoted(own.said)} is in {first} too"
            )
            hint = "take one of them out" if twin else "give each machine its own, or leave one of the files out"
            yield Finding(TWICE, Severity.WARNING, told, hint, file=str(one.path), line=own.line)
            if twin:
                return


TWICE = "machine-in-two-files"


def with_beside(report: Report, found: Sequence[Finding], hears: Callable[[Report], Report]) -> Report:
    """A report with what was found beside the others, as far as anybody wants to hear it."""
    extra: Any = hears(replace(report, findings=tuple(found)))
    left = report.left_out + extra.left_out
    return replace(report, findings=(*report.findings, *extra.findings), left_out=left)
