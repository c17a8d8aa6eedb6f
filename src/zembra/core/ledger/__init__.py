"""Entries, their registry, and running a ledger of them."""
