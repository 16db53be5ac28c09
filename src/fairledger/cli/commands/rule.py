"""``fairledger rule``: the rules that ``check`` knows, each with its reason and two examples."""

from __future__ import annotations

import argparse
import textwrap

from fairledger.cli.console import Console
from fairledger.cli.status import Status

EXAMPLES = (
    "fairledger rule disk-wiped",
    "fairledger rule disks",
    "fairledger rule --list",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """A rule's id, or all of them."""
    told = "the id that stands in brackets behind a finding; or a topic, such as disks"
    parser.add_argument("id", nargs="?", metavar="RULE", help=told)
    parser.add_argument("--list", action="store_true", help="all rules, by topic")
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Explains one rule, or lists them."""
    from fairledger.checks.rule import Rule, all_rules
    from fairledger.model.errors import WrongUseError
    from fairledger.model.suggest import did_you_mean

    rules = {one.id: one for one in all_rules()}
    topics = sorted({one.topic for one in rules.values()})
    if options.id is not None and options.id not in (*rules, *topics):
        remedy = did_you_mean(options.id, (*rules, *topics)) or f"topics are {', '.join(topics)}"
        raise WrongUseError(f"there is no rule {options.id!r}", remedy=remedy)
    about = [one for one in rules.values() if one.topic == options.id]
    shown: list[Rule] = [rules[options.id]] if options.id in rules else about or list(rules.values())
    if options.format == "json":
        console.write_json({"rules": [_json(one) for one in shown]})
    elif options.id in rules:
        _explain(shown[0], console)
    else:
        _list(shown, console)
    return Status.DONE


def _json(one) -> dict[str, str]:  # type: ignore[no-untyped-def]
    return {
        name: getattr(one, name) for name in ("id", "topic", "severity", "says", "source", "given", "fires", "silent")
    }


def _explain(one, console: Console) -> None:  # type: ignore[no-untyped-def]
    console.say(console.style(one.id, "bold") + f"  {one.severity}, {one.topic}")
    console.paragraph(one.says, indent="  ")
    console.paragraph(f"from: {one.source}", indent="  ", hang="        ")
    fires = f"with {one.given} it fires for" if one.given else "it fires for"
    for head, text in ((fires, one.fires), ("and not for", one.silent)):
        if text.strip():
            console.say(f"\n  {head}")
            console.lines(console.style(textwrap.indent(text.rstrip("\n"), "    "), "dim"))
    if one.always:
        console.say("\n  no draft can silence it")
        return
    console.say(f'\n  silenced in a draft by [[silence]] with rule = "{one.id}" and because = "..."')


def _list(rules, console: Console) -> None:  # type: ignore[no-untyped-def]
    width = max(len(one.id) for one in rules)
    for topic in sorted({one.topic for one in rules}):
        console.say(console.style(topic, "bold"))
        for one in rules:
            if one.topic == topic:
                lead = f"  {one.id:<{width}}  {one.severity:<8} "
                console.paragraph(one.says, indent=lead, hang=" " * len(lead))
        console.say()
    console.say(f"{len(rules)} rules. More about one: fairledger rule {rules[0].id}")
