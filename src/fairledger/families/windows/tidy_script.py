"""The script beside the answer file that does what no command holds, and the one that takes choices back."""

from __future__ import annotations

from msgspec import Struct

from fairledger.families.windows.command_lines import FOLDER
from fairledger.families.windows.effect_lines import LOAD, LOG, UNLOAD
from fairledger.model.values import Text, concat

NAME = f"{FOLDER}/tidy.cmd"
HEAD = '@chcp 65001 >nul\n@echo off\nsetlocal disabledelayedexpansion\nset "log={log}"\n'


class Step(Struct, frozen=True, kw_only=True):
    """A line that is run, as it stands at the prompt and in a batch file."""

    when: str
    prompt: Text
    batch: Text
    hive: str = ""

    @property
    def later(self) -> bool:
        """Whether it speaks of those who come later."""
        return self.hive == "new_users"


def body(rows: list[tuple[str, Step]]) -> Text:
    """A batch file of lines, each with the choice that wants it: all run, whatever goes wrong, and all is told."""
    parts: list[Text] = [HEAD.replace("{log}", LOG)]
    plain = [(name, one.batch) for name, one in rows if not one.later]
    later = [(name, one.batch) for name, one in rows if one.later]
    if later:
        later = [("later users", LOAD), *later, ("later users", UNLOAD)]
    for name, line in (*plain, *later):
        parts += [f'>>"%log%" echo {name}\n', line, ' >>"%log%" 2>&1\n>>"%log%" echo exit code %errorlevel%\n']
    return concat(*parts, "exit /b 0")
