"""The explanation of a file as a page to sign off: one file, nothing fetched, every value escaped."""

from __future__ import annotations

import hashlib
from pathlib import Path

from fairledger.events.explain import Explanation


def page(told: Explanation, data: bytes) -> str:
    """The page; ``data`` is the file, whose digest stands on it."""
    from jinja2 import Environment, FileSystemLoader, StrictUndefined

    folder = Path(__file__).parent / "templates"
    environment = Environment(loader=FileSystemLoader(folder), autoescape=True, undefined=StrictUndefined)
    environment.trim_blocks = environment.lstrip_blocks = True
    digest = hashlib.sha256(data).hexdigest()
    return environment.get_template("explain.html").render(told=told, name=Path(told.file).name, digest=digest) + "\n"
