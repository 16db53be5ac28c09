"""Lines of scripts read as changes of a machine, in the spellings of the prompt, of batch files and of PowerShell.

What is not one of the listed forms, whole, is no change that anybody understood.
"""

from __future__ import annotations

import re
from functools import lru_cache

from fairledger.catalog.tidy import Effect
from fairledger.families.windows.effect_lines import TYPES
from fairledger.model.pattern import pattern

_FILE = pattern(r'"[^"]*"|[^\s"&|<>]+')
_WORD = pattern(r'(?:[^\s"]|"[^"]*")+')
_SHELL = pattern(r"@?(?:cmd(?:\.exe)?|%comspec%) {1,9}/c (.*)", re.IGNORECASE | re.DOTALL)
_KINDS = {told.lower(): name for name, told in TYPES.items()}
_STARTS = {"auto": "auto", "demand": "demand", "disabled": "disabled", "delayed-auto": "delayed-auto"}
_PS_STARTS = {"automatic": "auto", "manual": "demand", "disabled": "disabled", "automaticdelayedstart": "delayed-auto"}
_HIVES = {"hkey_local_machine": "hklm", "hkey_users": "hku", "hkey_current_user": "hkcu"}
_LOADED = pattern(r"reg(?:\.exe)? load (hku\\[\w.-]+) \S*\\default\\ntuser\.dat", re.IGNORECASE)
_HEX = pattern(r"0x[0-9a-f]{1,8}", re.IGNORECASE)


def words_of(text: str, *, batch: bool = False) -> list[str] | None:
    """The words that a program is called with; None where the shell does more than call it."""
    line = _called(text.strip().removeprefix("@"), batch=batch)
    return _split(line) if line is not None else None


def _called(text: str, *, batch: bool) -> str | None:
    """What the shell hands on: without its own quotes, signs and log."""
    inner = _SHELL.fullmatch(text)
    if inner is not None:
        told = inner[1].strip()
        return _called(told[1:-1] if told[:1] == told[-1:] == '"' and len(told) > 1 else told, batch=batch)
    if text.endswith("^"):
        return None  # it goes on in the next line
    text = _unlogged(text)
    if batch:
        if "%" in text.replace("%%", ""):
            return None  # filled in when it runs
        text = text.replace("%%", "%")
    if "^" not in text:
        outside = "".join(text.split('"')[::2])
        return text if not any(sign in outside for sign in "&|<>") else None
    out, at, quoted = "", 0, False
    while at < len(text):
        sign = text[at]
        if sign == '"':
            quoted = not quoted
        elif sign == "^" and not quoted:
            at += 1
            sign = text[at : at + 1]
        elif sign in "&|<>" and not quoted:
            return None
        out += sign
        at += 1
    return out


def _unlogged(text: str) -> str:
    """A line without what adds its output to a file, or throws that away."""
    at, quoted = 0, False
    while at < len(text) and (quoted or text[at] != ">"):
        quoted ^= text[at] == '"'
        at += 2 if text[at] == "^" and not quoted else 1
    before, rest = text[:at], text[at:].strip()
    rest = rest.removesuffix("2>&1").strip() if rest != ">&1" else ""
    file = rest.removeprefix(">").removeprefix(">").strip()
    if at >= len(text) or not (rest == file == "" or _FILE.fullmatch(file)):
        return text
    return before[:-1].rstrip() if before[-2:] in (" 1", " 2") else before.rstrip()


