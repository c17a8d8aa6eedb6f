"""What Zembra asks about a file: where it can be read in two ways that give different numbers."""
