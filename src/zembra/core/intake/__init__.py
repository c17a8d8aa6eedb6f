"""Read files: bytes to a table of texts, how it is read, observations."""
