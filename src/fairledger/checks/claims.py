"""Where the claims of rules come from. A rule names one of these, and the part of it that is meant."""

from __future__ import annotations

WINDOWS = "the vendor's public reference of settings for unattended Windows setup"
WINDOWS_DISKS = "the vendor's public guides to partitions of UEFI and BIOS machines, for Windows"
WINDOWS_TOOLS = "the vendor's public reference of Windows commands"
KICKSTART = "the installer's public reference of kickstart commands and options"
HYPERVISOR = "the vendor's public guide to scripted installation of the hypervisor"
LINUX_TOOLS = "the manual pages of the tools that the script calls"
CATALOG = "the catalog, whose entries follow the vendors' public references"
DRAFTS = "the form of drafts and profiles, which is this program's own"
PRACTICE = "the practice of the trade"
SELF = "the file itself: both things are said in it"
UEFI = "the UEFI specification"
XML = "XML 1.0"
