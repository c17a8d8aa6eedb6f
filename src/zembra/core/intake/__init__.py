"""From bytes to a text table, to how it was read, to observations."""
