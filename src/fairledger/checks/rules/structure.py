"""What is found while a file is opened, before anybody asks what it means."""

from __future__ import annotations

from fairledger.checks.claims import DRAFTS, PRACTICE, SELF
from fairledger.checks.rule import found_by_reader
from fairledger.model.finding import Severity

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

found_by_reader(
    "silence-unused",
    Severity.WARNING,
    "A draft silences a rule that finds nothing there any more: the silence may hide the next mistake.",
    source=DRAFTS,
    fires='[[silence]]\nrule = "disk-wiped"\nbecause = "the desks are new"\n',
    silent='[[silence]]\nrule = "disk-wiped"\nbecause = "the desks are new"\n[disk]\nfate = "wipe"\n'
    'partition = [{ role = "firmware", size = "300 MiB" }, { role = "system", size = "rest" }]\n',
)
