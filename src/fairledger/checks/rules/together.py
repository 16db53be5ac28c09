"""What may stand beside what: repeated identities, exclusions, needs."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from fairledger.catalog.seats import Seat
from fairledger.catalog.setting import Setting
from fairledger.checks.claims import CATALOG, WINDOWS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.families.reference import sections_making
from fairledger.model.finding import Severity
from fairledger.model.places import Origin, Place
from fairledger.model.showing import visible
from fairledger.model.suggest import did_you_mean

_OWNER = '[answers.specialize.Microsoft-Windows-Shell-Setup]\nRegisteredOwner = "Larkmoor"\n'


@rule(
    "item-twice",
    Severity.ERROR,
    "Two items of a list have the same identity: one of them is lost.",
    source=f"{CATALOG}, what tells items of a list apart",
    fires='[account]\nlocal = [{ name = "observer" }, { name = "observer" }]\n',
    silent='[account]\nlocal = [{ name = "observer" }, { name = "keeper" }]\n',
)
def item_twice(view: View) -> Iterator[Hit]:
    """Repeated identities in lists."""
    seen: dict[tuple[int, str, str], Seat] = {}
    for seat in view.where(_keyed):
        ordinal = seat.component.ordinal_of(seat.path) if seat.component is not None else None
        # where items are numbered, two may speak of the same thing
        name = ordinal.name if ordinal is not None else seat.setting.key if seat.setting is not None else ""
        key = seat.child(name)
        if key is None or key.text is None:
            continue
        identity = (id(seat.parent), seat.name, key.text.strip().casefold())
        first = seen.setdefault(identity, seat)
        if first is not seat:
            line = first.node.origin.line
            told = f"{key.name} {visible(key.text)} stands twice in {seat.path}"
            told += f", first in line {line}" if line else ""
            yield at(key, told, f"give every item its own {key.name}")


def _keyed(setting: Setting) -> object:
    return setting.kind == "list" and setting.key


@rule(
    "setting-twice",
    Severity.ERROR,
    "A setting that is no list stands twice: setup takes one of the values, or refuses the file.",
    source=CATALOG,
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
    for setting, seats in view.seats.by_setting:
        if len(seats) < 2 or setting.kind == "list" or setting.repeats:
            continue
        if len({id(seat.parent) for seat in seats}) == len(seats):
            continue
        seen: dict[int, Seat] = {}
        for seat in seats:
            first = seen.setdefault(id(seat.parent), seat)
            if first is not seat:
                line = first.node.origin.line
                told = f"{seat.path} stands twice" + (f", first in line {line}" if line else "")
                yield at(seat, told, "keep the one that is meant")


@rule(
    "component-twice",
    Severity.ERROR,
    "A component stands once in a pass (and for each architecture); of two, one is ignored or the file is refused.",
    source=f"{WINDOWS}, components of a pass",
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
    Severity.ERROR,
    "Two settings that stand side by side exclude each other: the installer refuses them, or takes one.",
    source=CATALOG,
    fires="#version=RHEL9\nclearpart --all --none\n",
    silent="#version=RHEL9\nclearpart --all\n",
)
def settings_exclusive(view: View) -> Iterator[Hit]:
    """What the catalog says cannot stand together."""
    told: set[tuple[int, frozenset[str]]] = set()
    for seat in view.where(_excluding):
        setting = seat.setting
        beside = _beside(seat)
        for other in setting.excludes if setting else ():
            pair = (id(seat.parent), frozenset((seat.name, other)))
            if other in beside and pair not in told:
                told.add(pair)
                message = f"{seat.name} and {other} exclude each other"
                yield at(
                    seat, message, "keep the one that is meant", None if setting and setting.sure else Severity.WARNING
                )


def _excluding(setting: Setting) -> object:
    return setting.excludes


def _beside(seat: Seat) -> set[str]:
    """The names of what stands under the same parent."""
    return {one.name for one in seat.parent.children} if seat.parent is not None else set()


@rule(
    "setting-needs",
    Severity.ERROR,
    "A setting is of no use, or refused, without another one beside it.",
    source=CATALOG,
    fires="#version=RHEL9\npart / --size=9000 --maxsize=20000\n",
    silent="#version=RHEL9\npart / --size=9000 --grow --maxsize=20000\n",
)
def setting_needs(view: View) -> Iterator[Hit]:
    """What the catalog says must stand together."""
    for seat in view.where(_needing):
        setting = seat.setting
        beside = _beside(seat)
        for need in setting.needs if setting else ():
            if not beside & set(need.split("|")):
                told = need.replace("|", " or ")
                severity = None if setting and setting.sure else Severity.WARNING
                yield at(seat, f"{seat.name} needs {told}", f"add {told}", severity)


def _needing(setting: Setting) -> object:
    return setting.needs


@rule(
    "setting-out-of-place",
    Severity.WARNING,
    "A setting stands beside one with whose value it means nothing.",
    source=CATALOG,
    fires="#version=RHEL9\npart /srv --fstype=xfs --hibernation\n",
    silent="#version=RHEL9\npart swap --hibernation\n",
)
def setting_out_of_place(view: View) -> Iterator[Hit]:
    """What the catalog allows only where a setting beside it says something else."""
    for seat in view.where(_depending):
        name, _, values = seat.setting.only.partition("=") if seat.setting is not None else ("", "", "")
        said = seat.parent.says(name) if seat.parent is not None else None
        if said is not None and said.strip() not in values.split("|"):
            told = f"{seat.name} means nothing where {name} is {visible(said)}"
            yield at(seat, told, f"take it out, or make {name} {values.replace('|', ' or ')}")


def _depending(setting: Setting) -> object:
    return setting.only


@rule(
    "reference-unknown",
    Severity.ERROR,
    "A setting names something that the file does not make.",
    source=CATALOG,
    fires='#version=RHEL9\nsshkey --username=keeper "ssh-ed25519 AAAA station"\n',
    silent='#version=RHEL9\nuser --name=keeper\nsshkey --username=keeper "ssh-ed25519 AAAA station"\n',
)
def reference_unknown(view: View) -> Iterator[Hit]:
    """Values that refer to another command's name which nobody gives."""
    named: dict[str, set[object]] = {}
    for seat in view.where(_referring):
        setting = seat.setting
        if setting is None or seat.text is None:
            continue
        component, _, path = setting.refers.partition("/")
        if setting.refers not in named:
            makers = (root for root in view.seats.roots if root.block.component == component)
            named[setting.refers] = {child.value for root in makers for child in root.all(path)}
        names = named[setting.refers]
        if seat.text not in names and seat.text not in setting.besides and all(isinstance(one, str) for one in names):
            told = f"{seat.block.component} names {visible(seat.text)}, which no {component} makes"
            yield at(seat, told, did_you_mean(seat.text, [str(one) for one in names]) or f"add a {component}")


