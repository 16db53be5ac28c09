"""What was left in a file: placeholders, passes that never run, hidden characters, keys that are none."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator
from functools import cache

from fairledger.catalog.setting import Setting
from fairledger.checks.claims import KICKSTART, PRACTICE, WINDOWS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View, judge
from fairledger.model.finding import Severity
from fairledger.model.showing import visible

_XML = (
    '<unattend xmlns="urn:schemas-microsoft-com:unattend"><settings pass="{0}"><component name="{1}" '
    'processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS">'
    "{2}</component></settings></unattend>"
)
_SHELL = "Microsoft-Windows-Shell-Setup"
_LINUX = "#version=RHEL9\n"
_LEFT = (
    r"\$\{[A-Za-z_]\w*\}|\{\{[^{}]*\}\}|\A\s*<[A-Za-z][A-Za-z _-]*>\s*\Z"
    r"|<[A-Za-z _-]*(?:name|key|password|domain|company|user|server|address|here|value|site|number|id)>"
    r"|\b(CHANGE[-_ ]?ME|REPLACE[-_ ]?(ME|THIS)|TODO|FIXME|"
    r"(YOUR|MY)[-_](NAME|KEY|PASSWORD|DOMAIN|COMPANY|PRODUCT[-_]KEY|COMPUTER[-_]NAME))\b|@@\w+@@|%%\w+%%"
    r"|\[(YOUR|ENTER|INSERT|TYPE|PUT)\b[^\]\n]*\]"
)
_CARELESS = (
    r"\b([Cc]hange[Mm]e|[Pp]assword123|[Xx]{4,}"
    r"|[Yy]our[-_ ]?((\w+[-_])*here|[Pp]assword|[Nn]ame|[Kk]ey|[Cc]ompany|[Dd]omain|[Ss]erver|[Uu]rl|[Uu]ser\w*))\b"
)
_IN_PATHS = (
    r"%(?!(?:System(?:Drive|Root)|WinDir|Program(?:Data|Files(?:\(x86\))?|W6432)|CommonProgram\w+(?:\(x86\))?|Public|TE?MP"
    r"|AllUsersProfile|UserProfile|(?:Local)?AppData|UserName|UserDomain|ComputerName|Home(?:Drive|Path)|ConfigSetRoot"
    r"|ComSpec|Processor_Architecture|OS)%)[A-Za-z_]\w*%"
)
"""Variables that setup's own environment does not have."""


@cache
def _left() -> re.Pattern[str]:
    return re.compile(f"{_LEFT}|{_CARELESS}")


@rule(
    "placeholder-left",
    Severity.ERROR,
    "A placeholder stands where a value belongs: setup takes it as it is.",
    source=PRACTICE,
    fires=_XML.format("specialize", _SHELL, "<ComputerName>${name}</ComputerName>"),
    silent=_XML.format("specialize", _SHELL, "<ComputerName>LMR-DESK-01</ComputerName>"),
    always=True,
)
def placeholder_left(view: View) -> Iterator[Hit]:
    """Values that look like something to be filled in. In drafts placeholders are values of their own, and pass."""
    for seat, match in view.judged(_left_in):
        told = f"a placeholder is left in {seat.shown}"
        told += "" if seat.setting is not None and seat.setting.secret else f": {visible(match[0])}"
        yield at(seat, told, "put the value there", None if re.search(_LEFT, match.string) else Severity.WARNING)


@judge
def _left_in(setting: Setting | None, text: str) -> re.Match[str] | None:
    runs = setting is not None and (setting.kind == "command" or setting.form == "body")
    if runs:
        return None
    plain = setting is not None and setting.kind == "text"
    if setting is not None and setting.kind == "path" and "%" in text:
        return _left().search(text) or re.search(_IN_PATHS, text, re.IGNORECASE)
    return _left().search(text) or (re.fullmatch(r"%[A-Z][A-Z_]*%", text.strip()) if plain else None)


@rule(
    "value-spaces",
    Severity.WARNING,
    "The value begins or ends with a space, which setup takes for a part of it.",
    source=PRACTICE,
    fires=_XML.format("specialize", _SHELL, "<RegisteredOwner>Larkmoor </RegisteredOwner>"),
    silent=_XML.format("specialize", _SHELL, "<RegisteredOwner>Larkmoor</RegisteredOwner>"),
)
def value_spaces(view: View) -> Iterator[Hit]:
    """Names and paths that are not what they seem. Values spread over several lines are another matter."""
    for seat, _ in view.judged(_spaced):
        yield at(seat, f"the value of {seat.shown} begins or ends with a space", "take it out")


@judge
def _spaced(setting: Setting | None, text: str) -> bool:
    plain = setting is not None and setting.kind in ("text", "path") and not setting.form and "\n" not in text
    if setting is not None and "words" in setting.traits:
        return False
    return plain and text != text.strip() and text.strip() != ""


