"""From files that exist: comparing, taking up as drafts, carrying to another release, correcting, explaining."""
