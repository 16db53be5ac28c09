"""What may stand beside what: repeated identities, exclusions, needs."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.seats import Seat
from fairledger.checks.rule import Hit, View, at, rule
from fairledger.model.places import Origin, Place
from fairledger.model.sheet import visible
from fairledger.model.suggest import did_you_mean

_OWNER = '[answers.specialize.Microsoft-Windows-Shell-Setup]\nRegisteredOwner = "Larkmoor"\n'


@rule(
    "item-twice",
    "error",
    "Two items of a list have the same identity: one of them is lost.",
    fires='[account]\nlocal = [{ name = "observer" }, { name = "observer" }]\n',
    silent='[account]\nlocal = [{ name = "observer" }, { name = "keeper" }]\n',
)
def item_twice(view: View) -> Iterator[Hit]:
    """Repeated identities in lists."""
    for above in view.seats.parents:
        seen: dict[tuple[str, str], Seat] = {}
        for seat in above.children:
            setting = seat.setting
            key = seat.child(setting.key) if setting and setting.kind == "list" and setting.key else None
            if key is None or key.text is None:
                continue
            identity = (seat.node.name, key.text.strip().casefold())
            if identity in seen:
                first = seen[identity].node.origin
                line = f", first in line {first.line}" if first.line else ""
                told = f"{key.node.name} {visible(key.text)} stands twice in {seat.path}{line}"
                yield at(key, told, f"give every item its own {key.node.name}")
            seen.setdefault(identity, seat)


@rule(
    "setting-twice",
    "error",
    "A setting that is no list stands twice: setup takes one of the values, or refuses the file.",
    fires=(
        '<unattend xmlns="urn:schemas-microsoft-com:unattend"><settings pass="specialize">'
        '<component name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" '
        'publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">'
        "<TimeZone>UTC</TimeZone><TimeZone>GMT Standard Time</TimeZone></component></settings></unattend>"
    ),
    silent=_OWNER,
)
def setting_twice(view: View) -> Iterator[Hit]:
    """Settings and groups that stand twice under one parent."""
    for above in view.seats.parents:
        seen: dict[str, Seat] = {}
        for seat in above.children:
            if seat.setting is None or seat.setting.kind == "list" or seat.setting.repeats:
                continue
            if seat.node.name in seen:
                line = seen[seat.node.name].node.origin.line
                told = f"{seat.path} stands twice" + (f", first in line {line}" if line else "")
                yield at(seat, told, "keep the one that is meant")
            seen.setdefault(seat.node.name, seat)


@rule(
    "component-twice",
    "error",
    "A component stands once in a pass (and for each architecture); of two, one is ignored or the file is refused.",
    fires=(
        '<unattend xmlns="urn:schemas-microsoft-com:unattend"><settings pass="specialize">'
        '<component name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" '
        'publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">'
        "<TimeZone>UTC</TimeZone></component>"
        '<component name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" '
        'publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">'
        "<RegisteredOwner>Larkmoor</RegisteredOwner></component></settings></unattend>"
    ),
    silent=_OWNER,
)
def component_twice(view: View) -> Iterator[Hit]:
    """Blocks that stand again where their component may not."""
    seen: dict[tuple[str, str, str], Seat] = {}
    for root in view.seats.roots:
        place = (root.block.pass_, root.block.component, root.block.variant)
        known = view.catalog.anywhere(root.block.component)
        if place in seen and not (known and known.repeats):
            line = seen[place].node.origin.line
            told = f"{root.block.component} stands twice in {root.block.pass_}"
            yield at(root, told + (f", first in line {line}" if line else ""), "put both parts into one")
        seen.setdefault(place, root)


@rule(
    "settings-exclusive",
    "error",
    "Two settings that stand side by side exclude each other: the installer refuses them, or takes one.",
    fires="#version=RHEL9\nclearpart --all --none\n",
    silent="#version=RHEL9\nclearpart --all\n",
)
def settings_exclusive(view: View) -> Iterator[Hit]:
    """What the catalog says cannot stand together."""
    for above in view.seats.parents:
        if not any(seat.setting is not None and seat.setting.excludes for seat in above.children):
            continue
        told: set[frozenset[str]] = set()
        names = {seat.node.name for seat in above.children}
        for seat in above.children:
            setting = seat.setting
            for other in setting.excludes if setting else ():
                pair = frozenset((seat.node.name, other))
                if other in names and pair not in told:
                    told.add(pair)
                    message = f"{seat.node.name} and {other} exclude each other"
                    yield at(seat, message, "keep the one that is meant", "" if setting and setting.sure else "warning")


@rule(
    "setting-needs",
    "error",
    "A setting is of no use, or refused, without another one beside it.",
    fires="#version=RHEL9\npart / --size=9000 --maxsize=20000\n",
    silent="#version=RHEL9\npart / --size=9000 --grow --maxsize=20000\n",
)
def setting_needs(view: View) -> Iterator[Hit]:
    """What the catalog says must stand together."""
    for above in view.seats.parents:
        if not any(seat.setting is not None and seat.setting.needs for seat in above.children):
            continue
        names = {seat.node.name for seat in above.children}
        for seat in above.children:
            setting = seat.setting
            for need in setting.needs if setting else ():
                if not names & set(need.split("|")):
                    told = need.replace("|", " or ")
                    severity = "" if setting and setting.sure else "warning"
                    yield at(seat, f"{seat.node.name} needs {told}", f"add {told}", severity)


@rule(
    "reference-unknown",
    "error",
    "A setting names something that the file does not make.",
    fires='#version=RHEL9\nsshkey --username=keeper "ssh-ed25519 AAAA station"\n',
    silent='#version=RHEL9\nuser --name=keeper\nsshkey --username=keeper "ssh-ed25519 AAAA station"\n',
)
def reference_unknown(view: View) -> Iterator[Hit]:
    """Values that refer to another command's name which nobody gives."""
    for seat in view.seats:
        setting = seat.setting
        if setting is None or not setting.refers or seat.text is None:
            continue
        component, _, path = setting.refers.partition("/")
        names = {
            child.value for root in view.seats.roots if root.block.component == component for child in root.all(path)
        }
        if seat.text not in names and seat.text not in setting.besides and all(isinstance(one, str) for one in names):
            told = f"{seat.block.component} names {visible(seat.text)}, which no {component} makes"
            yield at(seat, told, did_you_mean(seat.text, [str(one) for one in names]) or f"add a {component}")


