"""Regular expressions that cost nothing until they are used: a command uses few of the many there are."""

from __future__ import annotations

import re
from typing import Any, cast


class _Lazy:
    def __init__(self, source: str, flags: int) -> None:
        self._asked = (source, flags)

    def __getattr__(self, name: str) -> Any:  # only for what is not there yet
        compiled = re.compile(*self._asked)
        for method in ("search", "match", "fullmatch", "finditer", "findall", "sub", "split"):
            setattr(self, method, getattr(compiled, method))
        return getattr(compiled, name)


def pattern(source: str, flags: int = 0) -> re.Pattern[str]:
    """What `re.compile` gives, compiled when it is first asked for something."""
    return cast("re.Pattern[str]", _Lazy(source, flags))
