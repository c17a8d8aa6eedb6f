"""New rows of a study: what changed, what becomes of both, and how what was projected did."""
