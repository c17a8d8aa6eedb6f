"""Zembra: time-series line charts that can be believed."""

__version__ = "0.1.0"
