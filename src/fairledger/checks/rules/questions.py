"""What nobody answers, so that the installer stops and asks."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.passes import pass_names
from fairledger.catalog.questions import Question, all_questions
from fairledger.catalog.values import known_language
from fairledger.checks.claims import KICKSTART, WINDOWS
from fairledger.checks.rule import Hit, at, rule, told_by
from fairledger.checks.view import View
from fairledger.events.questions import questions
from fairledger.intent.locale import LOCALE
from fairledger.model.finding import Severity
from fairledger.model.places import Origin, Place


@rule(
    "locale-incomplete",
    Severity.ADVICE,
    "Some of the questions on language are answered and others not: the page with them comes up all the same.",
    source=f"{WINDOWS}, International-Core-WinPE",
    fires="[answers.oobeSystem.Microsoft-Windows-International-Core]\nUILanguage = 'en-GB'\nUserLocale = 'en-GB'\n",
    silent="[answers.oobeSystem.Microsoft-Windows-International-Core]\nUILanguage = 'en-GB'\nUserLocale = 'en-GB'\n"
    "SystemLocale = 'en-GB'\nInputLocale = 'en-GB'\n",
)
def locale_incomplete(view: View) -> Iterator[Hit]:
    """Components on languages with at least half of their answers, in the passes that show the page."""
    locale = view.intent.get(LOCALE)
    if locale is not None and isinstance(locale.language, str) and not known_language(locale.language):
        return  # no keyboard follows from a language that does not exist
    first, last = pass_names(view.family.name)[0], pass_names(view.family.name)[-1]
    for root in view.seats.roots:
        known = root.component
        if known is None or root.block.pass_ not in (first, last):
            continue
        asked = [one.name for one in known.below("") if "language-page" in one.traits]
        lacking = [name for name in asked if root.child(name) is None]
        if 0 < len(lacking) <= len(asked) // 2:
            yield at(root, f"no answer for {', '.join(lacking)}", "answer it too, or setup asks")


def _register(name: str, told: Question) -> None:
    def open_question(view: View) -> Iterator[Hit]:
        """Pages that nobody answers."""
        for one in questions(view.subject, name):
            if one.answered is False and not (one.page.rule and told_by(one.page.rule, view)):
                # it is nowhere that it stands, so that no line is better than the first
                place = Place(one.page.pass_, None, None, Origin(view.subject.file, 1, 1))
                yield Hit(place, one.sentence, f"answer it: {one.remedy}")

    rule(
        f"question-{name}",
        Severity.ADVICE,
        told.says,
        source=f"{WINDOWS}, and {KICKSTART}: what is asked where nothing is said",
        fires=told.fires,
        silent=told.silent,
    )(open_question)


for _name, _told in all_questions().items():
    _register(_name, _told)
