"""What is wanted for one machine: the portable sections, and what they have in common."""
