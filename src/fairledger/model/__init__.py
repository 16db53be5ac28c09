"""Plain values that every room shares. Nothing here reads, writes or prints."""
