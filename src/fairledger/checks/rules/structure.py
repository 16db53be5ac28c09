"""What is found while a file is opened, before anybody asks what it means."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.checks.claims import DRAFTS, PRACTICE, SELF
from fairledger.checks.rule import Hit, found_by_reader, rule
from fairledger.checks.view import View
from fairledger.model.finding import Severity
from fairledger.model.places import Origin, Place
from fairledger.model.showing import visible

_GOOD = "#version=RHEL9\nlang en_GB.UTF-8\n"

found_by_reader(
    "file-empty", Severity.ERROR, "An empty file answers nothing.", fires=" \n", silent=_GOOD, source=PRACTICE
)

found_by_reader(
    "target-other",
    Severity.WARNING,
    "The file says that it is for another release than the one it is checked for.",
    source=SELF,
    given="--target TARGET",
    fires="#version=RHEL8\nlang en_GB.UTF-8\n",
    silent=_GOOD,
)


@rule(
    "extra-malformed",
    Severity.ERROR,
    "What a draft keeps as it stands is none of what may be kept so: nothing would check or explain it.",
    source=SELF,
    fires='[[extra]]\nplace = "unattend"\ntext = "<settings xmlns=\'urn:schemas-microsoft-com:unattend\'/>"\n',
    silent='[[extra]]\nplace = "unattend"\ntext = "<image xmlns=\'urn:larkmoor\'/>"\n',
    always=True,
)
def extra_malformed(view: View) -> Iterator[Hit]:
    """Parts of the file's own language, and what has another form."""
    for extra in view.extras:
        told, hint = view.family.extra_fault(extra.text)
        if told:
            yield Hit(Place(origin=extra.origin), told, hint)


@rule(
    "catalog-added",
    Severity.ADVICE,
    "A folder adds to the catalog what nobody has checked: what it knows is not told as unknown any more.",
    source=SELF,
    given="--catalog FOLDER",
    fires=_GOOD,
    silent="",
)
def catalog_added(view: View) -> Iterator[Hit]:
    """The folder that was named, or that lies beside the draft."""
    own = view.catalog.own
    names = [name for found in own.families.values() for name in found]
    if names:
        some = ", ".join(map(visible, names[:3])) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
        told = f"the folder {visible(own.folder)} adds to the catalog: {some}"
        yield Hit(Place(origin=Origin(view.subject.file, 1)), told, "leave it out unless you know whose it is")


found_by_reader(
    "machine-in-two-files",
    Severity.WARNING,
    "Two of the files name the same machine or address: one of them is a copy that nobody changed.",
    source=PRACTICE,
    given="two files in one call",
    fires="#version=RHEL9\nnetwork --hostname=lmr-gate-03.larkmoor.example\n",
    silent="#version=RHEL9\nnetwork --bootproto=dhcp\n",
)

found_by_reader(
    "silence-unused",
    Severity.WARNING,
    "A draft silences a rule that finds nothing there any more: the silence may hide the next mistake.",
    source=DRAFTS,
    fires='[[silence]]\nrule = "disk-wiped"\nbecause = "the desks are new"\n',
    silent='[[silence]]\nrule = "disk-wiped"\nbecause = "the desks are new"\n[disk]\nfate = "wipe"\n'
    'partition = [{ role = "firmware", size = "300 MiB" }, { role = "system", size = "rest" }]\n',
)
