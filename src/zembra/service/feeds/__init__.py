"""New rows that are looked for: fetched from an address, a folder or a database, compared, and kept waiting or taken in."""
