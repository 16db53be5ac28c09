"""What nobody answers, so that setup stops and asks."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.events.event import Event, Weight
from fairledger.events.teller import Teller
from fairledger.intent.account import ACCOUNT
from fairledger.intent.disk import DISK
from fairledger.intent.licence import LICENCE
from fairledger.intent.locale import LOCALE

CHAPTER = "Questions that are left"


def tell(teller: Teller) -> Iterator[Event]:
    """Each question that is known to be left."""
    get = teller.intent.get
    licence, locale, account = get(LICENCE), get(LOCALE), get(ACCOUNT)
    asked = []
    if teller.limits.licence_must_be_accepted and (licence is None or not licence.accept):
        asked.append("the licence terms")
    if locale is None or not (locale.language or locale.setup_language or locale.keyboards):
        asked.append("language and keyboard")
    disks = get(DISK) or ()
    if not disks or any(disk.fate == "ask" for disk in disks):
        asked.append("which disk, and how it is laid out")
    if account is None or not (account.local or account.administrator is not None):
        asked.append("an account, or the administrator's password")
    for one in asked:
        yield Event(chapter=CHAPTER, what=one, asks=one, severity=Weight.CARE)
