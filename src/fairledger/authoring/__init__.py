"""Changing drafts and answer files: beginning, setting, taking out, correcting, carrying to another release."""
