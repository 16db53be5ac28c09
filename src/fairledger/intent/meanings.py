"""What sections and their fields mean, in the words that stand beside them: in a module's source, or in its data."""

from __future__ import annotations

import ast
import inspect
from functools import cache
from importlib import import_module
from itertools import pairwise

from fairledger.intent.part import Part
from fairledger.intent.tabled import tables


def about_of(name: str) -> str:
    """What a section is for."""
    if name in tables():
        return tables()[name].about
    return (import_module(f"fairledger.intent.{name}").__doc__ or "").partition(": ")[2].strip()


@cache
def meanings_of(table: type[Part]) -> dict[str, str]:
    """What is said of each field of a table, as far as anything is."""
    row = tables().get(table.__name__.lower())
    if row is not None:
        return {field: one.about for field, one in row.fields.items() if one.about}
    tree = ast.parse(inspect.getsource(table))
    body = tree.body[0].body if isinstance(tree.body[0], ast.ClassDef) else []
    out = {}
    for field, below in pairwise(body):
        told = below.value if isinstance(below, ast.Expr) else None
        if isinstance(field, ast.AnnAssign) and isinstance(field.target, ast.Name) and isinstance(told, ast.Constant):
            out[field.target.id] = inspect.cleandoc(str(told.value)).replace("\n", " ")
    return out
