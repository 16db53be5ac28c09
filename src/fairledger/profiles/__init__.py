"""Drafts and profiles: the portable sections, the library, resolving, secrets."""
