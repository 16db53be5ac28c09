"""Setting addresses: what a technician types to name an answer or a portable field.

``[PASS:][COMPONENT/]PATH`` with items in brackets: ``[x]`` by what tells it apart, ``[#2]`` the second one, ``[+]`` or
``[+label]`` a new one; any unambiguous tail of a path is enough. A component alone names its line or element.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.seats import Seat, Seats, identity_of
from fairledger.catalog.setting import Component, Setting
from fairledger.model.errors import WrongUseError
from fairledger.model.items import is_new, labels, meant, place_in
from fairledger.model.pattern import pattern
from fairledger.model.suggest import did_you_mean

_STEP = pattern(r"([^/\[\]]+)((?:\[[^\]]*\])?)")


class Step(Struct, frozen=True):
    """A name on the way, with the text of its brackets if it has any."""

    name: str
    item: str | None = None


class Spot(Struct, frozen=True):
    """An address made out: exactly one seat in an answer sheet."""

    pass_: str
    component: str
    setting: Setting
    """Of a whole component one that has no path."""
    steps: tuple[tuple[str, str, str | None], ...]
    """Name, key of the list (empty where it is none), and the item: its identity, ``#place``, or ``+label``."""
    key: str = ""
    """What tells apart repeated uses of the component; empty where it stands once, or nothing does."""
    item: str | None = None
    """Which use of a repeated component; in the same forms."""
    said: str = ""
    """What should be told about the choice of the pass; empty if the address named it."""
    present: Seat | None = None
    """The seat that the sheet has there already."""

    @property
    def text(self) -> str:
        """The whole address."""
        way = "".join("/" + name + (f"[{item}]" if item is not None else "") for name, _, item in self.steps)
        component = self.component + (f"[{self.item}]" if self.item is not None else "")
        return f"{self.pass_}:{component}{way}"

    @property
    def whole(self) -> bool:
        """Whether a component is meant, with all that stands in it."""
        return not self.steps


WHOLE = Setting(path="", kind="component")
"""What stands for a setting where a component is meant."""


def split_assignment(text: str) -> tuple[str, str | None]:
    """Address and value of ``ADDRESS=VALUE``, None without one; brackets may hold equals signs."""
    depth = 0
    for at, char in enumerate(text):
        # an item may be named by a text with an equals sign in it
        depth += {"[": 1, "]": -1}.get(char, 0)
        if char == "=" and depth <= 0:
            return text[:at].strip(), text[at + 1 :].lstrip()
    return text.strip(), None


def steps_of(text: str, address: str = "") -> tuple[Step, ...]:
    """The steps of an address without a pass; ``address`` is what was typed. Raises `WrongUseError`."""
    steps = []
    address = address or text
    at = 0
    while True:
        match = _STEP.match(text, at)
        if match is None or not match[1].strip():
            raise WrongUseError(f"{address!r} is no address", remedy="write [PASS:][COMPONENT/]SETTING, items in [ ]")
        steps.append(Step(match[1].strip(), match[2][1:-1] if match[2] else None))
        at = match.end()
        if at == len(text):
            return tuple(steps)
        if text[at] != "/":
            raise WrongUseError(f"{address!r} is no address", remedy="separate settings with /")
        at += 1


