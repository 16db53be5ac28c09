"""The section ``packages``: every field is an option, by the table in `simple`."""

from __future__ import annotations

from fairledger.families.kickstart.simple import SIMPLE

canonical = SIMPLE["packages"].canonical
translate = SIMPLE["packages"].translate
recognise = SIMPLE["packages"].recognise
