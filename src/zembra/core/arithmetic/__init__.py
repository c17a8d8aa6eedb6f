"""Arithmetic on plain arrays, one topic a module."""
