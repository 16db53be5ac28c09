"""The rules, one topic per module; a module dropped in here is found."""
