"""Projection methods and how they did on held-back periods."""
