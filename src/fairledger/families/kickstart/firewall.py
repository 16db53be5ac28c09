"""The section ``firewall``: every field is an option, by the table in `simple`."""

from __future__ import annotations

from fairledger.families.kickstart.simple import SIMPLE

canonical = SIMPLE["firewall"].canonical
translate = SIMPLE["firewall"].translate
recognise = SIMPLE["firewall"].recognise
