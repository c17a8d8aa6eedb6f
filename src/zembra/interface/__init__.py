"""The Python interface for notebooks and scripts."""
