"""What a medium is and holds."""
