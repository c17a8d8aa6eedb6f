"""Where a study gets new rows: an address, a folder, a database."""
