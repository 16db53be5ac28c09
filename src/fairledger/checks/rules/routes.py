"""What a file says, against the way on which it reaches the installer."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from fairledger.checks.claims import PRACTICE, WINDOWS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.intent.identity import IDENTITY
from fairledger.intent.network import NETWORK
from fairledger.model.finding import Severity
from fairledger.model.places import Origin, Place

_SEALED = '[draft]\ntarget = "windows-11-24h2"\nroute = "generalise"\n'
_SHARED = '[draft]\ntarget = "windows-11-24h2"\nroute = "share"\n'


@rule(
    "route-name",
    Severity.ERROR,
    "On this route the installer looks for a file of a certain name by itself: under another name it is never read.",
    source=f"{WINDOWS}, how setup looks for answer files",
    fires='<unattend xmlns="urn:schemas-microsoft-com:unattend"/>',
    silent='[identity]\nname = "LMR-DESK-01"\n',
    given="--route stick",
)
def route_name(view: View) -> Iterator[Hit]:
    """Answer files that are not called as the installer wants, where nobody types their name."""
    route = view.route
    if route is None or not view.file or route.typed or route.name == "plain":
        return
    wanted = Path(route.file).name
    if Path(view.file).name.casefold() != wanted.casefold():
        told = f"by this route the installer looks for {wanted}, and the file is called {Path(view.file).name}"
        yield Hit(Place(origin=Origin(view.file, 1, 1)), told, f"call it {wanted}, or choose another route")


@rule(
    "pass-not-on-route",
    Severity.WARNING,
    "On this route some passes never run: what stands in them is never done.",
    source=f"{WINDOWS}, what generalising with an answer file goes through",
    fires=_SEALED + '[licence]\naccept = true\n[image]\nedition = "Pro"\n',
    silent=_SEALED + '[locale]\ntime_zone = "UTC"\n',
)
def pass_not_on_route(view: View) -> Iterator[Hit]:
    """The first answer in each pass that the route does not go through."""
    route = view.route
    told: set[str] = set()
    for root in view.seats.roots if route is not None and route.passes else ():
        pass_ = root.block.pass_
        if route is not None and pass_ not in route.passes and pass_ not in told:
            told.add(pass_)
            message = f"the pass {pass_} never runs on the route {route.name}"
            yield at(root, message, f"say it in {', '.join(route.passes)}, or take it out")


@rule(
    "clone-value",
    Severity.WARNING,
    "A value that belongs to one machine stands in the file of a generalised image: every copy gets it.",
    source=PRACTICE,
    fires=_SEALED + '[identity]\nname = "LMR-DESK-01"\n',
    silent=_SEALED + '[identity]\nnaming = "random"\n',
)
def clone_value(view: View) -> Iterator[Hit]:
    """Names and fixed addresses on routes that begin by generalising."""
    route = view.route
    if route is None or not view.limits.generalising_pass or view.limits.generalising_pass not in route.passes:
        return
    identity, network = view.intent.get(IDENTITY), view.intent.get(NETWORK)
    if identity is not None and isinstance(identity.name, str):
        told = f"every copy of the image would be called {identity.name}"
        yield Hit(
            view.intent.placed("identity", "name"), told, f"let it choose: {view.called('identity.naming', _RANDOM)}"
        )
    for place, one in enumerate(network.interface if network is not None else ()):
        if isinstance(one.address, str):
            told = f"every copy of the image would have the address {one.address}"
            yield Hit(view.intent.placed("network", "interface", place, "address"), told, 'write method = "dhcp"')


@rule(
    "script-out-of-reach",
    Severity.ERROR,
    "A script lies beside the answer file, where nothing is connected any more when it is called.",
    source=f"{WINDOWS}, in which passes setup is connected to a share",
    fires=_SHARED + '[[command]]\nwhen = "installed"\nbody = "echo a\\necho b"\n',
    silent=_SHARED + '[[command]]\nwhen = "setup-starts"\nbody = "echo a\\necho b"\n',
)
def script_out_of_reach(view: View) -> Iterator[Hit]:
    """Calls of companions in passes in which the route does not reach them."""
    route = view.route
    companions = view.seats.companions if route is not None and route.scripts_in else ()
    for one in companions:
        names = (one.name, one.name.replace("/", "\\"))
        for seat in view.seats:
            called = seat.text is not None and any(name in seat.text for name in names)
            if route is not None and called and seat.block.pass_ not in route.scripts_in:
                told = f"{one.name} cannot be found in the pass {seat.block.pass_}: on the route {route.name} its drive"
                hint = "write one short line, which needs no script; or use a stick or disc, which stays in"
                yield at(seat, f"{told} is gone by then", hint)


_RANDOM = '"random"'
