"""Names that the section modules share."""

SETUP = "Microsoft-Windows-Setup"
SHELL = "Microsoft-Windows-Shell-Setup"
DEPLOYMENT = "Microsoft-Windows-Deployment"
INTERNATIONAL = "Microsoft-Windows-International-Core"
INTERNATIONAL_PE = "Microsoft-Windows-International-Core-WinPE"

NAMESPACE = "urn:schemas-microsoft-com:unattend"
WCM = "http://schemas.microsoft.com/WMIConfig/2002/State"
XSI = "http://www.w3.org/2001/XMLSchema-instance"

COMPONENT_ATTRIBUTES = {
    "publicKeyToken": "31bf3856ad364e35",
    "language": "neutral",
    "versionScope": "nonSxS",
}
"""What every component says of itself, beside its name and architecture."""

ARCHITECTURES = ("amd64", "x86", "arm64")
