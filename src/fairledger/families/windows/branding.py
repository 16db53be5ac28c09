"""The section ``branding``: every field is a setting, by the table in `simple`."""

from __future__ import annotations

from fairledger.families.windows.simple import SIMPLE

canonical = SIMPLE["branding"].canonical
translate = SIMPLE["branding"].translate
recognise = SIMPLE["branding"].recognise