def _split(line: str) -> list[str]:
    """Words as programs of the system split their line."""
    if '\\"' not in line and '""' not in line:
        return [one.replace('"', "") for one in _WORD.findall(line)]
    out, held, quoted, begun, slashes = [], "", False, False, 0
    for sign in line:
        if sign == "\\":
            slashes += 1
            continue
        if sign == '"':
            held += "\\" * (slashes // 2)
            if slashes % 2:
                held += '"'
            else:
                quoted = not quoted
            begun, slashes = True, 0
            continue
        held += "\\" * slashes
        slashes = 0
        if sign in " \t" and not quoted:
            if held or begun:
                out.append(held)
            held, begun = "", False
        else:
            held += sign
    held += "\\" * slashes
    return [*out, held] if held or begun else out


def loaded(text: str) -> str:
    """Where a line lays the hive of those who come later open, in small letters; empty if it is no such line."""
    words = words_of(text)
    match = _LOADED.fullmatch(" ".join(words)) if words else None
    return match[1].lower() if match else ""


def closed(text: str) -> str:
    """Which laid open hive a line closes, in small letters; empty if it is no such line."""
    words = [one.lower() for one in words_of(text) or ()]
    return words[2] if len(words) == 3 and words[0].removesuffix(".exe") == "reg" and words[1] == "unload" else ""


@lru_cache(maxsize=4096)
def read(text: str, opened: frozenset[str] = frozenset(), *, batch: bool = False) -> tuple[Effect, ...]:
    """What a line changes; nothing where that is not understood. ``opened`` are the places of laid open hives."""
    words = words_of(text, batch=batch)
    if not words:
        return ()
    program = words[0].lower().rpartition("\\")[2].removesuffix(".exe")
    reader = _READERS.get(program)
    return reader(words[1:], opened) if reader is not None else ()


def _registry(words: list[str], opened: frozenset[str]) -> tuple[Effect, ...]:
    if len(words) < 2 or words[0].lower() != "add":
        return ()
    said: dict[str, str] = {}
    rest = iter(words[2:])
    for one in rest:
        flag = "/v" if one.lower() == "/ve" else one.lower()
        if flag in said or flag not in ("/v", "/t", "/d", "/f", "/reg:64"):
            return ()
        said[flag] = next(rest, "") if one.lower() in ("/v", "/t", "/d") else ""
    place = place_of(words[1], opened)
    if place is None or said.pop("/f", None) is None:
        return ()  # without that, it asks whether a value that is there may go
    said.pop("/reg:64", None)
    when = "sign-in" if place[0] == "first_user" else "installed"
    if not said:
        return (Effect(kind="registry", hive=place[0], key=place[1], type="key", when=when),)
    if "/v" not in said:
        return ()
    return _value(place, said["/v"], _KINDS.get(said.get("/t", "REG_SZ").lower(), ""), said.get("/d", ""))


def _value(place: tuple[str, str], name: str, kind: str, text: str) -> tuple[Effect, ...]:
    data: int | str = text
    if kind == "dword":
        if _HEX.fullmatch(text):
            data = int(text, 16)
        elif text.isascii() and text.isdecimal() and len(text) < 11 and int(text) < 1 << 32:
            data = int(text)
        else:
            return ()
    elif kind == "binary":
        data = text.lower()
    elif not kind:
        return ()
    when = "sign-in" if place[0] == "first_user" else "installed"
    return (Effect(kind="registry", hive=place[0], key=place[1], name=name, type=kind, data=data, when=when),)


def place_of(key: str, opened: frozenset[str] = frozenset()) -> tuple[str, str] | None:
    """The hive and the key in it; None where it is in none that choices speak of."""
    top, _, rest = key.strip("\\").partition("\\")
    top = _HIVES.get(top.lower().rstrip(":"), top.lower().rstrip(":"))
    if not rest:
        return None
    if top in ("hklm", "hkcu"):
        return {"hklm": "machine", "hkcu": "first_user"}[top], rest
    if top != "hku":
        return None
    who, _, below = rest.partition("\\")
    if not below:
        return None
    if who.lower() == ".default":
        return "sign_in_screen", below
    return ("new_users", below) if rf"hku\{who.lower()}" in opened else None


def _service(words: list[str], opened: frozenset[str]) -> tuple[Effect, ...]:  # noqa: ARG001
    flat = [*words[:2], *"".join(words[2:]).split("=")]
    if len(flat) != 4 or flat[0].lower() != "config" or flat[2].lower() != "start":
        return ()
    start = _STARTS.get(flat[3].lower(), "")
    return (Effect(kind="service", service=flat[1], start=start),) if start else ()


def _task(words: list[str], opened: frozenset[str]) -> tuple[Effect, ...]:  # noqa: ARG001
    flags = [one.lower() for one in words]
    if len(words) != 4 or flags[0] != "/change" or flags[1] != "/tn" or flags[3] not in ("/disable", "/enable"):
        return ()
    name = words[2] if words[2].startswith("\\") else f"\\{words[2]}"
    return (Effect(kind="task", command=name, data=flags[3][1:]),)


_SHORT = {"/h": "/hibernate", "/x": "/change", "/s": "/setactive"}


def plain(words: list[str]) -> str:
    """A call of the power tool in one spelling."""
    told = [one.lower().replace("-", "/", 1) if one.startswith("-") else one.lower() for one in words]
    return "powercfg.exe " + " ".join(_SHORT.get(one, one) for one in told)


def _power(words: list[str], opened: frozenset[str]) -> tuple[Effect, ...]:  # noqa: ARG001
    return (Effect(kind="command", command=plain(words)),)


_GROUP = pattern(r"advfirewall firewall set rule group=(?P<group>.+?) new enable=(?P<on>yes|no)", re.IGNORECASE)


def _network(words: list[str], opened: frozenset[str]) -> tuple[Effect, ...]:  # noqa: ARG001
    match = _GROUP.fullmatch(" ".join(words))
    on = {"yes": "true", "no": "false"}
    return (Effect(kind="firewall", key=match["group"], data=on[match["on"].lower()]),) if match else ()


def _powershell(words: list[str], opened: frozenset[str]) -> tuple[Effect, ...]:
    flags = [one.lower() for one in words]
    at = next((at for at, one in enumerate(flags) if one in ("-command", "-c")), None)
    known = all(
        one in ("-noprofile", "-nop", "-noninteractive", "-executionpolicy", "-ep", "bypass", "-windowstyle", "hidden")
        for one in flags[:at]
    )
    if at is None or not known:
        return ()
    return read_powershell(" ".join(words[at + 1 :]), opened)


_FEATURE = pattern(
    r"/online /(?P<verb>enable|disable)-feature /featurename:(?P<name>[\w.-]+)(?: /norestart)?", re.IGNORECASE
)


def _feature(words: list[str], opened: frozenset[str]) -> tuple[Effect, ...]:  # noqa: ARG001
    match = _FEATURE.fullmatch(" ".join(words))
    return (Effect(kind="feature", command=match["name"], data=match["verb"].lower()),) if match else ()


_READERS = {
    "dism": _feature,
    "reg": _registry,
    "sc": _service,
    "schtasks": _task,
    "powercfg": _power,
    "netsh": _network,
    "powershell": _powershell,
}

_QUOTED = r"""(?:'[^']*'|"[^"$`]*"|[\w.*:\\{}][\w.*:\\{}-]*)"""
_LIST = rf"{_QUOTED}(?: ?, ?{_QUOTED}){{0,99}}"
_NAMES = rf"(?P<names>{_LIST})"
_WHERE = r"\| ?(?:\?|where|where-object) \{? ?(?:\$_\.)?(?:DisplayName|Name|PackageName) -(?:in|eq|like) "
_GONE = (
    rf"Get-AppxProvisionedPackage -Online ?{_WHERE}{_NAMES} ?\}}? ?\| ?"
    r"Remove-AppxProvisionedPackage -Online(?: -AllUsers)?"
)
_GONE_FOR_ONE = (
    rf"Get-AppxPackage(?: -AllUsers)?(?: -Name)? {_NAMES}(?: -AllUsers)? ?\| ?"
    r"Remove-AppxPackage(?: -AllUsers)?(?: -ErrorAction SilentlyContinue)?"
)
_TAKEN = ((pattern(_GONE, re.IGNORECASE), "installed"), (pattern(_GONE_FOR_ONE, re.IGNORECASE), "sign-in"))
"""What takes apps away for those who come later, and for those who are there."""
_CALLED = pattern(r"(?:reg|(?:reg|sc|dism)\.exe|(?:schtasks|powercfg|netsh)(?:\.exe)?) ", re.IGNORECASE)
_ITS_OWN = pattern(r"['`$;(){}@#]")
"""Signs that PowerShell would take for itself before a program is called."""
_VALUE = frozenset({"path", "literalpath", "name", "value", "type", "propertytype"})
_TASK = frozenset({"taskname", "taskpath"})
_KNOWN_FLAGS = {
    "set-itemproperty": _VALUE,
    "new-itemproperty": _VALUE,
    "set-service": frozenset({"name", "startuptype"}),
    "disable-scheduledtask": _TASK,
    "enable-scheduledtask": _TASK,
    "enable-psremoting": frozenset({"skipnetworkprofilecheck"}),
}
"""What each may be told; with anything else it does something else, or nothing (-WhatIf)."""
_ALWAYS = {"force", "erroraction", "passthru"}
_SERVICE = pattern(r"[\w.$-]+|'[\w.$ -]+'|\"[\w. -]+\"")
_FLAG = pattern(rf"-(?P<flag>[A-Za-z]+)(?:[ :](?P<value>{_QUOTED}))?")
_CALL = pattern(r"(?P<name>[A-Za-z]+-[A-Za-z]+)(?P<rest>(?: .*)?)", re.DOTALL)


def _bare(text: str) -> str:
    return text[1:-1] if text[:1] in ("'", '"') and text[-1:] == text[:1] and len(text) > 1 else text


def read_powershell(text: str, opened: frozenset[str] = frozenset()) -> tuple[Effect, ...]:
    """What one statement of PowerShell changes; nothing where that is not understood."""
    text = text.strip().rstrip(";").strip()
    if _CALLED.match(text):
        return read(text, opened) if not _ITS_OWN.search(text) else ()
    if text.lower().endswith("out-null"):
        text = text[: -len("out-null")].rstrip().removesuffix("|").rstrip()
    for one, when in _TAKEN:
        taken = one.fullmatch(text)
        if taken is not None:
            names = re.findall(_QUOTED, taken["names"])
            return tuple(Effect(kind="app", package=_bare(name).strip("*"), when=when) for name in names)
    call = _CALL.fullmatch(text)
    if call is None:
        return ()
    flags, left = {}, call["rest"]
    for match in _FLAG.finditer(left):
        flags[match["flag"].lower()] = _bare(match["value"] or "")
    left = _FLAG.sub("", left).strip()
    return _cmdlet(call["name"].lower(), flags, left, opened)


def _cmdlet(name: str, flags: dict[str, str], left: str, opened: frozenset[str]) -> tuple[Effect, ...]:
    if name not in _KNOWN_FLAGS or flags.keys() - _KNOWN_FLAGS[name] - _ALWAYS:
        return ()
    flags.setdefault("path", flags.get("literalpath", ""))
    if name.endswith("-itemproperty") and flags["path"] and {"name", "value"} <= flags.keys() and not left:
        return _item_property(flags, opened)
    if name == "set-service" and "startuptype" in flags and ("name" in flags) != bool(left):
        start, service = _PS_STARTS.get(flags["startuptype"].lower(), ""), left or flags["name"]
        alone = not left or _SERVICE.fullmatch(left)
        return (Effect(kind="service", service=_bare(service), start=start),) if start and service and alone else ()
    if name in ("disable-scheduledtask", "enable-scheduledtask") and "taskname" in flags and not left:
        path = (flags.get("taskpath", "") + flags["taskname"]).replace("\\\\", "\\")
        path = path if path.startswith("\\") else f"\\{path}"
        return (Effect(kind="task", command=path, data=name.partition("-")[0]),)
    if name == "enable-psremoting" and not left:
        told = 'powershell.exe -NoProfile -Command "Enable-PSRemoting -SkipNetworkProfileCheck -Force"'
        return (
            (Effect(kind="command", command=told, when="sign-in"),)
            if flags.keys() >= {"skipnetworkprofilecheck", "force"}
            else ()
        )
    return ()


def _item_property(flags: dict[str, str], opened: frozenset[str]) -> tuple[Effect, ...]:
    place = place_of(flags["path"].removeprefix("Registry::").replace(":\\", "\\", 1), opened)
    said = (flags.get("type") or flags.get("propertytype") or "").lower()
    kind = {"dword": "dword", "string": "string", "expandstring": "expand"}.get(said, "")
    if not said:
        kind = "dword" if flags["value"].isdecimal() else "string"
    return _value(place, flags["name"], kind, flags["value"]) if place is not None else ()
