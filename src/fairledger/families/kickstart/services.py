"""The section ``services``: every field is an option, by the table in `simple`."""

from __future__ import annotations

from fairledger.families.kickstart.simple import SIMPLE

canonical = SIMPLE["services"].canonical
translate = SIMPLE["services"].translate
recognise = SIMPLE["services"].recognise