@rule(
    "component-expected",
    "error",
    "The installer cannot go on by itself without it: it stops and asks.",
    fires="#version=RHEL9\nlang en_GB.UTF-8\nrootpw --lock\n",
    silent=(
        "#version=RHEL9\nlang en_GB.UTF-8\nkeyboard --xlayouts=gb\ntimezone UTC\nrootpw --lock\n"
        "clearpart --all\nautopart\n"
    ),
)
def component_expected(view: View) -> Iterator[Hit]:
    """Answers without which no installation is hands-free; silent where another file is taken in."""
    roots = view.seats.roots
    if not roots or any(root.block.component.startswith("%include") for root in roots):
        return
    there = {root.component.expected for root in roots if root.component is not None}
    wanted: dict[str, list[str]] = {}
    for name in view.catalog.names() if view.target is not None else ():
        known = view.catalog.component(name)
        if known is not None and known.expected and not known.alias:
            wanted.setdefault(known.expected, []).append(name)
    for words, names in wanted.items():
        if words not in there:
            place = Place(None, None, None, Origin(roots[0].node.origin.file, 1, 1))
            yield Hit(place, f"{words} is missing; the installer asks for it", f"answer {' or '.join(names)}")


@rule(
    "use-twice",
    "error",
    "The same account, group or volume group is made twice.",
    fires="#version=RHEL9\nuser --name=keeper\nuser --name=keeper --groups=wheel\n",
    silent="#version=RHEL9\nuser --name=keeper\nuser --name=observer\n",
)
def use_twice(view: View) -> Iterator[Hit]:
    """Repeated components with the same key, where that makes no sense."""
    seen: dict[tuple[str, str], Seat] = {}
    for root in view.seats.roots:
        known = root.component
        item = root.node.text(known.key) if known is not None and known.unique else None
        if known is None or item is None:
            continue
        place = (known.name, item)
        if place in seen:
            line = seen[place].node.origin.line
            told = f"{known.name} {visible(item)} is made twice" + (f", first in line {line}" if line else "")
            yield at(root, told, "keep one of them")
        seen.setdefault(place, root)
