"""The section ``access``: every field is an option, by the table in `simple`."""

from __future__ import annotations

from fairledger.families.kickstart.simple import SIMPLE

canonical = SIMPLE["access"].canonical
translate = SIMPLE["access"].translate
recognise = SIMPLE["access"].recognise
