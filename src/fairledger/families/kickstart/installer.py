"""The section ``installer``: every field is an option, by the table in `simple`."""

from __future__ import annotations

from fairledger.families.kickstart.simple import SIMPLE

canonical = SIMPLE["installer"].canonical
translate = SIMPLE["installer"].translate
recognise = SIMPLE["installer"].recognise
