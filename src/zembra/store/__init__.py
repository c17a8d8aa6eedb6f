"""What is kept: datasets, studies and their revisions, in one SQLite file."""
