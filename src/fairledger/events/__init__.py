"""What an answer file does to a machine, step by step, as values; and which questions it leaves."""
