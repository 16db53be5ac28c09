"""Generated PowerShell, judged by a parser that is not ours."""

from __future__ import annotations

import re

import pytest
import tree_sitter_powershell
from tests.factories import NOWHERE, resolved
from tree_sitter import Language, Parser

from fairledger.catalog.targets import all_targets
from fairledger.subject.opening import of_draft

PARSER = Parser(Language(tree_sitter_powershell.language()))
ALL = r"""
[account.administrator]
enabled = true
[[account.local]]
name = "O'Hara $(x) `y"
expires = "2027-01-31"
password_expires = false
change_password = true
groups = ["Remote Desktop Users"]
[identity]
pattern = "L'M-{serial}"
[licence]
activation_server = "kms.larkmoor.example:1688"
[locale]
region = "PT"
[network]
location = "private"
time_sources = ["time.larkmoor.example", "192.0.2.5"]
[[command]]
when = "first-start"
body = '''cmd /c echo it's 100% "%USERNAME%"'''
[[command]]
when = "sign-in"
run_as = "each-account"
body = 'cmd /c echo %USERPROFILE%'
"""


def wrong(script: str, parser: Parser = PARSER) -> list[str]:
    """What a parser makes nothing of."""
    found, stack = [], [parser.parse(script.encode()).root_node]
    while stack:
        node = stack.pop()
        if node.is_error or node.is_missing:
            found.append(script[node.start_byte : node.end_byte])
        stack += node.children
    return found


@pytest.mark.parametrize("target", [one.id for one in all_targets() if one.family == "windows"])
def test_every_generated_script_is_well_formed(target):
    seats = of_draft(resolved(f'[draft]\ntarget = "{target}"\n{ALL}'), NOWHERE).seats
    found = [one for seat in seats for one in re.findall(r'powershell\.exe .*-Command "(.*)"', str(seat.value))]
    scripts = [re.sub(r'\\(\\*)"', r'\1"', one) for one in found]  # as the program gets it from its command line
    assert len(scripts) > 8
    assert [one for one in scripts if wrong(one)] == []
    assert wrong("$a = 'it's'")
