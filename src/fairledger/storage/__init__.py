"""Reading and writing files safely: limits, encodings, whole or not at all, private or not."""
