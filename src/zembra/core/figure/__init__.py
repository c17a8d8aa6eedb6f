"""The description of a figure, independent of any drawing library."""
