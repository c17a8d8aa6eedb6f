"""Entries that choose the lines and put them on a calendar."""
