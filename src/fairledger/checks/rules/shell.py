"""Scripts of Unix shells: texts that they write, where they write them, and what runs them."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.tools import tools
from fairledger.checks.calls import commands_of
from fairledger.checks.claims import KICKSTART, LINUX_TOOLS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.model.finding import Severity
from fairledger.model.pattern import pattern
from fairledger.model.places import line_below
from fairledger.model.sheet import visible

_LINUX = "#version=RHEL9\n"


@rule(
    "text-worked-out",
    Severity.WARNING,
    "A text that a script writes is worked out by the shell: the dollar signs of a hash in it are lost.",
    source=f"{LINUX_TOOLS}, sh: here-documents",
    fires=_LINUX + "%pre\ncat >/tmp/root.ks <<END\nrootpw --iscrypted $6$abcdefgh$xyz\nEND\n%end\n",
    silent=_LINUX + "%pre\ncat >/tmp/root.ks <<'END'\nrootpw --iscrypted $6$abcdefgh$xyz\nEND\n%end\n",
)
def text_worked_out(view: View) -> Iterator[Hit]:
    """Hashes in here-documents whose word is not quoted. The hash is not told."""
    for here, one in commands_of(view) if view.limits.scripts == "sh" else ():
        ends, open_ = "", False
        for row, line in enumerate(one.body.split("\n") if "<<" in one.body and "$" in one.body else ()):
            if ends:
                if line.strip("\t") == ends:
                    ends = ""
                elif open_ and _HASH_IN.search(line):
                    told = "the shell works this text out, and the hash in it loses what stands behind its dollar signs"
                    yield Hit(
                        line_below(here.place, row), told, f"put the word behind << in quotes: <<'{visible(ends)}'"
                    )
                continue
            begun = _BEGINS.search(line)
            if begun:
                ends, open_ = begun[2], not begun[1]


_BEGINS = pattern(r"<<-?[ \t]*(['\"\\]?)([A-Za-z_]\w*)")
_HASH_IN = pattern(r"(?<!\\)\$(?:1|2[abxy]|5|6|y|gy)\$[./A-Za-z0-9]")


@rule(
    "written-outside",
    Severity.WARNING,
    "A script that runs outside of the new system names paths as if it ran inside: what it writes is lost.",
    source=f"{KICKSTART}, %post --nochroot",
    fires=_LINUX + "%post --nochroot\necho wind >/etc/motd\n%end\n",
    silent=_LINUX + "%post --nochroot\necho wind >/mnt/sysimage/etc/motd\n%end\n",
)
def written_outside(view: View) -> Iterator[Hit]:
    """Scripts in the installer's own system that never speak of the new one."""
    for here, one in commands_of(view):
        if one.moment != ("installed", "setup") or view.limits.scripts != "sh" or _INSIDE.search(one.body):
            continue
        written = _WRITES.search(one.body)
        if written:
            told = f"{visible(written[1])} is the installer's own here, and is gone afterwards"
            yield Hit(here, told, "write /mnt/sysimage in front, or let the script run in the new system")


_INSIDE = pattern(r"/mnt/sys(?:image|root)|\bchroot\b|ANA_INSTALL_PATH")
_WRITES = pattern(
    r"(?:>>?[ \t]*|\b(?:cp|mv|install|tee|sed\s+-i)\b[^\n|;&]*[ \t])(/(?:etc|root|home|opt|srv|usr|var)/\S*)"
)


@rule(
    "gone-from-release",
    Severity.WARNING,
    "The release does not have it any more: the installer or the script stops at it.",
    source="the vendor's notes on each release",
    fires=_LINUX + "%post --interpreter=/usr/bin/python\nprint(7)\n%end\n",
    silent=_LINUX + "%post --interpreter=/usr/bin/python3\nprint(7)\n%end\n",
)
def gone_from_release(view: View) -> Iterator[Hit]:
    """Interpreters that only older releases have."""
    target = view.target
    for seat in view.having("runs-script") if target is not None else ():
        tool = tools().get((seat.text or "").casefold())
        if tool is not None and target is not None and tool.lacking(target, seat.block.pass_):
            yield at(seat, f"{target.name} has no {visible(seat.text or '')}", tool.why)
