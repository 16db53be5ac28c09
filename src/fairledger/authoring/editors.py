"""The line at a draft's head by which editors find the schema of its target."""

from __future__ import annotations

ENDING = ".schema.json"


def schema_name(target: str) -> str:
    """What the schema of a target is called beside its drafts."""
    return f"{target}{ENDING}"


def schema_line(name: str) -> str:
    """The line that names a schema in the draft's folder; a comment for all others."""
    return f"#:schema ./{name}"


def for_target(text: str, old: str, new: str) -> str:
    """A draft's text with the line of another target, if it has that of the old one."""
    before, after = (f"{schema_line(schema_name(one))}\n" for one in (old, new))
    return text.replace(before, after, 1) if text.startswith(before) else text
