"""What rules look for in scripts and command lines."""

from __future__ import annotations

from fairledger.checks.signs import Sign

MEDIUM = Sign(
    r"(?<![A-Za-z%])[D-G]:\\",
    near=":\\",
)
LATER_DRIVE = Sign(
    r"(?<![A-Za-z%])C:\\",
    near="c:\\",
)
OUTSIDE = Sign(
    r"/mnt/sys(image|root)\b",
    near="/mnt/sys",
)
SECRETS = Sign(
    r"\becho\s+[^\n|]+\|\s*passwd\s+--stdin|\bnet1?(\.exe)?\s+user\s+\S+\s+(?![/*])\S+|ConvertTo-SecureString\s+(-String\s+)?['\"]|\bchpasswd\b|"
    r"(--password\b\s*[= ]\s*|\b(?:sshpass|psexec\S*|mysql\S*|7z\S*)\b[^\n|;&]*\s-p\s*|/pass(?:word)?:"
    r"|\bPASSWORD\s*=\s*)['\"]?(?![$%{(*<-])[^\s'\"]{4,}",
    near="passwd net convertto password sshpass psexec mysql 7z /pass",
)
SHARE = Sign(
    r"(?<![\w:\\?.])\\\\[A-Za-z0-9][\w.-]*\\[\w$.-]+",
    near="\\\\",
)
SECTION = Sign(
    r"^%([a-z-]+)",
    near="%",
)
