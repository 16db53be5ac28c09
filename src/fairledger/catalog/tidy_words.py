"""Changes in words."""

from __future__ import annotations

from fairledger.catalog.tidy import Effect

_HIVES = {"machine": "HKLM", "first_user": "HKCU", "sign_in_screen": r"HKU\.DEFAULT", "new_users": "(new users)"}
_WHO = {
    "machine": "machine",
    "new_users": "new users",
    "first_user": "first user",
    "sign_in_screen": "sign-in page",
}


def spoken(one: Effect) -> tuple[str, str]:
    """Whom or what a change concerns, and what it is."""
    if one.kind == "registry":
        key = one.key if one.hive == "new_users" else rf"{_HIVES[one.hive]}\{one.key}"
        if one.type == "key":
            return _WHO[one.hive], f"{key} (the key alone)"
        shown = (
            "(a text of yours)" if one.data == "$" else str(one.data) if isinstance(one.data, int) else f'"{one.data}"'
        )
        kind = "" if one.type in ("dword", "string") else f" ({one.type})"
        return _WHO[one.hive], f"{key}  {one.name or '(default)'} = {shown}{kind}"
    if one.kind == "setting":
        pass_, _, rest = one.key.partition(":")
        return "setting", f"{rest} = {one.data}  in {pass_}"
    if one.kind == "firewall":
        on = {"true": "let in", "false": "kept out"}.get(str(one.data), "let in")
        return "firewall", f"{one.key}: {on}"
    told = {
        "service": f"{one.service}: {one.start}",
        "task": f"{one.command}: {one.data}d",
        "feature": f"{one.command}: {one.data}d",
        "app": one.package,
        "package": one.package,
        "command": one.command,
    }
    return {"app": "app goes"}.get(one.kind, one.kind), told[one.kind]
