"""Entries that project lines beyond their last number."""
