"""``fairledger medium``: what a medium is and holds."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, own_of
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.model.holdings import MediumFacts


EXAMPLES = (
    "fairledger medium server.iso",
    "fairledger medium install.wim --images",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Which medium, and what of it."""
    parser.add_argument(
        "path",
        nargs="?",
        type=Path,
        metavar="PATH",
        help="a disc (ISO), a stick's image, a folder, an image file (install.wim, .esd, .swm), or a file of facts",
    )
    parser.add_argument("--images", action="store_true", help="its images alone, with all that is said of them")
    parser.add_argument("--index", type=int, metavar="N", help="look into this image: what it really holds")
    parser.add_argument("--facts", type=Path, metavar="FILE", help="write a small file that stands for the medium")
    parser.add_argument("--replace", action="store_true", help="replace a file of facts that exists")
    parser.add_argument("--compare", type=Path, metavar="B", help="say what differs in another medium")
    parser.add_argument("--sums", action="store_true", help="work out the sums that it carries, and say if they hold")
    parser.add_argument("--forget", action="store_true", help="take away what was kept of images looked into")
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Looks at it, without copying or mounting it."""
    from fairledger.model.errors import WrongUseError

    if options.forget:
        return _forget(console)
    if options.path is None:
        raise WrongUseError("no medium is named", remedy="name a disc, a folder or an image file")
    if options.replace and options.facts is None:
        raise WrongUseError("--replace replaces nothing", remedy="name the file: --facts FILE")
    if options.sums:
        return _sums(options, console)
    if options.compare is not None:
        return _compare(options, console)
    return _show(options, console)


def _show(options: argparse.Namespace, console: Console) -> int:
    from fairledger.cli import media
    from fairledger.cli.holdings import facts_json, held_json, show_facts, show_held
    from fairledger.media.facts import facts_of, is_facts_file, with_held
    from fairledger.media.holding import held_in, image_of
    from fairledger.media.medium import look_at

    if is_facts_file(options.path):
        facts = _facts(options.path, options)
        if options.facts is not None:
            return _write(facts, options, console)
        if console.json:
            console.write_json(facts_json(facts))
        else:
            show_facts(facts, console)
        return Status.DONE
    medium = look_at(options.path)
    facts, held = facts_of(medium), None
    if options.index is not None:
        held = held_in(medium, image_of(facts, options.index), own_of(options))
        facts = with_held(facts, held)
    if options.facts is not None:
        return _write(facts, options, console)
    if console.json:
        told = media.as_json(medium)
        if held is not None:
            told["held"] = held_json(held)
        console.write_json({"images": told["images"], "problems": told["problems"]} if options.images else told)
    elif options.images:
        media.show_images_alone(medium, console)
    elif held is not None:
        show_held(facts, held, console)
    else:
        media.show(medium, console)
    return Status.DONE


def _facts(path: Path, options: argparse.Namespace) -> MediumFacts:
    """The facts of a medium, of the image that was named too; or those of a file of them."""
    from fairledger.media.facts import facts_of, is_facts_file, read_facts, with_held
    from fairledger.media.holding import held_in, image_of
    from fairledger.media.medium import look_at
    from fairledger.model.errors import WrongUseError

    if is_facts_file(path):
        facts = read_facts(path)
        if options.index is not None and facts.held_by(image_of(facts, options.index)) is None:
            told = f"these facts do not tell what image {options.index} holds"
            raise WrongUseError(told, file=str(path), remedy="make them of the medium, with --index")
        return facts
    medium = look_at(path)
    facts = facts_of(medium)
    if options.index is None:
        return facts
    return with_held(facts, held_in(medium, image_of(facts, options.index), own_of(options)))


def _write(facts: MediumFacts, options: argparse.Namespace, console: Console) -> int:
    from fairledger.media.facts import text_of
    from fairledger.storage.files import write_file

    text = text_of(facts).encode()
    write_file(options.facts, text, replace=options.replace)
    if console.json:
        console.write_json(
            {"written": str(options.facts), "bytes": len(text), "held": [one.image for one in facts.held]}
        )
        return Status.DONE
    console.say(console.style(f"wrote {options.facts}", "bold") + f"  {len(text):,} bytes")
    console.say("  it stands for the medium: fairledger check DRAFT --medium " + str(options.facts))
    if facts.systems and not facts.held:
        told = "what its images hold is not in it: name one with --index N"
        console.paragraph(told, indent="  ", hang="    ", style="warning")
    return Status.DONE


def _compare(options: argparse.Namespace, console: Console) -> int:
    from fairledger.cli.holdings import compared_json, show_compared
    from fairledger.media.comparing import compared

    a, b = _facts(options.path, options), _facts(options.compare, options)
    found = compared(a, b)
    if console.json:
        console.write_json(compared_json(found))
    else:
        show_compared(found, str(options.path), str(options.compare), console)
    return Status.FINDINGS if found.differences else Status.DONE


def _sums(options: argparse.Namespace, console: Console) -> int:
    from fairledger.cli.progress import progress_of
    from fairledger.media.sums import sums_of

    found = list(sums_of(options.path, progress_of(console, per=1 << 20, unit=" MiB")))
    wrong = [one for one in found if one.holds is not True]
    if console.json:
        listed = [{"what": one.what, "kind": one.kind, "holds": one.holds, "why": one.why or None} for one in found]
        console.write_json({"medium": str(options.path), "sums": listed})
        return Status.FINDINGS if wrong else Status.DONE
    from fairledger.model.showing import visible

    for one in wrong:
        told = f"{visible(one.what)}: its {one.kind} sum does not hold" + (f": {one.why}" if one.why else "")
        console.paragraph(told, hang="  ", style="error")
    if not found:
        console.say("it carries no sums: nobody can tell from it alone whether it was copied well")
    elif not wrong:
        if all(one.whole for one in found):
            console.say(console.style("its sum holds", "bold") + ": it was copied well")
        else:
            what = "one sum holds" if len(found) == 1 else f"all {len(found):,} sums hold"
            told = "the files that they are of were copied well; of others nobody knows it"
            console.say(console.style(what, "bold") + f": {told}")
        console.say(console.style("  that tells a bad copy, not a forgery: a forger writes the sum as well", "dim"))
    else:
        console.say(f"{len(wrong):,} of {len(found):,} sums do not hold: copy it again")
    return Status.FINDINGS if wrong else Status.DONE


def _forget(console: Console) -> int:
    from fairledger.media.kept import folder, forget

    count = forget()
    if console.json:
        console.write_json({"forgotten": count})
    else:
        console.say(f"forgot what {count} image{'' if count == 1 else 's'} held ({folder()})")
    return Status.DONE
