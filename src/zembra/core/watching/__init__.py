"""Watches: sentences that say when a study should call somebody."""
