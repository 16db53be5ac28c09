"""Files of any size, each full of one thing: what it costs may grow with the size, and no faster."""

from __future__ import annotations

from collections.abc import Callable

ATTRIBUTES = 'processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS"'
HEAD = '<unattend xmlns="urn:schemas-microsoft-com:unattend" xmlns:wcm="http://schemas.microsoft.com/WMIConfig/2002/State">'
KICKSTART = "#version=RHEL9\nlang en_GB.UTF-8\n"
WINDOWS = 'format = 1\n[draft]\ntarget = "windows-11-24h2"\n'
LINUX = 'format = 1\n[draft]\ntarget = "el-9"\n'
ITEM = ' wcm:action="add"'


def xml(pass_: str, component: str, around: str, item: str) -> Callable[[int], str]:
    """An answer file with many of one item, in which ``@`` is its number."""
    opens = "".join(f"<{one}>" for one in around.split("/") if one)
    closes = "".join(f"</{one.split()[0]}>" for one in reversed(around.split("/")) if one)

    def made(size: int) -> str:
        rows = "".join(item.replace("@", str(at + 1)) for at in range(size))
        return (
            f'{HEAD}<settings pass="{pass_}"><component name="Microsoft-Windows-{component}" {ATTRIBUTES}>'
            f"{opens}{rows}{closes}</component></settings></unattend>"
        )

    return made


def lines(head: str, item: str, tail: str = "", between: str = "") -> Callable[[int], str]:
    """A text with many of one part, in which ``@`` is its number."""
    return lambda size: head + between.join(item.replace("@", str(at)) for at in range(size)) + tail


COMMAND = f"<RunSynchronousCommand{ITEM}><Order>{{}}</Order><Path>{{}}</Path></RunSynchronousCommand>"
FILES = {
    "users.ks": lines(KICKSTART, 'user --name=u@ --groups=wheel\nsshkey --username=u@ "ssh-rsa AAAA@"\n'),
    "networks.ks": lines(KICKSTART, "network --bootproto=static --device=e@ --ip=192.0.2.9 --netmask=255.255.255.0\n"),
    "parts.ks": lines(KICKSTART, "part /d@ --size=100 --ondisk=sda\n"),
    "volumes.ks": lines(KICKSTART + "part pv.1 --size=9000\nvolgroup vg pv.1\n", "logvol /d@ --vgname=vg --name=l@ --size=9\n"),
    "disks.ks": lines(KICKSTART, "part raid.@ --size=100 --ondisk=sd@\n"),
    "packages.ks": lines(KICKSTART + "%packages\n", "pkg@\n-nop@\n", "%end\n"),
    "repos.ks": lines(KICKSTART, "repo --name=r@ --baseurl=http://192.0.2.1/@\n"),
    "posts.ks": lines(KICKSTART, "%post\necho @ >/tmp/a@\ncurl x | bash\n%end\n"),
    "script.ks": lines(KICKSTART + "%post\n", "echo @ >/tmp/a@; dnf install x@; read a\n", "%end\n"),
    "taken.ks": lines(KICKSTART + "%post\n", "cat <<E@\n$1$a\nE@\n", "%end\n"),
    "open.ks": lines(KICKSTART + "%post\n", "cat <<E@\n", "%end\n"),
    "written.ks": lines(KICKSTART + "%pre\n", 'echo "part /a@ --size=1" >>/tmp/p\n', "%end\n%include /tmp/p\n"),
    "unknown.ks": lines(KICKSTART, "frob@ --a=b\n"),
    "empty.ks": lines(KICKSTART + "%post\necho a\n", "\n\n\n", "echo b\n%end\n"),
    "words.ks": lines(KICKSTART + 'bootloader --append="', "a@=b ", '"\n'),
    "commands.xml": xml("specialize", "Deployment", "RunSynchronous", COMMAND.format("@", "cmd /c net user u@ p /add &amp; a")),
    "orders.xml": xml("specialize", "Deployment", "RunSynchronous", COMMAND.format("1", "cmd /c a@")),
    "accounts.xml": xml("oobeSystem", "Shell-Setup", "UserAccounts/LocalAccounts", f"<LocalAccount{ITEM}><Name>u@</Name></LocalAccount>"),
    "parts.xml": xml("windowsPE", "Setup", f"DiskConfiguration/Disk{ITEM}/CreatePartitions", f"<CreatePartition{ITEM}><Order>@</Order></CreatePartition>"),
    "disks.xml": xml("windowsPE", "Setup", "DiskConfiguration", f"<Disk{ITEM}><DiskID>@</DiskID><WillWipeDisk>true</WillWipeDisk></Disk>"),
    "cards.xml": xml("specialize", "TCPIP", "Interfaces", f"<Interface{ITEM}><Identifier>e@</Identifier></Interface>"),
    "unknown.xml": xml("specialize", "Shell-Setup", "", "<A@>x</A@>"),
    "same.xml": xml("specialize", "Shell-Setup", "", "<A/>"),
    "components.xml": lines(f'{HEAD}<settings pass="specialize">', f'<component name="C@" {ATTRIBUTES}><a>b</a></component>', "</settings></unattend>"),
    "foreign.xml": lines(HEAD, '<x xmlns="urn:a"><b>@</b></x>', "</unattend>"),
    "commands.toml": lines(WINDOWS, '[[command]]\nname = "c@"\nbody = "cmd /c echo @"\n'),
    "scripts.toml": lines(WINDOWS, '[[command]]\nname = "c@"\nbody = "echo @\\necho b"\n'),
    "accounts.toml": lines(WINDOWS + "[account]\nlocal = [", '{ name = "u@", password = { env = "P@" } }', "]\n", ", "),
    "parts.toml": lines(WINDOWS + '[disk]\nfate = "wipe"\npartition = [', '{ role = "data", size = "1 GiB", label = "l@" }', "]\n", ", "),
    "cards.toml": lines(WINDOWS + "[network]\ninterface = [", '{ name = "e@", method = "dhcp" }', "]\n", ", "),
    "answers.toml": lines(WINDOWS + "[answers.specialize.Microsoft-Windows-Shell-Setup]\n", 'A@ = "x"\n'),
    "silences.toml": lines(WINDOWS, '[[silence]]\nrule = "disk-wiped"\nbecause = "x@"\n'),
    "variants.toml": lines(WINDOWS, '[variant.v@.identity]\nowner = "x"\n'),
    "packages.toml": lines(LINUX + "[packages]\nadd = [", '"p@"', "]\n", ", "),
    "volumes.toml": lines(LINUX, '[[volume]]\nkind = "logical"\nname = "l@"\ngroup = "vg"\nmount = "/d@"\nsize = "1 GiB"\n'),
}  # fmt: skip
