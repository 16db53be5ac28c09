"""From files that exist: comparing them, taking them up as drafts, carrying them to another release, explaining them."""
