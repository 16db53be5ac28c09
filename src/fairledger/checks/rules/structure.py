"""What readers find about a file as such, before anybody asks what it means."""

from __future__ import annotations

from fairledger.checks.rule import found_by_reader

_OPEN = '<unattend xmlns="urn:schemas-microsoft-com:unattend">'
_ATTRIBUTES = 'processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS"'
_SHELL = f'<component name="Microsoft-Windows-Shell-Setup" {_ATTRIBUTES}>'
_GOOD = (
    f'{_OPEN}<settings pass="specialize">{_SHELL}<RegisteredOwner>Larkmoor</RegisteredOwner></component>'
    "</settings></unattend>"
)


def _changed(old: str, new: str) -> str:
    assert old in _GOOD
    return _GOOD.replace(old, new, 1)


def _xml(id_: str, severity: str, says: str, old: str, new: str) -> None:
    found_by_reader(id_, severity, says, fires=_changed(old, new), silent=_GOOD)


_xml(
    "xml-malformed",
    "error",
    "Setup refuses a file that is not well-formed, as a whole.",
    "</component>",
    "</componemt>",
)
_xml(
    "xml-doctype",
    "error",
    "Answer files have no document type; one may hide entities.",
    "<unattend",
    "<!DOCTYPE u><unattend",
)
_xml(
    "pass-processed",
    "error",
    "A file that setup has been through is marked: what it has done it does not do again.",
    'pass="specialize"',
    'pass="specialize" wasPassProcessed="true"',
)
_xml(
    "xml-encoding",
    "error",
    "The file is not encoded as its first line says: setup cannot read it.",
    "<unattend",
    '<?xml version="1.0" encoding="utf-16"?><unattend',
)
_xml("root-element", "error", "An answer file's root is <unattend>.", _GOOD, "<answers></answers>")
_xml(
    "namespace",
    "error",
    "Setup ignores elements of another namespace.",
    "urn:schemas-microsoft-com:unattend",
    "urn:x",
)
_xml("pass-unknown", "error", "Settings in a pass that does not exist are ignored.", "specialize", "specialise")
_xml(
    "pass-twice",
    "error",
    "A pass stands once; the second one would be ignored or refused.",
    "</settings>",
    '</settings><settings pass="specialize"></settings>',
)
_xml(
    "component-attributes",
    "error",
    "Setup finds a component by all of its attributes.",
    ' publicKeyToken="31bf3856ad364e35"',
    "",
)
_xml(
    "element-unknown",
    "error",
    "Setup refuses elements it does not know.",
    "</unattend>",
    "<setting/></unattend>",
)
_xml("stray-text", "error", "Text between elements belongs to nothing.", "</component>", "x</component>")
_xml(
    "attribute-unknown",
    "warning",
    "Only list items carry attributes, of the setup state's namespace.",
    "<RegisteredOwner>",
    '<RegisteredOwner kind="x">',
)
found_by_reader("file-empty", "error", "An empty file answers nothing.", fires=" \n", silent=_GOOD)

found_by_reader(
    "target-other",
    "warning",
    "The file says that it is for another release than the one it is checked for.",
    given="--target TARGET",
    fires="#version=RHEL8\nlang en_GB.UTF-8\n",
    silent="#version=RHEL9\nlang en_GB.UTF-8\n",
)

_LINUX = "#version=RHEL9\n%post\necho station\n%end\n"
found_by_reader(
    "line-unreadable",
    "error",
    "A line with an open quote, or a %end that closes nothing, makes the installer stop.",
    fires='#version=RHEL9\nlang "en_GB.UTF-8\n',
    silent=_LINUX,
)
found_by_reader(
    "section-open",
    "error",
    "A section that is not closed swallows what follows, or makes the installer stop.",
    fires="#version=RHEL9\n%post\necho station\n",
    silent=_LINUX,
)
found_by_reader(
    "file-binary",
    "error",
    "An answer file is text.",
    fires="#version=RHEL9\nlang en\x01\n",
    silent=_LINUX,
)
found_by_reader(
    "file-included",
    "advice",
    "Another file is taken in while the installer reads; what stands there is not known here.",
    fires="#version=RHEL9\n%include /tmp/disks.ks\n",
    silent=_LINUX,
)
found_by_reader(
    "include-broken",
    "error",
    "A file that is taken in is not there, leaves the folder, or takes itself in.",
    given="--root .",
    fires="#version=RHEL9\n%include /larkmoor/disks.ks\n",
    silent=_LINUX,
)
_LISTED = (
    '<unattend xmlns="urn:schemas-microsoft-com:unattend" '
    'xmlns:wcm="http://schemas.microsoft.com/WMIConfig/2002/State"><settings pass="oobeSystem">'
    '<component name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" '
    'publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS"><UserAccounts><LocalAccounts>'
    "<LocalAccount{}><Name>observer</Name></LocalAccount></LocalAccounts></UserAccounts></component></settings></unattend>"
)
found_by_reader(
    "silence-unused",
    "warning",
    "A draft silences a rule that finds nothing there any more: the silence may hide the next mistake.",
    fires='[[silence]]\nrule = "disk-wiped"\nbecause = "the desks are new"\n',
    silent='[[silence]]\nrule = "disk-wiped"\nbecause = "the desks are new"\n[disk]\nfate = "wipe"\n'
    'partition = [{ role = "firmware", size = "300 MiB" }, { role = "system", size = "rest" }]\n',
)
found_by_reader(
    "list-action",
    "warning",
    "An item of a list does not say what is to be done with it, or says something that setup does not know.",
    fires=_LISTED.format(' wcm:action="append"'),
    silent=_LISTED.format(' wcm:action="add"'),
)
