"""What rules look for in scripts and command lines."""

from __future__ import annotations

from fairledger.checks.signs import Sign

MEDIUM = Sign(
    r"(?<![A-Za-z%])[D-G]:\\",
    near=":\\",
)
OUTSIDE = Sign(
    r"/mnt/sys(image|root)\b",
    near="/mnt/sys",
)
WAITS = Sign(
    r"(^|[&|;(]\s*|/[ck]\s+)pause\s*($|[&|;)])|\bset\s+/p\b|\bchoice\s+/|Read-Host"
    r"|^\s*(?:sudo\s+)?passwd\s+[a-z_][\w-]*\s*$"
    r"|^\s*(?:vi|vim|nano|emacs|less|more|top|htop)(?:\s|$)"
    r"|\bread\s+-p\b|\bread\s+[A-Za-z_]+\s*$|\A\s*\"?(?:\S*\\)?cmd(?:\.exe)?\"?\s+(?:/[a-z]:?\S*\s+)*/k\b"
    r"|\A\s*\"?(?:\S*\\)?cmd(?:\.exe)?\"?(?:\s+(?!.*/[ckr]\b)\S.*|\s*)\Z",
    near="pause /p choice read passwd vi nano emacs less more top cmd",
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
FETCHED = r"(Download\w*|\birm\b|\biwr\b|Invoke-(Web|Rest)\w*)"
RUNS = r"\b(iex|Invoke-Expression)\b"
FETCHES = Sign(
    r"\b(curl|wget)\b[^\n|]*\|\s*(sudo\s+)?(ba|z|da)?sh\b"
    rf"|{RUNS}[^\n]*{FETCHED}|{FETCHED}[^\n]*\|\s*{RUNS}",
    near="curl wget download irm iwr invoke-",
)


NET = Sign(
    r"\A\s*(?:cmd(?:\.exe)?\s+/c\s+\"?)?net1?(?:\.exe)?\s+(?!(?:user|localgroup|accounts|use|share|start|stop|view|time|config"
    r"|group|statistics|session|file|computer|help|helpmsg|name|pause|continue|print|send)\b|/)(\w+)",
    near="net",
)
SECTION = Sign(
    r"^%([a-z-]+)",
    near="%",
)
