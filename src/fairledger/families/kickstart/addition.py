"""The section ``addition``: every field is an option, by the table in `simple`."""

from __future__ import annotations

from fairledger.families.kickstart.simple import SIMPLE

canonical = SIMPLE["addition"].canonical
translate = SIMPLE["addition"].translate
recognise = SIMPLE["addition"].recognise