@rule(
    "pass-never-runs",
    Severity.WARNING,
    "Settings of audit mode stand in a file that never sends the machine there.",
    source=f"{WINDOWS}, passes auditSystem and auditUser, Reseal/Mode",
    fires=_XML.format("auditSystem", _SHELL, "<ComputerName>LMR-DESK-01</ComputerName>"),
    silent=_XML.format("specialize", _SHELL, "<ComputerName>LMR-DESK-01</ComputerName>"),
)
def pass_never_runs(view: View) -> Iterator[Hit]:
    """Passes of audit mode without anything that leads there."""
    passes = {root.block.pass_ for root in view.seats.roots}
    if passes.isdisjoint(view.limits.audit_passes):
        return
    audit = view.limits.audit_passes
    leads = any(one.block.pass_ not in audit for one in view.saying("leads-to-audit"))
    told_of: set[str] = set()
    for root in view.seats.roots:
        name = root.block.pass_
        if name in view.limits.audit_passes and not leads and name not in told_of:
            told_of.add(name)
            told = f"{name} runs in audit mode only, and nothing in the file leads there"
            hint = "set Reseal/Mode to Audit in oobeSystem, or move the settings; with a reference machine leave it so"
            yield at(root, told, hint)


@rule(
    "pass-generalise",
    Severity.ADVICE,
    "Settings for generalising stand in a file that installs a machine: they count only when somebody generalises it.",
    source=f"{WINDOWS}, pass generalize",
    fires=_XML.format(
        "generalize", "Microsoft-Windows-PnpSysprep", "<PersistAllDeviceInstalls>true</PersistAllDeviceInstalls>"
    ).replace(
        "</unattend>",
        '<settings pass="windowsPE"><component name="Microsoft-Windows-Setup" processorArchitecture="amd64" '
        'publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS"><UserData><AcceptEula>true'
        "</AcceptEula></UserData></component></settings></unattend>",
    ),
    silent=_XML.format("specialize", _SHELL, "<ComputerName>LMR-DESK-01</ComputerName>"),
)
def pass_generalise(view: View) -> Iterator[Hit]:
    """The pass of generalising beside that of setup."""
    passes = {root.block.pass_ for root in view.seats.roots}
    for root in view.seats.roots:
        if root.block.pass_ == view.limits.generalising_pass and len(passes) > 1 and not root.node.origin.by:
            told = "this counts only when somebody generalises the machine"
            yield at(root, told, "keep it in a file of its own for the reference machine")
            return


@rule(
    "characters-hidden",
    Severity.WARNING,
    "A value holds characters that cannot be seen, or that turn the direction of the text: it is not what it seems.",
    source=PRACTICE,
    fires=_XML.format("specialize", _SHELL, "<RegisteredOwner>Lark\u202emoor</RegisteredOwner>"),
    silent=_XML.format("specialize", _SHELL, "<RegisteredOwner>Larkmoor</RegisteredOwner>"),
)
def characters_hidden(view: View) -> Iterator[Hit]:
    """Values with control or format characters, which are shown escaped."""
    for seat, found in view.judged(_hidden_in):
        told = f"{seat.shown} holds the hidden character U+{ord(found):04X}"
        yield at(seat, told, "type the value anew")


@judge
def _hidden_in(_setting: Setting | None, text: str) -> str:
    if text.isascii():
        return ""
    return next((char for char in text if unicodedata.category(char) in ("Cf", "Co", "Cn") and char != "\u00ad"), "")


@rule(
    "mode-both",
    Severity.WARNING,
    "The installer is told to be graphical and not: the last word counts.",
    source=f"{KICKSTART}, text, graphical, cmdline",
    fires=_LINUX + "text\ngraphical\n",
    silent=_LINUX + "text\n",
)
def mode_both(view: View) -> Iterator[Hit]:
    """Commands for several ways of showing the installer."""
    yield from _several(view, "shows-installer", "exclude each other", "keep one of them")


def _several(view: View, trait: str, what: str, hint: str) -> Iterator[Hit]:
    """The commands after the first of those that stand for each other."""
    roots = view.blocks(trait)
    for root in roots[1:]:
        if root.block.component != roots[0].block.component:
            yield at(root, f"{roots[0].block.component} and {root.block.component} {what}", hint)


@rule(
    "finish-both",
    Severity.WARNING,
    "Several commands say what happens at the end: the last one counts.",
    source=f"{KICKSTART}, reboot, poweroff, shutdown, halt",
    fires=_LINUX + "reboot\npoweroff\n",
    silent=_LINUX + "reboot\n",
)
def finish_both(view: View) -> Iterator[Hit]:
    """Commands for several ends."""
    yield from _several(view, "ends", "both say what happens at the end", "keep the one that is meant")


@rule(
    "source-both",
    Severity.WARNING,
    "Several commands say where the installation comes from: only one of them counts.",
    source=f"{KICKSTART}, url, cdrom, nfs, harddrive",
    fires=_LINUX + "url --url=http://192.0.2.10/el9\ncdrom\n",
    silent=_LINUX + "url --url=http://192.0.2.10/el9\n",
)
def source_both(view: View) -> Iterator[Hit]:
    """Commands for several sources."""
    yield from _several(view, "source", "both say where the installation comes from", "keep the one that is meant")
