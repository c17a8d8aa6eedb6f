"""Storage of datasets, studies and revisions in one SQLite file."""
