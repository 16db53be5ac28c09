"""What the installers of Unix systems have in common, whatever their answer files look like."""