def locate(address: str, catalog: Catalog, seats: Seats, passes: tuple[str, ...], *, whole: bool = False) -> Spot:
    """Makes out an address. Raises `WrongUseError`: unknown, ambiguous, in a wrong pass, or an item not named.

    With ``whole`` the name of a component means the component itself, even where a setting is called the same.
    """
    head, colon, rest = address.partition(":")
    # a colon inside a name or an item (a path, a drive) does not end a pass
    pass_ = head if colon and "/" not in head and "[" not in head else ""
    if pass_ and pass_ not in passes:
        raise WrongUseError(f"there is no pass {pass_!r}", remedy=did_you_mean(pass_, passes), candidates=passes)
    steps = steps_of(rest if pass_ else address, address)
    if len(steps) == 1 and (named := catalog.named(steps[0].name)) is not None:
        if whole:
            return _whole(named, steps[0].item, seats, pass_)
        words = [one for one in named.settings if one.form in ("word", "rest")]
        if words and named.setting(named.name) is None:
            # the one word that makes a command is meant by the command's name
            steps = (steps[0], Step(words[0].path))
    found = _candidates(steps, catalog)
    if pass_:
        found = _in_pass(found, pass_, catalog)
    component, setting = _only(found, seats, pass_, catalog, address)
    known = catalog.component(component)
    assert known is not None
    chosen, said = _pass_of(known, setting, seats, pass_)
    asked = steps[0].item if steps[0].name == component else None
    item = _use_of(known, seats, chosen, asked) if known.repeats else None
    roots = _roots(known, seats, chosen, item)
    way = _with_items(steps, known, setting, roots)
    there = _below(roots, way)
    if len(there) > 1 and not setting.repeats:
        told = f"{address} stands {len(there)} times in {component}"
        raise WrongUseError(told, remedy="name one of them", candidates=[f"{component}/{one.shown}" for one in there])
    last = way[-1][2]
    present = there[0] if there and (last is not None or not setting.repeats) else None
    return Spot(chosen, component, setting, way, known.key, item, said, present)


def _whole(known: Component, asked: str | None, seats: Seats, pass_: str) -> Spot:
    """A component, or one of its uses."""
    there = list(dict.fromkeys(root.block.pass_ for root in seats.roots if root.block.component == known.name))
    if not pass_ and len(there) > 1:
        listed = [f"{one}:{known.name}" for one in there]
        told = f"{known.name} stands in {len(there)} passes"
        raise WrongUseError(told, remedy="name one of them", candidates=listed)
    chosen = pass_ or (there[0] if there else known.usual_pass or known.passes[0])
    if chosen not in known.passes:
        told = f"{known.name} does not count in the pass {chosen}"
        raise WrongUseError(told, remedy=f"it may stand in {', '.join(known.passes)}", candidates=known.passes)
    item = _use_of(known, seats, chosen, asked) if known.repeats else None
    roots = _roots(known, seats, chosen, item)
    if asked is not None and not known.repeats:
        raise WrongUseError(f"{known.name} is no list, so that [{asked}] names nothing", remedy=f"write {known.name}")
    return Spot(chosen, known.name, WHOLE, (), known.key, item, "", roots[0] if roots else None)


def _roots(known: Component, seats: Seats, pass_: str, item: str | None) -> list[Seat]:
    """The blocks of a component in a pass, or the one that is named."""
    roots = list(seats.find(pass_, known.name, ""))
    return roots if item is None else [roots[at] for at in meant(item, _uses(roots, known.key))]


def _uses(roots: list[Seat], key: str) -> list[str | None]:
    return [root.says(key) if key else None for root in roots]


def _use_of(known: Component, seats: Seats, pass_: str, asked: str | None) -> str:
    """Which use of a repeated component is meant."""
    told = _uses(list(seats.find(pass_, known.name, "")), known.key)
    named = labels(told)
    listed = [f"{known.name}[{one}]" for one in named]
    if asked is not None:
        found = meant(asked, told)
        if len(found) > 1:
            raise WrongUseError(
                f"{known.name}[{asked}] stands {len(found)} times", remedy="name one", candidates=listed
            )
        # by its key an item may be named before it is there: naming it makes it
        if found or is_new(asked) or _can_name(asked, known.key, known.setting(known.key)):
            return asked
        remedy = "name one" if listed else f"write {known.name}[+] for a new one"
        raise WrongUseError(f"{known.name} has no use {asked}", remedy=remedy, candidates=listed)
    if len(told) == 1:
        return named[0]
    if not told:
        return "+"
    raise WrongUseError(f"{known.name} stands {len(told)} times; which one?", remedy="name one", candidates=listed)


