"""Projection methods, and their backtests."""
