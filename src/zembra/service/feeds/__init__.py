"""Feeds: fetch new rows from an address, a folder or a database, compare them, and hold them or take them in."""
