"""Entries that read repaired lines without changing them."""
