"""Commands that a script writes and that the installer then takes in, in sentences: they do what they say, unseen."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from fairledger.events import disks
from fairledger.events.event import Event, Weight
from fairledger.events.teller import Teller
from fairledger.model.showing import visible
from fairledger.subject.subject import with_sheet


def tell(teller: Teller) -> Iterator[Event]:
    """What can be read of them: which they are, and what they do to the disks."""
    subject = teller.subject
    for one in subject.scripted:
        if one.whole:
            continue  # a section tells of it
        names = ", ".join(dict.fromkeys(visible(block.component) for block in one.sheet.blocks))
        read = f"those that can be read are {names}" if names else "none of them can be read here"
        told = f"a script writes commands into {visible(one.file)}, which the installer takes in; {read}"
        origin = one.by.node.origin
        event = Event(chapter=disks.CHAPTER, what=told, severity=Weight.CARE, sure=False, phase=one.by.block.pass_)
        yield replace(event, file=(origin.file or subject.file) if origin.line else None, line=origin.line)
        inner = Teller(with_sheet(subject, one.sheet))
        for told_of in disks.tell(inner):
            yield replace(told_of, what=f"by commands that a script writes, {told_of.what}", sure=False)
