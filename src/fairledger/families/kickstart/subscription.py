"""The section ``subscription``: every field is an option, by the table in `simple`."""

from __future__ import annotations

from fairledger.families.kickstart.simple import SIMPLE

canonical = SIMPLE["subscription"].canonical
translate = SIMPLE["subscription"].translate
recognise = SIMPLE["subscription"].recognise
