"""Judging projections: candidates on the same held-back periods, each shown only what was known then."""
