"""Grains, periods, and series completed to a calendar."""
