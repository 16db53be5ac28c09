"""What targets accept: components, settings, passes, kinds of value, ranges of releases."""
