"""The shapes of a figure as data, one module each. A drawing needs nothing else."""
