"""Scripts of Unix shells: texts that they write, where they write them, and what runs them."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.tools import tools
from fairledger.checks.calls import commands_of
from fairledger.checks.claims import KICKSTART, LINUX_TOOLS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.model.finding import Severity
from fairledger.model.heredocs import here_documents
from fairledger.model.pattern import pattern
from fairledger.model.places import line_below
from fairledger.model.showing import visible
from fairledger.model.suggest import slipped

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
        lines = one.body.split("\n")
        for text in here_documents(one.body) if "$" in one.body else ():
            for row in () if text.literal else range(text.first, text.ends or len(lines)):
                if _HASH_IN.search(lines[row]):
                    told = "the shell works this text out, and the hash in it loses what stands behind its dollar signs"
                    hint = f"put the word behind << in quotes: <<'{visible(text.word)}'"
                    yield Hit(line_below(here.place, row), told, hint)


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


@rule(
    "interpreter-slipped",
    Severity.WARNING,
    "The interpreter is nearly one that systems have: nothing runs the script.",
    source=LINUX_TOOLS,
    fires=_LINUX + "%post --interpreter=/usr/bin/bsh\necho wind\n%end\n",
    silent=_LINUX + "%post --interpreter=/usr/bin/bash\necho wind\n%end\n",
)
def interpreter_slipped(view: View) -> Iterator[Hit]:
    """Interpreters that differ by a letter from a usual one."""
    for seat in view.having("runs-script"):
        folder, _, name = (seat.text or "").rpartition("/")
        meant = slipped(name, _INTERPRETERS)
        if meant:
            yield at(seat, f"no system has {visible(seat.text or '')}", f"write {visible(folder)}/{meant}")


_INTERPRETERS = (
    *(
        "sh",
        "bash",
        "dash",
        "zsh",
        "ksh",
        "fish",
        "busybox",
        "ash",
        "csh",
        "tcsh",
        "awk",
        "gawk",
        "env",
        "ruby",
        "node",
    ),
    *("python", "python2", "python3", "perl", "lua", "php", "tclsh", "expect"),
)


@rule(
    "read-from-outside",
    Severity.WARNING,
    "A script inside the new system reads what an earlier one wrote into the installer's own, and finds nothing.",
    source=f"{KICKSTART}, %pre and %post",
    fires=_LINUX + "%pre\necho sda >/tmp/wind\n%end\n%post\ncp /tmp/wind /root/wind\n%end\n",
    silent=_LINUX + "%pre\necho sda >/tmp/wind\n%end\n%post --nochroot\ncp /tmp/wind /mnt/sysimage/root/wind\n%end\n",
)
def read_from_outside(view: View) -> Iterator[Hit]:
    """Files that scripts before the new system write, named inside of it and not written there."""
    scripts = commands_of(view) if view.limits.scripts == "sh" else []
    left = {path for _, one in scripts if one.moment[1] == "setup" for path in _LEAVES.findall(one.body)}
    brought = {path for _, one in scripts if one.moment == ("installed", "setup") for path in _NAMES.findall(one.body)}
    for here, one in scripts if left else ():
        if one.moment != ("installed", "system"):
            continue
        own = set(_LEAVES.findall(one.body)) | brought
        for match in _NAMES.finditer(one.body):
            if match[0] in left and match[0] not in own:
                told = f"{visible(match[0])} was written into the installer's own system, and is not in the new one"
                hint = "let the script run with --nochroot, or copy the file in such a one before"
                yield Hit(line_below(here.place, one.body.count("\n", 0, match.start())), told, hint)
                break


_LEAVES = pattern(r"(?:>>?[ \t]*|\btee[ \t]+(?:-a[ \t]+)?)(/tmp/[\w./-]*\w)")
_NAMES = pattern(r"(?<![\w/.-])/tmp/[\w./-]*\w")
