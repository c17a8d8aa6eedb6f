"""Entries that change the numbers."""
