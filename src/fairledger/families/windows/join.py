"""The section ``join``: every field is a setting, by the table in `simple`."""

from __future__ import annotations

from fairledger.families.windows.simple import SIMPLE

canonical = SIMPLE["join"].canonical
translate = SIMPLE["join"].translate
recognise = SIMPLE["join"].recognise
