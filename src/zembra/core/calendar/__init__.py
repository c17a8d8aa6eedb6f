"""Grains, periods and the completing of a series to its calendar."""
