"""What happens to disks and volumes, in sentences."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.events.event import Event, Weight
from fairledger.events.teller import Fields, Teller
from fairledger.events.words import word

CHAPTER = "The disks"
_CHOSEN = {
    "only": "the only disk",
    "not-removable": "the first disk that is not removable",
    "smallest": "the smallest disk",
}


def tell(teller: Teller) -> Iterator[Event]:
    """What is wiped, kept and made."""
    for path, disk in teller.items("disk"):
        which = _which(disk)
        fate = disk.fate
        if disk.bare.ignored and disk.ignored:
            yield teller.event(CHAPTER, f"{which} is left alone", *path)
            continue
        if fate == "wipe":
            told = f"{which} is WIPED without a question: all that is on it is lost"
            yield teller.event(CHAPTER, told, *path, weight=Weight.DANGER, destroys=(which,))
        elif fate == "ask":
            yield teller.event(CHAPTER, "the person at the machine chooses and lays out the disk", *path)
        elif teller.limits.takes_whole_disk and disk.bare.upgrade != "only" and not disk.bare.partition:
            told = f"the system is laid down on {which}: what is on it may be lost, but for stores of data"
            yield teller.event(CHAPTER, told, *path, weight=Weight.DANGER, destroys=(which,))
        else:
            yield teller.event(CHAPTER, f"{which} is not wiped", *path)
        if disk.bare.plan is not None:
            yield from _plan(disk.plan, (*path, "plan"), teller)
        for below, part in teller.items(*path, "partition"):
            anew = part.bare.device is not None and not part.bare.made and part.bare.format is not None
            lost = (word(part.bare.device),) if anew else ()
            weight = Weight.DANGER if anew else Weight.NOTE
            yield teller.event(CHAPTER, _part(part), *below, weight=weight, destroys=lost)
        if disk.bare.install_to is not None:
            told = f"the system goes to partition {word(disk.install_to)} of {which}"
            yield teller.event(CHAPTER, told, *path, "install_to")
    for path, volume in teller.items("volume"):
        made_of = f" of {word(volume.members)}" if volume.bare.members else ""
        yield teller.event(CHAPTER, f"a {volume.kind} {word(volume.name)} is made{made_of}", *path)
        for below, part in teller.items(*path, "partition"):
            yield teller.event(CHAPTER, _part(part), *below)


def _plan(plan: Fields, path: tuple[str | int, ...], teller: Teller) -> Iterator[Event]:
    told = "the installer lays it out by itself"
    if plan.bare.scheme is not None:
        told += f", as {plan.scheme}"
    yield teller.event(CHAPTER, told, *path)


def _which(disk: Fields) -> str:
    if disk.bare.choose is not None:
        above = f" above {disk.above}" if disk.bare.above else ""
        return _CHOSEN[disk.choose] + above
    return "every disk that is found" if disk.which is None else f"disk {word(str(disk.which))}"


def _part(part: Fields) -> str:
    bare = part.bare
    size = word(part.size)
    if part.grow:
        size = "all that is left" + (f", at least {size}" if size else "")
    size = size or ("a size by the machine's memory" if part.by_memory else "a size of its own")
    parts = [f"{'is made' if part.made else 'is changed'}: {part.role}", size]
    parts += [str(part.format)] if bare.format else []
    if bare.label:
        parts.append(f"called {word(part.label)}")
    if bare.mount:
        parts.append(f"mounted at {word(part.mount)}")
    if bare.name:
        parts.append(f"named {word(part.name)}")
    if bare.member:
        parts.append(f"part of {word(part.member)}")
    parts += ["encrypted"] if part.encrypted else []
    if bare.device and not bare.made:
        fate = "is made ANEW, so that all on it is lost" if bare.format else "is kept"
        rest = parts[1:] if bare.size else parts[2:]
        return f"{word(part.device)} " + ", ".join([parts[0].replace("is changed", fate), *rest])
    number = f"partition {part.number} " if not bare.made and bare.number else "a partition "
    return number + ", ".join(parts)
