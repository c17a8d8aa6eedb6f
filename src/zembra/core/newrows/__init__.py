"""New rows of a study: compare, merge, and score earlier projections."""
