"""The engine of checks, and the rules, one topic per module."""
