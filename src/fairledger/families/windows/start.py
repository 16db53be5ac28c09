"""The section ``start``: every field is a setting, by the table in `simple`."""

from __future__ import annotations

from fairledger.families.windows.simple import SIMPLE

canonical = SIMPLE["start"].canonical
translate = SIMPLE["start"].translate
recognise = SIMPLE["start"].recognise
