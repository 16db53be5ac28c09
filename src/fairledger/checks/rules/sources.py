"""Where the installation comes from."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.checks.claims import KICKSTART, PRACTICE
from fairledger.checks.rule import Hit, rule
from fairledger.checks.view import View
from fairledger.intent.source import SOURCE
from fairledger.model.finding import Severity
from fairledger.model.showing import visible

_HEAD = "#version=RHEL9\n"


@rule(
    "source-local",
    Severity.WARNING,
    "A package source on the installer's own medium was kept in the file; another medium does not carry it.",
    source=PRACTICE,
    fires=_HEAD + "repo --name=AppStream --baseurl=file:///run/install/sources/mount-0000-cdrom/AppStream\n",
    silent=_HEAD + "repo --name=AppStream --baseurl=http://192.0.2.10/AppStream\n",
)
def source_local(view: View) -> Iterator[Hit]:
    """Repositories and trees with a local address."""
    source = view.intent.get(SOURCE)
    rows = [
        (one.url, ("source", "repository", at, "url")) for at, one in enumerate(source.repository if source else ())
    ]
    if source is not None:
        rows.append((source.url, ("source", "url")))  # type: ignore[arg-type]
    # the disc that is installed from lies where it lay before
    disc = source is not None and source.kind == "disc"
    for url, path in rows:
        if isinstance(url, str) and url.startswith("file:") and not (disc and url.startswith(_MEDIUM)):
            told = f"{url} is on the medium that the file was made with"
            yield Hit(view.intent.placed(*path), told, "name a source that the machines reach, or take it out")


_MEDIUM = ("file:///run/install/repo", "file:///run/install/sources/mount-")


@rule(
    "source-unverified",
    Severity.ADVICE,
    "What is installed comes from a server whose certificate, or with signatures which, nobody verifies: whoever is on "
    "the way can put something else in its place.",
    source=f"{KICKSTART}, --noverifyssl, --nogpg",
    fires=_HEAD + "url --url=https://192.0.2.10/el9 --noverifyssl\n",
    silent=_HEAD + "url --url=https://192.0.2.10/el9 --sslcacert=/run/install/larkmoor.pem\n",
)
def source_unverified(view: View) -> Iterator[Hit]:
    """Sources and repositories for which verifying is switched off."""
    source = view.intent.get(SOURCE)
    if source is None:
        return
    rows = [(source.verify, ("source", "verify")), (source.signed, ("source", "signed"))]
    for at, one in enumerate(source.repository):
        rows.append((one.verify, ("source", "repository", at, "verify")))  # type: ignore[arg-type]
    for said, path in rows:
        if said is False:
            what = "signatures are" if path[-1] == "signed" else "the server's certificate is"
            hint = "name the authority that it is from" if path[-1] == "verify" else "leave it out, and bring the keys"
            yield Hit(view.intent.placed(*path), f"{what} not verified", hint)


@rule(
    "source-address",
    Severity.ERROR,
    "A source on the network has no usable address.",
    source=f"{KICKSTART}, url, repo, nfs",
    fires=_HEAD + "url --url=192.0.2.10/el9\n",
    silent=_HEAD + "url --url=http://192.0.2.10/el9\n",
)
def source_address(view: View) -> Iterator[Hit]:
    """Addresses without a scheme, and network sources without one."""
    source = view.intent.get(SOURCE)
    for at, one in enumerate(source.repository if source is not None else ()):
        for field in ("url", "mirrors", "metalink"):
            address = getattr(one, field)
            if isinstance(address, str) and not _reaches(address, view):
                told = f"{visible(address)} is no address of a repository"
                spot = view.intent.placed("source", "repository", at, field)
                yield Hit(spot, told, "begin it with http://, https://, ftp:// or file://")
    if source is None or source.kind != "url":
        return
    spot = view.intent.placed("source", "url")
    address = next((one for one in (source.url, source.mirrors, source.metalink) if one is not None), None)
    if address is None:
        yield Hit(view.intent.placed("source", "kind"), "the source on the network has no address", "name it")
    elif isinstance(address, str) and not _reaches(address, view):
        yield Hit(spot, f"{visible(address)} is no address of a source", "begin it with http://, https:// or ftp://")


def _reaches(address: str, view: View) -> bool:
    return "://" in address or address.startswith(("$", *view.limits.source_forms))


@rule(
    "source-not-on-route",
    Severity.WARNING,
    "The packages come from a disc, but the machines are started over the network.",
    source=PRACTICE,
    given="--route boot-parameter",
    fires=_HEAD + "cdrom\n",
    silent=_HEAD + "url --url=http://lmr-files-01.larkmoor.example/el9\n",
)
def source_not_on_route(view: View) -> Iterator[Hit]:
    """Disc sources on routes without a disc."""
    source = view.intent.get(SOURCE)
    if source is not None and source.kind == "disc" and view.facts.route in ("share", "boot-parameter"):
        spot = view.intent.placed("source", "kind")
        told = "packages come from a disc, but the file reaches the machines over the network"
        yield Hit(spot, told, "a full disc must be in every machine; else name a source on the network")
