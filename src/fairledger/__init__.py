"""Fair Ledger: author, check and write unattended-installation answer files."""

__version__ = "0.1.0"
