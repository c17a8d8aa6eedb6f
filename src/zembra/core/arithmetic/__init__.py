"""The arithmetic of entries, on plain arrays: an idea a module."""