def _referring(setting: Setting) -> object:
    return setting.refers


@rule(
    "component-expected",
    Severity.ERROR,
    "The installer cannot go on by itself without it: it stops and asks.",
    source=f"{CATALOG}, what each installer asks for",
    fires="#version=RHEL9\nlang en_GB.UTF-8\nrootpw --lock\n",
    silent=(
        "#version=RHEL9\nlang en_GB.UTF-8\nkeyboard --xlayouts=gb\ntimezone UTC\nrootpw --lock\n"
        "clearpart --all\nautopart\n"
    ),
)
def component_expected(view: View) -> Iterator[Hit]:
    """Answers without which no installation is hands-free; silent where another file is taken in."""
    roots = view.seats.roots
    if not roots or view.unseen:
        return
    there = {root.component.expected for root in roots if root.component is not None}
    wanted = view.catalog.expected if view.target is not None else {}
    for words, names in wanted.items():
        known = view.catalog.anywhere(names[0])
        if words not in there and known is not None and known.priority != "low":
            place = Place(None, None, None, Origin(roots[0].node.origin.file, 1, 1))
            told = f"{words} is missing; the installer asks for it" + (
                f" in {known.asked_in}" if known.asked_in else ""
            )
            milder = Severity.ADVICE if known.priority == "medium" else None
            said = _sections(names, view) if view.subject.draft is not None else " or ".join(names)
            yield Hit(place, told, f"answer {said}", milder)


def _sections(names: Sequence[str], view: View) -> str:
    """The sections of a draft that come to one of some components; their names where there is none."""
    line = view.target.line if view.target is not None else ""
    found = sections_making(names, view.family.name, line)
    return " or ".join(f"[{one}]" for one in found[:2]) or " or ".join(names)


@rule(
    "use-twice",
    Severity.ERROR,
    "The same account, group or volume group is made twice.",
    source=CATALOG,
    fires="#version=RHEL9\nuser --name=keeper\nuser --name=keeper --groups=wheel\n",
    silent="#version=RHEL9\nuser --name=keeper\nuser --name=observer\n",
)
def use_twice(view: View) -> Iterator[Hit]:
    """Repeated components with the same key, where that makes no sense."""
    seen: dict[tuple[str, str], Seat] = {}
    for root in view.seats.roots:
        known = root.component
        item = root.says(known.key) if known is not None and known.unique else None
        if known is None or item is None:
            continue
        place = (known.name, item)
        if place in seen:
            line = seen[place].node.origin.line
            told = f"{known.name} {visible(item)} is made twice" + (f", first in line {line}" if line else "")
            yield at(root, told, "keep one of them")
        seen.setdefault(place, root)
