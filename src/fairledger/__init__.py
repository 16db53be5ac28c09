"""Fair Ledger: author, check and write unattended-installation answer files."""

__version__ = "0.1.0"
CATALOG_DATE = "2026-11-28"
"""The day of the catalog's facts: releases, their support, settings, choices."""
