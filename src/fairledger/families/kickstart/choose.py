"""A disk chosen at the machine, by a script before setup: it writes the command that leaves only that disk to use.

Where no disk fits, or several do and only one may, the installer stops before anything is wiped.
"""

from __future__ import annotations

from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.fields import only
from fairledger.families.unix.shell import quoted
from fairledger.intent.disk import Disk
from fairledger.model.pattern import pattern
from fairledger.model.size import Size

_FILE = "/tmp/fair-ledger-disk.ks"  # noqa: S108 - a path on the machine that is installed, not here
_HEAD = pattern(r"# Chooses the disk to use: (only|not-removable|smallest), above (\d+) MiB\n")
_PICK = {
    "only": "sort -n | awk 'END { if (NR == 1) print $2 }'",
    "not-removable": "head -n 1 | awk '{ print $2 }'",
    "smallest": "sort -n | head -n 1 | awk '{ print $2 }'",
}


def _script(choose: str, above: int) -> str:
    return f"""# Chooses the disk to use: {choose}, above {above} MiB
found=$(lsblk --bytes --nodeps --noheadings --output NAME,SIZE,RM,RO,TYPE |
  awk '$3 == 0 && $4 == 0 && $5 == "disk" && $1 !~ /^zram/ && $2 > {above} * 1048576 {{ print $2, $1 }}' |
  {_PICK[choose]})
if [ -z "$found" ]; then
  echo "No disk fits: {choose}, above {above} MiB" >/dev/console
  exit 1
fi
echo "ignoredisk --only-use=$found" >{quoted(_FILE)}"""


def translate(disk: Disk, at: int, words: Words) -> None:
    """The script, and the line that takes in what it writes."""
    assert disk.choose is not None
    origin = words.origin("disk", at, "choose")
    block = words.out.block("pre", "%pre", origin, again=True)
    block.put("--erroronfail", "true", origin)
    block.put("body", _script(disk.choose, _above(disk)), origin)
    words.out.block("setup", "%include", origin, again=True).put("file", _FILE, origin)


def canonical(disk: Disk) -> Disk:
    """What the script can hold: sizes in MiB."""
    if disk.choose is None:
        return Disk()
    above = _above(disk)
    return Disk(choose=disk.choose, above=Size(mib=above) if above else None)


def _above(disk: Disk) -> int:
    return disk.above.mib if disk.above is not None else 0


def recognise(reader: Reader) -> Disk | None:
    """What a script in our own form chooses."""
    included = next(
        (one for one in reader.find("setup", "%include", "") if text_of(one.child("file")) == _FILE),
        None,
    )
    for root in reader.find("pre", "%pre", ""):
        body = text_of(root.child("body"))
        known = chosen_by(body) if isinstance(body, str) else None
        if included is None or known is None or not only(root, "--erroronfail", "body"):
            continue
        for one in (root, included):
            reader.take_block(one, "disk", 0, "choose")
            for child in one.children:
                reader.take(child)
        return known
    return None


def chosen_by(script: str) -> Disk | None:
    """The disk that a script in our own form chooses; None for any other script."""
    head = _HEAD.match(script)
    if head is None or script.rstrip("\n") != _script(head[1], int(head[2])):
        return None
    above = int(head[2])
    return Disk(choose=head[1], above=Size(mib=above) if above else None)  # type: ignore[arg-type]