def _candidates(steps: tuple[Step, ...], catalog: Catalog) -> list[tuple[str, Setting]]:
    names = [step.name for step in steps]
    known = catalog.named(names[0])
    if known is not None and len(names) > 1:
        tail = "/".join(names[1:])
        exact = known.setting(tail)
        if exact is not None:
            return [(known.name, exact)]
        found = [(known.name, one) for one in known.settings if one.path.endswith("/" + tail)]
        if not found:
            hint = did_you_mean(names[-1], {one.name: None for one in known.settings})
            raise WrongUseError(f"{known.name} has no setting {tail!r}", remedy=hint)
        return found
    tail = "/".join(names)
    found = []
    for component, path in catalog.with_tail(tail):
        setting = catalog.setting(component, path)
        if setting is not None:
            found.append((component, setting))
    if not found:
        raise WrongUseError(f"there is no setting {tail!r}", remedy=_where_else(names, catalog))
    # a setting that hardly anybody means must not make a well-known one ambiguous
    return [one for one in found if not one[1].rare] or found


def _where_else(names: list[str], catalog: Catalog) -> str:
    if len(names) > 1 and catalog.component(names[0]) is None and "-" in names[0]:
        return did_you_mean(names[0], catalog.names())
    if len(names) == 1 and catalog.component(names[0]) is not None:
        return f"{names[0]} is a component: write {names[0]}/SETTING"
    # a name that is right for another release is no typing mistake
    whole = Catalog(catalog.family, None, catalog.own)
    for component, path in whole.with_tail("/".join(names)):
        found = whole.setting(component, path)
        if found is not None and catalog.target is not None:
            return f"other releases have {component}/{path}; find what this one has with: fairledger find"
    elsewhere = catalog.with_tail(names[-1])
    if elsewhere and len(names) > 1:
        return "did you mean " + " or ".join(f"{one}/{path}" for one, path in elsewhere[:3]) + "?"
    return did_you_mean(names[-1], catalog.all_names())


def _in_pass(found: list[tuple[str, Setting]], pass_: str, catalog: Catalog) -> list[tuple[str, Setting]]:
    fitting = []
    allowed: dict[str, None] = {}
    for name, setting in found:
        known = catalog.component(name)
        passes = known.passes_of(setting) if known else ()
        allowed.update(dict.fromkeys(passes))
        if pass_ in passes:
            fitting.append((name, setting))
    if not fitting:
        told = f"{found[0][1].path} does not count in the pass {pass_}"
        raise WrongUseError(told, remedy=f"it may stand in {', '.join(allowed)}", candidates=tuple(allowed))
    return fitting


def _only(
    found: list[tuple[str, Setting]], seats: Seats, pass_: str, catalog: Catalog, address: str
) -> tuple[str, Setting]:
    if len(found) == 1:
        return found[0]
    answered = [
        (name, setting)
        for name, setting in found
        if any(seat.block.component == name and seat.path == setting.path for seat in seats)
    ]
    # what is answered already is what a person looks at
    if len(answered) == 1:
        return answered[0]
    listed = []
    for name, setting in answered or found:
        known = catalog.component(name)
        assert known is not None
        listed.append(f"{pass_ or known.usual_pass_of(setting)}:{name}/{setting.path}")
    told = f"{address!r} can mean {len(listed)} settings"
    raise WrongUseError(told, remedy="name one of them in full", candidates=listed)


def _pass_of(known: Component, setting: Setting, seats: Seats, asked: str) -> tuple[str, str]:
    if asked:
        return asked, ""
    there = {
        seat.block.pass_: None for seat in seats if seat.block.component == known.name and seat.path == setting.path
    }
    if len(there) == 1:
        (pass_,) = there
        several = len(known.passes_of(setting)) > 1
        return pass_, f"in the pass {pass_}, where it is answered already" if several else ""
    if len(there) > 1:
        listed = [f"{pass_}:{known.name}/{setting.path}" for pass_ in there]
        told = f"{setting.path} is answered in {len(there)} passes"
        raise WrongUseError(told, remedy="name one of them", candidates=listed)
    usual = known.usual_pass_of(setting)
    several = len(known.passes_of(setting)) > 1
    return usual, f"in the pass {usual}, the usual one for it" if several else ""


