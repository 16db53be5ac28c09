"""Command lines whose words are not what they seem, and commands about accounts and groups that are not there."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import takewhile
from pathlib import PureWindowsPath

from fairledger.catalog.setting import Setting
from fairledger.checks.calls import account_programs, accounts_made, calls_to, commands_of, of_account
from fairledger.checks.claims import PRACTICE, WINDOWS, WINDOWS_TOOLS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View, judge
from fairledger.intent.account import ACCOUNT
from fairledger.intent.locale import LOCALE
from fairledger.model.finding import Severity
from fairledger.model.pattern import pattern
from fairledger.model.places import line_below
from fairledger.model.showing import visible

_COMMAND = "[[command]]\nbody = '{}'\n"
_KEEPER = '[account]\nlocal = [{ name = "keeper", groups = ["Administrators"], password = { env = "PW" } }]\n'


@rule(
    "path-cut",
    Severity.WARNING,
    "A path with a blank stands without quotes: what is started ends at the blank.",
    source=f"{WINDOWS_TOOLS}, how command lines are split",
    fires=_COMMAND.format("C:\\Program Files\\Larkmoor\\wind.exe /S"),
    silent=_COMMAND.format('"C:\\Program Files\\Larkmoor\\wind.exe" /S'),
)
def path_cut(view: View) -> Iterator[Hit]:
    """Paths from a drive on, behind whose blank more of a path stands; at the beginning of a line, and behind it."""
    for here, one in commands_of(view) if view.limits.lines_without_shell else ():
        line = one.body.strip()
        if one.interpreter or "\n" in line:
            continue
        words = _QUOTED.sub('"', line).split(" ")
        for place, word in enumerate(words[:-1]):
            if not _FROM_DRIVE.match(word) or PureWindowsPath(word).suffix:
                continue
            behind = list(takewhile(_OF_PATH.match, words[place + 1 :]))
            if any("\\" in one for one in behind):
                told = f"the path is cut at its blank, after {visible(word)}"
                yield Hit(here, told, f'put it in quotes: "{visible(" ".join((word, *behind)))}"')
                break


_FROM_DRIVE = pattern(r"[A-Za-z]:\\|%[A-Za-z()0-9]+%\\")
_OF_PATH = pattern(r"(?![A-Za-z]:|[\\%./\"'<>|&-])[^\s\"]+")
_QUOTED = pattern(r'"[^"]*"')


@rule(
    "registry-key-cut",
    Severity.WARNING,
    "A registry key with a blank stands without quotes: the tool takes the rest for another word, and does nothing.",
    source=f"{WINDOWS_TOOLS}, reg",
    fires=_COMMAND.format("reg add HKLM\\SOFTWARE\\Wind Gauge /v Mast /d 1 /f"),
    silent=_COMMAND.format('reg add "HKLM\\SOFTWARE\\Wind Gauge" /v Mast /d 1 /f'),
)
def registry_key_cut(view: View) -> Iterator[Hit]:
    """Words behind a key that are no options."""
    for here, _, call in calls_to(view, ("reg",)):
        if len(call.words) > 2 and call.words[0].lower() in ("add", "delete", "query"):
            behind = call.words[2]
            if not behind.startswith(("/", "-", "%", ">", "2>")):
                told = f"the registry key ends at its blank, before {visible(behind)}"
                yield Hit(line_below(here.place, call.row), told, "put the key in quotes")


@rule(
    "quotes-in-quotes",
    Severity.WARNING,
    "Quotes stand within quotes of the same kind: the text ends at the first of them.",
    source=f"{WINDOWS_TOOLS}, powershell -Command",
    fires=_COMMAND.format('powershell.exe -Command "Set-Content "C:\\a b.txt" wind"'),
    silent=_COMMAND.format('powershell.exe -Command "Set-Content \\"C:\\a b.txt\\" wind"'),
)
def quotes_in_quotes(view: View) -> Iterator[Hit]:
    """Texts for PowerShell in double quotes, with further ones inside."""
    for here, one in commands_of(view) if view.limits.lines_without_shell else ():
        match = _TOLD.search(one.body) if not one.interpreter and "\n" not in one.body.strip() else None
        inside = match[1].rstrip()[:-1] if match and match[1].rstrip().endswith('"') else ""
        if '"' in inside.replace('\\"', "").replace('""', ""):
            told = "quotes within quotes end the text for PowerShell early"
            yield Hit(here, told, "write the inner ones as '...', or as \\\"")


_TOLD = pattern(r'(?i)\bpowershell(?:\.exe)?"?\s[^"]*-c(?:ommand)?\s+"(.*)$')


@rule(
    "escaped-twice",
    Severity.WARNING,
    "The value was escaped twice: what reaches the machine holds the escape itself.",
    source=f"{PRACTICE}, how values are written in XML",
    fires=_COMMAND.format("cmd /c echo wind &amp; echo tide"),
    silent=_COMMAND.format("cmd /c echo wind & echo tide"),
    always=True,
)
def escaped_twice(view: View) -> Iterator[Hit]:
    """Values with the escapes of XML in them."""
    for seat, found in view.judged(_escapes):
        yield at(seat, f"the value of {seat.shown or seat.name} holds {found}", "write the character itself")


@judge
def _escapes(setting: Setting | None, text: str) -> str:
    if "&" not in text or (setting is not None and (setting.kind in ("password", "key") or setting.form == "body")):
        return ""
    match = _ESCAPE.search(text)
    return match[0] if match else ""


_ESCAPE = pattern(r"&(?:amp|lt|gt|quot|apos|#\d{2,5});")


@rule(
    "folder-of-set-missing",
    Severity.WARNING,
    "The variable with the folder of the configuration set is empty unless the file says that there is such a set.",
    source=f"{WINDOWS}, UseConfigurationSet",
    fires=_COMMAND.format("cmd /c %configsetroot%\\wind.cmd"),
    silent=_COMMAND.format("cmd /c %configsetroot%\\wind.cmd")
    + "[answers.windowsPE.Microsoft-Windows-Setup]\nUseConfigurationSet = true\n",
)
def folder_of_set_missing(view: View) -> Iterator[Hit]:
    """The variable without the setting that fills it."""
    if any(view.saying("brings-set")):
        return
    for here, one in commands_of(view):
        if "%configsetroot%" in one.body.lower():
            yield Hit(
                here, "nothing fills %configsetroot%", "set UseConfigurationSet to true, with the set on the medium"
            )


def _languages(view: View) -> tuple[str, ...]:
    """The main parts of the display languages, of the image and of the first start, in the order of the file."""
    locale = view.intent.get(LOCALE)
    told = [seat.text for seat in view.having("display-language")]
    told += [locale.language] if locale is not None and isinstance(locale.language, str) else []
    return tuple(dict.fromkeys(one.partition("-")[0].lower() for one in told if one))


@rule(
    "group-in-other-language",
    Severity.WARNING,
    "A command names a group by its English name, and the system calls it otherwise: the command fails.",
    source=f"{WINDOWS_TOOLS}, net localgroup; the vendor's list of well-known groups",
    fires='[locale]\nlanguage = "de-DE"\n' + _COMMAND.format("net localgroup Administrators keeper /add"),
    silent='[locale]\nlanguage = "en-GB"\n' + _COMMAND.format("net localgroup Administrators keeper /add"),
)
def group_in_other_language(view: View) -> Iterator[Hit]:
    """Groups in commands, where the display language has names of its own for them."""
    if not set(_languages(view)) & set(view.limits.groups_translated):
        return
    known = {name.casefold() for name in view.family.groups().values()}
    for here, _, call in calls_to(view, account_programs()):
        said = of_account(call)
        group = said[0].word(said[1], "group") if said is not None else ""
        if group in known:
            told = f"a system in that language has no group {visible(group)}"
            hint = f"use {view.called('account.local.groups')}, or its identifier (S-1-5-32-544)"
            yield Hit(line_below(here.place, call.row), told, hint)


@rule(
    "sign-in-name-in-other-language",
    Severity.WARNING,
    "Automatic sign-in names the built-in administrator in English, and the system calls it otherwise.",
    source="the vendor's list of well-known accounts",
    fires='[locale]\nlanguage = "fr-FR"\n[account.administrator]\npassword = { env = "PW" }\n'
    '[account.sign_in]\naccount = "Administrator"\ncount = 1\n',
    silent='[locale]\nlanguage = "de-DE"\n[account.administrator]\npassword = { env = "PW" }\n'
    '[account.sign_in]\naccount = "Administrator"\ncount = 1\n',
)
def sign_in_name_in_other_language(view: View) -> Iterator[Hit]:
    """The English name where the display language has another."""
    account = view.intent.get(ACCOUNT)
    sign_in = account.sign_in if account is not None else None
    named = sign_in.account if sign_in is not None else None
    if isinstance(named, str) and named.casefold() == "administrator":
        names = view.limits.administrator_translated
        name = next((names[one] for one in _languages(view) if one in names), "")
        if name:
            told = f"a system in that language calls the built-in administrator {name}"
            yield Hit(view.intent.placed("account", "sign_in", "account"), told, f"write {name}")


@rule(
    "password-makes-it-ask",
    Severity.WARNING,
    "With a password of more than 14 characters the account tool asks whether that is meant, and nobody is there.",
    source=f"{WINDOWS_TOOLS}, net user",
    fires=_COMMAND.format("net user keeper Kestrel-7-moor-long /add"),
    silent=_COMMAND.format("net user keeper Kestrel-7-moor-long /add /y"),
)
def password_makes_it_ask(view: View) -> Iterator[Hit]:
    """Long passwords on lines without /y. They are not told."""
    for here, _, call in calls_to(view, account_programs()):
        said = of_account(call)
        password = said[0].word(said[1], "secret") if said is not None else ""
        if len(password) > 14 and not password.startswith(("%", "$")) and not call.has("/y"):
            told = f"the password has more than 14 characters, and {call.program} asks whether it may"
            yield Hit(line_below(here.place, call.row), told, f"add /y, or use {view.called('account.local.password')}")


@rule(
    "account-not-yet-made",
    Severity.WARNING,
    "The command changes an account that the file has made later: it is not there yet, and the command fails.",
    source=f"{WINDOWS}, UserAccounts, which are made in the pass oobeSystem",
    fires=_KEEPER + _COMMAND.format("net user keeper /expires:never"),
    silent=_KEEPER + '[[command]]\nwhen = "first-start"\n' + "body = 'net user keeper /expires:never'\n",
)
def account_not_yet_made(view: View) -> Iterator[Hit]:
    """Early commands that name an account of the file, and do not make it themselves."""
    account = view.intent.get(ACCOUNT)
    if account is None or not view.limits.accounts_come_last:
        return
    names = {one.name.casefold() for one in account.local if isinstance(one.name, str)}
    made = accounts_made(view)
    for here, one, call in calls_to(view, account_programs()):
        said = of_account(call)
        named = said[0].word(said[1], "name") if said is not None else ""
        if named in names - made and one.when in ("setup-starts", "installed"):
            told = f"the account {visible(named)} is made at the first start, after this command"
            yield Hit(line_below(here.place, call.row), told, 'choose when = "first-start"')
