"""What happens at the end, in the words of kickstart."""

from __future__ import annotations

from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.fields import on
from fairledger.families.kickstart.lines import has
from fairledger.intent.finish import Finish
from fairledger.model.finding import Severity

_ACTIONS = {"restart": "reboot", "power-off": "poweroff", "shut-down": "shutdown", "halt": "halt"}


def canonical(value: Finish, words: Words) -> Finish | None:
    """The action, and whether the disc is put out with it."""
    if value.action is None or not has(words, _ACTIONS[value.action]):
        return None
    eject = value.eject is True and has(words, _ACTIONS[value.action], "--eject")
    return Finish(action=value.action, eject=eject or None)


def translate(value: Finish, words: Words) -> None:
    """One command."""
    if value.action is None:
        words.leave_out(("finish",), value, ("eject",), "it belongs to an action, and none is said")
        return
    name = _ACTIONS[value.action]
    if not has(words, name):
        why = "its installer always starts the machine anew or waits"
        words.cannot(("finish", "action"), f"the end {value.action}", why, "use restart", Severity.WARNING)
        return
    block = words.out.block("setup", name, words.origin("finish", "action"))
    if value.eject and has(words, name, "--eject"):
        block.put("--eject", "true", words.origin("finish", "eject"))
    else:
        words.leave_out(("finish",), value, ("eject",), "its installer decides that by itself")


def recognise(reader: Reader) -> Finish | None:
    """The first command of the kind."""
    for action, name in _ACTIONS.items():
        for root in reader.find("setup", name, ""):
            reader.take_block(root, "finish", "action")
            eject = on(root, "--eject")
            if eject:
                reader.take(root.child("--eject"), "finish", "eject")
            return Finish(action=action, eject=eject or None)  # type: ignore[arg-type]
    return None
