"""Questions about a file that can be read in two ways with different numbers."""
