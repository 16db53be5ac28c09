"""Tells an answer file of this family by its first lines."""

from __future__ import annotations

import re

_WORDS = (
    r"#version=\w",
    r"%(packages|pre|post|end|include|firstboot|addon)\b",
    r"(rootpw|timezone|network|clearpart|autopart|bootloader|zerombr|reboot|install|keyboard)\b",
    r"((vm)?accepteula|esxlocation|virtualdisk|vmlicense)\b",
    r"(lang|part|partition|volgroup|logvol) \S",
    r"(url|user|services|firewall|selinux) --",
)
_TELLING = rf"^\s*({'|'.join(_WORDS)})".encode()


def score(data: bytes, file_name: str) -> int:
    """How likely the bytes are ours: 0 (not at all) to 3."""
    if data[:400].replace(b"\0", b"").lstrip(b"\xef\xbb\xbf\xff\xfe \t\r\n").startswith(b"<"):
        return 0
    if re.search(_TELLING, data[:20000], re.MULTILINE):
        return 3
    return 2 if file_name.lower().endswith((".ks", ".cfg")) else 0