def _with_items(
    steps: tuple[Step, ...], known: Component, setting: Setting, roots: list[Seat]
) -> tuple[tuple[str, str, str | None], ...]:
    names = setting.path.split("/")
    # what was typed is a tail of the path: items are counted from its end
    given = {len(names) - 1 - at: step.item for at, step in enumerate(reversed(steps)) if len(names) - 1 - at >= 0}
    out: list[tuple[str, str, str | None]] = []
    for at, name in enumerate(names):
        here = known.setting("/".join(names[: at + 1]))
        item = given.get(at)
        last = at == len(names) - 1
        if here is None or here.kind != "list":
            several = len(_below(roots, (*out, (name, "", None)))) > 1
            if item is not None and not (several and place_in(item) is not None):
                raise WrongUseError(f"{name} is no list, so that [{item}] names nothing", remedy=f"write {name} alone")
            out.append((name, "", item))
            continue
        if item is None and not (last and here.repeats):
            item = _single_item(here, _below(roots, tuple(out)), last=last)
        elif item is not None:
            _examine(item, here, known, _items(here.name, _below(roots, tuple(out))))
        out.append((name, here.key, item))
    return tuple(out)


def _items(name: str, above: list[Seat]) -> list[Seat]:
    return [child for seat in above for child in seat.children if child.name == name]


def _single_item(here: Setting, above: list[Seat], *, last: bool) -> str:
    told = labels([identity_of(one) for one in _items(here.name, above)])
    # on the way the only item is meant; at the end its name is asked for, since it may be taken out
    if len(told) == 1 and not last:
        return told[0]
    listed = [f"{here.name}[{one}]" for one in told]
    remedy = f"name one, as in {listed[0]}" if listed else f"write {here.name}[+] for a new one"
    raise WrongUseError(f"{here.path} is a list; which item?", remedy=remedy, candidates=listed)


def _can_name(item: str, key: str, known: Setting | None) -> bool:
    """Whether naming an item by what tells it apart can make it; of a bare number it is doubtful what it counts."""
    counted = item.isdecimal() and not (known is not None and known.kind == "integer" and not known.ordinal)
    return bool(key) and place_in(item) is None and not counted


def _examine(item: str, here: Setting, known: Component, items: list[Seat]) -> None:
    """Raises `WrongUseError` for an item that is not there and that naming it cannot make."""
    told = [identity_of(one) for one in items]
    found = meant(item, told)
    listed = [f"{here.name}[{one}]" for one in labels(told)]
    if len(found) > 1:
        raise WrongUseError(f"{here.name}[{item}] stands {len(found)} times", remedy="name one", candidates=listed)
    key = "" if here.repeats else here.key
    if not found and not is_new(item) and not _can_name(item, key, known.setting(f"{here.path}/{key}")):
        remedy = "name one" if listed else f"write {here.name}[+] for a new one"
        raise WrongUseError(f"there is no {here.name}[{item}]", remedy=remedy, candidates=listed)


def _below(roots: list[Seat], way: Sequence[tuple[str, str, str | None]]) -> list[Seat]:
    """The seats at a way of names and items below some blocks."""
    found = roots
    for name, _, item in way:
        below = _items(name, found)
        found = below if item is None else [below[at] for at in meant(item, [identity_of(one) for one in below])]
    return found


def beside(spot: Spot, at: int, seats: Seats) -> list[Seat]:
    """The items of which a step names one; before the first step (-1) the uses of the component."""
    roots = list(seats.find(spot.pass_, spot.component, ""))
    if at < 0:
        return roots
    if spot.item is not None:
        roots = [roots[one] for one in meant(spot.item, _uses(roots, spot.key))]
    return _items(spot.steps[at][0], _below(roots, spot.steps[:at]))


def step_is(seat: Seat, step: tuple[str, str, str | None]) -> bool:
    """Whether a seat is the one that a step of a spot names."""
    name, _, item = step
    if seat.name != name or seat.parent is None or item is None:
        return seat.name == name
    alike = _items(name, [seat.parent])
    return alike.index(seat) in meant(item, [identity_of(one) for one in alike])


def matching(text: str, catalog: Catalog) -> list[tuple[Component, Setting]]:
    """Every setting that an address without items can mean. Raises `WrongUseError` if there is none."""
    head, colon, rest = text.partition(":")
    steps = steps_of(rest if colon and "/" not in head else text, text)
    out = []
    for name, setting in _candidates(steps, catalog):
        known = catalog.component(name)
        if known is not None:
            out.append((known, setting))
    return out
