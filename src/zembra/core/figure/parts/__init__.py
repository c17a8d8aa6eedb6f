"""Shapes of a figure as data, one module each."""
