"""The languages of answer files: one folder each; nothing else knows their syntax."""
